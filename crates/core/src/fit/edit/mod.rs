//! Edits of structured files: JSON, TOML and YAML, with everything untouched as it was.
//!
//! `data` is what a file says, whatever its format: it finds what an edit changes, and what is in its way. `json`, `toml` and
//! `yaml` then make one step at a time in the text. What comes out is read again and must say what was meant; else the file is
//! left to a person.

mod data;
mod json;
mod toml;
mod yaml;

use data::Step;
pub use data::{Clash, Data, Wanted};

use super::OnClash;
use super::text::Text;
use crate::formats::{self, Holds};
use tinmold_notation::Position;

/// What became of an edit.
#[derive(Clone, Debug, PartialEq)]
pub enum Edited {
    /// The file with it; and what was in the way of it.
    Changed(String, Vec<Clash>),
    /// The file says so already.
    Same,
    /// Other values are in the way, and the file stays as it is.
    Clashes(Vec<Clash>),
    /// The file cannot be edited; why, in a clause.
    Beyond(String),
}

/// Edits the text of a file.
#[must_use]
pub fn edit(holds: Holds, text: &str, wanted: &Wanted, on_clash: OnClash) -> Edited {
    let file = Text::new(text);
    let mut plain = file.plain();
    if let Err(wrong) = formats::check(holds, plain.as_bytes()) {
        let place = Position::of(&plain, wrong.at);
        let (line, column) = (place.line, place.column);
        return Edited::Beyond(format!(
            "it is not {}: {} at line {line}, column {column}",
            wrong.format, wrong.reason
        ));
    }
    let mut data = match read(holds, &plain) {
        Ok(data) => data,
        Err(reason) => return Edited::Beyond(reason),
    };
    let (steps, clashes) = wanted.steps(&data, on_clash == OnClash::Replace);
    if !clashes.is_empty() && (on_clash == OnClash::Ask || steps.is_empty()) {
        return Edited::Clashes(clashes);
    }
    if steps.is_empty() {
        return Edited::Same;
    }
    for step in &steps {
        let made = match holds {
            Holds::Json | Holds::Jsonc => json::made(&plain, step),
            Holds::Toml => toml::made(&plain, step),
            Holds::Yaml => yaml::made(&plain, step),
            Holds::Xml | Holds::Text => Err("it is neither JSON nor TOML nor YAML".to_owned()),
        };
        data.make(step);
        plain = match made {
            Ok(made) => made,
            Err(reason) => return Edited::Beyond(reason),
        };
        if read(holds, &plain).as_ref() != Ok(&data) {
            return Edited::Beyond("it is written in a way that this program cannot edit safely".into());
        }
    }
    Edited::Changed(file.with_plain(&plain), clashes)
}

/// What a text says.
fn read(holds: Holds, text: &str) -> Result<Data, String> {
    match holds {
        Holds::Json | Holds::Jsonc => json::read(text),
        Holds::Toml => toml::read(text),
        Holds::Yaml => yaml::read(text),
        Holds::Xml | Holds::Text => Err("only JSON, TOML and YAML are edited".into()),
    }
}

/// Where a key goes among others: in order if they are in order, else behind them.
fn place_of(keys: &[&str], new: &str) -> usize {
    if keys.len() > 1 && keys.is_sorted() { keys.partition_point(|key| *key < new) } else { keys.len() }
}
