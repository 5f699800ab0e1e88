//! The smallest answers that still show something.

use super::answer_set::AnswerSet;

/// Leaves out of a set what is not needed for `shows` to hold: whole answers, and single elements of lists.
/// `shows` holds for the set itself.
pub(crate) fn smallest(set: &AnswerSet, shows: impl Fn(&AnswerSet) -> bool) -> AnswerSet {
    let mut set = set.clone();
    if set.preset.is_some() {
        let without = AnswerSet { preset: None, ..set.clone() };
        if shows(&without) {
            set = without;
        }
    }
    for at in (0..set.answers.len()).rev() {
        let mut without = set.clone();
        without.answers.remove(at);
        if shows(&without) {
            set = without;
        }
    }
    for at in 0..set.answers.len() {
        let mut kept: Vec<String> = set.answers[at].1.split(", ").map(str::to_owned).collect();
        for element in (0..kept.len()).rev() {
            let mut fewer = kept.clone();
            fewer.remove(element);
            let mut without = set.clone();
            without.answers[at].1 = fewer.join(", ");
            if kept.len() > 1 && shows(&without) {
                (kept, set) = (fewer, without);
            }
        }
    }
    set
}
