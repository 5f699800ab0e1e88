//! Work on all cores: a list of things, each looked at once.

use std::sync::atomic::{AtomicUsize, Ordering};
use std::thread;

/// So few things are done sooner by one thread than shared out.
const WORTH_SHARING: usize = 48;
/// The least that a thread takes at a time.
const SHARE: usize = 32;
/// The most. Neighbours are often files of one folder, in which two threads would wait for each other.
const LARGE_SHARE: usize = 256;

/// What `work` makes of every item, in the items' order. `work` is told which item it looks at.
pub(crate) fn map<'t, T: Sync, R: Send>(items: &'t [T], work: impl Fn(usize, &'t T) -> R + Sync) -> Vec<R> {
    map_with(items, || (), |(), at, item| work(at, item))
}

/// The same for work with tools, which each thread has of its own.
pub(crate) fn map_with<'t, T: Sync, R: Send, W>(
    items: &'t [T],
    tools: impl Fn() -> W + Sync,
    work: impl Fn(&mut W, usize, &'t T) -> R + Sync,
) -> Vec<R> {
    map_shares(items, tools, |tools, start, share, done| {
        done.extend(share.iter().enumerate().map(|(at, item)| work(tools, start + at, item)));
    })
}

/// The same for work that looks at several neighbours at once: `work` is told where its share begins, and appends what it makes
/// of it.
pub(crate) fn map_shares<'t, T: Sync, R: Send, W>(
    items: &'t [T],
    tools: impl Fn() -> W + Sync,
    work: impl Fn(&mut W, usize, &'t [T], &mut Vec<R>) + Sync,
) -> Vec<R> {
    if items.len() < WORTH_SHARING {
        let mut done = Vec::with_capacity(items.len());
        work(&mut tools(), 0, items, &mut done);
        return done;
    }
    in_shares(items, (items.len() / 64).clamp(SHARE, LARGE_SHARE), tools, work)
}

/// The same with shares of another size, on all cores that this is worth.
fn in_shares<'t, T: Sync, R: Send, W>(
    items: &'t [T],
    share_of: usize,
    tools: impl Fn() -> W + Sync,
    work: impl Fn(&mut W, usize, &'t [T], &mut Vec<R>) + Sync,
) -> Vec<R> {
    let shares = items.len().div_ceil(share_of);
    // To ask how many cores there are takes longer than a share may.
    let cores =
        if shares < 2 { 1 } else { thread::available_parallelism().map_or(1, usize::from).min(shares) };
    let next = AtomicUsize::new(0);
    let mut done = thread::scope(|scope| {
        let worker = || {
            let mut tools = tools();
            let mut done: Vec<(usize, Vec<R>)> = Vec::new();
            loop {
                let start = next.fetch_add(share_of, Ordering::Relaxed);
                let Some(rest) = items.get(start..).filter(|rest| !rest.is_empty()) else { return done };
                let share = &rest[..share_of.min(rest.len())];
                let mut made = Vec::with_capacity(share.len());
                work(&mut tools, start, share, &mut made);
                done.push((start, made));
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
    done.sort_unstable_by_key(|(start, _)| *start);
    let mut all = Vec::with_capacity(items.len());
    done.into_iter().for_each(|(_, made)| all.extend(made));
    all
}

/// What `work` makes of each of a few large items, in their order.
pub(crate) fn each<'t, T: Sync, R: Send>(items: &'t [T], work: impl Fn(&'t T) -> R + Sync) -> Vec<R> {
    if items.len() < 2 {
        return items.iter().map(work).collect();
    }
    in_shares(items, 1, || (), |(), _, share, done| done.extend(share.iter().map(&work)))
}
