//! Finding molds by words.

use super::searchable::{BETWEEN, Catalogue, Field, VALUE};
use super::synonyms::{SHORT, synonyms};
use memchr::memmem::Finder;
use std::collections::{BTreeMap, HashMap};
use tinmold_notation::nearest;
use tinmold_platform::parallel;

/// The facets that molds are filtered by.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Facet {
    /// The languages of the project.
    Language,
    /// The kinds of project.
    Kind,
    /// The tags.
    Tag,
    /// The owner, or the beginning of it.
    Owner,
    /// The shelf.
    Shelf,
}

impl Facet {
    /// All facets, in the order in which they are offered.
    pub const ALL: [Self; 5] = [Self::Language, Self::Kind, Self::Tag, Self::Owner, Self::Shelf];

    /// Returns the name, as users write it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Language => "language",
            Self::Kind => "kind",
            Self::Tag => "tag",
            Self::Owner => "owner",
            Self::Shelf => "shelf",
        }
    }

    /// Finds the facet of this name.
    #[must_use]
    pub fn of_name(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|facet| facet.name() == name)
    }
}

/// The criteria of a search.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Search {
    /// Words that must all match, each somewhere: the name, the summary, tags, facets, the owner.
    pub words: Vec<String>,
    /// Facets and the values that the mold must have; all must hold.
    pub only: Vec<(Facet, String)>,
}

/// A mold that was found.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Hit {
    /// The index of its catalogue.
    pub catalogue: usize,
    /// Its row there.
    pub row: u32,
    /// The score of the match.
    pub score: u32,
}

/// Something that a line must hold.
#[derive(Clone)]
struct Term {
    finder: Finder<'static>,
    /// The letter that it is, if it is one byte.
    letter: Option<u8>,
    length: usize,
    within: Option<Field>,
    /// True if it counts only between the ends of a word.
    whole: bool,
    /// The weight of a match, in percent: less for a corrected typo.
    worth: u32,
}

impl Term {
    fn new(needle: String, within: Option<Field>, worth: u32) -> Self {
        let letter = if let [letter] = needle.as_bytes() { Some(*letter) } else { None };
        let finder = Finder::new(needle.as_bytes()).into_owned();
        Self { length: needle.len(), finder, letter, within, whole: false, worth }
    }

    fn whole(self) -> Self {
        Self { whole: true, ..self }
    }

    /// Finds its first position in a text.
    fn find(&self, text: &[u8]) -> Option<usize> {
        match self.letter {
            // In a short text this is sooner begun.
            Some(letter) => memchr::memchr(letter, text),
            None => self.finder.find(text),
        }
    }
}

/// Occurrences of a word that are scored per line.
const LOOKS: usize = 6;
/// Values of a field that are listed at most.
const MOST_VALUES: usize = 1000;
/// Matches of the words as they were typed that make synonyms needless.
const ENOUGH: usize = 50;
/// The weight of a synonym, in percent.
const SYNONYM_WORTH: u32 = 90;
/// The most combinations of words and their synonyms that are searched.
const MOST_WAYS: usize = 16;
/// Rows that one thread searches at a time.
const SHARE: usize = 4 * 1024;

/// Returns the matches, the best first; equal ones in the order of catalogues.
#[must_use]
pub fn search(catalogues: &[&Catalogue], search: &Search) -> Vec<Hit> {
    let mut terms: Vec<Term> = Vec::new();
    for (facet, value) in &search.only {
        let value = value.to_lowercase();
        let whole = format!("{VALUE}{value}{VALUE}");
        terms.extend(match facet {
            Facet::Language => Some(Term::new(whole, Some(Field::Language), 0)),
            Facet::Kind => Some(Term::new(whole, Some(Field::Kind), 0)),
            Facet::Tag => Some(Term::new(whole, Some(Field::Tag), 0)),
            Facet::Owner => Some(Term::new(format!("{}{value}", BETWEEN as char), Some(Field::Owner), 0)),
            Facet::Shelf => None,
        });
    }
    let mut words: Vec<String> = search.words.iter().map(|word| word.to_lowercase()).collect();
    words.retain(|word| !word.is_empty());
    // A line has no such character but those that hold it together.
    if words.iter().any(|word| word.contains(char::is_control)) {
        return Vec::new();
    }
    // One of each must match.
    let mut choices: Vec<Vec<Term>> = Vec::new();
    for word in words {
        let known = |word: &str| {
            let finder = Finder::new(word.as_bytes());
            catalogues.iter().any(|catalogue| finder.find(catalogue.text.as_bytes()).is_some())
        };
        let others = synonyms(&word).iter().filter(|other| known(other));
        let mut terms: Vec<Term> =
            others.map(|other| Term::new((*other).to_owned(), None, SYNONYM_WORTH).whole()).collect();
        if known(&word) {
            let term = Term::new(word.clone(), None, 100);
            let is_short = word.len() <= SHORT && !terms.is_empty();
            terms.insert(0, if is_short { term.whole() } else { term });
        } else if terms.is_empty() {
            let Some(meant) = meant(catalogues, &word) else { return Vec::new() };
            terms.push(Term::new(meant, None, 10));
        }
        choices.push(terms);
    }
    let among = |choices: &[Vec<Term>]| {
        let mut hits = Vec::new();
        for (at, catalogue) in catalogues.iter().enumerate() {
            let mut shelves = search.only.iter().filter(|(facet, _)| *facet == Facet::Shelf);
            if shelves.all(|(_, shelf)| *shelf == catalogue.shelf) {
                let found = matching_choices(catalogue, &terms, choices);
                hits.extend(found.into_iter().map(|(row, score)| Hit { catalogue: at, row, score }));
            }
        }
        hits
    };
    // Where the words as they were typed find enough, no others are searched for.
    let typed: Vec<Vec<Term>> = choices.iter().map(|choice| choice[..1].to_vec()).collect();
    let has_others = choices.iter().any(|choice| choice.len() > 1);
    let hits = among(&typed);
    let is_enough = !has_others || (hits.len() >= ENOUGH && typed.iter().flatten().all(|term| !term.whole));
    by_score(if is_enough { hits } else { among(&choices) })
}

/// Returns the rows that hold all terms and one of each choice, with their best scores, in their order.
fn matching_choices(catalogue: &Catalogue, terms: &[Term], choices: &[Vec<Term>]) -> Vec<(u32, u32)> {
    let mut all: Vec<Vec<Term>> = vec![terms.to_vec()];
    for choice in choices {
        let with = |terms: &Vec<Term>, term: &Term| [terms.as_slice(), std::slice::from_ref(term)].concat();
        all = all
            .iter()
            .flat_map(|terms| choice.iter().map(|term| with(terms, term)))
            .take(MOST_WAYS)
            .collect();
    }
    let found = all.into_iter().map(|mut terms| {
        // The longest is the rarest: the others are then searched in few lines.
        terms.sort_by_key(|term| std::cmp::Reverse(term.length));
        catalogue.matching(&terms)
    });
    let mut found = found.collect::<Vec<_>>();
    if found.len() == 1 {
        return found.remove(0);
    }
    let mut best: BTreeMap<u32, u32> = BTreeMap::new();
    for (row, score) in found.into_iter().flatten() {
        let known = best.entry(row).or_default();
        *known = score.max(*known);
    }
    best.into_iter().collect()
}

/// Sorts hits by score, the highest first, and keeps the order of equal ones. A counting sort:
/// there are few scores and many hits.
fn by_score(hits: Vec<Hit>) -> Vec<Hit> {
    let most = hits.iter().map(|hit| hit.score).max().unwrap_or(0) as usize;
    let mut counts = vec![0_usize; most + 2];
    // A higher score comes first.
    hits.iter().for_each(|hit| counts[most - hit.score as usize + 1] += 1);
    if counts.contains(&hits.len()) {
        return hits;
    }
    (1..counts.len()).for_each(|at| counts[at] += counts[at - 1]);
    let mut sorted = vec![Hit { catalogue: 0, row: 0, score: 0 }; hits.len()];
    for hit in hits {
        let place = &mut counts[most - hit.score as usize];
        sorted[*place] = hit;
        *place += 1;
    }
    sorted
}

/// Returns the known word that is nearest to one which is nowhere.
fn meant(catalogues: &[&Catalogue], word: &str) -> Option<String> {
    let reach = (word.len() / 3).max(1);
    let letters = letters_of(word);
    // Each letter that only one of them has is half a mistake at least.
    let near = |other: &&str| {
        other.len().abs_diff(word.len()) <= reach
            && (letters ^ letters_of(other)).count_ones() as usize <= 2 * reach
    };
    let words = catalogues.iter().flat_map(|catalogue| catalogue.words.lines()).filter(near);
    nearest(word, words).map(str::to_owned)
}

/// Returns the letters of a word as a bit set; other characters share the bits.
fn letters_of(word: &str) -> u32 {
    word.bytes().fold(0, |all, byte| all | 1 << (byte & 31))
}

/// Returns the values of a field among the hits, with their counts, the most frequent first.
#[must_use]
pub fn tally(catalogues: &[&Catalogue], hits: &[Hit], field: Field) -> Vec<(String, usize)> {
    // A share a core: what each counted is put together in the end.
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    let shares: Vec<&[Hit]> = hits.chunks(hits.len().div_ceil(cores).max(SHARE)).collect();
    let counted = parallel::each(&shares, |share| {
        let mut counts: HashMap<&[u8], usize> = HashMap::new();
        for hit in *share {
            let line = catalogues[hit.catalogue].line(hit.row as usize).as_bytes();
            let mut ends = memchr::memchr_iter(BETWEEN, line).skip((field as usize).saturating_sub(1));
            let begin = if field == Field::Name { Some(0) } else { ends.next().map(|end| end + 1) };
            let Some(begin) = begin else { continue };
            let held = &line[begin..ends.next().unwrap_or(line.len())];
            for value in held.split(|byte| *byte == VALUE as u8).filter(|value| !value.is_empty()) {
                *counts.entry(value).or_default() += 1;
            }
        }
        counts
    });
    let mut counted = counted.into_iter();
    let mut all = counted.next().unwrap_or_default();
    for (value, count) in counted.flatten() {
        *all.entry(value).or_default() += count;
    }
    let mut all: Vec<(&[u8], usize)> = all.into_iter().collect();
    let order =
        |(a, many): &(&[u8], usize), (b, more): &(&[u8], usize)| more.cmp(many).then_with(|| a.cmp(b));
    if all.len() > MOST_VALUES {
        all.select_nth_unstable_by(MOST_VALUES, order);
        all.truncate(MOST_VALUES);
    }
    all.sort_unstable_by(order);
    all.into_iter().map(|(value, count)| (String::from_utf8_lossy(value).into_owned(), count)).collect()
}

impl Catalogue {
    /// Returns the rows whose lines hold all terms, with their scores, in their order.
    fn matching(&self, terms: &[Term]) -> Vec<(u32, u32)> {
        let Some((first, rest)) = terms.split_first() else {
            return (0..self.rows.len()).map(|row| (u32::try_from(row).unwrap_or(u32::MAX), 0)).collect();
        };
        let starts: Vec<usize> = (0..self.rows.len()).step_by(SHARE).collect();
        let shares = parallel::each(&starts, |start| {
            let end = (start + SHARE).min(self.rows.len());
            self.matching_in(*start..end, first, rest)
        });
        shares.into_iter().flatten().collect()
    }

    fn matching_in(&self, rows: std::ops::Range<usize>, first: &Term, rest: &[Term]) -> Vec<(u32, u32)> {
        let bytes = self.text.as_bytes();
        let begin = |row: usize| self.rows.get(row).map_or(bytes.len(), |row| row.start as usize);
        let end = begin(rows.end);
        let mut found = Vec::new();
        let (mut row, mut from) = (rows.start, begin(rows.start));
        while let Some(place) = first.find(&bytes[from..end]) {
            while begin(row + 1) <= from + place {
                row += 1;
            }
            let line = &bytes[begin(row)..begin(row + 1)];
            let at = from + place - begin(row);
            from = begin(row + 1);
            let scores = rest.iter().map(|term| score(line, term.find(line)?, term));
            if let Some(score) = std::iter::once(score(line, at, first)).chain(scores).sum::<Option<u32>>() {
                found.push((u32::try_from(row).unwrap_or(u32::MAX), score));
            }
        }
        found
    }
}

/// Returns the score of a line for a term whose first position is `place`; `None` if the line does
/// not match.
fn score(line: &[u8], mut place: usize, term: &Term) -> Option<u32> {
    let looks = match (term.within, term.length) {
        (Some(_), _) => usize::MAX,
        // One or two letters are everywhere: the first position decides.
        (None, 1 | 2) if !term.whole => 1,
        (None, _) if term.whole => usize::MAX,
        (None, _) => LOOKS,
    };
    let mut best = None;
    let (mut counted, mut field) = (0, 0);
    for look in 1.. {
        field += memchr::memchr_iter(BETWEEN, &line[counted..place]).count();
        counted = place;
        // The needle of an owner begins with the separator before it.
        let here = if term.within == Some(Field::Owner) { field + 1 } else { field };
        match term.within {
            Some(within) if within as usize == here => return Some(0),
            Some(_) => {}
            None if term.whole && !is_whole(line, place, term.length) => {}
            None => best = best.max(Some(of_word(line, place, term.length, field) * term.worth / 100)),
        }
        if look == looks || (best.is_some() && field == Field::Name as usize) {
            break;
        }
        match term.find(&line[place + 1..]) {
            Some(next) => place += 1 + next,
            None => break,
        }
    }
    best
}

/// Returns true for a byte that does not belong to a word, and for none.
fn is_edge(byte: Option<&u8>) -> bool {
    byte.is_none_or(|byte| byte.is_ascii() && !byte.is_ascii_alphanumeric())
}

/// Returns true if a word begins and ends there.
fn is_whole(line: &[u8], at: usize, length: usize) -> bool {
    (at == 0 || is_edge(line.get(at - 1))) && is_edge(line.get(at + length))
}

/// Returns the weight of a position: highest in the name, lowest within a word of the summary.
fn of_word(line: &[u8], at: usize, length: usize, field: usize) -> u32 {
    let begins = at == 0 || is_edge(line.get(at - 1));
    let ends = is_edge(line.get(at + length));
    let is_all = |byte: Option<&u8>| byte.is_none_or(|byte| matches!(*byte, BETWEEN | b'\n' | 0x1f));
    let all = (at == 0 || is_all(line.get(at - 1))) && is_all(line.get(at + length));
    match (field, begins, ends) {
        (0, ..) if all => 100,
        (0, true, true) => 80,
        (0, true, false) => 70,
        (0, ..) => 60,
        (1..=3, ..) if all => 50,
        (1..=3, true, _) => 42,
        (5, true, true) => 40,
        (5, true, false) => 30,
        _ => 20,
    }
}
