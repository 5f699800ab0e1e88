//! Writes a fit into the project: new files, changed files and the record, all or none.

use super::fitting::Fitting;
use super::splice;
use crate::plan::EntryKind;
use crate::record::{self, CASTING, CastingMold, DIGESTS, Fitted, FittedChange, Recorded, answered};
use crate::write::{
    Change, Choice, Inspection, Item, Journals, LockedFolder, MoreLines, Observer, Selection, Staging,
    WriteError, WriteSummary, select, stage, stage_record,
};
use std::collections::BTreeMap;
use std::io::{Read, Write};
use tinmold_platform::digest::{Digest, digest_of};
use tinmold_platform::root_dir::{Cursor, RootDir};

/// The result of a fit.
#[derive(Clone, Debug, Default)]
pub struct Fit {
    /// The new files.
    pub written: WriteSummary,
    /// The paths of the files that were added.
    pub added: Vec<String>,
    /// The paths of the files that were changed.
    pub changed: Vec<String>,
}

impl Fit {
    /// Returns true if nothing was changed.
    #[must_use]
    pub fn is_nothing(&self) -> bool {
        self.added.is_empty() && self.changed.is_empty()
    }
}

impl Fitting<'_> {
    /// Writes the fit into the inspected project, and into its record if it has one. `choices`
    /// decide about the conflicts of the inspection, in their order.
    ///
    /// # Errors
    /// Conflicts without a choice, what changed meanwhile, and what the system refuses. The project
    /// is then as it was.
    pub fn write(
        &self,
        inspection: &Inspection,
        choices: &[Choice],
        recorded: Option<&Recorded>,
        journals: &Journals,
        observer: &dyn Observer,
    ) -> Result<Fit, WriteError> {
        let locked = LockedFolder::lock(&inspection.folder)?;
        let root = locked.root();
        inspection.check_same(root)?;
        let recorded = match recorded {
            // The record may have changed during the questions.
            Some(_) => Some(record::open(root.path())?),
            None => None,
        };
        let more = MoreLines::new(&self.plan, inspection, choices, &self.changes, root)?;
        let Selection { items, digests, summary: mut written, mut expected } =
            select(&self.plan, inspection, choices)?;
        let mut fit = Fit {
            changed: self.changes.iter().map(|change| change.path.clone()).collect(),
            ..Fit::default()
        };
        let paths: Vec<String> = items
            .iter()
            .filter(|item| item.entry.kind != EntryKind::Folder)
            .map(|item| item.path.to_string())
            .collect();
        fit.added = paths.iter().filter(|path| !written.replaced.contains(path)).cloned().collect();
        fit.changed.extend(written.replaced.iter().cloned());
        fit.changed.sort();
        if fit.is_nothing() {
            fit.written = written;
            return Ok(fit);
        }
        let mut bytes = 0;
        expected.extend(self.changes.iter().map(Change::expected));
        locked.apply(journals, observer, |new_files| {
            let staged = stage(&self.plan, &items, new_files, observer)?;
            bytes = staged.bytes;
            for change in &self.changes {
                stage_change(change, root, new_files)?;
            }
            let mut staging = Staging {
                files: paths.clone(),
                folders: items
                    .iter()
                    .filter(|item| item.entry.kind == EntryKind::Folder)
                    .map(|item| item.path.to_string())
                    .collect(),
                expected,
                ..Staging::default()
            };
            staging.files.extend(self.changes.iter().map(|change| change.path.clone()));
            more.stage(new_files, &mut staging.files, &mut staging.expected)?;
            if let Some(recorded) = recorded {
                let fitted =
                    self.recording(&recorded, root, new_files, &items, &staged.digests, &written.replaced)?;
                let recorded = fitted.into_record(recorded, &digests, &self.changes);
                stage_record(&recorded.casting, |file| recorded.write_list(file), new_files)?;
                staging.files.extend([DIGESTS, CASTING].map(str::to_owned));
            }
            Ok(staging)
        })?;
        written.bytes = bytes;
        fit.written = written;
        Ok(fit)
    }

    /// Returns the part as the record will have it, with its new and changed files.
    fn recording(
        &self,
        recorded: &Recorded,
        root: &RootDir,
        new_files: &RootDir,
        items: &[Item<'_>],
        digests: &[Option<Digest>],
        replaced: &[String],
    ) -> Result<Recording, WriteError> {
        let mut fitted = self.fitted(recorded)?;
        for (item, digest) in items.iter().zip(digests) {
            let path = item.path.to_string();
            match &item.entry.kind {
                _ if replaced.contains(&path) => {
                    fitted.replaced(root, new_files, &path, recorded.digests.contains_key(&path))?;
                }
                EntryKind::Link(target) => {
                    fitted.part.files.insert(path, format!("link {target}"));
                }
                EntryKind::Folder => {}
                _ => fitted.part.files.extend(digest.map(|digest| (path, digest.to_string()))),
            }
        }
        self.changes.iter().for_each(|change| fitted.changed(change));
        Ok(fitted)
    }

    /// Returns the part as the record will have it, with nothing done yet.
    fn fitted(&self, recorded: &Recorded) -> Result<Recording, WriteError> {
        let mold = &self.part.mold;
        let other = mold.name() != recorded.casting.mold.name;
        let from = match other {
            true => {
                let digest = mold.package.digest()?;
                Some(CastingMold::of(mold, digest, &recorded.root))
            }
            false => None,
        };
        let answers = answered(mold, &self.plan.answers);
        let part = Fitted {
            name: self.part.name.clone(),
            today: self.plan.answers.built_ins.today.clone(),
            mold: from,
            answers,
            files: BTreeMap::new(),
            change: Vec::new(),
        };
        Ok(Recording { part })
    }
}

/// The entry of the record for a fit, while it is made.
struct Recording {
    part: Fitted,
}

impl Recording {
    fn changed(&mut self, change: &Change) {
        self.part.change.push(FittedChange {
            path: change.path.clone(),
            was: digest_of(change.before.as_bytes()).to_string(),
            now: digest_of(change.after.as_bytes()).to_string(),
            foreign: false,
            back: splice::between(&change.after, &change.before),
        });
    }

    /// Keeps the content of a replaced file, if it is text.
    fn replaced(
        &mut self,
        root: &RootDir,
        new_files: &RootDir,
        path: &str,
        is_recorded: bool,
    ) -> Result<(), WriteError> {
        let read = |at: &RootDir| {
            let mut bytes = Vec::new();
            let read = at.open_file(path).and_then(|mut file| file.read_to_end(&mut bytes));
            read.map(|_| bytes).map_err(WriteError::at("read", at, path))
        };
        let (before, after) = (read(root)?, read(new_files)?);
        let (was, now) = (digest_of(&before).to_string(), digest_of(&after).to_string());
        let back = match (String::from_utf8(before), String::from_utf8(after)) {
            (Ok(before), Ok(after)) => splice::between(&after, &before),
            _ => Vec::new(),
        };
        self.part.change.push(FittedChange { path: path.to_owned(), was, now, foreign: !is_recorded, back });
        Ok(())
    }

    /// Returns the record with the part added; merged with an earlier fit with the same answers.
    fn into_record(self, recorded: Recorded, new: &BTreeMap<String, Digest>, changes: &[Change]) -> Recorded {
        let Recorded { root, mut casting, mut digests } = recorded;
        let mut part = self.part;
        if let Some(at) = casting.part.iter().position(|other| part.is_again(other)) {
            let mut earlier = casting.part.remove(at);
            earlier.files.append(&mut part.files);
            earlier.change.append(&mut part.change);
            part = Fitted { today: part.today, ..earlier };
        }
        for (path, was) in &part.files {
            if let Some(target) = was.strip_prefix("link ") {
                casting.links.insert(path.clone(), target.to_owned());
            }
        }
        casting.part.push(part);
        digests.extend(new.iter().map(|(path, digest)| (path.clone(), *digest)));
        changes.iter().for_each(|change| change.enter(&mut digests));
        Recorded { root, casting, digests }
    }
}

impl Fitted {
    /// Returns true for the same part with the same answers.
    pub(super) fn is_again(&self, other: &Self) -> bool {
        let mold = |fitted: &Self| fitted.mold.as_ref().map(|mold| mold.name.clone());
        self.name == other.name && mold(self) == mold(other) && self.answers == other.answers
    }
}

/// Writes the changed file as it will be, with the permissions that it has.
pub(super) fn stage_change(change: &Change, root: &RootDir, new_files: &RootDir) -> Result<(), WriteError> {
    let path = change.path.as_str();
    let write = || {
        let mode = root.find(path)?.map_or(0o644, |found| found.mode);
        let mut file = Cursor::new(new_files).create(path, 0o600)?;
        file.write_all(change.after.as_bytes())?;
        new_files.set_mode(path, mode)
    };
    write().map_err(WriteError::at("write", new_files, path))
}
