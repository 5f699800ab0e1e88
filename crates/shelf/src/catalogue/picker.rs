//! Picking a mold: what is typed, what it is narrowed to, and what is found, after each keystroke.

use super::entry::Entry;
use super::search::{Facet, Hit, Search, search, tally};
use super::searchable::{Catalogue, Field};
use std::cell::OnceCell;

/// Returns the catalogue and row of each of these molds, as `shelf/name`, that is there, in their order.
#[must_use]
pub fn rows_of(catalogues: &[&Catalogue], addresses: &[String]) -> Vec<(usize, u32)> {
    let place = |address: &String| {
        let (shelf, name) = address.split_once('/')?;
        let at = catalogues.iter().position(|catalogue| catalogue.shelf == shelf)?;
        Some((at, catalogues[at].row_of(name)?))
    };
    addresses.iter().filter_map(place).collect()
}

/// The state of choosing a mold.
pub struct Picker {
    catalogues: Vec<Catalogue>,
    /// The catalogue and row of each mold that was used lately, the last one first.
    recent: Vec<(usize, u32)>,
    text: String,
    narrowed: Search,
    hits: Vec<Hit>,
    at: usize,
    /// By narrowing, the values among everything, once they were asked for.
    counted: [OnceCell<Vec<(String, usize)>>; Facet::ALL.len()],
}

impl Picker {
    /// Starts with all molds; recently used ones, as `shelf/name`, come first.
    #[must_use]
    pub fn new(catalogues: Vec<Catalogue>, recent: &[String]) -> Self {
        let recent = rows_of(&catalogues.iter().collect::<Vec<_>>(), recent);
        let mut choosing = Self {
            catalogues,
            recent,
            text: String::new(),
            narrowed: Search::default(),
            hits: Vec::new(),
            at: 0,
            counted: Default::default(),
        };
        choosing.look();
        choosing
    }

    /// Returns the typed text.
    #[must_use]
    pub fn text(&self) -> &str {
        &self.text
    }

    /// Sets the typed text and searches for it.
    pub fn set_text(&mut self, text: impl Into<String>) {
        self.text = text.into();
        self.look();
    }

    /// Narrows to the molds with this value and searches again; an empty value removes the filter.
    pub fn narrow(&mut self, by: Facet, value: &str) {
        set(&mut self.narrowed, by, value);
        self.look();
    }

    /// Returns the filters.
    #[must_use]
    pub fn narrowed(&self) -> Vec<(Facet, String)> {
        let mut all = self.narrowed.only.clone();
        all.sort_by_key(|(by, _)| Facet::ALL.iter().position(|other| other == by));
        all
    }

    /// Returns the values of a facet among the found molds, with their counts, the most frequent
    /// first.
    #[must_use]
    pub fn values(&self, by: Facet) -> Vec<(String, usize)> {
        if self.wanted() != Search::default() {
            return self.values_among(&self.hits, by);
        }
        // Those of everything are always the same.
        let counted = Facet::ALL.iter().position(|other| *other == by).map(|at| &self.counted[at]);
        match counted {
            Some(counted) => counted.get_or_init(|| self.values_among(&self.hits, by)).clone(),
            None => Vec::new(),
        }
    }

    /// Returns the same among what would be found with a further filter.
    #[must_use]
    pub fn values_within(&self, narrowed: Facet, to: &str, by: Facet) -> Vec<(String, usize)> {
        let mut wanted = self.wanted();
        set(&mut wanted, narrowed, to);
        self.values_among(&search(&self.references(), &wanted), by)
    }

    fn values_among(&self, hits: &[Hit], by: Facet) -> Vec<(String, usize)> {
        let field = match by {
            Facet::Language => Field::Language,
            Facet::Kind => Field::Kind,
            Facet::Tag => Field::Tag,
            Facet::Owner => Field::Owner,
            Facet::Shelf => {
                let mut counts = vec![0; self.catalogues.len()];
                hits.iter().for_each(|hit| counts[hit.catalogue] += 1);
                let named = self.catalogues.iter().zip(counts);
                return named
                    .filter(|(_, count)| *count > 0)
                    .map(|(catalogue, count)| (catalogue.shelf.clone(), count))
                    .collect();
            }
        };
        tally(&self.references(), hits, field)
    }

    /// Returns the number of all molds.
    #[must_use]
    pub fn all(&self) -> usize {
        self.catalogues.iter().map(Catalogue::len).sum()
    }

    /// Returns the number of found molds.
    #[must_use]
    pub fn found(&self) -> usize {
        self.hits.len()
    }

    /// Returns the index of the selected one.
    #[must_use]
    pub fn at(&self) -> usize {
        self.at
    }

    /// Moves the selection by so many molds; stops at the ends.
    pub fn step(&mut self, by: isize) {
        self.at = self.at.saturating_add_signed(by).min(self.hits.len().saturating_sub(1));
    }

    /// Returns the mold at an index among those found, with its shelf's name.
    ///
    /// # Errors
    /// The shelf's listing cannot be read.
    pub fn mold(&self, at: usize) -> std::io::Result<(&str, Entry)> {
        let hit = self.hits.get(at).ok_or(std::io::ErrorKind::NotFound)?;
        let catalogue = &self.catalogues[hit.catalogue];
        Ok((&catalogue.shelf, catalogue.entry(hit.row)?))
    }

    /// Returns true if the mold at an index was used recently.
    #[must_use]
    pub fn is_recent(&self, at: usize) -> bool {
        self.hits.get(at).is_some_and(|hit| self.recent.contains(&(hit.catalogue, hit.row)))
    }

    fn references(&self) -> Vec<&Catalogue> {
        self.catalogues.iter().collect()
    }

    fn wanted(&self) -> Search {
        let words = self.text.split_whitespace().map(str::to_owned).collect();
        Search { words, ..self.narrowed.clone() }
    }

    fn look(&mut self) {
        self.hits = search(&self.references(), &self.wanted());
        self.at = 0;
        self.recent_first();
    }

    /// Puts recently used molds before equal matches; other equal matches keep the order of
    /// catalogues and rows.
    fn recent_first(&mut self) {
        let mut start = 0;
        while start < self.hits.len() && !self.recent.is_empty() {
            let score = self.hits[start].score;
            let end = start + self.hits[start..].partition_point(|hit| hit.score == score);
            let mut group = &mut self.hits[start..end];
            for place in &self.recent {
                if let Ok(at) = group.binary_search_by_key(place, |hit| (hit.catalogue, hit.row)) {
                    group[..=at].rotate_right(1);
                    group = &mut group[1..];
                }
            }
            start = end;
        }
    }
}

/// Sets the value of a facet; an empty value removes it.
fn set(search: &mut Search, facet: Facet, value: &str) {
    search.only.retain(|(other, _)| *other != facet);
    if !value.is_empty() {
        search.only.push((facet, value.to_owned()));
    }
}
