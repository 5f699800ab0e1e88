//! Parts tried on what their mold casts: whether their joints and edits fit, whatever was answered.

use super::outcome::finding as of_code;
use super::prose::misspelling;
use super::taken::taken_paths;
use super::trial::{Cast, Known, Trial, of_plan, of_verify};
use super::{Reported, identity};
use crate::sets::{AnswerSet, combinations, given, session, smallest};
use std::collections::HashSet;
use tinmold_grammar::Language;
use tinmold_mold::{Mold, Part, PartEdit, Piece, Snippet, codes};
use tinmold_notation::{Finding, Span};
use tinmold_platform::parallel;
use tinmold_project::answers::{AnswerSource, Answers, Given, Offers, Session};
use tinmold_project::fit::{FitError, Fitting, OnClash, as_cast, joint};
use tinmold_project::plan::PlanError;
use tinmold_project::verify::VerifyError;

/// Fits every part of the mold to what the trials cast.
pub(super) fn findings(known: &Known<'_>, trials: &[Trial<'_>]) -> Vec<Reported> {
    let mold = known.mold;
    let mut found: Vec<Reported> = Vec::new();
    for name in mold.parts() {
        let Ok(part) = mold.part(name) else { continue };
        // Parts for projects of other molds are checked when they are fitted.
        if part.stands_alone() && !part.fits.iter().any(|fits| fits == mold.name()) {
            continue;
        }
        let of_part = rehearsed(known, &part, trials);
        found.extend(parallel::each(&of_part, |reported| with_smallest(known, &part, reported)));
        found.extend(taken_paths(known, &part, trials));
    }
    found
}

/// Returns a finding with the smallest answers of the project that show it.
fn with_smallest(known: &Known<'_>, part: &Part, reported: &Reported) -> Reported {
    let (Some(set), Some((_, fit))) = (&reported.answers, &reported.part) else { return reported.clone() };
    let again = |set: &AnswerSet| {
        let trial = Trial::new(known, set.clone());
        let cast = trial.cast.as_ref()?;
        let found = match answered(known.mold, part, set, fit) {
            Ok(answers) => fitted(known, part, cast, &answers?),
            Err(finding) => vec![finding],
        };
        found.into_iter().find(|finding| identity(finding) == identity(&reported.finding))
    };
    let smallest = smallest(set, |set| again(set).is_some());
    let finding = again(&smallest).unwrap_or_else(|| reported.finding.clone());
    Reported { finding, answers: Some(smallest), part: reported.part.clone() }
}

/// Returns every failure once, with the first answers that show it.
fn rehearsed(known: &Known<'_>, part: &Part, trials: &[Trial<'_>]) -> Vec<Reported> {
    let mold = known.mold;
    let fits = match combinations(&part.mold, 2) {
        Ok(fits) => fits,
        Err(finding) => return vec![finding.into()],
    };
    let first = trials.iter().position(|trial| trial.cast.is_some());
    let numbered: Vec<(usize, &Trial<'_>)> = trials.iter().enumerate().collect();
    let all = parallel::each(&numbered, |(at, trial)| {
        let Some(cast) = &trial.cast else { return Vec::new() };
        // Every set of answers of the part is tried on the first project, and one on every other.
        let tried = fits.iter().take(if Some(*at) == first { fits.len() } else { 1 });
        let of_fit = |fit: &AnswerSet| {
            let found = match answered(mold, part, &trial.set, fit) {
                Ok(Some(answers)) => fitted(known, part, cast, &answers),
                Ok(None) => Vec::new(),
                Err(finding) => vec![finding],
            };
            let part = Some((part.name.clone(), fit.clone()));
            let of = |finding| Reported { finding, answers: Some(trial.set.clone()), part: part.clone() };
            found.into_iter().map(of).collect::<Vec<_>>()
        };
        tried.flat_map(of_fit).collect()
    });
    let mut seen = HashSet::new();
    all.into_iter().flatten().filter(|reported| seen.insert(identity(&reported.finding))).collect()
}

/// Returns the answers to a part in a project; `None` if it does not take them together.
pub(crate) fn answered(
    mold: &Mold,
    part: &Part,
    casting: &AnswerSet,
    fit: &AnswerSet,
) -> Result<Option<Answers>, Finding> {
    let mut all = given(&part.mold, fit);
    if !part.stands_alone() {
        let settled = session(mold, casting)?;
        for (at, resolved) in settled.resolved().iter().enumerate().filter(|(_, it)| it.is_visible()) {
            if !mold.questions[at].is_secret() {
                all[at] = Some(Given { value: resolved.value.clone(), source: AnswerSource::Casting });
            }
        }
    }
    let session = part_session(part, all)?;
    if !session.problems().is_empty() {
        return Ok(None);
    }
    let mut answers = session.preview();
    answers.set_folder(&part.mold, "sample");
    Ok(Some(answers))
}

pub(super) fn part_session(part: &Part, given: Vec<Option<Given>>) -> Result<Session<'_>, Finding> {
    let offers = Offers { folder: Some("sample".into()), ..Offers::default() };
    Session::new(&part.mold, given, offers, crate::sets::built_ins())
}

/// Returns what goes wrong when a part is fitted to a project.
fn fitted(known: &Known<'_>, part: &Part, cast: &Cast<'_>, answers: &Answers) -> Vec<Finding> {
    let texts = as_cast(&cast.plan);
    let fitting = match Fitting::new(part, answers, &texts, &known.limits, OnClash::Ask) {
        Ok(fitting) => fitting,
        Err(FitError::DoesNotGo { .. }) => return Vec::new(),
        Err(FitError::Plan(error)) => return of_plan(error),
        Err(FitError::Verify(error @ VerifyError::Unsafe(_))) => return of_verify(&part.mold, error),
        Err(FitError::Verify(VerifyError::Faulty(found))) => return found,
        Err(other) => {
            let file = format!("{}part.toml", part.mold.home);
            return vec![Finding::new(file, Span::default(), codes::BAD_PART, other.to_string(), "")];
        }
    };
    let mut found = misfits(&fitting);
    if let Err(PlanError::Faulty(mistakes)) = fitting.plan.sizes() {
        found.extend(mistakes);
    }
    found.extend(broken_code(part, &fitting));
    found.extend(commas(part, cast, answers));
    found.extend(part.edits.iter().filter_map(|edit| new_table(part, edit, cast, answers)));
    found
}

/// Returns the lines and edits that a project has no room for.
fn misfits(fitting: &Fitting<'_>) -> Vec<Finding> {
    let missing = fitting.missing.iter().map(|missing| {
        let code = if missing.joint.is_some() { codes::BAD_JOINT } else { codes::BAD_EDIT };
        let help = match &missing.joint {
            Some(name) => {
                let label = joint::label(name);
                format!("cast the file with a comment line `{label}`, or give the part a `when`")
            }
            None => "cast a file that this goes with, or give the part a `when`".to_owned(),
        };
        let message = format!("{} {}", missing.path, missing.why);
        Finding::new(missing.at.0.clone(), missing.at.1, code, message, help)
    });
    let clashes = fitting.clashes.iter().map(|clash| {
        let what = &clash.what;
        let message = format!(
            "{} has {} at {} already, and the part wants {}",
            clash.path, what.there, what.place, what.wanted
        );
        let help = "what the mold casts must not be in the way of its parts";
        Finding::new(clash.at.0.clone(), clash.at.1, codes::BAD_EDIT, message, help)
    });
    missing.chain(clashes).collect()
}

/// Returns the sources that a part adds or changes so that their language cannot read them.
fn broken_code(part: &Part, fitting: &Fitting<'_>) -> Vec<Finding> {
    let mut found = Vec::new();
    let code = |path: &str| {
        let language = Language::of_path(path)?;
        (!matches!(language, Language::Json | Language::Toml | Language::Yaml)).then_some(language)
    };
    for entry in &fitting.plan.entries {
        let (Some(language), Ok(bytes)) = (code(&entry.path), fitting.plan.content(entry)) else { continue };
        let Ok(text) = String::from_utf8(bytes) else { continue };
        let Some(mistake) = tinmold_grammar::mistake(language, &text) else { continue };
        let at = mistake.at.min(text.len().saturating_sub(1));
        let span = fitting.plan.origin(entry, at).unwrap_or_default();
        let file = part.mold.path_of(fitting.plan.body(entry));
        found.push(of_code(&entry.path, file, span, language, &text, &mistake));
    }
    for change in &fitting.changes {
        let Some(language) = code(&change.path) else { continue };
        if tinmold_grammar::mistake(language, &change.before).is_some() {
            continue;
        }
        let Some(mistake) = tinmold_grammar::mistake(language, &change.after) else { continue };
        let at = part.joints.iter().find(|joint| {
            joint
                .file
                .render(&part.mold.scope, &fitting.plan.answers.values)
                .is_ok_and(|path| path == change.path)
        });
        let (file, span) = match at {
            Some(joint) => (joint.file.file().to_string(), joint.file.span()),
            None => (format!("{}part.toml", part.mold.home), Span::default()),
        };
        found.push(of_code(&change.path, &file, span, language, &change.after, &mistake));
    }
    found
}

/// Returns the lines before a joint that lack the comma with which the lines of the part end.
fn commas(part: &Part, cast: &Cast<'_>, answers: &Answers) -> Vec<Finding> {
    let mut found = Vec::new();
    let scope = &part.mold.scope;
    let applies = |when: &Snippet| when.holds(scope, &answers.values).unwrap_or(false);
    for put in part.joints.iter().filter(|put| put.when.as_ref().is_none_or(applies)) {
        let lines: Vec<String> =
            put.lines.iter().filter_map(|line| line.render(scope, &answers.values).ok()).collect();
        let all_end = !lines.is_empty() && lines.iter().all(|block| block.trim_end().ends_with(','));
        let Ok(path) = put.file.render(scope, &answers.values) else { continue };
        let Some(entry) = cast.plan.entries.iter().find(|entry| entry.path == path).filter(|_| all_end)
        else {
            continue;
        };
        let text = cast.plan.content(entry).ok().and_then(|bytes| String::from_utf8(bytes).ok());
        let Some(text) = text else { continue };
        let Some(number) = joint::places(&text, &put.name).first().copied() else { continue };
        let before =
            text.lines().take(number - 1).enumerate().filter(|(_, line)| !line.trim().is_empty()).last();
        let Some((row, line)) = before else { continue };
        let code = line.split("//").next().unwrap_or("").trim_end();
        if code.is_empty()
            || code.ends_with([',', '(', '[', '{', '}', ';', '>', '#', '/'])
            || code.trim().starts_with(['#', '*'])
        {
            continue;
        }
        let start: usize = text.split_inclusive('\n').take(row).map(str::len).sum();
        let at = start + code.len() - 1;
        let message =
            format!("{path} has no comma here, and the lines that `{}` puts below end with one", part.name);
        let help = "end the line with a comma: what the part puts in follows it";
        let file = cast.plan.mold.path_of(cast.plan.body(entry));
        let span = cast.plan.origin(entry, at).unwrap_or_default();
        found.push(Finding::new(file, span, codes::MISSING_COMMA, message, help));
    }
    found
}

/// Returns an edit that makes a table whose name is nearly that of one that is there.
fn new_table(part: &Part, edit: &PartEdit, cast: &Cast<'_>, answers: &Answers) -> Option<Finding> {
    let scope = &part.mold.scope;
    let path = edit.file.render(scope, &answers.values).ok()?;
    if let Some(when) = &edit.when
        && !when.holds(scope, &answers.values).ok()?
    {
        return None;
    }
    let entry = cast.plan.entries.iter().find(|entry| entry.path == path)?;
    let text = String::from_utf8(cast.plan.content(entry).ok()?).ok()?;
    let root = tree(&path, &text)?;
    for piece in [&edit.set, &edit.add].into_iter().flatten() {
        if let Some((key, near, span)) = misspelt(part, piece, &root, answers) {
            let message = format!("this makes a new table `{key}` in {path}, which has `{near}`");
            let help = format!("did you mean `{near}`?");
            return Some(Finding::new(edit.file.file().clone(), span, codes::NEW_TABLE, message, help));
        }
    }
    None
}

/// Reads a structured file as JSON.
fn tree(path: &str, text: &str) -> Option<serde_json::Value> {
    if path.ends_with(".toml") {
        let value: toml::Value = toml::from_str(text).ok()?;
        return serde_json::to_value(value).ok();
    }
    serde_json::from_str(text).ok()
}

/// Returns the first key of a table that is not there, and the key that it nearly is.
fn misspelt(
    part: &Part,
    piece: &Piece,
    there: &serde_json::Value,
    answers: &Answers,
) -> Option<(String, String, Span)> {
    let Piece::Table(entries) = piece else { return None };
    let keys = there.as_object()?;
    for (snippet, inner) in entries {
        let key = snippet.render(&part.mold.scope, &answers.values).ok()?;
        match keys.get(&key) {
            Some(below) => {
                if let Some(found) = misspelt(part, inner, below, answers) {
                    return Some(found);
                }
            }
            None if matches!(inner, Piece::Table(_) | Piece::List(_)) && key.len() > 3 => {
                if let Some(near) = misspelling(&key, keys.keys().map(String::as_str)) {
                    return Some((key, near.to_owned(), snippet.span()));
                }
            }
            None => {}
        }
    }
    None
}
