//! A loop at work.

use crate::item::Item;
use crate::program::NO_COUNTER;

/// A running loop: first it filters the elements, if it has a filter, then it runs the rounds.
pub(super) struct Loop<'r> {
    pub(super) list: Item<'r>,
    pub(super) element: u16,
    pub(super) counter: u16,
    /// The elements that passed the filter; `None` without a filter.
    pub(super) kept: Option<Vec<u32>>,
    /// The current element, or the round.
    pub(super) at: usize,
    pub(super) rounds: usize,
}

impl<'r> Loop<'r> {
    /// Puts an element and the count into their names.
    #[inline]
    pub(super) fn show(&self, at: usize, count: usize, locals: &mut [Item<'r>]) {
        let element = match &self.list {
            Item::Answers(values) => values.get(at).map(Item::from),
            list => list.element(at),
        };
        if let Some(element) = element {
            locals[self.element as usize] = element;
        }
        if self.counter != NO_COUNTER {
            locals[self.counter as usize] = Item::Integer(count as i64);
        }
    }

    #[inline]
    pub(super) fn is_last(&self) -> bool {
        self.at + 1 >= self.rounds
    }
}
