//! The data of a structured file, whatever its format, and the changes to it.

use regex::Regex;
use std::fmt;

/// A value of a structured file.
#[derive(Clone, Debug)]
pub enum Data {
    /// Nothing.
    Null,
    /// Yes or no.
    Flag(bool),
    /// A whole number.
    Integer(i64),
    /// Another number.
    Float(f64),
    /// A text.
    Text(String),
    /// A list.
    List(Vec<Self>),
    /// Keys and what they hold.
    Table(Vec<(String, Self)>),
}

impl PartialEq for Data {
    /// Tables are alike whatever the order of their keys.
    fn eq(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Null, Self::Null) => true,
            (Self::Flag(a), Self::Flag(b)) => a == b,
            (Self::Integer(a), Self::Integer(b)) => a == b,
            (Self::Float(a), Self::Float(b)) => a == b || (a.is_nan() && b.is_nan()),
            (Self::Text(a), Self::Text(b)) => a == b,
            (Self::List(a), Self::List(b)) => a == b,
            (Self::Table(a), Self::Table(b)) => {
                a.len() == b.len() && a.iter().all(|(key, value)| find(b, key) == Some(value))
            }
            _ => false,
        }
    }
}

impl fmt::Display for Data {
    /// As JSON.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let text = |f: &mut fmt::Formatter<'_>, text: &str| {
            f.write_str(&serde_json::to_string(text).unwrap_or_default())
        };
        match self {
            Self::Null => f.write_str("null"),
            Self::Flag(flag) => write!(f, "{flag}"),
            Self::Integer(number) => write!(f, "{number}"),
            // A number with a fraction is one again when it is read.
            Self::Float(number) => write!(f, "{number:?}"),
            Self::Text(value) => text(f, value),
            Self::List(values) => {
                f.write_str("[")?;
                for (at, value) in values.iter().enumerate() {
                    write!(f, "{}{value}", if at > 0 { ", " } else { "" })?;
                }
                f.write_str("]")
            }
            Self::Table(entries) if entries.is_empty() => f.write_str("{}"),
            Self::Table(entries) => {
                for (at, (key, value)) in entries.iter().enumerate() {
                    f.write_str(if at > 0 { ", " } else { "{ " })?;
                    text(f, key)?;
                    write!(f, ": {value}")?;
                }
                f.write_str(" }")
            }
        }
    }
}

fn find<'a>(entries: &'a [(String, Data)], key: &str) -> Option<&'a Data> {
    entries.iter().find(|(own, _)| own == key).map(|(_, value)| value)
}

impl From<serde_json::Value> for Data {
    fn from(value: serde_json::Value) -> Self {
        use serde_json::Value as Json;
        match value {
            Json::Null => Self::Null,
            Json::Bool(flag) => Self::Flag(flag),
            Json::Number(number) => match number.as_i64() {
                Some(number) => Self::Integer(number),
                None => Self::Float(number.as_f64().unwrap_or(f64::NAN)),
            },
            Json::String(text) => Self::Text(text),
            Json::Array(values) => Self::List(values.into_iter().map(Self::from).collect()),
            Json::Object(entries) => {
                Self::Table(entries.into_iter().map(|(key, value)| (key, Self::from(value))).collect())
            }
        }
    }
}

/// One change of a value. A path leads through the tables from the top, and through lists by the numbers of elements.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum EditOp {
    /// Inserts a key into the table at the path.
    Insert(Vec<String>, String, Data),
    /// Replaces the value at the path.
    Replace(Vec<String>, Data),
    /// The list at the path gets an element behind its others.
    Append(Vec<String>, Data),
    /// An element of the list at the path becomes something else.
    ReplaceElement(Vec<String>, usize, Data),
    /// Removes a key from the table at the path.
    RemoveKey(Vec<String>, String),
    /// Removes an element from the list at the path.
    RemoveElement(Vec<String>, usize),
}

/// A value that is in the way of an edit.
#[derive(Clone, Debug, PartialEq)]
pub struct Clash {
    /// The path in the file, its keys separated by dots.
    pub place: String,
    /// The value in the file.
    pub there: Data,
    /// The value of the edit.
    pub wanted: Data,
}

/// The changes to a file.
#[derive(Clone, Debug, Default)]
pub struct EditRequest {
    /// Keys and their values; tables are merged.
    pub set: Vec<(String, Data)>,
    /// Lists at keys, and the elements to add.
    pub add: Vec<(String, Data)>,
    /// Keys of tables and texts of lists to remove; `true` removes the key itself.
    pub remove: Vec<(String, Data)>,
    /// The part that two texts of a list share if they mean the same thing.
    pub same: Option<Regex>,
}

impl EditRequest {
    /// Returns the operations that turn `data` into the wanted data, and the conflicting values;
    /// with `replace` the operations replace those.
    pub(super) fn ops(&self, data: &Data, replace: bool) -> (Vec<EditOp>, Vec<Clash>) {
        let mut planner = Planner {
            data: data.clone(),
            ops: Vec::new(),
            clashes: Vec::new(),
            replace,
            same: self.same.as_ref(),
        };
        planner.set(&[], &self.set);
        planner.add(&[], &self.add);
        planner.remove(&[], &self.remove);
        (planner.ops, planner.clashes)
    }

    /// Returns the edit as lines for the user to apply by hand.
    #[must_use]
    pub fn lines(&self) -> Vec<String> {
        let line = |what: &str, entries: &[(String, Data)]| {
            (!entries.is_empty()).then(|| format!("{what} {}", Data::Table(entries.to_vec())))
        };
        [line("set", &self.set), line("add", &self.add), line("remove", &self.remove)]
            .into_iter()
            .flatten()
            .collect()
    }
}

struct Planner<'a> {
    data: Data,
    ops: Vec<EditOp>,
    clashes: Vec<Clash>,
    replace: bool,
    same: Option<&'a Regex>,
}

impl Planner<'_> {
    fn push(&mut self, op: EditOp) {
        self.data.make(&op);
        self.ops.push(op);
    }

    fn at(&self, path: &[String]) -> Option<Data> {
        self.data.at(path).cloned()
    }

    /// Something else is in the way: true if it is to be replaced.
    fn clash(&mut self, path: &[String], there: Data, wanted: &Data) -> bool {
        self.clashes.push(Clash { place: path.join("."), there, wanted: wanted.clone() });
        self.replace
    }

    fn set(&mut self, path: &[String], entries: &[(String, Data)]) {
        for (key, wanted) in entries {
            let deeper = [path, std::slice::from_ref(key)].concat();
            match (self.at(&deeper), wanted) {
                (None, _) => self.push(EditOp::Insert(path.to_vec(), key.clone(), wanted.clone())),
                (Some(Data::Table(_)), Data::Table(entries)) => self.set(&deeper, entries),
                (Some(there), _) if there == *wanted => {}
                (Some(there), _) => {
                    let is_nothing = there == Data::Null;
                    if is_nothing || self.clash(&deeper, there, wanted) {
                        self.push(EditOp::Replace(deeper, wanted.clone()));
                    }
                }
            }
        }
    }

    fn add(&mut self, path: &[String], entries: &[(String, Data)]) {
        for (key, wanted) in entries {
            let deeper = [path, std::slice::from_ref(key)].concat();
            match (self.at(&deeper), wanted) {
                (None, _) => self.push(EditOp::Insert(path.to_vec(), key.clone(), wanted.clone())),
                (Some(Data::Null), _) => self.push(EditOp::Replace(deeper, wanted.clone())),
                (Some(Data::Table(_)), Data::Table(entries)) => self.add(&deeper, entries),
                (Some(Data::List(_)), Data::List(elements)) => {
                    elements.iter().for_each(|element| self.add_element(&deeper, element));
                }
                (Some(there), _) => {
                    if self.clash(&deeper, there, wanted) {
                        self.push(EditOp::Replace(deeper, wanted.clone()));
                    }
                }
            }
        }
    }

    fn add_element(&mut self, path: &[String], wanted: &Data) {
        let Some(Data::List(elements)) = self.at(path) else { return };
        if elements.contains(wanted) {
            return;
        }
        let thing = self.thing(wanted);
        let other = elements.iter().position(|element| thing.is_some() && self.thing(element) == thing);
        match other {
            None => self.push(EditOp::Append(path.to_vec(), wanted.clone())),
            Some(at) => {
                if self.clash(path, elements[at].clone(), wanted) {
                    self.push(EditOp::ReplaceElement(path.to_vec(), at, wanted.clone()));
                }
            }
        }
    }

    /// Returns the part of a text that `same` matches, without regard to case and to `-`, `_` and
    /// `.`.
    fn thing(&self, data: &Data) -> Option<String> {
        let Data::Text(text) = data else { return None };
        let found = self.same?.find(text)?.as_str();
        Some(found.to_lowercase().replace(['_', '.'], "-"))
    }

    fn remove(&mut self, path: &[String], entries: &[(String, Data)]) {
        for (key, wanted) in entries {
            let deeper = [path, std::slice::from_ref(key)].concat();
            let names: Vec<&str> = match wanted {
                // The key itself goes.
                Data::Flag(true) => {
                    if self.at(&deeper).is_some() {
                        self.push(EditOp::RemoveKey(path.to_vec(), key.clone()));
                    }
                    continue;
                }
                Data::Table(entries) => {
                    self.remove(&deeper, entries);
                    continue;
                }
                Data::Text(name) => vec![name],
                Data::List(names) => names
                    .iter()
                    .filter_map(|name| if let Data::Text(n) = name { Some(n.as_str()) } else { None })
                    .collect(),
                _ => continue,
            };
            for name in names {
                match self.at(&deeper) {
                    Some(Data::Table(entries)) if find(&entries, name).is_some() => {
                        self.push(EditOp::RemoveKey(deeper.clone(), name.to_owned()));
                    }
                    Some(Data::List(elements)) => {
                        let text = Data::Text(name.to_owned());
                        if let Some(at) = elements.iter().position(|element| *element == text) {
                            self.push(EditOp::RemoveElement(deeper.clone(), at));
                        }
                    }
                    _ => {}
                }
            }
        }
    }
}

impl Data {
    /// Returns the value at the end of a path through tables, and through lists by the numbers of elements.
    pub(crate) fn at(&self, path: &[String]) -> Option<&Self> {
        path.iter().try_fold(self, |data, key| match data {
            Self::Table(entries) => find(entries, key),
            Self::List(elements) => elements.get(key.parse::<usize>().ok()?),
            _ => None,
        })
    }

    fn at_mut(&mut self, path: &[String]) -> Option<&mut Self> {
        path.iter().try_fold(self, |data, key| match data {
            Self::Table(entries) => entries.iter_mut().find(|(own, _)| own == key).map(|(_, value)| value),
            Self::List(elements) => elements.get_mut(key.parse::<usize>().ok()?),
            _ => None,
        })
    }

    /// Makes a step; one that leads nowhere changes nothing.
    pub(super) fn make(&mut self, step: &EditOp) {
        let (EditOp::Insert(path, ..)
        | EditOp::Replace(path, _)
        | EditOp::Append(path, _)
        | EditOp::ReplaceElement(path, ..)
        | EditOp::RemoveKey(path, _)
        | EditOp::RemoveElement(path, _)) = step;
        let Some(target) = self.at_mut(path) else { return };
        match (step, target) {
            (EditOp::Insert(_, key, value), Self::Table(entries)) => {
                entries.push((key.clone(), value.clone()));
            }
            (EditOp::Replace(_, value), target) => *target = value.clone(),
            (EditOp::Append(_, value), Self::List(elements)) => elements.push(value.clone()),
            (EditOp::ReplaceElement(_, at, value), Self::List(elements)) => {
                if let Some(element) = elements.get_mut(*at) {
                    *element = value.clone();
                }
            }
            (EditOp::RemoveKey(_, key), Self::Table(entries)) => entries.retain(|(own, _)| own != key),
            (EditOp::RemoveElement(_, at), Self::List(elements)) if *at < elements.len() => {
                elements.remove(*at);
            }
            _ => {}
        }
    }
}
