//! Approved outputs: `proofs/NAME/answers.toml` with the tree that must come out beside it, in `tree/`.
//!
//! The date, the user and secrets are always the same there, so that only the mold makes a difference.

use crate::sets::{AnswerSet, session};
use std::collections::BTreeMap;
use std::fs;
use std::io;
use std::path::Path;
use tinmold_mold::{Mold, codes};
use tinmold_notation::{Finding, Span};
use tinmold_project::plan::{Entry, EntryKind, Limits, Plan, PlanError};
use tinmold_project::verify::VerifiedPlan;

/// Something that comes out otherwise than it was approved.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Difference {
    /// The name of the approved output.
    pub name: String,
    /// The path in the project.
    pub path: String,
    /// How it differs.
    pub kind: DifferenceKind,
}

/// How an output differs from the approved one.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum DifferenceKind {
    /// It was approved, and does not come out.
    Missing,
    /// It comes out, and was not approved.
    New,
    /// Its content differs.
    Changed {
        /// The first line that differs, from 1; `None` if it is not text.
        line: Option<usize>,
        /// That line as it was approved.
        was: String,
        /// That line as it comes out.
        is: String,
        /// The place in the body that it comes from.
        place: Option<(String, Span)>,
    },
}

/// Compares every approved output of a mold with what comes out now.
///
/// # Errors
/// The mistakes of the mold that its answers show.
pub fn differences(
    mold: &Mold,
    name: &str,
    set: &AnswerSet,
    limits: &Limits,
) -> Result<Vec<Difference>, Vec<Finding>> {
    let plan = plan(mold, set, limits)?;
    let mut approved = tree(mold, name);
    let mut found = Vec::new();
    let mut add = |path: &str, kind| {
        found.push(Difference { name: name.to_owned(), path: path.to_owned(), kind });
    };
    for entry in &plan.entries {
        let Some(content) = content(&plan, entry)? else { continue };
        match approved.remove(&*entry.path) {
            None => add(&entry.path, DifferenceKind::New),
            Some(was) if was == content => {}
            Some(was) => add(&entry.path, changed(&plan, entry, &was, &content)),
        }
    }
    for path in approved.keys() {
        add(path, DifferenceKind::Missing);
    }
    found.sort_by(|a, b| a.path.cmp(&b.path));
    Ok(found)
}

/// Writes what comes out now as approved into the mold in `folder`, and returns the number of files.
///
/// # Errors
/// The mistakes of the mold that its answers show, and what the system refuses.
pub fn approve(
    mold: &Mold,
    folder: &Path,
    name: &str,
    set: &AnswerSet,
    limits: &Limits,
) -> Result<io::Result<usize>, Vec<Finding>> {
    let plan = plan(mold, set, limits)?;
    let mut files = BTreeMap::new();
    for entry in &plan.entries {
        files.extend(content(&plan, entry)?.map(|content| (entry.path.to_string(), content)));
    }
    let root = folder.join("proofs").join(name).join("tree");
    let write = || {
        match fs::remove_dir_all(&root) {
            Err(error) if error.kind() != io::ErrorKind::NotFound => return Err(error),
            _ => fs::create_dir_all(&root)?,
        }
        for (path, content) in &files {
            let path = root.join(path);
            fs::create_dir_all(path.parent().unwrap_or(&root))?;
            fs::write(path, content)?;
        }
        Ok(files.len())
    };
    Ok(write())
}

fn plan<'m>(mold: &'m Mold, set: &AnswerSet, limits: &Limits) -> Result<VerifiedPlan<'m>, Vec<Finding>> {
    let refused = |message: String| {
        let help = "mend the answers in proofs/, or the mold";
        vec![Finding::new("mold.toml", Span::default(), codes::BAD_VALUE, message, help)]
    };
    let session = session(mold, set).map_err(|finding| vec![finding])?;
    if let Some(problem) = session.problems().first() {
        return Err(refused(format!(
            "the answer to `{}` is refused: {}",
            problem.key, problem.refusal.reason
        )));
    }
    let mut answers = session.preview();
    let folder = mold.folder_name(&answers.values).map_err(|finding| vec![finding])?;
    answers.set_folder(mold, &folder);
    let plan = Plan::new(mold, &answers, limits).map_err(of_plan)?;
    plan.verify().map_err(|error| refused(error.to_string()))
}

fn of_plan(error: PlanError) -> Vec<Finding> {
    match error {
        PlanError::Faulty(found) => found,
        PlanError::Package(error) => {
            vec![Finding::new("mold.toml", Span::default(), codes::UNREADABLE_FILE, error.to_string(), "")]
        }
    }
}

/// Returns the bytes of a file, or the target of a link; `None` for an empty directory.
fn content(plan: &Plan<'_>, entry: &Entry<'_>) -> Result<Option<Vec<u8>>, Vec<Finding>> {
    match entry.kind {
        EntryKind::Folder => Ok(None),
        EntryKind::Link(target) => Ok(Some(format!("link to {target}\n").into_bytes())),
        _ => plan.content(entry).map(Some).map_err(of_plan),
    }
}

/// Returns the approved files, by path.
fn tree(mold: &Mold, name: &str) -> BTreeMap<String, Vec<u8>> {
    let prefix = format!("proofs/{name}/tree/");
    let files = mold.package.files.iter().filter_map(|file| {
        let path = file.path.strip_prefix(&prefix)?;
        Some((path.to_owned(), file.read().ok()?.into_owned()))
    });
    files.collect()
}

fn changed(plan: &Plan<'_>, entry: &Entry<'_>, was: &[u8], is: &[u8]) -> DifferenceKind {
    let (Ok(was), Ok(is)) = (std::str::from_utf8(was), std::str::from_utf8(is)) else {
        return DifferenceKind::Changed { line: None, was: String::new(), is: String::new(), place: None };
    };
    let same = was.split_inclusive('\n').zip(is.split_inclusive('\n')).take_while(|(a, b)| a == b).count();
    let line = |text: &str| text.lines().nth(same).unwrap_or("").to_owned();
    let start: usize = is.split_inclusive('\n').take(same).map(str::len).sum();
    let at = start.min(is.len().saturating_sub(1));
    let file = plan.mold.path_of(plan.body(entry)).to_owned();
    let place = plan.origin(entry, at).map(|span| (file, span));
    DifferenceKind::Changed { line: Some(same + 1), was: line(was), is: line(is), place }
}
