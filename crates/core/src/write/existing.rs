//! Into a folder that is there.

use super::bring::{Held, Staging};
use super::stage::{Item, casting, stage, stage_record};
use super::survey::{Present, Surveyed, survey};
use super::{Choice, Conflict, Decide, Observer, WriteError, Written};
use crate::digest::{Digest, write_digests};
use crate::plan::EntryKind;
use crate::record::{self, CASTING, DIGESTS, FOLDER, RecordError, Recorded};
use crate::verify::VerifiedPlan;
use std::borrow::Cow;
use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

/// What the names of files end with that are written beside those in the way.
const BESIDE: &str = ".from-mold";

/// Brings the plan into `folder`.
///
/// # Errors
/// What is in the way, mistakes in the body, and what the system refuses. The folder is then as it was.
pub(super) fn into_folder(
    plan: &VerifiedPlan<'_>,
    folder: &Path,
    observer: &dyn Observer,
    decide: &mut dyn Decide,
) -> Result<Written, WriteError> {
    let held = Held::take(folder)?;
    let earlier = own_folder(plan, folder)?;
    let Chosen { items, mut digests, mut written, expected } = chosen(plan, folder, decide)?;
    if observer.is_cancelled() {
        return Err(WriteError::Cancelled);
    }
    // A casting that is cast again keeps its parts, and what it knows of the files that stay as they are.
    let parts = earlier.as_ref().map_or(&[][..], |earlier| &earlier.casting.part);
    let made = parts.iter().flat_map(|part| part.files.keys());
    let changed = parts.iter().flat_map(|part| part.change.iter().map(|change| &change.path));
    for path in made.chain(changed).chain(&written.kept) {
        if let Some(digest) = earlier.as_ref().and_then(|earlier| earlier.digests.get(path)) {
            digests.entry(path.clone()).or_insert(*digest);
        }
    }
    let mut bytes = 0;
    held.bring(observer, |new_files| {
        bytes = stage(plan, &items, new_files, observer)?.bytes;
        let list = digests.iter().map(|(path, digest)| (path.as_str(), *digest));
        let casting = casting(plan, parts, plan.mold.package.digesting())?;
        stage_record(&casting, |file| write_digests(file, list), new_files)?;
        let files = items.iter().filter(|item| item.entry.kind != EntryKind::Folder);
        let folders = items.iter().filter(|item| item.entry.kind == EntryKind::Folder);
        Ok(Staging {
            // The record comes last: a folder that has one is a casting.
            files: files
                .map(|item| item.path.to_string())
                .chain([DIGESTS, CASTING].map(str::to_owned))
                .collect(),
            folders: folders.map(|item| item.path.to_string()).collect(),
            expected,
            ..Staging::default()
        })
    })?;
    written.bytes = bytes;
    Ok(written)
}

/// What of a plan comes into a folder, as somebody decided.
pub(crate) struct Chosen<'p> {
    /// What is written, and where.
    pub(crate) items: Vec<Item<'p>>,
    /// By path: the digests of what is as the mold has it.
    pub(crate) digests: BTreeMap<String, Digest>,
    /// What became of each, so far.
    pub(crate) written: Written,
    /// By path: what must still be there when it is written; nothing, or a file of this digest.
    pub(crate) expected: Vec<(String, Option<Digest>)>,
}

/// Looks at what is in the way of the plan, and lets somebody decide.
///
/// # Errors
/// What is in the way, mistakes in the body, and what the system refuses.
pub(crate) fn chosen<'p>(
    plan: &'p VerifiedPlan<'_>,
    folder: &Path,
    decide: &mut dyn Decide,
) -> Result<Chosen<'p>, WriteError> {
    let surveyed = survey(plan, folder)?;
    in_the_way(plan, &surveyed)?;
    let conflicts = conflicts(plan, &surveyed);
    let choices = match conflicts.is_empty() {
        true => Vec::new(),
        false => decide.conflicts(&conflicts).ok_or_else(|| WriteError::InTheWay(conflicts.clone()))?,
    };
    let mut written = Written { place: folder.to_owned(), ..Written::default() };
    let mut chosen = choices.into_iter();
    let (mut items, mut digests, mut expected) = (Vec::new(), BTreeMap::new(), Vec::new());
    for (entry, looked) in plan.entries.iter().zip(&surveyed) {
        let choice = match looked.present {
            Present::Different => chosen.next().unwrap_or(Choice::Keep),
            Present::Absent => Choice::Replace,
            Present::Local => {
                written.local.push(entry.path.to_string());
                continue;
            }
            _ => {
                written.same += usize::from(entry.kind != EntryKind::Folder);
                if let Some(digest) = looked.digest.filter(|_| !plan.body(entry).local) {
                    digests.insert(entry.path.to_string(), digest);
                }
                continue;
            }
        };
        let path = match choice {
            Choice::Keep => {
                written.kept.push(entry.path.to_string());
                continue;
            }
            Choice::Replace => {
                if looked.present == Present::Different {
                    written.replaced.push(entry.path.to_string());
                }
                if let Some(digest) = looked.digest.filter(|_| !plan.body(entry).local) {
                    digests.insert(entry.path.to_string(), digest);
                }
                Cow::Borrowed(&*entry.path)
            }
            Choice::Aside => {
                let beside = free_name(folder, &entry.path);
                written.aside.push((entry.path.to_string(), beside.clone()));
                Cow::Owned(beside)
            }
        };
        // What stands for a file that was no file is not told from another one.
        if choice == Choice::Aside || looked.present == Present::Absent {
            expected.push((path.to_string(), None));
        } else if looked.found.is_some() {
            expected.push((path.to_string(), looked.found));
        }
        items.push(Item { entry, path });
    }
    written.files = items.iter().filter(|item| item.entry.kind != EntryKind::Folder).count();
    Ok(Chosen { items, digests, written, expected })
}

/// The program's own folder is a folder or nothing, and the destination is no casting of another mold.
/// Gives its record if it is one of the same mold.
fn own_folder(plan: &VerifiedPlan<'_>, folder: &Path) -> Result<Option<Recorded>, WriteError> {
    match fs::symlink_metadata(folder.join(FOLDER)) {
        Ok(metadata) if metadata.is_symlink() => return Err(WriteError::Elsewhere(vec![FOLDER.into()])),
        Ok(metadata) if !metadata.is_dir() => {
            let why = "is a folder of the program, and a file there".to_owned();
            return Err(WriteError::Blocked(vec![(FOLDER.into(), why)]));
        }
        _ => {}
    }
    for path in [CASTING, DIGESTS] {
        if fs::symlink_metadata(folder.join(path)).is_ok_and(|metadata| !metadata.is_file()) {
            let why = "belongs to the program, and is not a file there".to_owned();
            return Err(WriteError::Blocked(vec![(path.into(), why)]));
        }
    }
    match record::open(folder) {
        Ok(recorded) if recorded.casting.mold.name != plan.mold.name() => {
            Err(WriteError::OtherCasting { folder: folder.to_owned(), mold: recorded.casting.mold.name })
        }
        Ok(recorded) => Ok(Some(recorded)),
        Err(RecordError::Io { source, .. }) if source.kind() == std::io::ErrorKind::NotFound => Ok(None),
        Err(error) => Err(error.into()),
    }
}

/// What cannot be written over at all.
fn in_the_way(plan: &VerifiedPlan<'_>, surveyed: &[Surveyed]) -> Result<(), WriteError> {
    let (mut blocked, mut elsewhere) = (Vec::new(), Vec::new());
    for (entry, looked) in plan.entries.iter().zip(surveyed) {
        match &looked.present {
            Present::Blocked(why) => blocked.push((entry.path.to_string(), why.clone())),
            Present::Elsewhere => elsewhere.push(entry.path.to_string()),
            _ => {}
        }
    }
    if !elsewhere.is_empty() {
        return Err(WriteError::Elsewhere(elsewhere));
    }
    if blocked.is_empty() { Ok(()) } else { Err(WriteError::Blocked(blocked)) }
}

fn conflicts(plan: &VerifiedPlan<'_>, surveyed: &[Surveyed]) -> Vec<Conflict> {
    let pairs = plan.entries.iter().zip(surveyed).enumerate();
    pairs
        .filter(|(_, (_, looked))| looked.present == Present::Different)
        .map(|(at, (entry, _))| Conflict { path: entry.path.to_string(), entry: at })
        .collect()
}

/// A name beside `path` that nothing has.
fn free_name(folder: &Path, path: &str) -> String {
    let names = std::iter::once(format!("{path}{BESIDE}"));
    let mut names = names.chain((2..u32::MAX).map(|number| format!("{path}{BESIDE}-{number}")));
    names.find(|name| fs::symlink_metadata(folder.join(name)).is_err()).unwrap_or_default()
}
