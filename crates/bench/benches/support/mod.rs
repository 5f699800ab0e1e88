//! What the benchmarks share: timing that compares.

use std::time::{Duration, Instant};

/// Something that is measured, by name.
pub struct Contender<'a> {
    /// What the table calls it.
    pub name: &'a str,
    /// One round of the work.
    pub work: Box<dyn FnMut() + 'a>,
}

/// The median time of one round for each contender. They take turns, so that whatever else the machine does meets all alike.
pub fn medians(contenders: &mut [Contender<'_>], turns: usize) -> Vec<Duration> {
    let mut times: Vec<Vec<Duration>> = contenders.iter().map(|_| Vec::with_capacity(turns)).collect();
    let rounds: Vec<u32> = contenders.iter_mut().map(|contender| rounds_for(&mut contender.work)).collect();
    for _ in 0..turns {
        for (at, contender) in contenders.iter_mut().enumerate() {
            let start = Instant::now();
            for _ in 0..rounds[at] {
                (contender.work)();
            }
            times[at].push(start.elapsed() / rounds[at]);
        }
    }
    times
        .into_iter()
        .map(|mut times| {
            times.sort_unstable();
            times[times.len() / 2]
        })
        .collect()
}

/// So many rounds that one turn takes some milliseconds.
fn rounds_for(work: &mut dyn FnMut()) -> u32 {
    let start = Instant::now();
    let mut rounds = 0;
    while start.elapsed() < Duration::from_millis(20) {
        work();
        rounds += 1;
    }
    (rounds / 4).max(1)
}
