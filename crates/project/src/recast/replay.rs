//! The recorded parts, fitted again into the files that a mold makes.

use super::carry::carry;
use super::decision::PartProblem;
use super::tree::{Content, Print, Tree};
use crate::answers::{AnswerSource, Answers, Given, Offers, Session};
use crate::fit::{FitError, Fitting, OnClash, TextProblem};
use crate::plan::Limits;
use crate::record::{Fitted, Recorded, answered};
use crate::write::Change;
use tinmold_mold::{Mold, Part};
use tinmold_platform::digest::digest_of;

/// A recorded part, as a version of its mold has it.
#[derive(Debug)]
pub struct LoadedPart {
    /// The part; or why there is none.
    pub part: Result<Part, PartProblem>,
    /// True if it is of the project's own mold, and sees the answers of the project.
    pub is_own: bool,
}

impl LoadedPart {
    /// Loads the part of a mold that is called so now, or was.
    #[must_use]
    pub fn of(mold: &Mold, name: &str, is_own: bool) -> Self {
        let found = match mold.parts().contains(&name) {
            true => Some(name),
            false => {
                let was =
                    |part: &&str| mold.part(part).is_ok_and(|part| part.was.iter().any(|was| was == name));
                mold.parts().into_iter().find(was)
            }
        };
        let part = found
            .ok_or(PartProblem::Gone)
            .and_then(|name| mold.part(name).map_err(|error| PartProblem::Faulty(error.to_string())));
        Self { part, is_own }
    }
}

/// A part that was fitted again.
#[derive(Debug, Default)]
pub(super) struct Replayed {
    /// Its name now.
    pub(super) name: String,
    /// The answers to its questions, for the record.
    pub(super) answers: toml::Table,
    /// The paths that it makes.
    pub(super) made: Vec<String>,
    /// The files that it changes, before and after it.
    pub(super) changes: Vec<Change>,
    /// The files in which lines or values of it have no place, with the reason.
    pub(super) unplaced: Vec<(String, String)>,
    /// The paths of its files where another file is.
    pub(super) in_the_way: Vec<String>,
}

/// The mold's side, with its parts.
pub(super) struct Theirs<'m> {
    pub(super) tree: Tree<'m>,
    /// By recorded part: how it was fitted; `None` if it is left to the owner.
    pub(super) parts: Vec<PartState>,
}

/// What becomes of a recorded part.
#[derive(Debug)]
pub(super) enum PartState {
    /// It is fitted again.
    Fitted(Replayed),
    /// Its files and lines stay as the owner's, and its record stays.
    Owners,
    /// It goes.
    Gone,
}

/// Fits the recorded parts again, in their order.
pub(super) struct Replay<'a, 'm> {
    pub(super) recorded: &'a Recorded,
    pub(super) parts: &'m [LoadedPart],
    /// The answers of the project.
    pub(super) answers: &'a Answers,
    pub(super) limits: &'a Limits,
    /// Returns true for a part, or a file of it, that is left out.
    pub(super) leaves_out: &'a dyn Fn(usize, Option<&str>) -> bool,
}

impl<'m> Replay<'_, 'm> {
    /// Changes a tree as the parts do. The result has an element for each recorded part.
    ///
    /// # Errors
    /// Mistakes of a part, and what it must not write.
    pub(super) fn run(&self, tree: &mut Tree<'m>) -> Result<Vec<Result<Replayed, PartProblem>>, FitError> {
        let parts = self.recorded.casting.part.iter().zip(self.parts).enumerate();
        parts
            .map(|(nth, (fitted, loaded))| match &loaded.part {
                Ok(part) if !(self.leaves_out)(nth, None) => self.one(nth, fitted, part, loaded.is_own, tree),
                Ok(_) => Ok(Ok(Replayed::default())),
                Err(problem) => Ok(Err(problem.clone())),
            })
            .collect()
    }

    fn one(
        &self,
        nth: usize,
        fitted: &Fitted,
        part: &'m Part,
        is_own: bool,
        tree: &mut Tree<'m>,
    ) -> Result<Result<Replayed, PartProblem>, FitError> {
        let answers = match self.answers_of(part, fitted, is_own)? {
            Ok(answers) => answers,
            Err(problem) => return Ok(Err(problem)),
        };
        let fit = |on_clash| {
            let read = |path: &str| match tree.nodes.get(path).map(|node| node.content.bytes()) {
                None => Ok(Err(TextProblem::Absent)),
                Some(bytes) => match bytes.map_err(crate::plan::PlanError::from)? {
                    None => Ok(Err(TextProblem::NotAFile)),
                    Some(bytes) => {
                        Ok(String::from_utf8(bytes.into_owned()).map_err(|_| TextProblem::NotUtf8))
                    }
                },
            };
            Fitting::new(part, &answers, &read, self.limits, on_clash)
        };
        let mut fitting = match fit(OnClash::Keep) {
            Ok(fitting) => fitting,
            Err(FitError::DoesNotGo { when, .. }) => return Ok(Err(PartProblem::DoesNotGo(when))),
            Err(error) => return Err(error),
        };
        // What was decided about values in the way is not recorded, but what came of it is.
        if !fitting.clashes.is_empty() && !is_recorded(fitted, &fitting) {
            let replaced = fit(OnClash::Replace)?;
            if is_recorded(fitted, &replaced) {
                fitting = replaced;
            }
        }
        let mut replayed = Replayed {
            name: part.name.clone(),
            answers: answered(&part.mold, &answers),
            ..Replayed::default()
        };
        for missing in &fitting.missing {
            replayed.unplaced.push((missing.path.clone(), missing.why.to_string()));
        }
        for (path, node) in Tree::of(&fitting.plan, Some(nth), None)?.nodes {
            match tree.nodes.get(&path) {
                Some(there) if there.print != node.print => {
                    let was_replaced = fitted.change.iter().any(|change| change.path == path);
                    if was_replaced {
                        tree.nodes.insert(path.clone(), node);
                        replayed.made.push(path);
                    } else {
                        replayed.in_the_way.push(path);
                    }
                }
                Some(_) => {}
                None => {
                    tree.nodes.insert(path.clone(), node);
                    replayed.made.push(path);
                }
            }
        }
        for change in fitting.changes {
            if (self.leaves_out)(nth, Some(&change.path)) {
                continue;
            }
            if let Some(node) = tree.nodes.get_mut(&change.path) {
                let print = Print::File(digest_of(change.after.as_bytes()));
                let before = std::mem::replace(&mut node.print, print);
                node.stages.push(before);
                node.content = Content::Bytes(change.after.as_bytes().into());
            }
            replayed.changes.push(change);
        }
        Ok(Ok(replayed))
    }

    /// Returns the answers with which a part is fitted again: the recorded ones, and those of the project.
    fn answers_of(
        &self,
        part: &Part,
        fitted: &Fitted,
        is_own: bool,
    ) -> Result<Result<Answers, PartProblem>, FitError> {
        let mold = &part.mold;
        let carried = carry(mold, &fitted.answers);
        let refused = |key: &str, refusal: String| PartProblem::Answer { key: key.to_owned(), refusal };
        if let Some(gone) = carried.gone.first() {
            return Ok(Err(refused(&gone.key, gone.refusal.to_string())));
        }
        let mut given = carried.given;
        if is_own {
            let project = mold.questions.iter().zip(&self.answers.questions).zip(&mut given);
            for ((question, answer), given) in project {
                if question.from_casting && answer.is_visible() {
                    *given = Some(Given { value: answer.value.clone(), source: AnswerSource::Casting });
                }
            }
        }
        let mut built_ins = self.recorded.casting.built_ins_on(&fitted.today);
        if built_ins.user_email.is_empty() {
            built_ins.user_email.clone_from(&self.answers.built_ins.user_email);
        }
        let folder = &self.recorded.casting.built_in.project_dir;
        let offers = Offers { folder: Some(folder.clone()), ..Offers::default() };
        let mut session = Session::new(mold, given, offers, built_ins)?;
        // No record holds a secret.
        session.leave_secrets();
        if let Some(problem) = session.problems().into_iter().next() {
            return Ok(Err(refused(&problem.key, problem.refusal.to_string())));
        }
        let mut answers = session.preview();
        answers.set_folder(mold, folder);
        Ok(Ok(answers))
    }
}

/// Returns true if a fitting comes out as it was recorded.
fn is_recorded(fitted: &Fitted, fitting: &Fitting<'_>) -> bool {
    let as_recorded = |change: &Change| {
        let now = digest_of(change.after.as_bytes()).to_string();
        let recorded = fitted.change.iter().rfind(|recorded| recorded.path == change.path);
        recorded.is_none_or(|recorded| recorded.now == now)
    };
    fitting.changes.iter().all(as_recorded)
}
