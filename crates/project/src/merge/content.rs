//! Merging by what a structured file holds: tables by their keys, and some lists as sets.

use crate::fit::edit::{Data, EditError, EditOp, apply, read};
use tinmold_mold::Holds;

/// A value that both sides changed, each in its own way. `None` is no value.
#[derive(Clone, Debug, PartialEq)]
pub struct Disagreement {
    /// The keys that lead to it, from the top.
    pub path: Vec<String>,
    /// The value before.
    pub base: Option<Data>,
    /// The owner's value.
    pub mine: Option<Data>,
    /// The mold's value.
    pub theirs: Option<Data>,
}

/// The keys whose lists are sets, in the manifests of the ecosystems: their order says nothing.
const SETS: [&str; 14] = [
    "allow-list",
    "build-requires",
    "categories",
    "classifiers",
    "dependencies",
    "dev",
    "exclude",
    "extras",
    "features",
    "files",
    "include",
    "keywords",
    "requires",
    "tags",
];

/// Applies to the owner's text what changed between two texts of the mold.
///
/// # Errors
/// [`EditError`] if a text cannot be read, or the owner's is written in a style that cannot be edited.
pub(super) fn merge(
    holds: Holds,
    base: &str,
    mine: &str,
    theirs: &str,
) -> Result<Result<String, Vec<Disagreement>>, EditError> {
    if [base, mine, theirs].into_iter().any(|text| is_beyond(holds, text)) {
        return Err(EditError::Style);
    }
    let [base, mut data, theirs] = [read(holds, base)?, read(holds, mine)?, read(holds, theirs)?];
    let mut planner = Planner { ops: Vec::new(), disagreements: Vec::new() };
    planner.value(&[], Some(&base), Some(&data), Some(&theirs));
    if !planner.disagreements.is_empty() {
        return Ok(Err(planner.disagreements));
    }
    apply(holds, mine.to_owned(), &mut data, &planner.ops).map(Ok)
}

/// Whether a text holds what its data does not: dates of TOML, anchors of YAML.
fn is_beyond(holds: Holds, text: &str) -> bool {
    fn has_date(value: &toml::Value) -> bool {
        match value {
            toml::Value::Datetime(_) => true,
            toml::Value::Array(values) => values.iter().any(has_date),
            toml::Value::Table(table) => table.values().any(has_date),
            _ => false,
        }
    }
    match holds {
        Holds::Toml => text.parse::<toml::Table>().is_ok_and(|table| table.values().any(has_date)),
        Holds::Yaml => text.split([' ', '\t', '\n', '[', '{', ',']).any(|word| {
            let mut signs = word.chars();
            matches!(signs.next(), Some('&' | '*')) && signs.next().is_some_and(char::is_alphanumeric)
        }),
        _ => false,
    }
}

struct Planner {
    ops: Vec<EditOp>,
    disagreements: Vec<Disagreement>,
}

impl Planner {
    /// Takes what the mold changed and the owner did not.
    fn value(&mut self, path: &[String], base: Option<&Data>, mine: Option<&Data>, theirs: Option<&Data>) {
        if base == theirs || mine == theirs {
            return;
        }
        match (base, mine, theirs) {
            (None | Some(Data::Table(_)), Some(Data::Table(_)), Some(Data::Table(entries))) => {
                let before = match base {
                    Some(Data::Table(before)) => before.as_slice(),
                    _ => &[],
                };
                // In the order of the mold, and then what it does not have any more.
                let gone = before.iter().filter(|(key, _)| !entries.iter().any(|(own, _)| own == key));
                for (key, _) in entries.iter().chain(gone) {
                    let key = std::slice::from_ref(key);
                    let [base, mine, theirs] = [base, mine, theirs].map(|side| side?.at(key));
                    self.value(&[path, key].concat(), base, mine, theirs);
                }
            }
            (_, Some(Data::List(mine)), Some(Data::List(theirs))) if is_set(path, base, mine, theirs) => {
                self.set(path, base, mine, theirs);
            }
            _ if base == mine => self.take(path, mine, theirs),
            _ => self.disagreements.push(Disagreement {
                path: path.to_vec(),
                base: base.cloned(),
                mine: mine.cloned(),
                theirs: theirs.cloned(),
            }),
        }
    }

    /// Takes a value of the mold instead of the owner's.
    fn take(&mut self, path: &[String], mine: Option<&Data>, theirs: Option<&Data>) {
        let Some((key, above)) = path.split_last() else { return };
        self.ops.extend(match (mine, theirs) {
            (None, Some(theirs)) => Some(EditOp::Insert(above.to_vec(), key.clone(), theirs.clone())),
            (Some(_), Some(theirs)) => Some(EditOp::Replace(path.to_vec(), theirs.clone())),
            (_, None) => Some(EditOp::RemoveKey(above.to_vec(), key.clone())),
        });
    }

    /// Adds to a list what the mold added, and removes what it removed.
    fn set(&mut self, path: &[String], base: Option<&Data>, mine: &[Data], theirs: &[Data]) {
        let base = match base {
            Some(Data::List(base)) => base.as_slice(),
            _ => &[],
        };
        let gone = |element: &Data| base.contains(element) && !theirs.contains(element);
        let removed = (0..mine.len()).rev().filter(|at| gone(&mine[*at]));
        self.ops.extend(removed.map(|at| EditOp::RemoveElement(path.to_vec(), at)));
        let is_new = |element: &&Data| !base.contains(element) && !mine.contains(element);
        let added = theirs.iter().filter(is_new);
        self.ops.extend(added.map(|element| EditOp::Append(path.to_vec(), element.clone())));
    }
}

/// Whether a list is a set: by its key, with every element of it plain and there once.
fn is_set(path: &[String], base: Option<&Data>, mine: &[Data], theirs: &[Data]) -> bool {
    let is_plain = |list: &[Data]| {
        let mut elements = list.iter().enumerate();
        elements.all(|(at, element)| matches!(element, Data::Text(_)) && !list[..at].contains(element))
    };
    let base = match base {
        Some(Data::List(base)) => base.as_slice(),
        None => &[],
        Some(_) => return false,
    };
    let is_named = path.iter().rev().take(2).any(|key| SETS.contains(&key.as_str()));
    is_named && [base, mine, theirs].into_iter().all(is_plain)
}
