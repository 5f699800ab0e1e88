//! Work on all cores: a list of things, each looked at once.

use std::sync::atomic::{AtomicUsize, Ordering};
use std::thread;

/// So few things are done sooner by one thread than shared out.
const WORTH_SHARING: usize = 48;
/// What a thread takes at a time.
const SHARE: usize = 16;

/// What `work` makes of every item, in the items' order. `work` is told which item it looks at.
pub(crate) fn map<T: Sync, R: Send>(items: &[T], work: impl Fn(usize, &T) -> R + Sync) -> Vec<R> {
    let cores = thread::available_parallelism().map_or(1, usize::from).min(items.len().div_ceil(SHARE));
    if cores < 2 || items.len() < WORTH_SHARING {
        return items.iter().enumerate().map(|(at, item)| work(at, item)).collect();
    }
    let next = AtomicUsize::new(0);
    let mut done = thread::scope(|scope| {
        let worker = || {
            let mut done = Vec::new();
            loop {
                let start = next.fetch_add(SHARE, Ordering::Relaxed);
                let Some(share) = items.get(start..(start + SHARE).min(items.len())) else { return done };
                if share.is_empty() {
                    return done;
                }
                done.extend(share.iter().enumerate().map(|(n, item)| (start + n, work(start + n, item))));
            }
        };
        let others: Vec<_> = (1..cores).map(|_| scope.spawn(worker)).collect();
        let mut done = worker();
        for other in others {
            match other.join() {
                Ok(more) => done.extend(more),
                Err(panic) => std::panic::resume_unwind(panic),
            }
        }
        done
    });
    done.sort_unstable_by_key(|(at, _)| *at);
    done.into_iter().map(|(_, result)| result).collect()
}
