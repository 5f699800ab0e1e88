//! An entry of a plan: a file, directory or link to write.

use std::borrow::Cow;
use tinmold_notation::Value;

/// Something to write.
#[derive(Clone, Debug, PartialEq)]
pub struct Entry<'m> {
    /// Its path in the project, with `/` as separator; the mold's own path where it holds no tag.
    pub path: Cow<'m, str>,
    /// Its kind.
    pub kind: EntryKind<'m>,
    /// Its index among the mold's body files.
    pub body: usize,
    /// The element that it is made for, where there is one file for each.
    pub element: Option<Box<Value>>,
}

/// The kind of an entry.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum EntryKind<'m> {
    /// A folder with nothing in it.
    Folder,
    /// A file that is rendered, unless it turns out not to be UTF-8 text.
    Text,
    /// A file that is taken as it is.
    Copy,
    /// A symbolic link and what it points to.
    Link(&'m str),
}

/// A file of the body that is not written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LeftOut {
    /// Its path in the body.
    pub path: String,
    /// Why not, in a clause.
    pub reason: String,
}
