//! The limit on what rendering may take.

use std::sync::atomic::{AtomicU64, Ordering};

/// How many steps and bytes a cast may still take; shared by all threads that render for it.
///
/// A step of a program counts one, and so does every byte that it makes, whether that byte comes out or not.
#[derive(Debug)]
pub struct Budget {
    left: AtomicU64,
    limit: u64,
}

/// Taken from the shared budget at a time, so that threads seldom meet there.
const SHARE: u64 = 1 << 20;

impl Budget {
    /// The usual limit: 1 GiB.
    pub const USUAL: u64 = 1 << 30;

    /// A budget of `limit` steps and bytes.
    #[must_use]
    pub fn new(limit: u64) -> Self {
        Self { left: AtomicU64::new(limit), limit }
    }

    /// What it began with.
    #[must_use]
    pub fn limit(&self) -> u64 {
        self.limit
    }

    /// Takes at least `need`, usually more; what is not used is given back with `give_back`. None: there is not enough.
    pub(crate) fn take(&self, need: u64) -> Option<u64> {
        let mut left = self.left.load(Ordering::Relaxed);
        loop {
            if left < need {
                return None;
            }
            let share = left.min(need.max(SHARE));
            match self.left.compare_exchange_weak(left, left - share, Ordering::Relaxed, Ordering::Relaxed) {
                Ok(_) => return Some(share),
                Err(now) => left = now,
            }
        }
    }

    pub(crate) fn give_back(&self, unused: u64) {
        self.left.fetch_add(unused, Ordering::Relaxed);
    }
}

impl Default for Budget {
    fn default() -> Self {
        Self::new(Self::USUAL)
    }
}
