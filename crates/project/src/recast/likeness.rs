//! How much of one text is in another, to find files that were renamed.

use std::collections::HashMap;

/// The least likeness at which a file counts as renamed.
pub(super) const LEAST: f64 = 0.6;

/// The lines of a text, and how often each occurs.
pub(super) struct Lines<'t> {
    counts: HashMap<&'t str, u32>,
    all: u32,
}

impl<'t> Lines<'t> {
    pub(super) fn of(text: &'t str) -> Self {
        let (mut counts, mut all) = (HashMap::new(), 0);
        for line in text.lines().map(str::trim).filter(|line| !line.is_empty()) {
            *counts.entry(line).or_insert(0) += 1;
            all += 1;
        }
        Self { counts, all }
    }

    /// Returns the share of lines that both have, from 0 to 1.
    pub(super) fn likeness(&self, other: &Self) -> f64 {
        if self.all == 0 || other.all == 0 {
            return 0.0;
        }
        let shared: u32 = self
            .counts
            .iter()
            .map(|(line, count)| (*count).min(other.counts.get(line).copied().unwrap_or(0)))
            .sum();
        f64::from(2 * shared) / f64::from(self.all + other.all)
    }
}

/// Pairs texts that are alike, the most alike first; each is in one pair at most. Returns the indices.
pub(super) fn pair(left: &[&str], right: &[&str]) -> Vec<(usize, usize)> {
    // Beyond this, nobody renamed so many files at once.
    if left.len().saturating_mul(right.len()) > MOST_PAIRS {
        return Vec::new();
    }
    let left: Vec<Lines<'_>> = left.iter().map(|text| Lines::of(text)).collect();
    let right: Vec<Lines<'_>> = right.iter().map(|text| Lines::of(text)).collect();
    let mut scores = Vec::new();
    for (at_left, one) in left.iter().enumerate() {
        for (at_right, other) in right.iter().enumerate() {
            let likeness = one.likeness(other);
            if likeness >= LEAST {
                scores.push((likeness, at_left, at_right));
            }
        }
    }
    scores.sort_by(|a, b| b.0.total_cmp(&a.0).then((a.1, a.2).cmp(&(b.1, b.2))));
    let (mut taken_left, mut taken_right) = (vec![false; left.len()], vec![false; right.len()]);
    let mut pairs = Vec::new();
    for (_, at_left, at_right) in scores {
        if !taken_left[at_left] && !taken_right[at_right] {
            (taken_left[at_left], taken_right[at_right]) = (true, true);
            pairs.push((at_left, at_right));
        }
    }
    pairs
}

/// The most pairs that are compared.
const MOST_PAIRS: usize = 40_000;
