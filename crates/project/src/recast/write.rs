//! Writes a recast into the project: all of it, or nothing.

use super::disk::{look, print_of};
use super::result::{FileChange, Recast, Written};
use super::tree::Print;
use super::undo::UndoStore;
use crate::record::{self, CASTING, DIGESTS};
use crate::write::{Journals, LockedFolder, Observer, Staging, WriteError, stage_record};
use std::collections::BTreeSet;
use std::io::Write;
use tinmold_platform::digest::Digest;
use tinmold_platform::paths::moved;
use tinmold_platform::root_dir::{Cursor, RootDir};

impl Recast {
    /// Writes what was planned. `undo` keeps what an undo needs, if there is such a place.
    ///
    /// # Errors
    /// Something is not decided, the project changed since it was planned, or the system refuses. The project is then as
    /// it was.
    pub fn write(
        &self,
        undo: Option<&UndoStore>,
        journals: &Journals,
        observer: &dyn Observer,
    ) -> Result<(), WriteError> {
        let locked = LockedFolder::lock(&self.before.root)?;
        let root = locked.root();
        let recorded = record::open(root.path())?;
        if recorded.casting != self.before.casting || recorded.digests != self.before.digests {
            return Err(WriteError::Changed(root.path().join(CASTING)));
        }
        let expected = self.expected(root)?;
        let noted = undo.map(|undo| undo.note(self, root)).transpose();
        let mut noted = noted.map_err(WriteError::State)?;
        locked.apply(journals, observer, |new_files| {
            for file in &self.files {
                if let Some(after) = &file.after {
                    stage_file(new_files, &file.path, after)?;
                }
            }
            stage_record(&self.record.casting, |list| self.record.write_list(list), new_files)?;
            if let Some(noted) = &mut noted {
                noted.note_record(new_files).map_err(WriteError::State)?;
            }
            let written = self.files.iter().filter(|file| file.after.is_some());
            Ok(Staging {
                files: written
                    .map(|file| file.path.clone())
                    .chain([DIGESTS, CASTING].map(str::to_owned))
                    .collect(),
                folders: self.folders.clone(),
                removed: self.removed(),
                renames: self.moves.clone(),
                expected,
            })
        })?;
        if let Some(noted) = noted {
            noted.keep().map_err(WriteError::State)?;
        }
        Ok(())
    }

    /// Returns the path that something has once the folders have moved.
    pub(super) fn moved(&self, path: &str) -> String {
        moved(path, self.moves.iter().map(|(from, to)| (from.as_str(), to.as_str())))
    }

    /// Returns the paths of what goes: files that are dropped, and those that get another path.
    pub(super) fn removed(&self) -> Vec<String> {
        let gone = self.files.iter().filter_map(|file| match (&file.from, file.kind) {
            (Some(from), _) => Some(self.moved(from)).filter(|from| *from != file.path),
            (None, FileChange::Removed) => Some(file.path.clone()),
            _ => None,
        });
        let written = self.files.iter().filter(|file| file.after.is_some());
        let written: BTreeSet<&str> = written.map(|file| file.path.as_str()).collect();
        gone.filter(|path| !written.contains(path.as_str())).collect()
    }

    /// Checks that every file is as it was when the recast was planned; returns what must be there at the write.
    fn expected(&self, root: &RootDir) -> Result<Vec<(String, Option<Digest>)>, WriteError> {
        let mut expected = Vec::with_capacity(self.files.len());
        for file in &self.files {
            let path = file.from.as_ref().unwrap_or(&file.path);
            let failed = || WriteError::at("read", root, path);
            let found = look(root, path).map_err(failed())?;
            let print = print_of(root, path, &found).map_err(failed())?;
            if print.as_ref() != file.was.as_ref().map(|(print, _)| print) {
                return Err(match print {
                    Some(_) if file.was.is_none() => WriteError::Appeared(root.path().join(path)),
                    _ => WriteError::Changed(root.path().join(path)),
                });
            }
            let place = self.moved(path);
            match print {
                Some(Print::File(digest)) => expected.push((place, Some(digest))),
                None => expected.push((place, None)),
                Some(Print::Link(_)) => {}
            }
        }
        Ok(expected)
    }
}

/// Writes a file or link into the staging directory.
pub(super) fn stage_file(new_files: &RootDir, path: &str, what: &Written) -> Result<(), WriteError> {
    let mut cursor = Cursor::new(new_files);
    let staged = match what {
        Written::Link(target) => cursor.make_link(target, path),
        Written::File(bytes, mode) => cursor
            .create(path, 0o600)
            .and_then(|mut file| file.write_all(bytes))
            .and_then(|()| new_files.set_mode(path, *mode & 0o777)),
    };
    staged.map_err(WriteError::at("write", new_files, path))
}
