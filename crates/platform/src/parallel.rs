//! Work spread over all cores, with the results in the order of the items.

use rayon::prelude::*;
use std::sync::LazyLock;

/// True if there are threads to be had; else the work is done by the calling thread.
static HAS_THREADS: LazyLock<bool> = LazyLock::new(|| {
    rayon::ThreadPoolBuilder::new()
        .build_global()
        .map_err(|error| tracing::warn!(%error, "there are no threads; one does all the work"))
        .is_ok()
});

/// Below this many items, one thread is faster than starting the pool.
const SPREAD_FROM: usize = 48;
/// The smallest number of neighbouring items that a thread takes.
const SMALLEST_SHARE: usize = 16;
/// The number of shares for each thread.
const SHARES: usize = 8;

/// Applies `work` to every item. `work` gets the item's index.
pub fn map<'t, T: Sync, R: Send>(items: &'t [T], work: impl Fn(usize, &'t T) -> R + Sync) -> Vec<R> {
    map_with(items, || (), |(), at, item| work(at, item))
}

/// Applies `work` to every item, with state that `init` makes for every share of neighbouring items.
pub fn map_with<'t, T: Sync, R: Send, S>(
    items: &'t [T],
    init: impl Fn() -> S + Sync + Send,
    work: impl Fn(&mut S, usize, &'t T) -> R + Sync + Send,
) -> Vec<R> {
    let share_of = |first: usize, items: &'t [T]| -> Vec<R> {
        let mut state = init();
        items.iter().enumerate().map(|(at, item)| work(&mut state, first + at, item)).collect()
    };
    if items.len() < SPREAD_FROM || !*HAS_THREADS {
        return share_of(0, items);
    }
    // State is worth keeping: few shares a thread, and enough of them to balance the threads.
    let share = (items.len() / (rayon::current_num_threads() * SHARES)).max(SMALLEST_SHARE);
    let shares: Vec<Vec<R>> =
        items.par_chunks(share).enumerate().map(|(at, items)| share_of(at * share, items)).collect();
    shares.into_iter().flatten().collect()
}

/// Applies `work` to a few slow items, in parallel.
pub fn each<'t, T: Sync, R: Send>(items: &'t [T], work: impl Fn(&'t T) -> R + Sync + Send) -> Vec<R> {
    if items.len() < 2 || !*HAS_THREADS {
        return items.iter().map(work).collect();
    }
    items.par_iter().with_max_len(1).map(work).collect()
}
