//! Finding molds by words.

use super::listing::Listed;
use tinmold_notation::nearest;

/// What a mold must have to be found.
#[derive(Clone, Debug, Default)]
pub struct Search {
    /// Words that must all match, each somewhere: the name, the summary, tags, facets.
    pub words: Vec<String>,
    /// The language that it must have; any if empty. So for the others.
    pub language: String,
    /// The kind of project.
    pub kind: String,
    /// A tag.
    pub tag: String,
    /// The owner, or the beginning of it.
    pub owner: String,
    /// The shelf.
    pub shelf: String,
}

/// The newest release of each mold that matches, the best first.
#[must_use]
pub fn search(listed: &[Listed], search: &Search) -> Vec<Listed> {
    let has = |wanted: &str, all: &[String]| {
        wanted.is_empty() || all.iter().any(|one| one.eq_ignore_ascii_case(wanted))
    };
    let mut found: Vec<(u32, &Listed)> = Vec::new();
    for mold in listed.iter().filter(|mold| mold.version.pre.is_empty()) {
        let fits = has(&search.language, &mold.language)
            && has(&search.kind, &mold.kind)
            && has(&search.tag, &mold.tags)
            && mold.owner.starts_with(&search.owner)
            && (search.shelf.is_empty() || search.shelf == mold.shelf);
        let newer = |other: &Listed| {
            other.shelf == mold.shelf
                && other.name == mold.name
                && other.version > mold.version
                && other.version.pre.is_empty()
        };
        if !fits || listed.iter().any(newer) {
            continue;
        }
        let scores: Option<Vec<u32>> =
            search.words.iter().map(|word| score(mold, &word.to_lowercase())).collect();
        if let Some(scores) = scores {
            found.push((scores.iter().sum(), mold));
        }
    }
    found.sort_by(|(a, one), (b, other)| {
        b.cmp(a).then_with(|| one.name.cmp(&other.name)).then_with(|| one.shelf.cmp(&other.shelf))
    });
    found.into_iter().map(|(_, mold)| mold.clone()).collect()
}

/// How well a word matches; none if it does not, also with a typing mistake.
fn score(mold: &Listed, word: &str) -> Option<u32> {
    let name = mold.name.to_lowercase();
    let facets =
        || mold.language.iter().chain(&mold.kind).chain(&mold.tags).map(|facet| facet.to_lowercase());
    let summary = mold.summary.to_lowercase();
    if name == word {
        return Some(100);
    }
    if name.split('-').any(|part| part == word) {
        return Some(80);
    }
    if name.contains(word) {
        return Some(60);
    }
    if facets().any(|facet| facet == word) {
        return Some(50);
    }
    if summary.split(|c: char| !c.is_alphanumeric()).any(|part| part == word) {
        return Some(40);
    }
    if summary.contains(word) || facets().any(|facet| facet.contains(word)) || mold.owner.contains(word) {
        return Some(20);
    }
    let facets: Vec<String> = facets().collect();
    let words = name
        .split('-')
        .chain(summary.split(|c: char| !c.is_alphanumeric()))
        .chain(facets.iter().map(String::as_str));
    nearest(word, words.filter(|other| other.len() > 3)).map(|_| 5)
}
