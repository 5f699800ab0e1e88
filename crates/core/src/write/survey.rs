//! What is at the destination already.

use super::stage::unreadable;
use super::{WriteError, whole};
use crate::digest::{Digest, digest_of, digest_of_file};
use crate::parallel;
use crate::plan::{Entry, EntryKind, Rendered, Rendering};
use crate::verify::VerifiedPlan;
use std::fs;
use std::path::Path;

/// What is where an entry would be written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Present {
    /// Nothing.
    Absent,
    /// Just what would be written.
    Same,
    /// A file or link that is something else.
    Different,
    /// A file for this machine only, which is never written over.
    Local,
    /// Something that cannot be written over; why, in a clause that goes on from the path.
    Blocked(String),
    /// A folder on the way is a link to elsewhere.
    Elsewhere,
}

/// An entry, looked at.
#[derive(Clone, Debug)]
pub struct Surveyed {
    /// What is there.
    pub present: Present,
    /// The digest of what would be written, if that is a file.
    pub digest: Option<Digest>,
    /// The digest of what is there, if that is a file and another one.
    pub found: Option<Digest>,
}

/// Looks at every entry's place below `folder`, in the order of the entries.
///
/// # Errors
/// Mistakes in the body, and what the system refuses.
pub fn survey(plan: &VerifiedPlan<'_>, folder: &Path) -> Result<Vec<Surveyed>, WriteError> {
    let tools = || (plan.rendering(), Vec::new());
    whole(parallel::map_with(&plan.entries, tools, |(rendering, buffer), _, entry| {
        look(plan, entry, folder, rendering, buffer)
    }))
}

fn look(
    plan: &VerifiedPlan<'_>,
    entry: &Entry<'_>,
    folder: &Path,
    rendering: &mut Rendering<'_>,
    buffer: &mut Vec<u8>,
) -> Result<Surveyed, WriteError> {
    let source = &plan.mold.package.files[plan.body(entry).file];
    let digest = match &entry.kind {
        EntryKind::Folder | EntryKind::Link(_) => None,
        EntryKind::Text | EntryKind::Copy => Some(match rendering.render(entry, buffer)? {
            Rendered::Bytes => digest_of(buffer),
            Rendered::AsIs => source.digest().map_err(unreadable)?,
        }),
    };
    let (mut present, found) = what_is_there(entry, digest, folder)?;
    if present == Present::Different && plan.body(entry).local {
        present = Present::Local;
    }
    Ok(Surveyed { present, digest, found })
}

fn what_is_there(
    entry: &Entry<'_>,
    digest: Option<Digest>,
    folder: &Path,
) -> Result<(Present, Option<Digest>), WriteError> {
    let only = |present| Ok((present, None));
    for (end, _) in entry.path.match_indices('/') {
        let way = &entry.path[..end];
        match fs::symlink_metadata(folder.join(way)) {
            Ok(metadata) if metadata.is_symlink() => return only(Present::Elsewhere),
            Ok(metadata) if metadata.is_dir() => {}
            Ok(_) => return only(Present::Blocked(format!("needs the folder {way}, which is a file there"))),
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => return only(Present::Absent),
            Err(error) => return Err(WriteError::io("look at", folder.join(way))(error)),
        }
    }
    let path = folder.join(&*entry.path);
    let metadata = match fs::symlink_metadata(&path) {
        Ok(metadata) => metadata,
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => return only(Present::Absent),
        Err(error) => return Err(WriteError::io("look at", path)(error)),
    };
    let same = match &entry.kind {
        EntryKind::Folder if metadata.is_dir() => true,
        EntryKind::Folder => {
            return only(Present::Blocked("is a folder of the mold, and a file there".into()));
        }
        _ if metadata.is_dir() => {
            return only(Present::Blocked("is a file of the mold, and a folder there".into()));
        }
        EntryKind::Link(target) => {
            metadata.is_symlink() && fs::read_link(&path).is_ok_and(|found| found.to_str() == Some(target))
        }
        EntryKind::Text | EntryKind::Copy if metadata.is_file() => {
            let found = digest_of_file(&path).map_err(WriteError::io("read", &path))?;
            if Some(found) != digest {
                return Ok((Present::Different, Some(found)));
            }
            true
        }
        EntryKind::Text | EntryKind::Copy => false,
    };
    only(if same { Present::Same } else { Present::Different })
}
