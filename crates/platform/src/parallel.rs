//! Work spread over all cores, with the results in the order of the items.

use rayon::prelude::*;

/// Below this many items, one thread is faster than starting the pool.
const SPREAD_FROM: usize = 48;
/// The smallest number of neighbouring items that a thread takes.
const SMALLEST_SHARE: usize = 16;

/// Applies `work` to every item. `work` gets the item's index.
pub fn map<'t, T: Sync, R: Send>(items: &'t [T], work: impl Fn(usize, &'t T) -> R + Sync) -> Vec<R> {
    map_with(items, || (), |(), at, item| work(at, item))
}

/// Applies `work` to every item, with state that `init` makes once a thread and share.
pub fn map_with<'t, T: Sync, R: Send, S: Send>(
    items: &'t [T],
    init: impl Fn() -> S + Sync + Send,
    work: impl Fn(&mut S, usize, &'t T) -> R + Sync + Send,
) -> Vec<R> {
    if items.len() < SPREAD_FROM {
        let mut state = init();
        return items.iter().enumerate().map(|(at, item)| work(&mut state, at, item)).collect();
    }
    items
        .par_iter()
        .enumerate()
        .with_min_len(SMALLEST_SHARE)
        .map_init(init, |state, (at, item)| work(state, at, item))
        .collect()
}

/// Applies `work` to a few slow items, in parallel.
pub fn each<'t, T: Sync, R: Send>(items: &'t [T], work: impl Fn(&'t T) -> R + Sync + Send) -> Vec<R> {
    if items.len() < 2 {
        return items.iter().map(work).collect();
    }
    items.par_iter().with_max_len(1).map(work).collect()
}
