//! The settings with their values, and where each comes from.

use super::catalogue::{ANSWERS, KNOWN};
use super::edit::stored;
use super::{Settings, ShelfPlace};
use crate::failure::Failure;
use tinmold_notation::Position;
use toml_edit::{Document, Item};

/// The source of a setting's value.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Source {
    /// Nothing sets it.
    Default,
    /// This line of the file.
    File(usize),
    /// An option of the command line.
    CommandLine,
}

/// A setting as it holds now.
#[derive(Debug)]
pub struct ListedSetting {
    /// Its table in the file.
    pub table: String,
    /// Its name in the table.
    pub name: String,
    /// Its value, as the file would hold it.
    pub value: String,
    /// The source of the value.
    pub source: Source,
    /// What it does, a clause.
    pub does: String,
}

impl ListedSetting {
    /// Returns its name with its table.
    pub fn key(&self) -> String {
        format!("{}.{}", self.table, self.name)
    }
}

impl Settings {
    /// Lists every setting; `offline` is true if the command line says so.
    ///
    /// # Errors
    /// The file cannot be read.
    pub fn listed(&self, offline: bool) -> Result<Vec<ListedSetting>, Failure> {
        let text = if self.path.as_os_str().is_empty() { String::new() } else { stored(&self.path)? };
        // The text was parsed when the settings were read.
        let document = Document::parse(text.as_str()).ok();
        let in_file = |table: &str, name: &str| -> Option<(String, usize)> {
            let item = document.as_ref()?.get(table)?.get(name)?;
            Some((item.to_string().trim().to_owned(), line_of(&text, item)))
        };
        let mut all = Vec::new();
        for known in KNOWN {
            let (value, source) = match in_file(known.table, known.name) {
                _ if offline && known.key() == "network.offline" => ("true".to_owned(), Source::CommandLine),
                Some((value, line)) => (value, Source::File(line)),
                None => (known.default(), Source::Default),
            };
            let (table, name) = (known.table.to_owned(), known.name.to_owned());
            all.push(ListedSetting { table, name, value, source, does: known.does.to_owned() });
        }
        for key in self.answers.keys() {
            let (value, line) = in_file(ANSWERS, key).unwrap_or_default();
            all.push(ListedSetting {
                table: ANSWERS.to_owned(),
                name: key.clone(),
                value,
                source: Source::File(line),
                does: "your default for questions of this key".to_owned(),
            });
        }
        for shelf in &self.shelf {
            let line = Position::of(&text, shelf.span().start).line;
            let shelf = shelf.get_ref();
            let value = match shelf.place() {
                Ok(ShelfPlace::Folder(path)) => path.display().to_string(),
                Ok(ShelfPlace::Git(url) | ShelfPlace::Index(url, _)) => url,
                Err(_) => continue,
            };
            all.push(ListedSetting {
                table: "shelf".to_owned(),
                name: shelf.name.clone(),
                value,
                source: Source::File(line),
                does: shelf.summary.clone().unwrap_or_else(|| "a shelf: see tinmold shelf list".to_owned()),
            });
        }
        Ok(all)
    }

    /// Returns the descriptions of shelves, by name.
    pub fn shelf_summaries(&self) -> impl Iterator<Item = (&str, &str)> {
        let shelves = self.shelf.iter().map(toml::Spanned::get_ref);
        shelves.filter_map(|shelf| Some((shelf.name.as_str(), shelf.summary.as_deref()?)))
    }
}

fn line_of(text: &str, item: &Item) -> usize {
    Position::of(text, item.span().map_or(0, |span| span.start)).line
}
