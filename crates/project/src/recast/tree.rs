//! The files of a project as a mold makes them.

use crate::plan::{EntryKind, PlanError, Rendered};
use crate::record::Recorded;
use crate::verify::VerifiedPlan;
use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;
use tinmold_mold::{File, Owner, PackageError};
use tinmold_platform::digest::{Digest, digest_of};

/// What identifies the content of a file or link.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Print {
    /// A file of this digest.
    File(Digest),
    /// A symbolic link to this target.
    Link(String),
}

/// The content of a file or link that a mold makes.
#[derive(Clone, Debug)]
pub(super) enum Content<'m> {
    /// These bytes, which may be those of another version too.
    Bytes(Arc<[u8]>),
    /// Those of a file of the mold.
    Copied(&'m File),
    /// A link to this target.
    Link(String),
}

impl Content<'_> {
    /// Returns the bytes; none of a link.
    pub(super) fn bytes(&self) -> Result<Option<Cow<'_, [u8]>>, PackageError> {
        match self {
            Self::Bytes(bytes) => Ok(Some(Cow::Borrowed(bytes))),
            Self::Copied(file) => file.read().map(Some),
            Self::Link(_) => Ok(None),
        }
    }
}

/// What a file is made from: the same in every version of a mold, whatever it is called in the project.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) struct Source {
    /// The recorded part that makes it.
    pub(super) part: Option<usize>,
    /// The path in the body, with its tags.
    pub(super) body: String,
    /// The element of a list that it is made for.
    pub(super) element: Option<String>,
}

/// A file or link that a mold makes.
#[derive(Clone, Debug)]
pub(super) struct Node<'m> {
    pub(super) content: Content<'m>,
    pub(super) print: Print,
    pub(super) mode: u32,
    /// True for a file of one machine only.
    pub(super) is_local: bool,
    /// True for a file that is the owner's once it is written.
    pub(super) is_yours: bool,
    pub(super) source: Source,
    /// The paths in the body that it had in earlier versions.
    pub(super) earlier: Vec<String>,
    /// What it was before parts changed it.
    pub(super) stages: Vec<Print>,
}

/// The files of a project as a mold makes them, by path.
#[derive(Debug, Default)]
pub(super) struct Tree<'m> {
    pub(super) nodes: BTreeMap<String, Node<'m>>,
    /// Folders with nothing in them.
    pub(super) folders: BTreeSet<String>,
}

impl<'m> Tree<'m> {
    /// Renders a plan; `part` is the number of the recorded part that it is of. What is the same in `other` is not hashed
    /// again.
    ///
    /// # Errors
    /// Every mistake that rendering meets.
    pub(super) fn of(
        plan: &VerifiedPlan<'m>,
        part: Option<usize>,
        other: Option<&Tree<'m>>,
    ) -> Result<Self, PlanError> {
        let nodes = plan.map_rendered(|entry, rendered, bytes| {
            let body = plan.body(entry);
            let file = &plan.mold.package.files[body.file];
            let (content, print) = match (entry.kind, rendered) {
                (EntryKind::Folder, _) => return Ok(None),
                (EntryKind::Link(target), _) => {
                    (Content::Link(target.to_owned()), Print::Link(target.to_owned()))
                }
                (_, Rendered::Bytes) => match other.and_then(|other| other.same(&entry.path, bytes)) {
                    Some((content, print)) => (Content::Bytes(content), print),
                    None => (Content::Bytes(bytes.into()), Print::File(digest_of(bytes))),
                },
                (_, Rendered::AsIs) => (Content::Copied(file), Print::File(file.digest()?)),
            };
            let path = plan.mold.path_in_body(body);
            Ok(Some(Node {
                content,
                print,
                mode: plan.mode(entry),
                is_local: body.local,
                is_yours: body.owner == Owner::You,
                source: Source {
                    part,
                    body: path.to_owned(),
                    element: entry.element.as_ref().map(|element| format!("{element:?}")),
                },
                earlier: body.was.iter().flat_map(|was| was.of(path)).collect(),
                stages: Vec::new(),
            }))
        })?;
        let mut tree = Self::default();
        for (entry, node) in plan.entries.iter().zip(nodes) {
            match node {
                Some(node) => drop(tree.nodes.insert(entry.path.to_string(), node)),
                None => drop(tree.folders.insert(entry.path.to_string())),
            }
        }
        Ok(tree)
    }

    /// Returns the content of a path, and what identifies it, if it is these bytes.
    fn same(&self, path: &str, bytes: &[u8]) -> Option<(Arc<[u8]>, Print)> {
        let node = self.nodes.get(path)?;
        match &node.content {
            Content::Bytes(content) if **content == *bytes => Some((Arc::clone(content), node.print.clone())),
            _ => None,
        }
    }
}

impl Node<'_> {
    /// Returns true if this is what a recorded file was made as, before or after parts changed it.
    pub(super) fn was(&self, print: &Print) -> bool {
        self.print == *print || self.stages.contains(print)
    }

    /// Returns the text, if it is one of at most so many bytes.
    pub(super) fn text(&self, most: u64) -> Result<Option<String>, PackageError> {
        let bytes = self.content.bytes()?.filter(|bytes| bytes.len() as u64 <= most);
        Ok(bytes.and_then(|bytes| String::from_utf8(bytes.into_owned()).ok()))
    }

    pub(super) fn is_executable(&self) -> bool {
        self.mode & 0o100 != 0
    }
}

/// Returns every file and link of a record, by path.
pub(super) fn recorded_prints(recorded: &Recorded) -> BTreeMap<String, Print> {
    let files = recorded.digests.iter().map(|(path, digest)| (path.clone(), Print::File(*digest)));
    let links = recorded.casting.links.iter();
    let links = links.map(|(path, target)| (path.clone(), Print::Link(target.clone())));
    files.chain(links).collect()
}
