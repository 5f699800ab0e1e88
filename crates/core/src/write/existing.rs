//! Into a folder that is there.

use super::journal::Work;
use super::lock::Lock;
use super::stage::{Item, stage, stage_record};
use super::survey::{Present, Surveyed, survey};
use super::{Choice, Conflict, Decide, Observer, WriteError, Written, recover};
use crate::plan::EntryKind;
use crate::record::{self, CASTING, DIGESTS, FOLDER, RecordError};
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
    let _lock = Lock::of(folder)?;
    recover::settle(folder)?;
    own_folder(plan, folder)?;
    let surveyed = survey(plan, folder)?;
    in_the_way(plan, &surveyed)?;
    let conflicts = conflicts(plan, &surveyed);
    let choices = match conflicts.is_empty() {
        true => Vec::new(),
        false => decide.conflicts(&conflicts).ok_or_else(|| WriteError::InTheWay(conflicts.clone()))?,
    };
    if observer.is_cancelled() {
        return Err(WriteError::Cancelled);
    }
    let mut written = Written { place: folder.to_owned(), ..Written::default() };
    let mut chosen = choices.into_iter();
    let (mut items, mut digests) = (Vec::new(), BTreeMap::new());
    for (entry, looked) in plan.entries.iter().zip(&surveyed) {
        let choice = match looked.present {
            Present::Different => chosen.next().unwrap_or(Choice::Keep),
            Present::Absent => Choice::Replace,
            Present::Local => {
                written.local.push(entry.path.clone());
                continue;
            }
            _ => {
                written.same += usize::from(entry.kind != EntryKind::Folder);
                if let Some(digest) = looked.digest.filter(|_| !plan.body(entry).local) {
                    digests.insert(entry.path.clone(), digest);
                }
                continue;
            }
        };
        let path = match choice {
            Choice::Keep => {
                written.kept.push(entry.path.clone());
                continue;
            }
            Choice::Replace => {
                if looked.present == Present::Different {
                    written.replaced.push(entry.path.clone());
                }
                if let Some(digest) = looked.digest.filter(|_| !plan.body(entry).local) {
                    digests.insert(entry.path.clone(), digest);
                }
                Cow::Borrowed(entry.path.as_str())
            }
            Choice::Aside => {
                let beside = free_name(folder, &entry.path);
                written.aside.push((entry.path.clone(), beside.clone()));
                Cow::Owned(beside)
            }
        };
        items.push(Item { entry, path });
    }
    written.files = items.iter().filter(|item| item.entry.kind != EntryKind::Folder).count();
    let work = Work::at(folder);
    let result = work.begin().and_then(|()| {
        let staged = stage(plan, &items, &work.new_files(), observer)?;
        stage_record(plan, &digests, &work.new_files())?;
        written.bytes = staged.bytes;
        let files = items.iter().filter(|item| item.entry.kind != EntryKind::Folder);
        // The record comes last: a folder that has one is a casting.
        let paths = files.map(|item| item.path.to_string()).chain([DIGESTS, CASTING].map(str::to_owned));
        let folders = items.iter().filter(|item| item.entry.kind == EntryKind::Folder);
        let folders: Vec<String> = folders.map(|item| item.path.to_string()).collect();
        let journal = work.plan(&paths.collect::<Vec<_>>(), &folders)?;
        work.commit(&journal, &|| observer.is_cancelled()).map_err(|error| match work.undo(&journal) {
            Ok(_) => error,
            Err(undoing) => WriteError::HalfDone { error: Box::new(error), undoing: Box::new(undoing) },
        })
    });
    // What could not be undone stays with its journal, for the next run.
    if !matches!(result, Err(WriteError::HalfDone { .. })) {
        let cleared = work.clear();
        if result.is_ok() {
            cleared?;
        }
    }
    result.map(|()| written)
}

/// The program's own folder is a folder or nothing, and the destination is no casting of another mold.
fn own_folder(plan: &VerifiedPlan<'_>, folder: &Path) -> Result<(), WriteError> {
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
        Ok(_) => Ok(()),
        Err(RecordError::Io { source, .. }) if source.kind() == std::io::ErrorKind::NotFound => Ok(()),
        Err(error) => Err(error.into()),
    }
}

/// What cannot be written over at all.
fn in_the_way(plan: &VerifiedPlan<'_>, surveyed: &[Surveyed]) -> Result<(), WriteError> {
    let (mut blocked, mut elsewhere) = (Vec::new(), Vec::new());
    for (entry, looked) in plan.entries.iter().zip(surveyed) {
        match &looked.present {
            Present::Blocked(why) => blocked.push((entry.path.clone(), why.clone())),
            Present::Elsewhere => elsewhere.push(entry.path.clone()),
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
        .map(|(at, (entry, _))| Conflict { path: entry.path.clone(), entry: at })
        .collect()
}

/// A name beside `path` that nothing has.
fn free_name(folder: &Path, path: &str) -> String {
    let names = std::iter::once(format!("{path}{BESIDE}"));
    let mut names = names.chain((2..u32::MAX).map(|number| format!("{path}{BESIDE}-{number}")));
    names.find(|name| fs::symlink_metadata(folder.join(name)).is_err()).unwrap_or_default()
}
