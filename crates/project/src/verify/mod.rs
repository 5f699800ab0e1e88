//! Verification of a plan: every path stays inside the destination, on every system, and no two
//! collide.

mod collisions;

use collisions::Folded;
pub use collisions::LinkError;

use crate::plan::{Entry, EntryKind, Plan};
use std::ops::Deref;
use tinmold_mold::codes;
use tinmold_notation::{Finding, Span};
use tinmold_platform::paths::{PathError, portable_path};

/// A plan that passed verification.
#[derive(Debug)]
pub struct VerifiedPlan<'m>(Plan<'m>);

impl<'m> Deref for VerifiedPlan<'m> {
    type Target = Plan<'m>;

    fn deref(&self) -> &Plan<'m> {
        &self.0
    }
}

/// An entry that may not be written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Unsafe {
    /// The path in the destination.
    pub path: String,
    /// The path in the mold.
    pub source: String,
    /// Why not.
    pub reason: UnsafeReason,
}

/// Why an entry may not be written. Displayed as a clause that follows the path.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum UnsafeReason {
    /// The path is not portable, or leads out of the destination.
    #[error(transparent)]
    Path(#[from] PathError),
    /// The link leads out of the destination.
    #[error(transparent)]
    Link(#[from] LinkError),
    /// The directory would be a repository for git, with settings that name programs.
    #[error("makes its directory a git repository")]
    Repository,
    /// Another entry has the path on some systems.
    #[error("meets {0} on systems that do not tell them apart")]
    Meets(String),
}

/// Why a plan may not be carried out.
#[derive(Debug, thiserror::Error)]
pub enum VerifyError {
    /// Entries that are not safe.
    #[error("refused for safety")]
    Unsafe(Vec<Unsafe>),
    /// Mistakes of the mold that only the plan shows.
    #[error("the mold has mistakes")]
    Faulty(Vec<Finding>),
}

impl<'m> Plan<'m> {
    /// Looks the plan over.
    ///
    /// # Errors
    /// Every unsafe entry, with the reason; else more bytes than the limits allow.
    pub fn verify(self) -> Result<VerifiedPlan<'m>, VerifyError> {
        let mut found = Vec::new();
        let refuse = |entry: &Entry<'_>, reason: UnsafeReason| Unsafe {
            path: entry.path.to_string(),
            source: self.mold.path_of(self.body(entry)).to_owned(),
            reason,
        };
        let folded = Folded::new(&self.entries);
        let links = folded.links();
        for entry in &self.entries {
            found.extend(portable_path(&entry.path).err().map(|error| refuse(entry, error.into())));
            if let EntryKind::Link(target) = &entry.kind
                && let Err(error) = links.check(&entry.path, target)
            {
                found.push(refuse(entry, error.into()));
            }
        }
        for (entry, other) in folded.collisions() {
            found.push(refuse(entry, UnsafeReason::Meets(other.path.to_string())));
        }
        for entry in folded.repositories() {
            found.push(refuse(entry, UnsafeReason::Repository));
        }
        if !found.is_empty() {
            return Err(VerifyError::Unsafe(found));
        }
        match self.too_many_bytes() {
            None => Ok(VerifiedPlan(self)),
            Some(finding) => Err(VerifyError::Faulty(vec![finding])),
        }
    }

    /// Copied bytes are counted before a write, rendered bytes during it.
    fn too_many_bytes(&self) -> Option<Finding> {
        let mut total = 0_u64;
        for entry in self.entries.iter().filter(|entry| entry.kind == EntryKind::Copy) {
            let file = self.body(entry);
            total = total.saturating_add(self.mold.package.files[file.file].len());
            if total > self.limits.bytes {
                return Some(Finding::new(
                    self.mold.path_of(file),
                    Span::default(),
                    codes::TOO_MANY_BYTES,
                    format!("the mold copies more than {} bytes", self.limits.bytes),
                    "the limit is `bytes` of [limits] in the configuration",
                ));
            }
        }
        None
    }
}
