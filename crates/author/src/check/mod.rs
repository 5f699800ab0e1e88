//! Everything that can be found out about a mold without building what it casts.
//!
//! `trial` casts one set of answers in memory; `outcome` parses what comes out, `prose` follows the names in texts,
//! `answers` judges defaults and presets, `parts` fits every part, `unrendered` looks at files that are copied, and
//! `coverage` at what no set reaches.

mod answers;
mod coverage;
mod options;
mod outcome;
pub(crate) mod parts;
mod prose;
mod taken;
mod trial;
mod unrendered;

use crate::sets::{AnswerSet, plain, smallest, with_odd_texts};
use std::collections::HashMap;
use std::sync::Arc;
use tinmold_mold::{Mold, codes};
use tinmold_notation::{Code, Finding, Span};
use tinmold_platform::parallel;
use tinmold_project::plan::Limits;
use trial::{Known, Trial};

/// How thoroughly a mold is checked.
#[derive(Clone, Copy, Debug, Default)]
pub struct CheckOptions {
    /// True to let every three choices meet, instead of every two.
    pub triples: bool,
    /// The limits of each cast.
    pub limits: Limits,
}

/// A finding, with the answers that show it.
#[derive(Clone, Debug, PartialEq)]
pub struct Reported {
    /// The finding.
    pub finding: Finding,
    /// The smallest answers that show it; `None` if the mold shows it by itself.
    pub answers: Option<AnswerSet>,
    /// The part and its answers, if fitting it shows the finding.
    pub part: Option<(String, AnswerSet)>,
}

impl From<Finding> for Reported {
    fn from(finding: Finding) -> Self {
        Self { finding, answers: None, part: None }
    }
}

/// The result of checking a mold.
#[derive(Debug)]
pub struct Checked {
    /// All findings, sorted.
    pub findings: Vec<Reported>,
    /// The number of files of the body.
    pub files: usize,
    /// The number of sets of answers that were cast.
    pub sets: usize,
    /// By file of the body: the lines, from 1, that no set renders.
    pub unrendered: Vec<(Arc<str>, Vec<usize>)>,
}

/// Checks a mold: all of [`Mold::check`]; and casts in memory its defaults, its presets, and sets of answers in which
/// every two or three choices meet, each also with texts that break out of careless quoting; with every part.
#[must_use]
pub fn check(mold: &Mold, options: CheckOptions) -> Checked {
    let usage = mold.check();
    let files = usage.files;
    if usage.findings.iter().any(Finding::is_error) {
        let findings = usage.findings.into_iter().map(Reported::from).collect();
        return Checked { findings, files, sets: 0, unrendered: Vec::new() };
    }
    let mut findings: Vec<Reported> = usage.findings.into_iter().map(Reported::from).collect();
    findings.extend(unrendered::findings(mold).into_iter().map(Reported::from));
    findings.extend(options::findings(mold).into_iter().map(Reported::from));
    findings.extend(answers::findings(mold));
    let sets = match sets(mold, &options) {
        Ok(sets) => sets,
        Err(finding) => {
            findings.push(Reported { answers: Some(AnswerSet::default()), ..finding.into() });
            Vec::new()
        }
    };
    let known = Known::new(mold, options.limits);
    let trials = parallel::each(&sets, |set| Trial::new(&known, set.clone()));
    findings.extend(of_trials(&known, &trials, |trial| trial.findings.clone()));
    let union = prose::Union::of(&trials);
    findings.extend(of_trials(&known, &trials, |trial| {
        trial.cast.as_ref().map_or_else(Vec::new, |cast| prose::findings(mold, cast, &union))
    }));
    if known.is_exhausted() {
        let help = "make its loops shorter, or raise `bytes` of [limits] in the configuration";
        let message = "the sets of answers take more steps and bytes than a check may: not all were cast";
        findings
            .push(Finding::new("mold.toml", Span::default(), codes::TOO_MUCH_TO_CHECK, message, help).into());
    }
    let whole = coverage::of(&known, &trials);
    findings.extend(whole.findings.into_iter().map(Reported::from));
    if !findings.iter().any(|reported| reported.finding.is_error()) {
        findings.extend(parts::findings(&known, &trials));
    }
    let mut checked = Checked { findings, files, sets: sets.len(), unrendered: whole.unrendered };
    sort(&mut checked.findings);
    checked
}

/// Returns the sets of answers that are cast, each also with texts that break out of careless quoting.
fn sets(mold: &Mold, options: &CheckOptions) -> Result<Vec<AnswerSet>, Finding> {
    let mut sets = plain(mold, if options.triples { 3 } else { 2 })?;
    let odd: Vec<AnswerSet> = sets.iter().filter_map(|set| with_odd_texts(mold, set)).collect();
    sets.extend(odd);
    Ok(sets)
}

/// What makes findings one: where they are, and of which kind.
type Identity = (Arc<str>, Span, Code);

fn identity(finding: &Finding) -> Identity {
    (Arc::clone(&finding.file), finding.span, finding.code)
}

/// Returns every failure of the trials once, with the smallest answers that show it. `of` returns those of a trial.
fn of_trials(
    known: &Known<'_>,
    trials: &[Trial<'_>],
    of: impl Fn(&Trial<'_>) -> Vec<Finding> + Sync,
) -> Vec<Reported> {
    let mut first: HashMap<Identity, (usize, Finding)> = HashMap::new();
    for (at, found) in parallel::each(trials, &of).into_iter().enumerate() {
        for finding in found {
            first.entry(identity(&finding)).or_insert((at, finding));
        }
    }
    let mut found: Vec<(usize, Finding)> = first.into_values().collect();
    found.sort_by(|a, b| (a.0, &a.1.file, a.1.span, a.1.code).cmp(&(b.0, &b.1.file, b.1.span, b.1.code)));
    // One broken name would be found at each of a thousand places.
    found.truncate(MOST_FAILURES);
    parallel::each(&found, |(at, finding)| {
        // What takes the whole budget once would take it for every smaller set too.
        if finding.code == Code::LimitReached {
            let answers = Some(trials[*at].set.clone());
            return Reported { finding: finding.clone(), answers, part: None };
        }
        let again = |set: &AnswerSet| {
            let trial = Trial::new(known, set.clone());
            of(&trial).into_iter().find(|other| identity(other) == identity(finding))
        };
        let set = smallest(&trials[*at].set, |set| again(set).is_some());
        Reported { finding: again(&set).unwrap_or_else(|| finding.clone()), answers: Some(set), part: None }
    })
}

/// More findings of one mold than anyone reads.
const MOST_FAILURES: usize = 200;

/// Sorts findings by file and place, and leaves out those that come twice.
fn sort(findings: &mut Vec<Reported>) {
    findings.sort_by(|a, b| {
        let key = |it: &Reported| {
            (Arc::clone(&it.finding.file), it.finding.span, it.finding.code, it.finding.message.clone())
        };
        key(a).cmp(&key(b))
    });
    findings.dedup_by(|a, b| a.finding == b.finding);
}
