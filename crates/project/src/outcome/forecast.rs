//! What comes out, computed again only where an answer changes it.

use super::file::{FileKind, Outcome, OutcomeFile, Preview};
use super::footprint::{Footprint, Prints};
use crate::answers::Answers;
use crate::plan::{Entry, EntryKind, Limits, Plan, PlanError, Rendered};
use std::collections::HashMap;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::{Arc, Mutex, PoisonError};
use tinmold_mold::{Mold, PackageError};
use tinmold_notation::{NameId, Trace};

/// The most results that are remembered.
const MOST_KNOWN: usize = 200_000;

/// Tells what a cast of a mold writes, for one set of answers after another.
///
/// A file is rendered again only if the value of a name that it uses is one that it was not rendered with
/// before. A forecast can be asked by several threads.
#[derive(Debug)]
pub struct Forecast<'m> {
    mold: &'m Mold,
    limits: Limits,
    footprints: Vec<Footprint>,
    known: Mutex<Known>,
}

/// By file of the body and the values that matter to it: what comes out.
type Known = HashMap<(usize, u64), Arc<[OutcomeFile]>>;
/// The rendered entries of one file of the body.
type Group = Vec<OutcomeFile>;

impl<'m> Forecast<'m> {
    /// Compiles the body to learn which names each file uses.
    #[must_use]
    pub fn new(mold: &'m Mold, limits: Limits) -> Self {
        Self { mold, limits, footprints: Footprint::all(mold), known: Mutex::default() }
    }

    /// Returns what comes out for these answers; `None` if `is_cancelled` returned true meanwhile.
    ///
    /// # Errors
    /// What [`Plan::new`] and [`Plan::render`] return.
    pub fn outcome(
        &self,
        answers: &Answers,
        is_cancelled: &(dyn Fn() -> bool + Sync),
    ) -> Result<Option<Outcome>, PlanError> {
        let prints = Prints::of(&answers.values);
        let keys: Vec<u64> = self.footprints.iter().map(|footprint| footprint.key(&prints)).collect();
        let (mut groups, mut missing) = (Vec::with_capacity(keys.len()), Vec::new());
        {
            let known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
            for key in keys.iter().copied().enumerate() {
                groups.push(known.get(&key).cloned());
                if groups.last().is_some_and(Option::is_none) {
                    missing.push(key.0);
                }
            }
        }
        if !missing.is_empty() {
            let Some(mut made) = self.rendered(answers, &missing, is_cancelled)? else { return Ok(None) };
            let mut known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
            if known.len() + missing.len() > MOST_KNOWN {
                known.clear();
            }
            for at in missing {
                let group: Arc<[OutcomeFile]> = made.remove(&at).unwrap_or_default().into();
                known.insert((at, keys[at]), Arc::clone(&group));
                groups[at] = Some(group);
            }
        }
        Ok(Some(Outcome { groups: groups.into_iter().flatten().collect() }))
    }

    /// Renders these files of the body; `None` if that was cancelled.
    fn rendered(
        &self,
        answers: &Answers,
        files: &[usize],
        is_cancelled: &(dyn Fn() -> bool + Sync),
    ) -> Result<Option<HashMap<usize, Group>>, PlanError> {
        let plan = Plan::of_files(self.mold, answers, &self.limits, files.iter().copied())?;
        let files = plan.map_rendered(|entry, rendered, bytes| match is_cancelled() {
            true => Ok(None),
            false => Ok(Some(file(&plan, entry, rendered, bytes)?)),
        })?;
        let mut groups = HashMap::<_, Group>::new();
        for (entry, file) in plan.entries.iter().zip(files) {
            let Some(file) = file else { return Ok(None) };
            groups.entry(entry.body).or_default().push(file);
        }
        Ok(Some(groups))
    }

    /// Calls `look` with the plan and the entry of the file at `path`; `None` if there is none.
    fn entry<T>(
        &self,
        answers: &Answers,
        outcome: &Outcome,
        path: &str,
        look: impl FnOnce(&Plan<'m>, &Entry<'m>) -> Result<T, PlanError>,
    ) -> Result<Option<T>, PlanError> {
        let found = outcome.groups.iter().position(|group| group.iter().any(|file| file.path == path));
        let Some(at) = found else { return Ok(None) };
        let plan = Plan::of_files(self.mold, answers, &self.limits, [at])?;
        let entry = plan.entries.iter().find(|entry| entry.path == path);
        entry.map(|entry| look(&plan, entry)).transpose()
    }

    /// Returns the content of the file at `path` for these answers; `None` if there is none.
    ///
    /// # Errors
    /// What [`Plan::new`] and [`Plan::render`] return.
    pub fn preview(
        &self,
        answers: &Answers,
        outcome: &Outcome,
        path: &str,
    ) -> Result<Option<Preview>, PlanError> {
        self.entry(answers, outcome, path, preview)
    }

    /// Returns where the text of the file at `path` comes from; `None` if it is not rendered.
    ///
    /// # Errors
    /// What [`Plan::new`] returns.
    pub fn trace(
        &self,
        answers: &Answers,
        outcome: &Outcome,
        path: &str,
    ) -> Result<Option<Trace>, PlanError> {
        Ok(self.entry(answers, outcome, path, |plan, entry| Ok(plan.trace(entry)))?.flatten())
    }

    /// Returns the files, by path, whose place or content may depend on one of these names.
    #[must_use]
    pub fn using(&self, outcome: &Outcome, names: &[NameId]) -> Vec<String> {
        let groups = self.footprints.iter().zip(&outcome.groups);
        let using = groups.filter(|(footprint, _)| footprint.uses(names));
        let files = using.flat_map(|(_, group)| group.iter()).filter(|file| file.kind == FileKind::File);
        let mut paths: Vec<String> = files.map(|file| file.path.clone()).collect();
        paths.sort_unstable();
        paths
    }
}

/// Returns the content of an entry.
pub(super) fn preview(plan: &Plan<'_>, entry: &Entry<'_>) -> Result<Preview, PlanError> {
    if matches!(entry.kind, EntryKind::Folder | EntryKind::Link(_)) {
        return Ok(Preview::default());
    }
    Ok(Preview { text: String::from_utf8(plan.content(entry)?).ok(), before: None })
}

/// Returns an entry as it comes out.
pub(super) fn file(
    plan: &Plan<'_>,
    entry: &Entry<'_>,
    rendered: &Rendered,
    bytes: &[u8],
) -> Result<OutcomeFile, PackageError> {
    let mut hasher = DefaultHasher::new();
    plan.mode(entry).hash(&mut hasher);
    let source = &plan.mold.package.files[plan.body(entry).file];
    let (mut length, mut lines) = (0, None);
    let kind = match (entry.kind, rendered) {
        (EntryKind::Folder, _) => FileKind::Folder,
        (EntryKind::Link(target), _) => {
            target.hash(&mut hasher);
            FileKind::Link
        }
        (_, Rendered::Bytes) => {
            bytes.hash(&mut hasher);
            length = bytes.len() as u64;
            lines = std::str::from_utf8(bytes).ok().map(|text| text.lines().count());
            FileKind::File
        }
        (_, Rendered::AsIs) => {
            source.digest()?.to_string().hash(&mut hasher);
            length = source.len();
            FileKind::File
        }
    };
    Ok(OutcomeFile { path: entry.path.to_string(), kind, bytes: length, lines, print: hasher.finish() })
}
