//! The record after a recast.

use super::disk::LARGEST;
use super::error::RecastError;
use super::replay::{PartState, Replayed, Theirs};
use super::result::{FileChange, FileRecast, Written};
use super::tree::Print;
use crate::fit::{between, made};
use crate::merge::{Merged, texts};
use crate::plan::Plan;
use crate::record::{Casting, Fitted, FittedChange, Recorded};
use crate::write::Change;
use similar::{Algorithm, DiffTag, capture_diff_slices};
use std::collections::{BTreeMap, BTreeSet};
use tinmold_mold::{Holds, MoldDigest};
use tinmold_platform::digest::digest_of;
use tinmold_platform::paths::portable_path;
use tinmold_platform::root_dir::RootDir;

/// Returns the record after a recast. `tracked` has each file of the new version that the record names, with its path in
/// the project.
pub(super) fn recording(
    (of, digest): (&Recorded, MoldDigest),
    plan: &Plan<'_>,
    (theirs, left): (&Theirs<'_>, &[(usize, Change)]),
    tracked: &BTreeMap<String, String>,
    files: &[FileRecast],
    root: &RootDir,
) -> Result<Recorded, RecastError> {
    let Recorded { root: folder, casting: old, digests: old_digests } = of;
    let mut casting = Casting::of(plan, digest, folder);
    casting.built_in.clone_from(&old.built_in);
    if casting.built_in.user_email.is_empty() && plan.uses_email() {
        casting.built_in.user_email.clone_from(&plan.answers.built_ins.user_email);
    }
    let (mut digests, mut links) = (BTreeMap::new(), BTreeMap::new());
    for path in tracked.keys() {
        match theirs.tree.nodes.get(path).map(|node| &node.print) {
            Some(Print::File(digest)) => drop(digests.insert(path.clone(), *digest)),
            Some(Print::Link(target)) => drop(links.insert(path.clone(), target.clone())),
            None => {}
        }
    }
    let texts = Texts { root, files };
    let mut changes = ChangesOfParts::new(&old.part, (theirs, left), tracked, &texts)?;
    let mut parts = Vec::new();
    for (nth, (fitted, state)) in old.part.iter().zip(&theirs.parts).enumerate() {
        match state {
            PartState::Gone => {}
            PartState::Owners => {
                for path in fitted.files.keys() {
                    digests.extend(
                        old_digests.get_key_value(path).map(|(path, digest)| (path.clone(), *digest)),
                    );
                    links.extend(old.links.get_key_value(path).map(|(path, to)| (path.clone(), to.clone())));
                }
                let change = changes.of(nth);
                let change = if change.is_empty() { fitted.change.clone() } else { change };
                parts.push(Fitted { change, ..fitted.clone() });
            }
            PartState::Fitted(replayed) => {
                parts.push(fitted_again(fitted, replayed, theirs, tracked, changes.of(nth)));
            }
        }
    }
    casting.links = links;
    casting.part = parts;
    let mut record = Recorded { root: folder.clone(), casting, digests };
    keep_what_is_same(&mut record.casting, old);
    Ok(record)
}

/// Keeps the address of a mold that is the same: another machine may have found it elsewhere.
fn keep_what_is_same(casting: &mut Casting, old: &Casting) {
    if casting.mold.digest == old.mold.digest && casting.mold.name == old.mold.name {
        casting.mold.address.clone_from(&old.mold.address);
    }
}

/// Returns the record of a part that was fitted again.
fn fitted_again(
    fitted: &Fitted,
    replayed: &Replayed,
    theirs: &Theirs<'_>,
    tracked: &BTreeMap<String, String>,
    change: Vec<FittedChange>,
) -> Fitted {
    let files = replayed.made.iter().filter_map(|path| {
        let place = tracked.get(path)?;
        let print = match &theirs.tree.nodes.get(path)?.print {
            Print::File(digest) => digest.to_string(),
            Print::Link(target) => format!("link {target}"),
        };
        Some((place.clone(), print))
    });
    let replaced: BTreeSet<&String> =
        fitted.change.iter().filter(|it| it.foreign).map(|it| &it.path).collect();
    let change =
        change.into_iter().map(|change| FittedChange { foreign: replaced.contains(&change.path), ..change });
    Fitted {
        name: replayed.name.clone(),
        today: fitted.today.clone(),
        mold: fitted.mold.clone(),
        answers: replayed.answers.clone(),
        files: files.collect(),
        change: change.collect(),
    }
}

/// The texts of the project after the recast.
struct Texts<'a> {
    root: &'a RootDir,
    files: &'a [FileRecast],
}

impl Texts<'_> {
    /// Returns true if the content or the path of a file changes.
    fn is_changed(&self, place: &str) -> bool {
        let is_it = |file: &FileRecast| file.path == place || file.from.as_deref() == Some(place);
        self.files.iter().any(is_it)
    }

    /// Returns what the recorded parts changed, as far as it stands in the files that are there now, by number of the part and
    /// with the paths afterwards.
    fn changes_on_disk(&self, parts: &[Fitted]) -> Vec<(usize, Change)> {
        let mut texts: BTreeMap<&str, Option<String>> = BTreeMap::new();
        let mut found = Vec::new();
        for (nth, fitted) in parts.iter().enumerate().rev() {
            for entry in fitted.change.iter().rev() {
                let path = entry.path.as_str();
                if !self.is_changed(path) || portable_path(path).is_err() {
                    continue;
                }
                let read = || String::from_utf8(self.root.read(path, LARGEST).ok()?).ok();
                let now = texts.entry(path).or_insert_with(read).clone();
                let digest = |text: &String| digest_of(text.as_bytes()).to_string();
                let now = now.filter(|now| digest(now) == entry.now);
                let before = now.as_ref().and_then(|now| made(now, &entry.back));
                let before = before.filter(|before| digest(before) == entry.was);
                if let (Some(before), Some(after)) = (&before, now) {
                    let moved = self.files.iter().find(|file| file.from.as_deref() == Some(path));
                    let path = moved.map_or(path, |file| &file.path).to_owned();
                    let change = Change { path, before: before.clone(), after };
                    found.push((nth, change));
                }
                texts.insert(path, before);
            }
        }
        found
    }

    /// Returns the text of a file afterwards; `None` if it is none.
    fn of(&self, place: &str) -> Result<Option<String>, RecastError> {
        let found = self.files.iter().find(|file| file.path == place);
        let bytes = match found {
            Some(file) if file.kind == FileChange::Removed => return Ok(None),
            Some(file) => match &file.after {
                Some(Written::File(bytes, _)) => Some(bytes.clone()),
                _ => None,
            },
            None => self.root.read(place, LARGEST).ok(),
        };
        Ok(bytes.and_then(|bytes| String::from_utf8(bytes).ok()))
    }
}

/// What each part changed, as it stands in the files of the project, by the number of the part.
struct ChangesOfParts(BTreeMap<usize, Vec<FittedChange>>);

impl ChangesOfParts {
    /// Takes what each part changed out of the files again, the last one first, as an undo of the fit will do. What is
    /// recorded of files that stay as they are stays too.
    fn new(
        old: &[Fitted],
        (theirs, left): (&Theirs<'_>, &[(usize, Change)]),
        tracked: &BTreeMap<String, String>,
        texts_after: &Texts<'_>,
    ) -> Result<Self, RecastError> {
        let on_disk = texts_after.changes_on_disk(old);
        let mut of: BTreeMap<usize, Vec<FittedChange>> = BTreeMap::new();
        let mut now: BTreeMap<String, Option<String>> = BTreeMap::new();
        for (nth, (fitted, state)) in old.iter().zip(&theirs.parts).enumerate().rev() {
            let of_part = |changes: &'_ [(usize, Change)]| -> Vec<Change> {
                changes.iter().filter(|(of, _)| *of == nth).map(|(_, change)| change.clone()).collect()
            };
            let mut changes = match state {
                PartState::Fitted(replayed) => replayed.changes.clone(),
                PartState::Owners => Vec::new(),
                PartState::Gone => continue,
            };
            // What neither version knows of is as it is on disk.
            for more in [of_part(left), of_part(&on_disk)] {
                let place = |change: &Change| tracked.get(&change.path).unwrap_or(&change.path).clone();
                let is_new = |change: &Change| !changes.iter().any(|other| place(other) == place(change));
                let more: Vec<Change> = more.into_iter().filter(is_new).collect();
                changes.extend(more);
            }
            let mut recorded = Vec::new();
            for change in &changes {
                let place = tracked.get(&change.path).unwrap_or(&change.path);
                let is_recorded = fitted.change.iter().any(|entry| entry.path == *place);
                if is_recorded && !texts_after.is_changed(place) {
                    continue;
                }
                if !now.contains_key(place) {
                    now.insert(place.clone(), texts_after.of(place)?);
                }
                let (entry, before) = taken_out(place, change, now.get(place).cloned().flatten());
                recorded.push(entry);
                now.insert(place.clone(), before);
            }
            let stays = |entry: &&FittedChange| !texts_after.is_changed(&entry.path);
            recorded.extend(fitted.change.iter().filter(stays).cloned());
            of.insert(nth, recorded);
        }
        Ok(Self(of))
    }

    fn of(&mut self, nth: usize) -> Vec<FittedChange> {
        self.0.remove(&nth).unwrap_or_default()
    }
}

/// Takes a change out of the text of a file. Returns what the record has of it, and the text without it.
fn taken_out(place: &str, change: &Change, current: Option<String>) -> (FittedChange, Option<String>) {
    let before = current.as_ref().and_then(|current| {
        if *current == change.after {
            return Some(change.before.clone());
        }
        match texts(Holds::of_path(place), &change.after, current, &change.before) {
            Merged::Clean(text) => Some(text),
            Merged::Conflicts(..) => without_added(current, &change.before, &change.after),
        }
    });
    let (was, after) = match (&before, &current) {
        (Some(before), Some(current)) => (before.as_str(), current.as_str()),
        // An undo says that the file was changed since.
        _ => (change.before.as_str(), change.after.as_str()),
    };
    let entry = FittedChange {
        path: place.to_owned(),
        was: digest_of(was.as_bytes()).to_string(),
        now: digest_of(after.as_bytes()).to_string(),
        foreign: false,
        back: between(after, was),
    };
    (entry, before)
}

/// Takes the lines out of a text that a change added, where each stretch of them stands in it once; `None` if it did more
/// than that.
fn without_added(text: &str, before: &str, after: &str) -> Option<String> {
    let lines = |text: &'_ str| -> Vec<String> { text.split_inclusive('\n').map(str::to_owned).collect() };
    let (old, new) = (lines(before), lines(after));
    let mut left = lines(text);
    for op in capture_diff_slices(Algorithm::Histogram, &old, &new) {
        match op.tag() {
            DiffTag::Equal => {}
            DiffTag::Insert => {
                let added = &new[op.new_range()];
                let mut places = (0..left.len()).filter(|at| left[*at..].starts_with(added));
                let (Some(at), None) = (places.next(), places.next()) else { return None };
                left.drain(at..at + added.len());
            }
            DiffTag::Delete | DiffTag::Replace => return None,
        }
    }
    Some(left.concat())
}
