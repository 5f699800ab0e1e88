//! Work on all cores: a list of things, each looked at once. No open file may be among what comes of it, see `own_table`.

use std::ops::RangeInclusive;
use std::sync::{Mutex, PoisonError};
use std::thread;

/// So few things are done sooner by one thread than shared out.
const WORTH_SHARING: usize = 48;
/// How many things a thread takes at a time, towards the end and before. Neighbours are often files of one folder, in which two threads
/// would wait for each other.
const SHARE: RangeInclusive<usize> = 32..=256;

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
    let anywhere = |_: &T, _: &T| true;
    map_shares(items, anywhere, tools, |tools, start, share, done| {
        done.extend(share.iter().enumerate().map(|(at, item)| work(tools, start + at, item)));
    })
}

/// The same for work that looks at several neighbours at once: `work` is told where its share begins, and appends what it makes
/// of it. Where it can be, a share ends between two neighbours that are `apart`.
pub(crate) fn map_shares<'t, T: Sync, R: Send, W>(
    items: &'t [T],
    apart: impl Fn(&T, &T) -> bool + Sync,
    tools: impl Fn() -> W + Sync,
    work: impl Fn(&mut W, usize, &'t [T], &mut Vec<R>) + Sync,
) -> Vec<R> {
    if items.len() < WORTH_SHARING {
        let mut done = Vec::with_capacity(items.len());
        work(&mut tools(), 0, items, &mut done);
        return done;
    }
    in_shares(items, SHARE, apart, tools, work)
}

/// The same with shares of other sizes, on all cores that this is worth.
fn in_shares<'t, T: Sync, R: Send, W>(
    items: &'t [T],
    share: RangeInclusive<usize>,
    apart: impl Fn(&T, &T) -> bool + Sync,
    tools: impl Fn() -> W + Sync,
    work: impl Fn(&mut W, usize, &'t [T], &mut Vec<R>) + Sync,
) -> Vec<R> {
    let most = items.len().div_ceil(*share.start());
    // To ask how many cores there are takes longer than a share may.
    let cores = if most < 2 { 1 } else { thread::available_parallelism().map_or(1, usize::from).min(most) };
    let next = Mutex::new(0);
    // Shares become smaller, so that all threads come to an end at about the same time.
    let take = || {
        let mut next = next.lock().unwrap_or_else(PoisonError::into_inner);
        let (start, rest) = (*next, items.len() - *next);
        let most = (rest / (cores * 3)).clamp(*share.start(), *share.end()).min(rest);
        let ends = |size: &usize| {
            start + size == items.len() || apart(&items[start + size - 1], &items[start + size])
        };
        let size = (most / 2 + 1..=most).rev().find(ends).unwrap_or(most);
        *next += size;
        (start, &items[start..start + size])
    };
    let mut done = thread::scope(|scope| {
        let worker = || {
            let mut tools = tools();
            let mut done: Vec<(usize, Vec<R>)> = Vec::new();
            loop {
                let (start, share) = take();
                if share.is_empty() {
                    return done;
                }
                let mut made = Vec::with_capacity(share.len());
                work(&mut tools, start, share, &mut made);
                done.push((start, made));
            }
        };
        let here = core();
        let other = move || {
            leave(here);
            own_table();
            worker()
        };
        let others: Vec<_> = (1..cores).map(|_| scope.spawn(other)).collect();
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

/// The core that the calling thread is on, where the system tells.
fn core() -> Option<usize> {
    #[cfg(target_os = "linux")]
    return Some(rustix::thread::sched_getcpu());
    #[cfg(not(target_os = "linux"))]
    None
}

/// Sends the calling thread to another core than this, if there is one that it may be on. It may come back whenever the system thinks
/// that better; but left to itself, it has been seen to wait there for ten milliseconds while another core had nothing to do.
fn leave(core: Option<usize>) {
    #[cfg(target_os = "linux")]
    if let (Some(core), Ok(all)) = (core, rustix::thread::sched_getaffinity(None))
        && core < rustix::thread::CpuSet::MAX_CPU
    {
        let mut others = all;
        others.unset(core);
        if rustix::thread::sched_setaffinity(None, &others).is_ok() {
            let _ = rustix::thread::sched_setaffinity(None, &all);
        }
    }
    #[cfg(not(target_os = "linux"))]
    let _ = core;
}

/// Gives the calling thread a table of open files of its own, where the system can, so that threads that open many files do not wait
/// for each other. What it opens is closed at its end at the latest, and is not to be handed to another thread; what is open already
/// is open to it too.
fn own_table() {
    #[cfg(target_os = "linux")]
    let _ = nix::sched::unshare(nix::sched::CloneFlags::CLONE_FILES);
}

/// What `work` makes of each of a few large items, in their order.
pub(crate) fn each<'t, T: Sync, R: Send>(items: &'t [T], work: impl Fn(&'t T) -> R + Sync) -> Vec<R> {
    if items.len() < 2 {
        return items.iter().map(work).collect();
    }
    in_shares(items, 1..=1, |_, _| true, || (), |(), _, share, done| done.extend(share.iter().map(&work)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shares_are_whole_in_order_and_end_between_groups_where_they_can() {
        // So many items of a group stand together.
        for group in [1, 7, 100, 180, 5000] {
            let items: Vec<usize> = (0..4000).map(|at| at / group).collect();
            let work = |(): &mut (), start, share: &[usize], done: &mut Vec<(usize, usize)>| {
                done.push((start, share.len()));
            };
            let shares = map_shares(&items, |one, other| one != other, || (), work);
            let mut next = 0;
            for (start, length) in shares {
                assert_eq!(start, next);
                assert!((1..=*SHARE.end()).contains(&length), "{length} of groups of {group}");
                next += length;
                let is_apart = next == items.len() || items[next - 1] != items[next];
                // There is a border in every half of a share that is as long as a group.
                assert!(is_apart || length / 2 < group, "a share of {length} ends in a group of {group}");
            }
            assert_eq!(next, items.len());
        }
    }
}
