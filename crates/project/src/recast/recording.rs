//! The record after a recast.

use super::disk::LARGEST;
use super::error::RecastError;
use super::replay::{PartState, Replayed, Theirs};
use super::result::{FileChange, Recast, Written};
use super::tree::Print;
use crate::fit::between;
use crate::merge::{Merged, texts};
use crate::plan::Plan;
use crate::record::{Casting, Fitted, FittedChange, Recorded};
use std::collections::{BTreeMap, BTreeSet};
use tinmold_mold::{Holds, MoldDigest};
use tinmold_platform::digest::digest_of;
use tinmold_platform::root_dir::RootDir;

/// Returns the record after a recast. `tracked` has each file of the new version that the record names, with its path in
/// the project.
pub(super) fn recording(
    (of, digest): (&Recorded, MoldDigest),
    plan: &Plan<'_>,
    theirs: &Theirs<'_>,
    tracked: &BTreeMap<String, String>,
    recast: &Recast,
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
    let texts = Texts { root, recast };
    let mut changes = ChangesOfParts::new(theirs, tracked, &texts)?;
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
                parts.push(fitted.clone());
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
    recast: &'a Recast,
}

impl Texts<'_> {
    /// Returns the text of a file afterwards; `None` if it is none.
    fn of(&self, place: &str) -> Result<Option<String>, RecastError> {
        let found = self.recast.files.iter().find(|file| file.path == place);
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

/// What each part changed, as it stands in the files of the project.
struct ChangesOfParts(BTreeMap<usize, Vec<FittedChange>>);

impl ChangesOfParts {
    /// Takes what each part changed out of the files again, the last one first, as an undo of the fit will do.
    fn new(
        theirs: &Theirs<'_>,
        tracked: &BTreeMap<String, String>,
        texts_after: &Texts<'_>,
    ) -> Result<Self, RecastError> {
        let mut of: BTreeMap<usize, Vec<FittedChange>> = BTreeMap::new();
        let mut now: BTreeMap<&str, Option<String>> = BTreeMap::new();
        for (nth, state) in theirs.parts.iter().enumerate().rev() {
            let PartState::Fitted(replayed) = state else { continue };
            for change in &replayed.changes {
                let Some(place) = tracked.get(&change.path) else { continue };
                if !now.contains_key(change.path.as_str()) {
                    now.insert(&change.path, texts_after.of(place)?);
                }
                let current = now.get(change.path.as_str()).cloned().flatten();
                let before = current.as_ref().and_then(|current| {
                    if *current == change.after {
                        return Some(change.before.clone());
                    }
                    match texts(Holds::of_path(place), &change.after, current, &change.before) {
                        Merged::Clean(text) => Some(text),
                        Merged::Conflicts(..) => None,
                    }
                });
                let (was, after) = match (&before, &current) {
                    (Some(before), Some(current)) => (before.as_str(), current.as_str()),
                    // An undo says that the file was changed since.
                    _ => (change.before.as_str(), change.after.as_str()),
                };
                of.entry(nth).or_default().push(FittedChange {
                    path: place.clone(),
                    was: digest_of(was.as_bytes()).to_string(),
                    now: digest_of(after.as_bytes()).to_string(),
                    foreign: false,
                    back: between(after, was),
                });
                now.insert(&change.path, before);
            }
        }
        Ok(Self(of))
    }

    fn of(&mut self, nth: usize) -> Vec<FittedChange> {
        self.0.remove(&nth).unwrap_or_default()
    }
}
