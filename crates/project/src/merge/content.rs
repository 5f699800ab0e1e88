//! Merging by what a structured file holds: tables by their keys, some lists as sets, the others by name or position.

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
            (Some(Data::List(before)), Some(Data::List(mine)), Some(Data::List(theirs)))
                if base.is_some_and(|base| *base != Data::List(mine.clone())) =>
            {
                self.list(path, before, mine, theirs);
            }
            _ if base == mine => self.take(path, mine, theirs),
            _ => self.disagree(path, [base, mine, theirs].map(|side| side.cloned())),
        }
    }

    /// Merges a list whose order counts: its elements by their names where they have some, else by position.
    fn list(&mut self, path: &[String], base: &[Data], mine: &[Data], theirs: &[Data]) {
        let all = [base, mine, theirs];
        let by = NAMES.into_iter().find(|name| all.into_iter().all(|list| is_named(list, name)));
        if let Some(name) = by {
            return self.named(path, name, base, mine, theirs);
        }
        if base.len() == mine.len() && mine.len() == theirs.len() {
            return (0..mine.len()).for_each(|at| self.element(path, at, &base[at], &mine[at], &theirs[at]));
        }
        self.disagree(path, all.map(|list| Some(Data::List(list.to_vec()))));
    }

    /// Merges an element of a list with what it was and is in the others.
    fn element(&mut self, path: &[String], at: usize, base: &Data, mine: &Data, theirs: &Data) {
        let own = [path, &[at.to_string()]].concat();
        match (base, mine, theirs) {
            (Data::Table(_), Data::Table(_), Data::Table(_)) => {
                self.value(&own, Some(base), Some(mine), Some(theirs));
            }
            _ if base == theirs || mine == theirs => {}
            _ if base == mine => self.ops.push(EditOp::ReplaceElement(path.to_vec(), at, theirs.clone())),
            _ => self.disagree(&own, [base, mine, theirs].map(|one| Some(one.clone()))),
        }
    }

    /// Merges lists of tables by their names.
    fn named(&mut self, path: &[String], name: &str, base: &[Data], mine: &[Data], theirs: &[Data]) {
        let of = |list: &'_ [Data], wanted: &Data| -> Option<Data> {
            list.iter().find(|element| name_of(element, name) == name_of(wanted, name)).cloned()
        };
        let mut gone = Vec::new();
        for (at, element) in mine.iter().enumerate() {
            match (of(base, element), of(theirs, element)) {
                (_, None) if of(base, element).is_none() => {}
                (Some(was), None) if was == *element => gone.push(EditOp::RemoveElement(path.to_vec(), at)),
                (was, None) => self.disagree(path, [was, Some(element.clone()), None]),
                (Some(was), Some(now)) => self.element(path, at, &was, element, &now),
                (None, Some(now)) if now == *element => {}
                (None, Some(now)) => self.disagree(path, [None, Some(element.clone()), Some(now)]),
            }
        }
        self.ops.extend(gone.into_iter().rev());
        self.added(path, base, mine, theirs, &of);
    }

    /// Adds what the mold added; what the owner removed and the mold changed is a disagreement. `of` returns the element of a
    /// list that is about the same as another one.
    fn added(
        &mut self,
        path: &[String],
        base: &[Data],
        mine: &[Data],
        theirs: &[Data],
        of: &dyn Fn(&[Data], &Data) -> Option<Data>,
    ) {
        for element in theirs.iter().filter(|element| of(mine, element).is_none()) {
            match of(base, element) {
                None => self.ops.push(EditOp::Append(path.to_vec(), element.clone())),
                Some(was) if was == *element => {}
                was => self.disagree(path, [was, None, Some(element.clone())]),
            }
        }
    }

    fn disagree(&mut self, path: &[String], [base, mine, theirs]: [Option<Data>; 3]) {
        self.disagreements.push(Disagreement { path: path.to_vec(), base, mine, theirs });
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

    /// Merges a list whose order says nothing: what is required of one thing is one element, whatever version it names.
    fn set(&mut self, path: &[String], base: Option<&Data>, mine: &[Data], theirs: &[Data]) {
        let base = match base {
            Some(Data::List(base)) => base.as_slice(),
            _ => &[],
        };
        let sides = [base, mine, theirs];
        let by: fn(&Data) -> Option<String> = match sides.into_iter().all(|side| is_told_apart(side, thing)) {
            true => thing,
            false => whole,
        };
        let of = |list: &'_ [Data], wanted: &Data| -> Option<Data> {
            list.iter().find(|element| by(element) == by(wanted)).cloned()
        };
        let mut gone = Vec::new();
        for (at, element) in mine.iter().enumerate() {
            match (of(base, element), of(theirs, element)) {
                (None, None) => {}
                (was, Some(now)) if now == *element || was.as_ref() == Some(&now) => {}
                (Some(was), now) if was == *element => match now {
                    Some(now) => self.ops.push(EditOp::ReplaceElement(path.to_vec(), at, now)),
                    None => gone.push(EditOp::RemoveElement(path.to_vec(), at)),
                },
                (was, now) => self.disagree(path, [was, Some(element.clone()), now]),
            }
        }
        self.ops.extend(gone.into_iter().rev());
        self.added(path, base, mine, theirs, &of);
    }
}

/// Returns what an element is as a whole.
fn whole(element: &Data) -> Option<String> {
    match element {
        Data::Text(text) => Some(text.clone()),
        _ => None,
    }
}

/// Returns what a requirement is about, without the version: the name before a sign of PEP 508. Any other text is about
/// itself.
fn thing(element: &Data) -> Option<String> {
    let Data::Text(text) = element else { return None };
    let is_name = |c: char| c.is_ascii_alphanumeric() || "._-/".contains(c);
    let (name, rest) = text.split_at(text.find(|c| !is_name(c)).unwrap_or(text.len()));
    let is_requirement =
        !name.is_empty() && rest.trim_start().starts_with(['<', '>', '=', '!', '~', '@', ';', '[']);
    Some(if is_requirement { name.to_lowercase().replace(['_', '.'], "-") } else { text.clone() })
}

/// Whether no two elements of a list are about the same.
fn is_told_apart(list: &[Data], by: fn(&Data) -> Option<String>) -> bool {
    list.iter().enumerate().all(|(at, element)| !list[..at].iter().any(|other| by(other) == by(element)))
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

/// The keys by which the tables of a list are told apart, the first that all have.
const NAMES: [&str; 2] = ["name", "id"];

/// Returns what tells a table of a list from the others.
fn name_of<'d>(element: &'d Data, name: &str) -> Option<&'d Data> {
    element.at(&[name.to_owned()]).filter(|name| matches!(name, Data::Text(_) | Data::Integer(_)))
}

/// Whether every element of a list is a table with a name of its own.
fn is_named(list: &[Data], name: &str) -> bool {
    let mut names = list.iter().enumerate().map(|(at, element)| (at, name_of(element, name)));
    names.all(|(at, own)| own.is_some() && !list[..at].iter().any(|other| name_of(other, name) == own))
}
