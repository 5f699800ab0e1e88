//! The rounds of `for`.

use super::Machine;
use super::machine::SMALL;
use super::rounds::Loop;
use crate::item::Item;
use crate::program::Part;
use crate::trouble::Trouble;
use crate::value::Value;

impl<'r> Machine<'r> {
    /// Begins with the first element; false if there is none.
    pub(super) fn begin_loop(
        &mut self,
        list: Item<'r>,
        element: u16,
        counter: u16,
    ) -> Result<bool, Box<Trouble>> {
        let rounds = list.len();
        if rounds == 0 {
            return Ok(false);
        }
        self.charge(rounds)?;
        self.loops.push(Loop { list, element, counter, kept: None, at: 0, rounds });
        self.show_element();
        Ok(true)
    }

    /// Keeps the current element or not, and goes on: to the next element, or to the rounds.
    pub(super) fn keep(&mut self, keep: bool, again: u32, exit: u32) -> Result<Option<usize>, Box<Trouble>> {
        let Some(turn) = self.loops.last_mut() else { return Ok(Some(exit as usize)) };
        let kept = turn.kept.get_or_insert_default();
        if keep {
            kept.push(turn.at as u32);
        }
        turn.at += 1;
        if turn.at < turn.list.len() {
            self.show_element();
            return Ok(Some(again as usize));
        }
        (turn.rounds, turn.at) = (kept.len(), 0);
        if turn.rounds == 0 {
            self.loops.pop();
            return Ok(Some(exit as usize));
        }
        self.show_round();
        Ok(None)
    }

    #[inline]
    pub(super) fn next_round(&mut self) {
        let Some(turn) = self.loops.last_mut() else { return };
        turn.at += 1;
        let at = match &turn.kept {
            None => turn.at,
            Some(kept) => kept[turn.at] as usize,
        };
        turn.show(at, turn.at, &mut self.locals[self.base..]);
    }

    /// Begins the next round; false, and the loop is left, if there is none.
    #[inline]
    pub(super) fn round(&mut self) -> bool {
        if self.loops.last().is_none_or(Loop::is_last) {
            self.loops.pop();
            return false;
        }
        self.next_round();
        true
    }

    /// While filtering, the counter counts the kept elements so far.
    fn show_element(&mut self) {
        if let Some(turn) = self.loops.last() {
            let passed = turn.kept.as_ref().map_or(0, Vec::len);
            turn.show(turn.at, passed, &mut self.locals[self.base..]);
        }
    }

    fn show_round(&mut self) {
        if let Some(turn) = self.loops.last() {
            let at = turn.kept.as_ref().map_or(turn.at, |kept| kept[turn.at] as usize);
            turn.show(at, turn.at, &mut self.locals[self.base..]);
        }
    }

    /// Renders all rounds of a simple loop, without a step for each part.
    pub(super) fn rows(&mut self, list: &Item<'r>, parts: &[Part<'r>]) -> Result<(), Box<Trouble>> {
        let (rounds, values, columns) = (list.len(), self.values, self.program.columns.as_slice());
        self.charge_output()?;
        // The output is held here while it grows, and handed back for whatever is not a small text.
        let mut out = std::mem::take(self.out);
        for round in 0..rounds {
            let mut before = out.len();
            let (option, element) = glance(list, round);
            for part in parts {
                let text = match *part {
                    Part::Text(text) => text,
                    Part::ColumnText(column, text) => {
                        let value = columns[column as usize].get(option).copied().unwrap_or("");
                        out.extend_from_slice(value.as_bytes());
                        text
                    }
                    Part::Column(column) => columns[column as usize].get(option).copied().unwrap_or(""),
                    Part::Name(name) => match &values[name.index()] {
                        Value::Text(text) if text.len() <= SMALL => text,
                        other => {
                            *self.out = out;
                            self.set_charged(before);
                            self.put_value(other)?;
                            self.charge_output()?;
                            out = std::mem::take(self.out);
                            before = out.len();
                            continue;
                        }
                    },
                    Part::Element => match element {
                        Some(text) if text.len() <= SMALL => text,
                        _ => {
                            *self.out = out;
                            self.set_charged(before);
                            list.element(round).iter().try_for_each(|element| self.put(element))?;
                            self.charge_output()?;
                            out = std::mem::take(self.out);
                            before = out.len();
                            continue;
                        }
                    },
                    Part::Between(_) if round + 1 == rounds => continue,
                    Part::Between(text) => self.own_text(text),
                };
                out.extend_from_slice(text.as_bytes());
            }
            let made = out.len().saturating_sub(before);
            if let Err(trouble) = self.charge(1 + parts.len() + made) {
                *self.out = out;
                return Err(trouble);
            }
        }
        self.set_charged(out.len());
        *self.out = out;
        Ok(())
    }
}

/// Returns the position of the option that an element of a list is, if it is one, and its text, if it is one.
#[inline]
fn glance<'a>(list: &'a Item<'_>, at: usize) -> (usize, Option<&'a str>) {
    const NONE: usize = usize::MAX;
    match list {
        Item::Answers(values) => match values.get(at) {
            Some(Value::Option(_, Some(option))) => (*option as usize, None),
            Some(Value::Text(text)) => (NONE, Some(text)),
            _ => (NONE, None),
        },
        Item::List(items) => match items.get(at) {
            Some(Item::Option(_, Some(option))) => (*option as usize, None),
            Some(Item::Text(text)) => (NONE, Some(text)),
            Some(Item::Made(text)) => (NONE, Some(text)),
            _ => (NONE, None),
        },
        _ => (NONE, None),
    }
}
