//! Compares a plan with the destination.

use super::cover::IgnoreLine;
use super::decision::Conflict;
use super::error::{WriteError, collect};
use super::state::{BlockReason, FileState};
use crate::plan::{Entry, EntryKind, Rendered, Rendering};
use crate::verify::VerifiedPlan;
use std::fs;
use std::io::ErrorKind;
use std::path::{Path, PathBuf};
use tinmold_platform::digest::{Digest, digest_of};
use tinmold_platform::parallel;
use tinmold_platform::read_dir::EntryKind as Type;
use tinmold_platform::root_dir::{Identity, RootDir};

/// An entry of the plan, compared with the file on disk.
#[derive(Clone, Debug)]
pub struct ExistingFile {
    /// The state of the file.
    pub state: FileState,
    /// The digest of what would be written, if that is a file.
    pub digest: Option<Digest>,
    /// The digest of the existing file, if it differs.
    pub found: Option<Digest>,
}

/// The state of the destination of a plan.
#[derive(Clone, Debug)]
pub struct Inspection {
    /// The destination.
    pub folder: PathBuf,
    /// True if the destination does not exist.
    pub is_new: bool,
    /// By entry of the plan; empty for a new folder.
    pub files: Vec<ExistingFile>,
    /// What identifies the existing directory.
    identity: Option<Identity>,
    /// The lines of ignore files that the user accepted.
    ignore_lines: Vec<IgnoreLine>,
}

impl Inspection {
    /// Returns the state of the entry at `at`.
    #[must_use]
    pub fn state(&self, at: usize) -> &FileState {
        self.files.get(at).map_or(&FileState::Absent, |file| &file.state)
    }

    /// Accepts lines that the write adds to ignore files of the project.
    pub fn accept_ignore_lines(&mut self, lines: impl IntoIterator<Item = IgnoreLine>) {
        self.ignore_lines.extend(lines);
    }

    /// Returns the lines that the write adds to ignore files of the project.
    #[must_use]
    pub fn ignore_lines(&self) -> &[IgnoreLine] {
        &self.ignore_lines
    }

    /// Returns the files about which someone has to decide, in the order of the plan.
    #[must_use]
    pub fn conflicts(&self, plan: &VerifiedPlan<'_>) -> Vec<Conflict> {
        let pairs = plan.entries.iter().zip(&self.files).enumerate();
        pairs
            .filter(|(_, (_, file))| file.state == FileState::Different)
            .map(|(entry, (planned, _))| Conflict { path: planned.path.to_string(), entry })
            .collect()
    }

    /// Fails if the destination is another directory now.
    pub(crate) fn check_same(&self, root: &RootDir) -> Result<(), WriteError> {
        let found = root.itself().map_err(WriteError::io("look at", &self.folder))?;
        match self.identity.is_none_or(|identity| identity == found.identity) {
            true => Ok(()),
            false => Err(WriteError::Changed(self.folder.clone())),
        }
    }

    /// Fails if something cannot be overwritten.
    pub(super) fn check_blocked(&self, plan: &VerifiedPlan<'_>) -> Result<(), WriteError> {
        let (mut blocked, mut behind_links) = (Vec::new(), Vec::new());
        for (entry, file) in plan.entries.iter().zip(&self.files) {
            match &file.state {
                FileState::Blocked(reason) => blocked.push((entry.path.to_string(), reason.clone())),
                FileState::BehindLink => behind_links.push(entry.path.to_string()),
                _ => {}
            }
        }
        if !behind_links.is_empty() {
            return Err(WriteError::BehindLinks(behind_links));
        }
        if blocked.is_empty() { Ok(()) } else { Err(WriteError::Blocked(blocked)) }
    }
}

/// Compares every entry of the plan with what is in `folder`. Nothing is rendered for a new folder.
///
/// # Errors
/// The destination is a link or not a folder; mistakes in the body; what the system refuses.
pub fn inspect(plan: &VerifiedPlan<'_>, folder: &Path) -> Result<Inspection, WriteError> {
    let _span = tracing::debug_span!("inspect", folder = %folder.display()).entered();
    let is_new = match fs::symlink_metadata(folder) {
        Err(error) if error.kind() == ErrorKind::NotFound => true,
        Err(error) => return Err(WriteError::io("look at", folder)(error)),
        Ok(metadata) if metadata.is_symlink() => return Err(WriteError::IsALink(folder.to_owned())),
        Ok(metadata) if metadata.is_dir() => false,
        Ok(_) => return Err(WriteError::NotAFolder(folder.to_owned())),
    };
    if is_new {
        return Ok(Inspection {
            folder: folder.to_owned(),
            is_new,
            files: Vec::new(),
            identity: None,
            ignore_lines: Vec::new(),
        });
    }
    let root = RootDir::open(folder).map_err(WriteError::io("open", folder))?;
    let identity = Some(root.itself().map_err(WriteError::io("look at", folder))?.identity);
    let init = || (plan.rendering(), Vec::new());
    let files = collect(parallel::map_with(&plan.entries, init, |(rendering, buffer), _, entry| {
        inspect_entry(plan, entry, &root, rendering, buffer)
    }))?;
    Ok(Inspection { folder: folder.to_owned(), is_new, files, identity, ignore_lines: Vec::new() })
}

fn inspect_entry(
    plan: &VerifiedPlan<'_>,
    entry: &Entry<'_>,
    root: &RootDir,
    rendering: &mut Rendering<'_>,
    buffer: &mut Vec<u8>,
) -> Result<ExistingFile, WriteError> {
    let source = &plan.mold.package.files[plan.body(entry).file];
    let digest = match &entry.kind {
        EntryKind::Folder | EntryKind::Link(_) => None,
        EntryKind::Text | EntryKind::Copy => Some(match rendering.render(entry, buffer)? {
            Rendered::Bytes => digest_of(buffer),
            Rendered::AsIs => source.digest()?,
        }),
    };
    let (mut state, found) = state_of(entry, digest, root)?;
    if state == FileState::Different && plan.body(entry).local {
        state = FileState::Local;
    }
    Ok(ExistingFile { state, digest, found })
}

fn state_of(
    entry: &Entry<'_>,
    digest: Option<Digest>,
    root: &RootDir,
) -> Result<(FileState, Option<Digest>), WriteError> {
    let only = |state| Ok((state, None));
    let blocked = |reason| only(FileState::Blocked(reason));
    let path = &*entry.path;
    for (end, _) in path.match_indices('/') {
        let parent = &path[..end];
        match root.find(parent).map_err(WriteError::at("look at", root, parent))?.map(|found| found.kind) {
            None => return only(FileState::Absent),
            Some(Type::Directory) => {}
            Some(Type::Link) => return only(FileState::BehindLink),
            Some(_) => return blocked(BlockReason::ParentIsFile(parent.to_owned())),
        }
    }
    let Some(found) = root.find(path).map_err(WriteError::at("look at", root, path))? else {
        return only(FileState::Absent);
    };
    let same = match (&entry.kind, found.kind) {
        (EntryKind::Folder, Type::Directory) => true,
        (EntryKind::Folder, _) => return blocked(BlockReason::FileForFolder),
        (_, Type::Directory) => return blocked(BlockReason::FolderForFile),
        (EntryKind::Link(target), Type::Link) => {
            root.read_link(path).is_ok_and(|found| found.to_str() == Some(target))
        }
        (EntryKind::Text | EntryKind::Copy, Type::File) => {
            let found = root.digest(path).map_err(WriteError::at("read", root, path))?;
            if Some(found) != digest {
                return Ok((FileState::Different, Some(found)));
            }
            true
        }
        _ => false,
    };
    only(if same { FileState::Same } else { FileState::Different })
}
