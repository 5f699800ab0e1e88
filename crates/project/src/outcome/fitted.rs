//! What a part would change in a project.

use super::file::{FileKind, Outcome, OutcomeFile, Preview};
use super::forecast::{file, preview};
use crate::fit::Fitting;
use crate::plan::PlanError;
use std::hash::{DefaultHasher, Hash, Hasher};
use tinmold_notation::Trace;

/// Returns the files that a fit adds and changes.
///
/// # Errors
/// What [`crate::plan::Plan::render`] returns.
pub fn outcome_of_fitting(fitting: &Fitting<'_>) -> Result<Outcome, PlanError> {
    let plan = &fitting.plan;
    let mut files = plan.map_rendered(|entry, rendered, bytes| Ok(file(plan, entry, rendered, bytes)?))?;
    files.extend(fitting.changes.iter().map(|change| {
        let mut hasher = DefaultHasher::new();
        change.after.hash(&mut hasher);
        OutcomeFile {
            path: change.path.clone(),
            kind: FileKind::Edited,
            bytes: change.after.len() as u64,
            lines: Some(change.after.lines().count()),
            print: hasher.finish(),
        }
    }));
    Ok(Outcome::new(files))
}

/// Returns the content of a file that a fit adds or changes; `None` if it does neither.
///
/// # Errors
/// What [`crate::plan::Plan::render`] returns.
pub fn preview_of_fitting(fitting: &Fitting<'_>, path: &str) -> Result<Option<Preview>, PlanError> {
    if let Some(change) = fitting.changes.iter().find(|change| change.path == path) {
        let (text, before) = (Some(change.after.clone()), Some(change.before.clone()));
        return Ok(Some(Preview { text, before }));
    }
    let plan = &fitting.plan;
    let Some(entry) = plan.entries.iter().find(|entry| entry.path == path) else { return Ok(None) };
    preview(plan, entry).map(Some)
}

/// Returns where the text of a file that a fit adds comes from; `None` for any other.
#[must_use]
pub fn trace_of_fitting(fitting: &Fitting<'_>, path: &str) -> Option<Trace> {
    let entry = fitting.plan.entries.iter().find(|entry| entry.path == path)?;
    fitting.plan.trace(entry)
}
