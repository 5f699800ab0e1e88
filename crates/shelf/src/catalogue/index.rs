//! The index of a shelf: one JSON document with an entry per mold; `docs/shelves.md` describes the
//! format.

use super::entry::{Entry, is_name};
use serde::Deserialize;
use serde_json::value::RawValue;
use std::collections::HashSet;
use std::ops::Range;
use tinmold_platform::digest::Digest;

/// The format that this program reads and writes.
pub const INDEX_FORMAT: u64 = 1;
/// The file name of an index.
pub const INDEX_FILE: &str = "index.json";
/// The most bytes that an index may have.
pub const MOST_BYTES: u64 = 512 << 20;
/// The longest text in it, in bytes.
const LONGEST: usize = 4096;
/// The most elements of a list in it.
const MOST_LISTED: usize = 10_000;

/// Why a document is no index.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum IndexError {
    /// It is not JSON, or not the JSON of an index: the reason with line and column.
    #[error("it is not an index of molds: {0}")]
    NotAnIndex(String),
    /// It is not UTF-8.
    #[error("it is not an index of molds: it is not UTF-8")]
    NotUtf8,
    /// Its format is newer.
    #[error("its format {0} is newer than this program, which reads {INDEX_FORMAT}: get a newer tinmold")]
    Newer(u64),
    /// An entry that cannot be used.
    #[error("its entry {} cannot be used: {reason}", .name.clone().unwrap_or_else(|| .number.to_string()))]
    BadEntry {
        /// The number of the entry, from 1.
        number: usize,
        /// The name of the entry, if it can be read.
        name: Option<String>,
        /// Why.
        reason: String,
    },
}

#[derive(Deserialize)]
struct Format {
    #[serde(rename = "tinmold-index")]
    format: u64,
}

#[derive(Deserialize)]
struct Document<'a> {
    #[serde(borrow)]
    molds: Vec<&'a RawValue>,
}

/// Reads an index, with its entries in the order of the document. The index is untrusted: names,
/// paths, digests and lengths are validated. Unknown keys are ignored.
///
/// # Errors
/// It is not an index, its format is newer, or an entry is invalid; then no entry is used.
pub fn read_index(text: &str) -> Result<Vec<Entry>, IndexError> {
    let mut entries = Vec::new();
    each_entry(text, |entry, _| entries.push(entry))?;
    Ok(entries)
}

/// Calls `each` with one entry at a time and the range of its text: all entries of a large index at
/// once would take a multiple of its size.
pub(super) fn each_entry(text: &str, mut each: impl FnMut(Entry, Range<usize>)) -> Result<(), IndexError> {
    let broken = |error: serde_json::Error| IndexError::NotAnIndex(error.to_string());
    let format: Format = serde_json::from_str(text).map_err(broken)?;
    if format.format > INDEX_FORMAT {
        return Err(IndexError::Newer(format.format));
    }
    let document: Document<'_> = serde_json::from_str(text).map_err(broken)?;
    let mut names = HashSet::with_capacity(document.molds.len());
    for (number, raw) in document.molds.into_iter().enumerate() {
        let bad = |name: Option<&str>, reason: String| IndexError::BadEntry {
            number: number + 1,
            name: name.map(str::to_owned),
            reason,
        };
        let mut entry: Entry =
            serde_json::from_str(raw.get()).map_err(|error| bad(None, error.to_string()))?;
        if let Some(why) = mistake(&entry) {
            return Err(bad(Some(&entry.name), why));
        }
        if !names.insert(entry.name.clone()) {
            return Err(bad(Some(&entry.name), "the name occurs twice".into()));
        }
        entry.versions.sort_by(|a, b| b.version.cmp(&a.version));
        // The entry's text is a piece of the document's.
        let start = raw.get().as_ptr() as usize - text.as_ptr() as usize;
        each(entry, start..start + raw.get().len());
    }
    Ok(())
}

/// Writes an index: a line a mold, by name, the same bytes for the same entries.
#[must_use]
pub fn write_index(entries: &[Entry]) -> String {
    let mut lines: Vec<(&str, String)> = entries
        .iter()
        // Texts and numbers are always JSON.
        .map(|entry| (entry.name.as_str(), serde_json::to_string(entry).unwrap_or_default()))
        .collect();
    lines.sort_unstable();
    let lines: Vec<String> = lines.into_iter().map(|(_, line)| line).collect();
    format!("{{\"tinmold-index\": {INDEX_FORMAT}, \"molds\": [\n{}\n]}}\n", lines.join(",\n"))
}

/// Returns why an entry is invalid.
fn mistake(entry: &Entry) -> Option<String> {
    if !is_name(&entry.name) {
        return Some("a mold's name has small letters, digits and hyphens only".into());
    }
    let lists = [&entry.language, &entry.kind, &entry.tags, &entry.asks];
    let texts = [&entry.summary, &entry.owner].into_iter().chain(lists.into_iter().flatten());
    let releases = &entry.versions;
    if texts.chain(releases.iter().map(|release| &release.released)).any(|text| text.len() > LONGEST) {
        return Some(format!("a text in it is longer than {LONGEST} bytes"));
    }
    if lists.iter().any(|list| list.len() > MOST_LISTED) || releases.len() > MOST_LISTED {
        return Some(format!("a list in it is longer than {MOST_LISTED}"));
    }
    if releases.is_empty() {
        return Some("it has no version".into());
    }
    let mut versions = HashSet::new();
    for release in releases {
        let version = &release.version;
        if !versions.insert(version) {
            return Some(format!("the version {version} occurs twice"));
        }
        if release.sha256.parse::<Digest>().is_err() {
            return Some(format!("the sha256 of {version} has not 64 hexadecimal digits"));
        }
        if !is_inside(&release.archive) {
            return Some(format!("the archive {:?} is not below the index", release.archive));
        }
    }
    None
}

/// Returns true if a relative URL names an archive below its base.
fn is_inside(archive: &str) -> bool {
    let plain = |c: char| c.is_ascii_alphanumeric() || "-._+".contains(c);
    archive.len() <= LONGEST
        && archive.ends_with(".tar.gz")
        && archive.split('/').all(|part| !matches!(part, "" | "." | "..") && part.chars().all(plain))
}
