//! Folders that get another name, with all that the owner has in them.

use super::decision::BlockedBy;
use super::disk::{Look, look};
use std::collections::{BTreeMap, BTreeSet};
use std::io::Result;
use tinmold_platform::paths::{is_beneath, parent_of};
use tinmold_platform::read_dir::EntryKind;
use tinmold_platform::root_dir::RootDir;

/// What moves with the folders that it is in.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct FolderMoves {
    /// What gets another path: from where, and to where. Nothing is at the new paths.
    pub(super) moves: Vec<(String, String)>,
    /// What stays, because something is at its new path.
    pub(super) behind: Vec<(String, String)>,
}

/// Returns what moves: everything in a folder that gets another name, but for the files that the mold made, which are
/// `known` by their paths. `pairs` are the old and new paths of files, `theirs` all new paths.
///
/// # Errors
/// What the system refuses.
pub(super) fn folder_moves(
    root: &RootDir,
    pairs: &[(&str, &str)],
    theirs: &BTreeSet<&str>,
    known: &BTreeSet<&str>,
) -> Result<FolderMoves> {
    let mut found = FolderMoves::default();
    for (from, to) in renamed_folders(pairs, theirs) {
        if look(root, &from)? == Look::Blocked(BlockedBy::Folder) {
            Walk { root, known, theirs, found: &mut found }.folder(&from, &to)?;
        }
    }
    Ok(found)
}

/// Returns the folders that get another name, outermost first: where all files of a folder go to another one.
fn renamed_folders(pairs: &[(&str, &str)], theirs: &BTreeSet<&str>) -> BTreeMap<String, String> {
    let candidates: BTreeSet<(&str, &str)> = pairs.iter().map(|(from, to)| folders_of(from, to)).collect();
    let mut renamed: BTreeMap<String, String> = BTreeMap::new();
    for (from, to) in candidates {
        if from.is_empty() || to.is_empty() || from == to || is_beneath(from, to) {
            continue;
        }
        // Whatever the new version still has in the folder, or takes elsewhere, keeps it.
        let stays = theirs.iter().any(|path| is_beneath(path, from) && !is_beneath(path, to));
        let goes = pairs.iter().filter(|(old, _)| is_beneath(old, from)).all(|(_, new)| is_beneath(new, to));
        if !stays && goes {
            renamed.insert(from.to_owned(), to.to_owned());
        }
    }
    let outermost = |folder: &str| !renamed.keys().any(|other| is_beneath(folder, other));
    renamed.iter().filter(|(from, _)| outermost(from)).map(|(from, to)| (from.clone(), to.clone())).collect()
}

/// Returns the folders of two paths of one file, without what both have at their end.
fn folders_of<'p>(from: &'p str, to: &'p str) -> (&'p str, &'p str) {
    let shared = from.rsplit('/').zip(to.rsplit('/')).take_while(|(a, b)| a == b);
    match shared.map(|(part, _)| part.len() + 1).sum::<usize>() {
        // The file itself has another name too.
        0 => (parent_of(from), parent_of(to)),
        shared => (&from[..from.len().saturating_sub(shared)], &to[..to.len().saturating_sub(shared)]),
    }
}

/// Finds what moves.
struct Walk<'a> {
    root: &'a RootDir,
    known: &'a BTreeSet<&'a str>,
    theirs: &'a BTreeSet<&'a str>,
    found: &'a mut FolderMoves,
}

impl Walk<'_> {
    /// Moves what is in a folder: whole, where nothing of the mold is in it or comes there.
    fn folder(&mut self, from: &str, to: &str) -> Result<()> {
        for (name, kind) in self.root.list(from)? {
            let Some(name) = name.to_str() else {
                self.found.behind.push((format!("{from}/{}", name.display()), to.to_owned()));
                continue;
            };
            let (old, new) = (format!("{from}/{name}"), format!("{to}/{name}"));
            if self.known.contains(old.as_str()) || *to == old || is_beneath(to, &old) {
                continue;
            }
            let is_folder = kind == EntryKind::Directory;
            let is_touched = holds(self.known, &old) || holds(self.theirs, &new);
            match look(self.root, &new)? {
                Look::Absent if !is_touched => self.found.moves.push((old, new)),
                Look::Absent | Look::Blocked(BlockedBy::Folder) if is_folder => self.folder(&old, &new)?,
                _ => self.found.behind.push((old, new)),
            }
        }
        Ok(())
    }
}

/// Returns true if one of the paths is at or beneath another.
fn holds(paths: &BTreeSet<&str>, at: &str) -> bool {
    paths.range(at..).take_while(|path| path.starts_with(at)).any(|path| *path == at || is_beneath(path, at))
}
