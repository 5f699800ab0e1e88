//! One thing that is to be written.

use std::borrow::Cow;
use tinmold_notation::Value;

/// Something to write.
#[derive(Clone, Debug, PartialEq)]
pub struct Entry<'m> {
    /// Its path in the casting, with `/` between the parts: the mold's own, where no tag is in it.
    pub path: Cow<'m, str>,
    /// What it is.
    pub kind: EntryKind<'m>,
    /// Its place among the mold's body files.
    pub body: usize,
    /// The element that it is made for, where there is one file for each.
    pub element: Option<Box<Value>>,
}

/// What an entry is.
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
