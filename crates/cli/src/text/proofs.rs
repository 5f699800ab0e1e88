//! The results of proofs, for people, programs and build servers.

use super::findings::{Sources, set_json};
use super::steps::shell;
use super::style::{BOLD, ERROR, FAINT, GOOD, WARN, count, plain, quoted, safe};
use super::width::fit_width;
use quick_junit::{NonSuccessKind, Report, SerializeError, TestCase, TestCaseStatus, TestSuite};
use serde_json::{Value, json};
use tinmold_author::AnswerSet;
use tinmold_author::prove::approved::{Difference, DifferenceKind};
use tinmold_author::prove::{FailureGroup, MoldProof, SetProof, Target, TargetResult};
use tinmold_mold::Package;
use tinmold_notation::Position;
use unicode_width::UnicodeWidthStr;

/// A mold that was proven.
pub struct ProvenMold {
    /// The address, as it was given.
    pub address: String,
    pub proof: MoldProof,
    /// What comes out otherwise than it was approved.
    pub differences: Vec<Difference>,
    /// The approved outputs that cannot come out, and why.
    pub broken: Vec<(String, String)>,
}

impl ProvenMold {
    /// Returns true if something failed.
    pub fn fails(&self) -> bool {
        let failed = self.proof.count(|result| matches!(result, TargetResult::Failed(_)));
        failed > 0 || !self.differences.is_empty() || !self.broken.is_empty()
    }

    /// Returns the number of sets of which something did not run.
    pub fn skipped(&self) -> usize {
        let skipped = |target: &Target| matches!(target.result, TargetResult::Skipped(_));
        self.proof.sets.iter().filter(|proof| proof.targets.iter().any(skipped)).count()
    }

    /// Returns the number of sets with this word.
    fn number(&self, of: &str) -> usize {
        self.proof.sets.iter().filter(|proof| word(proof) == of).count()
    }
}

/// Returns the result of a set in a word.
pub fn word(proof: &SetProof) -> &'static str {
    let has = |is_meant: fn(&TargetResult) -> bool| proof.targets.iter().any(|it| is_meant(&it.result));
    let is_skipped = has(|result| matches!(result, TargetResult::Skipped(_)));
    let is_passed = has(|result| *result == TargetResult::Passed);
    match (proof.failure(), is_skipped, is_passed) {
        (Some(_), ..) => "failed",
        (None, true, false) => "skipped",
        (None, true, true) => "in part",
        (None, false, _) => "proven",
    }
}

/// Returns all of a proof for people.
pub fn shown(one: &ProvenMold, package: &Package, is_quiet: bool) -> String {
    let mut out = String::new();
    for failure in &one.proof.failures {
        out.push_str(&group(failure, &one.address));
    }
    let mut sources = Sources::new(package);
    for difference in &one.differences {
        out.push_str(&of_difference(difference, &mut sources));
    }
    if !one.differences.is_empty() {
        out.push_str(&format!("If that is meant: tinmold prove {} --approve\n\n", quoted(&one.address)));
    }
    for (name, why) in &one.broken {
        out.push_str(&format!("{ERROR}failed{ERROR:#}   proofs/{}: {}\n", safe(name), safe(why)));
    }
    if !is_quiet {
        out.push_str(&table(one));
    }
    if !is_quiet || one.fails() {
        out.push_str(&format!("{}\n", summary(one)));
    }
    out
}

fn summary(one: &ProvenMold) -> String {
    let address = safe(&one.address);
    match one.fails() {
        true => format!("{ERROR}{address}{ERROR:#}: {}.", numbers(std::slice::from_ref(one))),
        false => format!("{GOOD}{address}{GOOD:#}: {}.", numbers(std::slice::from_ref(one))),
    }
}

/// Returns how many sets of some molds have which result.
fn numbers(all: &[ProvenMold]) -> String {
    let of = |word| all.iter().map(|one| one.number(word)).sum::<usize>();
    let before: usize =
        all.iter().flat_map(|one| &one.proof.sets).filter(|proof| proof.is_remembered).count();
    let mut parts = vec![format!("{} proven", count(of("proven"), "set"))];
    let others = ["in part", "failed", "skipped"].map(|word| (of(word), word));
    parts.extend(
        others.iter().filter(|(number, _)| *number > 0).map(|(number, word)| format!("{number} {word}")),
    );
    if before > 0 {
        parts.push(format!("{before} of these before"));
    }
    parts.join(", ")
}

/// Returns the sum of several molds in a line.
pub fn total(all: &[ProvenMold]) -> String {
    format!("{}: {}.", count(all.len(), "mold"), numbers(all))
}

/// The widest name of a set in the table.
const WIDEST: usize = 44;

/// Returns the sets by target: what ran, and what came of it.
fn table(one: &ProvenMold) -> String {
    let mut names: Vec<(String, bool)> = Vec::new();
    for target in one.proof.sets.iter().flat_map(|proof| &proof.targets) {
        let key = (target.name.clone(), target.with_parts);
        if !names.contains(&key) {
            names.push(key);
        }
    }
    names.sort_by_key(|(_, with_parts)| *with_parts);
    let heads: Vec<String> =
        names.iter().map(|(name, parts)| format!("{}{name}", if *parts { "+" } else { "" })).collect();
    let mut out = format!("{BOLD}{:WIDEST$}", safe(&one.address));
    heads.iter().for_each(|head| out.push_str(&format!("  {}", safe(head))));
    out.push_str(&format!("{BOLD:#}\n"));
    let mut reasons: Vec<String> = Vec::new();
    for proof in &one.proof.sets {
        out.push_str(&fit_width(&safe(&proof.set.to_string()), WIDEST));
        for ((name, with_parts), head) in names.iter().zip(&heads) {
            let target = proof.targets.iter().find(|it| it.name == *name && it.with_parts == *with_parts);
            let (style, word) = match target.map(|target| &target.result) {
                Some(TargetResult::Passed) => (GOOD, if proof.is_remembered { "(ok)" } else { "ok" }),
                Some(TargetResult::Failed(_)) => (ERROR, "fails"),
                Some(TargetResult::Skipped(_)) => (WARN, "skip"),
                None => (FAINT, "."),
            };
            let pad = head.width().saturating_sub(word.len());
            out.push_str(&format!("  {style}{word}{style:#}{}", " ".repeat(pad)));
        }
        out = out.trim_end().to_owned() + "\n";
        for target in &proof.targets {
            if let TargetResult::Skipped(why) = &target.result
                && !reasons.contains(why)
            {
                reasons.push(why.clone());
            }
        }
    }
    if names.iter().any(|(_, parts)| *parts) {
        out.push_str(&format!("{FAINT}+ again, with all parts fitted; (ok) proven before{FAINT:#}\n"));
    }
    reasons.iter().for_each(|why| out.push_str(&format!("{WARN}skipped{WARN:#}: {}\n", safe(why))));
    out
}

/// Returns the command that casts a project that fails, and the one that fails in it.
fn reproduced(failure: &FailureGroup, address: &str) -> String {
    let word = |word: &String| match word.split_once('=') {
        Some((key, value)) => format!(" {key}={}", quoted(value)),
        None => format!(" {}", quoted(word)),
    };
    let options: String = failure.set.arguments().iter().map(word).collect();
    let cast = format!("tinmold cast {} tried --unattended{options}", quoted(address));
    match failure.target.command.as_slice() {
        [] => cast,
        command => format!("{cast} && cd tried && {}", shell(command)),
    }
}

fn group(failure: &FailureGroup, address: &str) -> String {
    let target = &failure.target;
    let why = match &target.result {
        TargetResult::Failed(why) | TargetResult::Skipped(why) => why.as_str(),
        TargetResult::Passed => "",
    };
    let parts = if target.with_parts { " with all parts fitted" } else { "" };
    let mut out = format!("{ERROR}failed{ERROR:#}   {}{parts}: {}\n", safe(&target.name), safe(why));
    out.push_str(&format!("  with {}\n", safe(&failure.set.to_string())));
    for line in &target.last {
        out.push_str(&format!("  {FAINT}| {}{FAINT:#}\n", safe(&plain(line))));
    }
    if failure.sets > 1 {
        out.push_str(&format!("  in {} alike\n", count(failure.sets, "set")));
    }
    if let Some(folder) = &failure.folder {
        out.push_str(&format!("  kept in   {}\n", safe(&folder.display().to_string())));
    }
    out.push_str(&format!("  again:    {}\n\n", safe(&reproduced(failure, address))));
    out
}

fn of_difference(difference: &Difference, sources: &mut Sources<'_>) -> String {
    let head =
        format!("{ERROR}differs{ERROR:#}  proofs/{}: {}", safe(&difference.name), safe(&difference.path));
    match &difference.kind {
        DifferenceKind::Missing => format!("{head} does not come out any more\n"),
        DifferenceKind::New => format!("{head} is new\n"),
        DifferenceKind::Changed { line: None, .. } => format!("{head} has other bytes\n"),
        DifferenceKind::Changed { line: Some(line), was, is, place } => {
            let from = place.as_ref().map_or(String::new(), |(file, span)| {
                let at = Position::of(sources.of(file), span.start as usize);
                format!(", from {}:{}:{}", safe(file), at.line, at.column)
            });
            format!("{head}:{line}{from}\n  - {}\n  + {}\n", safe(was), safe(is))
        }
    }
}

/// Returns all proofs for programs.
pub fn as_json(all: &[ProvenMold]) -> Value {
    let target = |target: &Target| {
        let (result, why) = match &target.result {
            TargetResult::Passed => ("passed", None),
            TargetResult::Failed(why) => ("failed", Some(why)),
            TargetResult::Skipped(why) => ("skipped", Some(why)),
        };
        json!({
            "name": target.name,
            "with-parts": target.with_parts,
            "result": result,
            "why": why,
            "seconds": target.took.as_secs_f64(),
        })
    };
    let set = |proof: &SetProof| {
        json!({
            "answers": set_json(&proof.set),
            "targets": proof.targets.iter().map(target).collect::<Vec<_>>(),
            "proven-before": proof.is_remembered,
            "folder": proof.folder.as_ref().map(|folder| folder.display().to_string()),
        })
    };
    let one = |one: &ProvenMold| {
        let failure = |failure: &FailureGroup| {
            json!({
                "target": target(&failure.target),
                "answers": set_json(&failure.set),
                "sets": failure.sets,
                "last": failure.target.last,
                "folder": failure.folder.as_ref().map(|folder| folder.display().to_string()),
                "again": reproduced(failure, &one.address),
            })
        };
        let difference = |it: &Difference| {
            let (kind, line) = match &it.kind {
                DifferenceKind::Missing => ("missing", None),
                DifferenceKind::New => ("new", None),
                DifferenceKind::Changed { line, .. } => ("changed", *line),
            };
            json!({ "name": it.name, "path": it.path, "kind": kind, "line": line })
        };
        json!({
            "mold": one.address,
            "sets": one.proof.sets.iter().map(set).collect::<Vec<_>>(),
            "failures": one.proof.failures.iter().map(failure).collect::<Vec<_>>(),
            "differences": one.differences.iter().map(difference).collect::<Vec<_>>(),
        })
    };
    json!({ "molds": all.iter().map(one).collect::<Vec<_>>() })
}

/// Returns a suite for each mold, with a case for each target of each set.
pub fn as_junit(all: &[ProvenMold], is_strict: bool) -> Result<String, SerializeError> {
    let mut report = Report::new("tinmold prove");
    let case = |set: &AnswerSet, target: &Target| {
        let status = match &target.result {
            TargetResult::Passed => TestCaseStatus::success(),
            TargetResult::Skipped(why) if !is_strict => {
                let mut status = TestCaseStatus::skipped();
                status.set_message(why.as_str());
                status
            }
            TargetResult::Failed(why) | TargetResult::Skipped(why) => {
                let mut status = TestCaseStatus::non_success(NonSuccessKind::Failure);
                status.set_message(why.as_str()).set_description(target.last.join("\n"));
                status
            }
        };
        let parts = if target.with_parts { " with parts" } else { "" };
        let mut case = TestCase::new(format!("{}{parts}", target.name), status);
        case.set_classname(set.to_string()).set_time(target.took);
        case
    };
    for one in all {
        let mut suite = TestSuite::new(one.address.as_str());
        for proof in &one.proof.sets {
            suite.add_test_cases(proof.targets.iter().map(|target| case(&proof.set, target)));
        }
        let wrong = one.differences.iter().map(|it| (it.name.clone(), format!("{} differs", it.path)));
        for (name, why) in wrong.chain(one.broken.clone()) {
            let mut status = TestCaseStatus::non_success(NonSuccessKind::Failure);
            status.set_message(why);
            suite.add_test_case(TestCase::new(format!("proofs/{name}"), status));
        }
        report.add_test_suite(suite);
    }
    report.to_string()
}
