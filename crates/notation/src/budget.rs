//! The limit on what rendering may take.

use std::sync::atomic::{AtomicU64, Ordering};

/// The budget of steps and bytes of a cast, shared by all threads that render for it.
///
/// Every step of a program costs one, and so does every byte that it makes, whether that byte is
/// written or not.
#[derive(Debug)]
pub struct Budget {
    left: AtomicU64,
    limit: u64,
}

/// The amount that a thread takes at a time, so that threads rarely contend; less if little is
/// left.
const SHARE: u64 = 1 << 20;
/// The part of what is left that is taken at most, unless more is needed.
const PART: u64 = 1024;

impl Budget {
    /// The usual limit: 1 GiB.
    pub const USUAL: u64 = 1 << 30;

    /// Returns a budget of `limit` steps and bytes.
    #[must_use]
    pub fn new(limit: u64) -> Self {
        Self { left: AtomicU64::new(limit), limit }
    }

    /// Returns the initial amount.
    #[must_use]
    pub fn limit(&self) -> u64 {
        self.limit
    }

    /// Returns what was spent.
    #[must_use]
    pub fn spent(&self) -> u64 {
        self.limit.saturating_sub(self.left.load(Ordering::Relaxed))
    }

    /// Returns a purse that pays from this budget; empty yet.
    pub(crate) fn purse(&self) -> Purse<'_> {
        Purse { budget: self, left: 0 }
    }

    /// Takes at least `need`, usually more; the rest is returned with `give_back`. `None` if the
    /// budget is too small.
    fn take(&self, need: u64) -> Option<u64> {
        let mut left = self.left.load(Ordering::Relaxed);
        loop {
            if left < need {
                return None;
            }
            let share = need.max(SHARE.min(left / PART));
            match self.left.compare_exchange_weak(left, left - share, Ordering::Relaxed, Ordering::Relaxed) {
                Ok(_) => return Some(share),
                Err(now) => left = now,
            }
        }
    }

    fn give_back(&self, unused: u64) {
        self.left.fetch_add(unused, Ordering::Relaxed);
    }
}

impl Default for Budget {
    fn default() -> Self {
        Self::new(Self::USUAL)
    }
}

/// A thread's share of a budget; the unused rest is returned at the end.
#[derive(Debug)]
pub(crate) struct Purse<'b> {
    budget: &'b Budget,
    left: u64,
}

impl Purse<'_> {
    /// Pays; false if there is not enough.
    #[inline]
    pub(crate) fn pay(&mut self, cost: u64) -> bool {
        if self.left >= cost {
            self.left -= cost;
            return true;
        }
        self.refill(cost)
    }

    /// Returns true if `cost` can be paid.
    pub(crate) fn holds(&mut self, cost: u64) -> bool {
        let paid = self.pay(cost);
        self.left += if paid { cost } else { 0 };
        paid
    }

    #[cold]
    fn refill(&mut self, cost: u64) -> bool {
        let more = self.budget.take(cost - self.left);
        self.left = more.map_or(self.left, |more| self.left + more - cost);
        more.is_some()
    }
}

impl Drop for Purse<'_> {
    fn drop(&mut self) {
        self.budget.give_back(self.left);
    }
}
