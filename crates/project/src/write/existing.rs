//! Writes a plan into a folder that exists.

use super::apply::LockedFolder;
use super::change::Change;
use super::cover;
use super::decision::{Choice, WriteSummary};
use super::error::WriteError;
use super::inspect::Inspection;
use super::journals::Journals;
use super::names;
use super::observer::Observer;
use super::stage::{Item, stage, stage_record};
use super::staging::Staging;
use super::state::FileState;
use crate::plan::EntryKind;
use crate::record::{self, CASTING, Casting, DIGESTS, FOLDER, RecordError, Recorded};
use crate::verify::VerifiedPlan;
use std::borrow::Cow;
use std::collections::BTreeMap;
use std::fs;
use std::io::Write;
use std::path::Path;
use tinmold_platform::digest::{Digest, write_digests};
use tinmold_platform::read_dir::EntryKind as EntryType;
use tinmold_platform::root_dir::{Cursor, RootDir};

/// The ending of a file that is written beside one in the way.
const BESIDE: &str = ".from-mold";

/// Writes the plan into the inspected folder as decided.
///
/// # Errors
/// Conflicts without a choice, mistakes in the body, and what the system refuses. The directory is
/// then as before.
pub(super) fn write_into_folder(
    plan: &VerifiedPlan<'_>,
    inspection: &Inspection,
    choices: &[Choice],
    journals: &Journals,
    observer: &dyn Observer,
) -> Result<WriteSummary, WriteError> {
    let folder = &inspection.folder;
    let locked = LockedFolder::lock(folder)?;
    inspection.check_same(locked.root())?;
    let earlier = earlier_record(plan, locked.root())?;
    let Selection { items, mut digests, mut summary, expected } = select(plan, inspection, choices)?;
    if observer.is_cancelled() {
        return Err(WriteError::Cancelled);
    }
    // A project that is cast again keeps its parts, and the digests of files that stay as they are.
    let parts = earlier.as_ref().map_or(&[][..], |earlier| &earlier.casting.part);
    let made = parts.iter().flat_map(|part| part.files.keys());
    let changed = parts.iter().flat_map(|part| part.change.iter().map(|change| &change.path));
    for path in made.chain(changed).chain(&summary.kept) {
        if let Some(digest) = earlier.as_ref().and_then(|earlier| earlier.digests.get(path)) {
            digests.entry(path.clone()).or_insert(*digest);
        }
    }
    let more = MoreLines::new(plan, inspection, choices, &[], locked.root())?;
    let mut bytes = 0;
    locked.apply(journals, observer, |new_files| {
        bytes = stage(plan, &items, new_files, observer)?.bytes;
        let list = digests.iter().map(|(path, digest)| (path.as_str(), *digest));
        let casting =
            Casting { part: parts.to_vec(), ..Casting::of(plan, plan.mold.package.digest()?, folder) };
        stage_record(&casting, |file| write_digests(file, list), new_files)?;
        let (folders, files): (Vec<_>, Vec<_>) =
            items.iter().partition(|item| item.entry.kind == EntryKind::Folder);
        let paths =
            |items: Vec<&Item<'_>>| items.iter().map(|item| item.path.to_string()).collect::<Vec<_>>();
        let mut files = paths(files);
        let mut expected = expected;
        more.stage(new_files, &mut files, &mut expected)?;
        // The record is moved last: a folder with a record is a whole project.
        files.extend([DIGESTS, CASTING].map(str::to_owned));
        Ok(Staging { files, folders: paths(folders), expected, ..Staging::default() })
    })?;
    summary.bytes = bytes;
    Ok(summary)
}

/// The part of a plan that is written into an existing directory.
pub(crate) struct Selection<'p> {
    /// The entries to write, with their paths.
    pub(crate) items: Vec<Item<'p>>,
    /// By path: the digests of what is as the mold has it.
    pub(crate) digests: BTreeMap<String, Digest>,
    /// The summary, so far.
    pub(crate) summary: WriteSummary,
    /// By path: what must still be there when it is written; nothing, or a file of this digest.
    pub(crate) expected: Vec<(String, Option<Digest>)>,
}

/// Selects what is written. `choices` decide about the conflicts of the inspection, in their order.
///
/// # Errors
/// Something cannot be overwritten, or there are fewer choices than conflicts.
pub(crate) fn select<'p>(
    plan: &'p VerifiedPlan<'_>,
    inspection: &Inspection,
    choices: &[Choice],
) -> Result<Selection<'p>, WriteError> {
    let folder = &inspection.folder;
    inspection.check_blocked(plan)?;
    let conflicts = inspection.conflicts(plan);
    if choices.len() < conflicts.len() {
        return Err(WriteError::Conflicts(conflicts));
    }
    let mut summary = WriteSummary { path: folder.clone(), ..WriteSummary::default() };
    let mut chosen = choices.iter().copied();
    let (mut items, mut digests, mut expected) = (Vec::new(), BTreeMap::new(), Vec::new());
    for (entry, file) in plan.entries.iter().zip(&inspection.files) {
        let recorded = file.digest.filter(|_| !plan.body(entry).local);
        let choice = match file.state {
            FileState::Different => chosen.next().unwrap_or(Choice::Keep),
            FileState::Absent => Choice::Replace,
            FileState::Local => {
                summary.local.push(entry.path.to_string());
                continue;
            }
            _ => {
                summary.same += usize::from(entry.kind != EntryKind::Folder);
                digests.extend(recorded.map(|digest| (entry.path.to_string(), digest)));
                continue;
            }
        };
        let path = match choice {
            Choice::Keep => {
                summary.kept.push(entry.path.to_string());
                continue;
            }
            Choice::Replace => {
                if file.state == FileState::Different {
                    summary.replaced.push(entry.path.to_string());
                }
                digests.extend(recorded.map(|digest| (entry.path.to_string(), digest)));
                Cow::Borrowed(&*entry.path)
            }
            Choice::Aside => {
                let beside = free_name(folder, &entry.path);
                summary.aside.push((entry.path.to_string(), beside.clone()));
                Cow::Owned(beside)
            }
        };
        // A link or folder that replaces a file has no digest to compare.
        if choice == Choice::Aside || file.state == FileState::Absent {
            expected.push((path.to_string(), None));
        } else if file.found.is_some() {
            expected.push((path.to_string(), file.found));
        }
        items.push(Item { entry, path });
    }
    summary.files = items.iter().filter(|item| item.entry.kind != EntryKind::Folder).count();
    Ok(Selection { items, digests, summary, expected })
}

/// The ignore files that get lines which the user accepted.
pub(crate) struct MoreLines(Vec<IgnoreFile>);

/// An ignore file as it will be.
struct IgnoreFile {
    path: String,
    text: Vec<u8>,
    mode: u32,
    /// The digest that it has now.
    was: Option<Digest>,
}

impl MoreLines {
    /// Adds the accepted lines to the ignore files as they will be after the write.
    ///
    /// # Errors
    /// A local file is not covered then; what the system refuses.
    pub(crate) fn new(
        plan: &VerifiedPlan<'_>,
        inspection: &Inspection,
        choices: &[Choice],
        changes: &[Change],
        root: &RootDir,
    ) -> Result<Self, WriteError> {
        let mut more: Vec<IgnoreFile> = Vec::new();
        for line in inspection.ignore_lines() {
            let path = line.file.as_str();
            if more.iter().any(|other| other.path == path) {
                continue;
            }
            let found = root.find(path).map_err(WriteError::at("look at", root, path))?;
            let failed = || WriteError::at("read", root, path);
            let was = found.map(|_| root.digest(path)).transpose().map_err(failed())?;
            let text = cover::ignore_file_after(plan, inspection, choices, changes, path);
            let text = text.map_err(|error| failed()(error.into()))?;
            let mode = found.map_or(0o644, |found| found.mode);
            more.push(IgnoreFile { path: path.to_owned(), text, mode, was });
        }
        let uncovered = cover::uncovered(plan, Some(inspection), choices, changes);
        if !uncovered.is_empty() {
            return Err(WriteError::Uncovered(uncovered));
        }
        Ok(Self(more))
    }

    /// Writes the files into the staging directory, in place of what the plan has there.
    pub(crate) fn stage(
        self,
        new_files: &RootDir,
        files: &mut Vec<String>,
        expected: &mut Vec<(String, Option<Digest>)>,
    ) -> Result<(), WriteError> {
        for IgnoreFile { path, text, mode, was } in self.0 {
            let failed = || WriteError::at("write", new_files, &path);
            if files.contains(&path) {
                new_files.remove_file(&path).map_err(failed())?;
            } else {
                files.push(path.clone());
                expected.push((path.clone(), was));
            }
            let made = Cursor::new(new_files).create(&path, mode);
            made.and_then(|mut file| file.write_all(&text)).map_err(failed())?;
        }
        Ok(())
    }
}

/// Reads the record of an earlier cast of the same mold; fails for a project from another mold.
fn earlier_record(plan: &VerifiedPlan<'_>, root: &RootDir) -> Result<Option<Recorded>, WriteError> {
    for (path, wanted) in
        [(FOLDER, EntryType::Directory), (CASTING, EntryType::File), (DIGESTS, EntryType::File)]
    {
        match root.find(path).map_err(WriteError::at("look at", root, path))?.map(|found| found.kind) {
            Some(EntryType::Link) => return Err(WriteError::BehindLinks(vec![path.into()])),
            Some(kind) if kind != wanted => return Err(WriteError::own_path_taken(path)),
            _ => {}
        }
    }
    match record::open(root.path()) {
        Ok(recorded) if recorded.casting.mold.name != plan.mold.name() => {
            let folder = root.path().to_owned();
            Err(WriteError::OtherProject { folder, mold: recorded.casting.mold.name })
        }
        Ok(recorded) => Ok(Some(recorded)),
        Err(RecordError::Io { source, .. }) if source.kind() == std::io::ErrorKind::NotFound => Ok(None),
        Err(error) => Err(error.into()),
    }
}

/// Returns a name beside `path` where nothing is.
pub(crate) fn free_name(folder: &Path, path: &str) -> String {
    names::candidates(path, BESIDE)
        .find(|name| fs::symlink_metadata(folder.join(name)).is_err())
        .unwrap_or_default()
}
