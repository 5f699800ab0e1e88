//! Parts tried on what their mold casts: whether their joints and edits fit, whatever was answered.

use crate::combinations::combinations;
use std::collections::HashSet;
use tinmold_mold::{Mold, Part, Usage, codes};
use tinmold_notation::{Finding, Span, sort_findings};
use tinmold_project::answers::{AnswerSource, Answers, BuiltIns, Given, Offers, Session, parse_text};
use tinmold_project::fit::{FitError, Fitting, OnClash, as_cast, joint};
use tinmold_project::plan::{Limits, Plan, PlanError};
use tinmold_project::verify::{VerifiedPlan, VerifyError};
use tinmold_project::write::cover;

/// Checks a mold with its parts: all of [`Mold::check`], and every part on projects in which every
/// two choices of the mold meet.
#[must_use]
pub fn check(mold: &Mold) -> Usage {
    let mut usage = mold.check();
    if usage.findings.iter().any(Finding::is_error) {
        return usage;
    }
    usage.findings.extend(uncovered(mold).unwrap_or_else(|finding| vec![finding]));
    let mut seen = HashSet::new();
    for name in mold.parts() {
        let Ok(part) = mold.part(name) else { continue };
        // Parts for projects of other molds are checked when they are fitted.
        if part.stands_alone() && !part.fits.iter().any(|fits| fits == mold.name()) {
            continue;
        }
        let found = rehearsed(mold, &part).unwrap_or_else(|finding| vec![finding]);
        let is_new = |finding: &Finding| seen.insert((finding.file.clone(), finding.span, finding.code));
        usage.findings.extend(found.into_iter().filter(is_new));
    }
    sort_findings(&mut usage.findings);
    usage
}

type Set = Vec<(String, String)>;

/// Returns the local files that the mold does not keep out of git and images, for any two choices.
fn uncovered(mold: &Mold) -> Result<Vec<Finding>, Finding> {
    if !mold.body.iter().any(|file| file.local) {
        return Ok(Vec::new());
    }
    let mut findings: Vec<Finding> = Vec::new();
    for set in combinations(mold, &built_ins())? {
        let Some(answers) = finished(mold, given(mold, &set))? else { continue };
        let Ok(plan) = Plan::new(mold, &answers, &Limits::default()) else { continue };
        for finding in cover::findings(&plan) {
            if !findings.iter().any(|other| other.file == finding.file && other.help == finding.help) {
                findings.push(Finding { message: format!("{}{}", finding.message, with(&set)), ..finding });
            }
        }
    }
    Ok(findings)
}

/// Returns a fixed date, so that the same check finds the same at any time.
fn built_ins() -> BuiltIns {
    BuiltIns::on("2000-01-01")
}

fn rehearsed(mold: &Mold, part: &Part) -> Result<Vec<Finding>, Finding> {
    let castings = combinations(mold, &built_ins())?;
    let fits = combinations(&part.mold, &built_ins())?;
    let mut findings = Vec::new();
    for (at, casting) in castings.iter().enumerate() {
        // Tries every set of answers of the part on the default project, and one on every other.
        for fit in fits.iter().take(if at == 0 { fits.len() } else { 1 }) {
            let Some((plan, answers)) = answered(mold, part, casting, fit)? else { continue };
            let texts = as_cast(&plan);
            match Fitting::new(part, &answers, &texts, &Limits::default(), OnClash::Ask) {
                Ok(fitting) => {
                    findings.extend(misfits(&fitting, casting));
                    if let Err(PlanError::Faulty(found)) = fitting.plan.sizes() {
                        findings.extend(found);
                    }
                }
                Err(FitError::DoesNotGo { .. }) => {}
                Err(
                    FitError::Plan(PlanError::Faulty(found)) | FitError::Verify(VerifyError::Faulty(found)),
                ) => {
                    findings.extend(found);
                }
                Err(other) => findings.push(Finding::new(
                    format!("{}part.toml", part.mold.home),
                    Span::default(),
                    codes::BAD_PART,
                    format!("{other}{}", with(casting)),
                    "",
                )),
            }
        }
    }
    Ok(findings)
}

/// Returns a project's plan and a part's answers; `None` if the mold does not accept these answers
/// together.
fn answered<'m>(
    mold: &'m Mold,
    part: &Part,
    casting: &Set,
    fit: &Set,
) -> Result<Option<(VerifiedPlan<'m>, Answers)>, Finding> {
    let Some(answers) = finished(mold, given(mold, casting))? else { return Ok(None) };
    let Ok(plan) = Plan::new(mold, &answers, &Limits::default()) else { return Ok(None) };
    let Ok(plan) = plan.verify() else { return Ok(None) };
    let mut all = given(&part.mold, fit);
    if !part.stands_alone() {
        for (at, given) in given(mold, casting).into_iter().enumerate() {
            all[at] = given;
        }
    }
    Ok(finished(&part.mold, all)?.map(|answers| (plan, answers)))
}

fn given(mold: &Mold, set: &Set) -> Vec<Option<Given>> {
    let answer = |key: &str| set.iter().find(|(own, _)| own == key).map(|(_, text)| text);
    mold.questions
        .iter()
        .map(|question| {
            let value = parse_text(question, answer(&question.key)?, &mold.scope).ok()?;
            Some(Given { value, source: AnswerSource::Set })
        })
        .collect()
}

fn finished(mold: &Mold, given: Vec<Option<Given>>) -> Result<Option<Answers>, Finding> {
    let offers = Offers { folder: Some("sample".into()), ..Offers::default() };
    let session = Session::new(mold, given, offers, built_ins())?;
    if !session.problems().is_empty() {
        return Ok(None);
    }
    let mut answers = session.preview();
    answers.set_folder(mold, "sample");
    Ok(Some(answers))
}

/// Returns the lines and edits that a project with these answers has no room for.
fn misfits(fitting: &Fitting<'_>, casting: &Set) -> Vec<Finding> {
    let missing = fitting.missing.iter().map(|missing| {
        let code = if missing.joint.is_some() { codes::BAD_JOINT } else { codes::BAD_EDIT };
        let help = match &missing.joint {
            Some(name) => {
                let label = joint::label(name);
                format!("cast the file with a comment line `{label}`, or give the part a `when`")
            }
            None => "cast a file that this goes with, or give the part a `when`".to_owned(),
        };
        let message = format!("{} {}{}", missing.path, missing.why, with(casting));
        Finding::new(missing.at.0.clone(), missing.at.1, code, message, help)
    });
    let clashes = fitting.clashes.iter().map(|clash| {
        let message = format!(
            "{} has {} at {} already{}, and the part wants {}",
            clash.path,
            clash.what.there,
            clash.what.place,
            with(casting),
            clash.what.wanted
        );
        let help = "what the mold casts must not be in the way of its parts";
        Finding::new(clash.at.0.clone(), clash.at.1, codes::BAD_EDIT, message, help)
    });
    missing.chain(clashes).collect()
}

fn with(casting: &Set) -> String {
    if casting.is_empty() {
        return " in a project with the defaults".into();
    }
    let answers: Vec<String> = casting.iter().map(|(key, text)| format!("{key}={text}")).collect();
    format!(" in a project with {}", answers.join(" "))
}
