//! Edits of structured files: JSON, TOML and YAML, with everything untouched as it was.
//!
//! `data` holds the data of a file, whatever its format, and finds what an edit changes and what
//! conflicts. `json`, `toml` and `yaml` apply one operation at a time to the text. The result is
//! parsed again and must equal the wanted data; else the file is left to the user.

mod data;
mod error;
mod json;
mod lines;
mod toml;
mod yaml;

pub(crate) use data::EditOp;
pub use data::{Clash, Data, EditRequest};
pub use error::EditError;

use super::clash::OnClash;
use super::text::Text;
use tinmold_mold::{Holds, formats};
use tinmold_notation::Position;

/// The result of an edit.
#[derive(Clone, Debug, PartialEq)]
pub enum Edited {
    /// The file with it; and what was in the way of it.
    Changed(String, Vec<Clash>),
    /// The file holds it already.
    Same,
    /// Other values are in the way, and the file stays as it is.
    Clashes(Vec<Clash>),
    /// The file cannot be edited.
    NotEditable(EditError),
}

/// Edits the text of a file.
#[must_use]
pub fn edit(holds: Holds, text: &str, request: &EditRequest, on_clash: OnClash) -> Edited {
    let file = Text::new(text);
    let plain = file.plain();
    if let Err(wrong) = formats::check(holds, plain.as_bytes()) {
        let place = Position::of(&plain, wrong.at);
        return Edited::NotEditable(EditError::Malformed {
            format: wrong.format,
            reason: wrong.reason,
            line: place.line,
            column: place.column,
        });
    }
    let mut data = match read(holds, &plain) {
        Ok(data) => data,
        Err(reason) => return Edited::NotEditable(reason),
    };
    let (ops, clashes) = request.ops(&data, on_clash == OnClash::Replace);
    if !clashes.is_empty() && (on_clash == OnClash::Ask || ops.is_empty()) {
        return Edited::Clashes(clashes);
    }
    if ops.is_empty() {
        return Edited::Same;
    }
    match apply(holds, plain, &mut data, &ops) {
        Ok(made) => Edited::Changed(file.with_plain(&made), clashes),
        Err(reason) => Edited::NotEditable(reason),
    }
}

/// Applies operations to a text and to its data; after each, the text must read as the data.
pub(crate) fn apply(
    holds: Holds,
    mut plain: String,
    data: &mut Data,
    ops: &[EditOp],
) -> Result<String, EditError> {
    for op in ops {
        plain = match holds {
            Holds::Json | Holds::Jsonc => json::apply(&plain, op),
            Holds::Toml => toml::apply(&plain, op),
            Holds::Yaml => yaml::apply(&plain, op),
            Holds::Xml | Holds::Text => Err(EditError::Format),
        }?;
        data.make(op);
        if !read(holds, &plain).is_ok_and(|read| read == *data) {
            return Err(EditError::Style);
        }
    }
    Ok(plain)
}

/// Parses a text.
pub(crate) fn read(holds: Holds, text: &str) -> Result<Data, EditError> {
    match holds {
        Holds::Json | Holds::Jsonc => json::read(text),
        Holds::Toml => toml::read(text),
        Holds::Yaml => yaml::read(text),
        Holds::Xml | Holds::Text => Err(EditError::Format),
    }
}

/// Returns the position of a new key: in order if the keys are sorted, else at the end.
fn insert_position(keys: &[&str], new: &str) -> usize {
    if keys.len() > 1 && keys.is_sorted() { keys.partition_point(|key| *key < new) } else { keys.len() }
}
