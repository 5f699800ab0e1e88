//! Asking the questions of a mold in plain lines, and the review until the user decides.

use super::answer_sources::missing;
use crate::exit::Exit;
use crate::failure::Failure;
use crate::stop::Stop;
use crate::text::style::safe;
use crate::ui::{Dialogue, Reply, ReviewAction, ReviewView};
use tinmold_notation::Finding;
use tinmold_project::answers::{Answers, Problem, Session};
use tinmold_project::steps::StepChoice;

/// A draft of a write, prepared from the answers so far.
pub trait Draft {
    /// Returns what the review shows; `None` if there is nothing to do and nothing to ask.
    fn view(&self, session: &Session<'_>) -> Option<ReviewView<'_>>;
    /// Returns the steps that can be ticked.
    fn steps(&mut self) -> Option<&mut StepChoice>;
}

/// Asks every open question, then shows the review until the user decides to write. Returns the
/// approved draft.
pub fn interview<D: Draft>(
    session: &mut Session<'_>,
    mut prepare: impl FnMut(&mut Session<'_>, Option<&[String]>) -> Result<D, Failure>,
) -> Result<D, Stop> {
    let mut ticked: Option<Vec<String>> = None;
    loop {
        ask_all(session)?;
        let mut draft = prepare(session, ticked.as_deref())?;
        let action = match draft.view(session) {
            Some(view) => Dialogue.review(session, &view).map_err(at_confirmation)?,
            None => ReviewAction::Write,
        };
        match action {
            ReviewAction::Write => return Ok(draft),
            ReviewAction::Leave => return Err(Stop::Left),
            ReviewAction::Steps => {
                if let Some(steps) = draft.steps()
                    && Dialogue.steps(steps)?
                {
                    ticked = Some(steps.names());
                }
            }
            ReviewAction::Change(at) => {
                if let Reply::Answer(value) = Dialogue.ask(session, at)? {
                    session.answer(at, value).map_err(|finding| faulty(session, finding))?;
                }
            }
            ReviewAction::Details => session.ask_details(true),
        }
    }
}

/// Says so if the input ended where the write was to be confirmed.
fn at_confirmation(stop: Stop) -> Stop {
    stop.or_missing(|| {
        let message = "the input ended where the write is confirmed; nothing was written";
        Failure::new(Exit::Missing, message).help("answer yes there, or add --unattended, which asks nothing")
    })
}

/// Asks every question that is open, back and forth.
pub fn ask_all(session: &mut Session<'_>) -> Result<(), Stop> {
    while let Some(mut at) = session.next() {
        loop {
            let reply = Dialogue.ask(session, at).map_err(|stop| {
                stop.or_missing(|| missing(session, &session.unanswered().collect::<Vec<_>>(), false))
            })?;
            match reply {
                Reply::Answer(value) => {
                    session.answer(at, value).map_err(|finding| faulty(session, finding))?;
                    break;
                }
                Reply::Back => {
                    if let Some(before) = session.before(at) {
                        session.reopen(before);
                        at = before;
                    }
                }
            }
        }
    }
    Ok(())
}

fn faulty(session: &Session<'_>, finding: Finding) -> Failure {
    Failure::findings(&[finding], &session.mold().package)
}

/// Fails if a question is open and there is no one to ask: with `unattended` only questions without
/// a usable default count.
pub fn require_answers(session: &Session<'_>, unattended: bool) -> Result<(), Failure> {
    let open: Vec<usize> =
        session.unanswered().filter(|at| !unattended || session.resolved()[*at].refusal.is_some()).collect();
    if open.is_empty() { Ok(()) } else { Err(missing(session, &open, unattended)) }
}

/// Ends a session with its answers; fails if one cannot be used.
pub fn final_answers(session: Session<'_>) -> Result<Answers, Failure> {
    session.finish().map_err(|problems| unusable(&problems))
}

/// Fails if an answer cannot be used.
pub fn check_answers(session: &Session<'_>) -> Result<(), Failure> {
    let problems = session.problems();
    if problems.is_empty() { Ok(()) } else { Err(unusable(&problems)) }
}

fn unusable(problems: &[Problem]) -> Failure {
    let failure = Failure::new(Exit::Missing, "some answers cannot be used");
    problems.iter().fold(failure, |failure, problem| {
        failure.line(format!("{}: {}", problem.key, safe(&problem.refusal.to_string())))
    })
}
