//! Changes of the configuration file, which leave the rest of it as it is.

use super::catalogue::{ANSWERS, KNOWN, KnownSetting, SettingKind};
use super::{Settings, ShelfPlace};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::text::style::safe;
use std::fs;
use std::path::{Path, PathBuf};
use tinmold_notation::did_you_mean;
use tinmold_platform::files::write_whole;
use toml_edit::{Array, DocumentMut, Item, Value};

/// A setting that can be changed.
#[derive(Debug)]
pub enum Key {
    /// One of the known ones.
    Known(&'static KnownSetting),
    /// The user's own default for the question of this key.
    Answer(String),
}

impl Key {
    /// Reads a name such as `network.offline` or `answers.licence`.
    ///
    /// # Errors
    /// There is no such setting.
    pub fn parse(name: &str) -> Result<Self, Failure> {
        if let Some(setting) = KNOWN.iter().find(|setting| setting.key() == name) {
            return Ok(Self::Known(setting));
        }
        if let Some(key) = name.strip_prefix("answers.")
            && !key.is_empty()
            && key.chars().all(|c| c.is_ascii_alphanumeric() || "_-".contains(c))
        {
            return Ok(Self::Answer(key.to_owned()));
        }
        let keys: Vec<String> = KNOWN.iter().map(KnownSetting::key).collect();
        let all = format!("there are {}, and answers.KEY with the key of a question", keys.join(", "));
        let help = match name {
            "shelf" => "shelves are changed by tinmold shelf add and tinmold shelf drop".to_owned(),
            _ => did_you_mean(name, keys.iter().map(String::as_str), all),
        };
        Err(Failure::new(Exit::Usage, format!("there is no setting `{}`", safe(name))).help(help))
    }

    /// Returns its table and its name.
    pub fn parts(&self) -> (&str, &str) {
        match self {
            Self::Known(setting) => (setting.table, setting.name),
            Self::Answer(key) => (ANSWERS, key),
        }
    }

    /// Returns the kind of its value.
    pub fn kind(&self) -> SettingKind {
        match self {
            Self::Known(setting) => setting.kind,
            Self::Answer(_) => SettingKind::Answer,
        }
    }

    /// Reads a value of its kind.
    fn value(&self, text: &str) -> Result<Value, Failure> {
        let value = match self.kind() {
            SettingKind::Flag => text.parse::<bool>().ok().map(Value::from),
            SettingKind::Number => text.parse::<u32>().ok().map(|number| Value::from(i64::from(number))),
            SettingKind::Paths => {
                let paths = text.split(',').map(str::trim).filter(|path| !path.is_empty());
                Some(Value::Array(paths.collect::<Array>()))
            }
            // `true`, `8417` and `["a"]` are what they look like; any other text is a text.
            SettingKind::Answer => match text.parse::<Value>() {
                Ok(value) if !value.is_inline_table() => Some(value),
                _ => Some(Value::from(text)),
            },
        };
        let (table, name) = self.parts();
        value.ok_or_else(|| {
            let message = format!("{table}.{name} cannot be `{}`", safe(text));
            Failure::new(Exit::Usage, message).help(format!("it is {}", self.kind().words()))
        })
    }
}

impl Settings {
    /// Sets a setting, or takes it out of the file for `None`. What results must be readable.
    ///
    /// # Errors
    /// The value is none of the setting's, or the file cannot be read or written.
    pub fn change(key: &Key, value: Option<&str>) -> Result<(), Failure> {
        let value = value.map(|text| key.value(text)).transpose()?;
        let (table, name) = key.parts();
        Self::edit(|document| {
            let Some(value) = value else {
                if let Some(table) = document.get_mut(table).and_then(Item::as_table_like_mut) {
                    table.remove(name);
                }
                return;
            };
            let entry = document.entry(table).or_insert(toml_edit::table());
            if let Some(entry) = entry.as_table_like_mut() {
                // What stands behind the old value, such as a comment, stays.
                match entry.get_mut(name).and_then(Item::as_value_mut) {
                    Some(old) => {
                        let decor = old.decor().clone();
                        *old = value;
                        *old.decor_mut() = decor;
                    }
                    None => {
                        entry.insert(name, Item::Value(value));
                    }
                }
            }
        })
    }

    /// Adds a shelf.
    ///
    /// # Errors
    /// The file cannot be read or written.
    pub fn add_shelf(name: &str, place: &ShelfPlace, summary: Option<&str>) -> Result<(), Failure> {
        Self::edit(|document| {
            let mut entry = toml_edit::Table::new();
            entry.insert("name", toml_edit::value(name));
            if let Some(summary) = summary {
                entry.insert("summary", toml_edit::value(summary));
            }
            match place {
                ShelfPlace::Folder(folder) => {
                    entry.insert("folder", toml_edit::value(folder.display().to_string()));
                }
                ShelfPlace::Git(url) => {
                    entry.insert("git", toml_edit::value(url));
                }
                ShelfPlace::Index(url, token) => {
                    entry.insert("index", toml_edit::value(url));
                    if let Some(token) = token {
                        entry.insert("token-env", toml_edit::value(token));
                    }
                }
            }
            let shelves =
                document.entry("shelf").or_insert(Item::ArrayOfTables(toml_edit::ArrayOfTables::new()));
            if let Some(shelves) = shelves.as_array_of_tables_mut() {
                shelves.push(entry);
            }
        })
    }

    /// Takes a shelf out of the file.
    ///
    /// # Errors
    /// There is no such shelf, or the file cannot be read or written.
    pub fn drop_shelf(name: &str) -> Result<(), Failure> {
        let config = Self::read()?;
        if !config.has_shelf(name) {
            let names = || config.shelf.iter().map(|shelf| shelf.get_ref().name.as_str());
            let all = names().collect::<Vec<_>>().join(", ");
            let none = if all.is_empty() { "none was added".to_owned() } else { format!("there are {all}") };
            let advice = did_you_mean(name, names(), none);
            return Err(Failure::new(
                Exit::Usage,
                format!("no shelf that was added is called {name:?}; {advice}"),
            ));
        }
        Self::edit(|document| {
            if let Some(shelves) = document.get_mut("shelf").and_then(Item::as_array_of_tables_mut) {
                shelves.retain(|shelf| shelf.get("name").and_then(Item::as_str) != Some(name));
            }
        })
    }

    /// Changes the file. Nothing is written where the result cannot be read.
    fn edit(change: impl FnOnce(&mut DocumentMut)) -> Result<(), Failure> {
        let path = Self::path().ok_or_else(|| failed("there is no home directory"))?;
        let text = stored(&path)?;
        // A mistake that is there already is reported with its line.
        Self::parse(&text, path.clone())?;
        let mut document: DocumentMut =
            text.parse().map_err(|error: toml_edit::TomlError| failed(error.message()))?;
        change(&mut document);
        let text = document.to_string();
        Self::parse(&text, path.clone())?;
        write_whole(&path, text.as_bytes()).map_err(|error| failed(&format!("{}: {error}", path.display())))
    }

    /// Returns the path of the file; `None` without a home directory.
    pub fn path() -> Option<PathBuf> {
        use etcetera::BaseStrategy;
        let places = etcetera::base_strategy::Xdg::new().ok()?;
        Some(places.config_dir().join("tinmold/config.toml"))
    }
}

/// Reads the file; a missing one is empty.
pub(super) fn stored(path: &Path) -> Result<String, Failure> {
    tracing::debug!(path = %path.display(), "read");
    match fs::read_to_string(path) {
        Ok(text) => Ok(text),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(String::new()),
        Err(error) => Err(Failure::new(Exit::Failed, format!("cannot read {}: {error}", path.display()))),
    }
}

fn failed(reason: &str) -> Failure {
    Failure::new(Exit::Failed, format!("the configuration cannot be changed: {reason}"))
}
