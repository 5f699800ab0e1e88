//! A shelf's molds, laid out for searching: a line of text per mold, sorted by name.
//!
//! The catalogue of a large shelf is made once and stored beside its index. It holds only the
//! searched text, and the range of each entry in the index; an entry is read when it is shown.
//! Checksums guard both.

use super::entry::Entry;
use super::index::{IndexError, each_entry};
use std::collections::BTreeSet;
use std::fs;
use std::io::{self, Read, Seek, SeekFrom};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};

/// The first bytes of a stored catalogue; the digit is its format.
const MAGIC: &[u8; 8] = b"tinmold1";
/// The separator of the fields of a line.
pub(super) const BETWEEN: u8 = b'\t';
/// The separator before, between and after the values of a list.
pub(super) const VALUE: char = '\u{1f}';
/// The bytes of a stored catalogue's head: magic, check sum of all that follows, three lengths.
const HEAD: usize = 36;
/// The bytes of a stored row.
const ROW: usize = 20;

/// The fields of a line, in their order.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Field {
    /// The mold's name.
    Name,
    /// The languages of what it gives.
    Language,
    /// The kinds of project that it gives.
    Kind,
    /// Its tags.
    Tag,
    /// Its owner.
    Owner,
    /// The summary.
    Summary,
}

/// Everything on a shelf.
#[derive(Debug)]
pub struct Catalogue {
    /// The shelf's name.
    pub shelf: String,
    pub(super) text: String,
    pub(super) rows: Vec<Row>,
    /// All words of the text, each once, sorted, a line a word.
    pub(super) words: String,
    source: Source,
    /// The stored index, once an entry of it was read.
    index: Mutex<Option<fs::File>>,
}

/// The start of a mold's line, and the range of its entry in the index.
#[derive(Clone, Copy, Debug)]
pub(super) struct Row {
    pub(super) start: u32,
    entry_at: u64,
    entry_length: u32,
    entry_sum: u32,
}

#[derive(Debug)]
enum Source {
    Held(Vec<Entry>),
    Stored(PathBuf),
}

impl Catalogue {
    /// Returns the catalogue of these entries, which are by name.
    #[must_use]
    pub fn of(shelf: impl Into<String>, entries: Vec<Entry>) -> Self {
        let (mut text, mut rows, mut words) = (String::new(), Vec::new(), BTreeSet::new());
        for entry in &entries {
            rows.push(Row { start: start(&text), entry_at: 0, entry_length: 0, entry_sum: 0 });
            add(entry, &mut text, &mut words);
        }
        Self {
            shelf: shelf.into(),
            text,
            rows,
            words: lines(&words),
            source: Source::Held(entries),
            index: Mutex::default(),
        }
    }

    /// Returns the catalogue of the index with this text, which is stored at `path`.
    ///
    /// # Errors
    /// It is not an index that this program can read.
    pub fn of_index(shelf: impl Into<String>, index: &str, path: &Path) -> Result<Self, IndexError> {
        let (mut words, mut found) = (BTreeSet::new(), Vec::new());
        each_entry(index, |entry, place| {
            let mut line = String::new();
            add(&entry, &mut line, &mut words);
            found.push((entry.name, line.into_boxed_str(), place));
        })?;
        found.sort_unstable_by(|(a, ..), (b, ..)| a.cmp(b));
        let mut text = String::with_capacity(found.iter().map(|(_, line, _)| line.len()).sum());
        let mut rows = Vec::with_capacity(found.len());
        for (_, line, place) in found {
            let piece = &index[place.clone()];
            rows.push(Row {
                start: start(&text),
                entry_at: place.start as u64,
                entry_length: u32::try_from(piece.len()).unwrap_or(u32::MAX),
                entry_sum: crc32fast::hash(piece.as_bytes()),
            });
            text.push_str(&line);
        }
        let source = Source::Stored(path.to_owned());
        Ok(Self { shelf: shelf.into(), text, rows, words: lines(&words), source, index: Mutex::default() })
    }

    /// Returns its bytes, to be stored.
    #[must_use]
    pub fn to_bytes(&self) -> Vec<u8> {
        let length = HEAD + self.rows.len() * ROW + self.words.len() + self.text.len();
        let mut held = Vec::with_capacity(length);
        held.extend_from_slice(MAGIC);
        held.extend_from_slice(&[0; 4]);
        for length in [self.rows.len(), self.words.len(), self.text.len()] {
            held.extend_from_slice(&(length as u64).to_le_bytes());
        }
        for row in &self.rows {
            held.extend_from_slice(&row.start.to_le_bytes());
            held.extend_from_slice(&row.entry_at.to_le_bytes());
            held.extend_from_slice(&row.entry_length.to_le_bytes());
            held.extend_from_slice(&row.entry_sum.to_le_bytes());
        }
        held.extend_from_slice(self.words.as_bytes());
        held.extend_from_slice(self.text.as_bytes());
        let sum = crc32fast::hash(&held[12..]).to_le_bytes();
        held[8..12].copy_from_slice(&sum);
        held
    }

    /// Reads what was stored at `path`, made of the index at `index`.
    ///
    /// # Errors
    /// It cannot be read or is damaged; it can be made again from the index.
    pub fn open(shelf: impl Into<String>, path: &Path, index: &Path) -> io::Result<Self> {
        let damaged = || io::Error::other("the stored catalogue is damaged");
        let mut file = fs::File::open(path)?;
        let length = file.metadata()?.len();
        let mut head = [0; HEAD];
        file.read_exact(&mut head)?;
        let number = |at: usize| u64::from_le_bytes(head[at..at + 8].try_into().unwrap_or_default());
        let (count, words, text) = (number(12), number(20), number(28));
        let rows = count.checked_mul(ROW as u64).ok_or_else(damaged)?;
        let expected = [HEAD as u64, rows, words, text].into_iter().try_fold(0_u64, u64::checked_add);
        if head[..8] != *MAGIC || expected != Some(length) {
            return Err(damaged());
        }
        // Nothing is longer than the file.
        let held = |length: u64| vec![0; usize::try_from(length).unwrap_or(usize::MAX)];
        let (mut raw_rows, mut words, mut text) = (held(rows), held(words), held(text));
        let mut sum = crc32fast::Hasher::new();
        sum.update(&head[12..]);
        for piece in [&mut raw_rows, &mut words, &mut text] {
            file.read_exact(piece)?;
            sum.update(piece);
        }
        if sum.finalize().to_le_bytes() != head[8..12] {
            return Err(damaged());
        }
        let rows = raw_rows.chunks_exact(ROW).map(|row| {
            let small = |at: usize| u32::from_le_bytes(row[at..at + 4].try_into().unwrap_or_default());
            let entry_at = u64::from_le_bytes(row[4..12].try_into().unwrap_or_default());
            Row { start: small(0), entry_at, entry_length: small(12), entry_sum: small(16) }
        });
        let rows: Vec<Row> = rows.collect();
        let text = String::from_utf8(text).map_err(|_| damaged())?;
        if !rows.is_sorted_by_key(|row| row.start)
            || rows.iter().any(|row| !text.is_char_boundary(row.start as usize))
        {
            return Err(damaged());
        }
        Ok(Self {
            shelf: shelf.into(),
            rows,
            text,
            words: String::from_utf8(words).map_err(|_| damaged())?,
            source: Source::Stored(index.to_owned()),
            index: Mutex::default(),
        })
    }

    /// Returns the number of molds.
    #[must_use]
    pub fn len(&self) -> usize {
        self.rows.len()
    }

    /// Returns true if it holds no mold.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty()
    }

    /// Returns the mold in a row.
    ///
    /// # Errors
    /// The stored index cannot be read, or is not as it was when the catalogue was made.
    pub fn entry(&self, row: u32) -> io::Result<Entry> {
        let path = match &self.source {
            Source::Held(entries) => return Ok(entries[row as usize].clone()),
            Source::Stored(path) => path,
        };
        let Row { entry_at, entry_length, entry_sum, .. } = self.rows[row as usize];
        let mut bytes = Vec::new();
        {
            // A list shows many at once.
            let mut file = self.index.lock().unwrap_or_else(PoisonError::into_inner);
            let file = match &mut *file {
                Some(file) => file,
                None => file.insert(fs::File::open(path)?),
            };
            file.seek(SeekFrom::Start(entry_at))?;
            file.take(u64::from(entry_length)).read_to_end(&mut bytes)?;
        }
        if crc32fast::hash(&bytes) != entry_sum {
            return Err(io::Error::other("the stored index is damaged"));
        }
        let mut entry: Entry = serde_json::from_slice(&bytes)?;
        entry.versions.sort_by(|a, b| b.version.cmp(&a.version));
        Ok(entry)
    }

    /// Returns the row of the mold with this name.
    #[must_use]
    pub fn row_of(&self, name: &str) -> Option<u32> {
        let at = self.rows.partition_point(|row| self.name_at(row.start as usize) < name);
        let there = self.rows.get(at).is_some_and(|row| self.name_at(row.start as usize) == name);
        there.then(|| u32::try_from(at).unwrap_or(u32::MAX))
    }

    /// Returns the names of all molds, in their order.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.rows.iter().map(|row| self.name_at(row.start as usize))
    }

    fn name_at(&self, start: usize) -> &str {
        let rest = &self.text[start..];
        let end = memchr::memchr(BETWEEN, rest.as_bytes()).unwrap_or(rest.len());
        &rest[..end]
    }

    /// Returns the line of a row, without its end.
    pub(super) fn line(&self, row: usize) -> &str {
        let end = self.rows.get(row + 1).map_or(self.text.len(), |next| next.start as usize);
        self.text[self.rows[row].start as usize..end].trim_end_matches('\n')
    }
}

fn start(text: &str) -> u32 {
    // The longest index makes a shorter text than this.
    u32::try_from(text.len()).unwrap_or(u32::MAX)
}

fn lines(words: &BTreeSet<String>) -> String {
    words.iter().flat_map(|word| [word.as_str(), "\n"]).collect()
}

/// Adds the line of an entry, and its words.
fn add(entry: &Entry, text: &mut String, words: &mut BTreeSet<String>) {
    let begun = text.len();
    let plain = |value: &str| -> String {
        value.to_lowercase().chars().map(|c| if c.is_control() { ' ' } else { c }).collect()
    };
    text.push_str(&entry.name);
    for list in [&entry.language, &entry.kind, &entry.tags] {
        text.push(BETWEEN as char);
        for value in list {
            text.push(VALUE);
            text.push_str(&plain(value));
        }
        if !list.is_empty() {
            text.push(VALUE);
        }
    }
    for field in [&entry.owner, &entry.summary] {
        text.push(BETWEEN as char);
        text.push_str(&plain(field));
    }
    // A word of three letters is as near to any other, and so are numbers.
    let is_word = |word: &&str| word.len() > 3 && !word.contains(|c: char| c.is_ascii_digit());
    for word in text[begun..].split(|c: char| !c.is_alphanumeric()).filter(is_word) {
        if !words.contains(word) {
            words.insert(word.to_owned());
        }
    }
    text.push('\n');
}
