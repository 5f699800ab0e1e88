//! Everything rendered and written below a folder of its own, where nobody looks yet.

use super::batch::{Progress, Tools, carry};
use super::target::write_file;
use super::{Observer, WriteError, whole};
use crate::digest::Digest;
use crate::near::Near;
use crate::parallel;
use crate::plan::{Entry, folder_of};
use crate::record::{CASTING, Casting, DIGESTS, FOLDER, Fitted};
use crate::shelf::{PackageDigest, PackageError};
use crate::verify::VerifiedPlan;
use std::borrow::Cow;
use std::fs::{self, File};
use std::path::Path;

/// An entry and the path where it goes.
pub(crate) struct Item<'p> {
    pub(crate) entry: &'p Entry<'p>,
    pub(crate) path: Cow<'p, str>,
}

/// What was staged.
pub(crate) struct Staged<'p> {
    pub(crate) bytes: u64,
    /// The digest of the mold.
    pub(super) mold: PackageDigest<'p>,
    digests: Vec<Vec<Option<Digest>>>,
    /// The list of digests of the items where they are, in pieces. What is for this machine only is not in it.
    pub(super) lists: Vec<Vec<u8>>,
}

impl Staged<'_> {
    /// In the order of the items: the digest of a file.
    pub(crate) fn digests(&self) -> impl Iterator<Item = &Option<Digest>> {
        self.digests.iter().flatten()
    }
}

/// Writes every item below `root`, which is an empty folder.
pub(crate) fn stage<'p>(
    plan: &'p VerifiedPlan<'_>,
    items: &[Item<'_>],
    root: &Path,
    observer: &'p dyn Observer,
) -> Result<Staged<'p>, WriteError> {
    let progress = Progress::new(plan, items.len(), observer);
    let carried = parallel::map_shares(
        items,
        // Two threads in one folder wait for each other.
        |one, other| folder_of(&one.path) != folder_of(&other.path),
        || Tools::new(plan),
        |tools, _, share, done| {
            done.push(carry(plan, share, root, &progress, tools));
        },
    );
    let (digests, lists): (Vec<_>, Vec<_>) =
        carried.into_iter().map(|share| (share.digests, share.lines)).unzip();
    let digests = whole(digests)?;
    let (bytes, mold) = progress.end();
    Ok(Staged { bytes, mold, digests, lists })
}

/// Writes a record below `root`: what it came from, and what `list` writes, the digests of its files, by path.
pub(crate) fn stage_record(
    casting: &Casting,
    list: impl FnOnce(&mut File) -> std::io::Result<()>,
    root: &Path,
) -> Result<(), WriteError> {
    let folder = root.join(FOLDER);
    fs::create_dir_all(&folder).map_err(WriteError::io("make the folder", &folder))?;
    let path = root.join(CASTING);
    write_file(&path, casting.written().as_bytes(), 0o644).map_err(WriteError::io("write", &path))?;
    let path = root.join(DIGESTS);
    let file = Near::default().create(&path, 0o644);
    file.and_then(|mut file| list(&mut file)).map_err(WriteError::io("write", &path))
}

/// The record of a cast, with the `parts` fitted. `mold` is the digest of the mold.
pub(super) fn casting(
    plan: &VerifiedPlan<'_>,
    parts: &[Fitted],
    mold: PackageDigest<'_>,
) -> Result<Casting, WriteError> {
    let casting = Casting::of(plan, mold.finish().map_err(unreadable)?);
    Ok(Casting { part: parts.to_vec(), ..casting })
}

/// A file of the mold that cannot be read any more.
pub(crate) fn unreadable(error: PackageError) -> WriteError {
    match error {
        PackageError::Io { path, source } => WriteError::Io { what: "read", path, source },
        other => WriteError::Io {
            what: "read",
            path: "the mold".into(),
            source: std::io::Error::other(other.to_string()),
        },
    }
}
