//! The nearest known name to a mistyped one.

/// Returns the candidate nearest to `word`, if one is near enough to have been meant.
///
/// A name is near if its edit distance (insertion, deletion, change, swap of neighbours) is at most
/// a third of the length, without regard to case. Of equally near names the first in alphabetical
/// order is returned.
///
/// ```
/// use tinmold_notation::nearest;
/// assert_eq!(nearest("tdie", ["tide", "title", "pier"]), Some("tide"));
/// assert_eq!(nearest("gangway", ["tide", "pier"]), None);
/// ```
#[must_use]
pub fn nearest<'a>(word: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    if word.len() > 200 {
        return None;
    }
    let folded = word.to_lowercase();
    let length = folded.chars().count();
    let reach = |other: &str| (length.max(other.chars().count()) / 3).max(1);
    candidates
        .into_iter()
        // The distance is at least what the lengths differ by.
        .filter(|candidate| {
            candidate.len() <= 200 && length.abs_diff(candidate.chars().count()) <= reach(candidate)
        })
        .map(|candidate| (strsim::osa_distance(&folded, &candidate.to_lowercase()), candidate))
        .filter(|(distance, candidate)| *distance <= reach(candidate))
        .min()
        .map(|(_, candidate)| candidate)
}

/// `nearest` put as advice: "did you mean `x`?", or `otherwise` where nothing is near.
pub fn did_you_mean<'a>(
    word: &str,
    candidates: impl IntoIterator<Item = &'a str>,
    otherwise: impl Into<String>,
) -> String {
    nearest(word, candidates).map_or_else(|| otherwise.into(), |name| format!("did you mean `{name}`?"))
}
