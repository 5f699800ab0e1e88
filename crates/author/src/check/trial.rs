//! One set of answers, cast in memory.

use super::outcome::{self, Rendered};
use crate::sets::{AnswerSet, session};
use std::collections::{HashMap, HashSet};
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use tinmold_grammar::{Language, Mistake};
use tinmold_mold::{Mold, Offered, codes};
use tinmold_notation::{Finding, NameId, PlaceKind, Span, Value};
use tinmold_platform::paths::{joined, parent_of};
use tinmold_project::answers::{Answers, Session, judge};
use tinmold_project::outcome::{Footprint, Prints};
use tinmold_project::plan::{EntryKind, Limits, Plan, PlanError};
use tinmold_project::verify::{UnsafeReason, VerifiedPlan, VerifyError};
use tinmold_project::write::cover;

/// What is known of a mold from earlier trials: a file is rendered once for each value of what it uses, and an output
/// is parsed once.
pub(super) struct Known<'m> {
    pub(super) mold: &'m Mold,
    pub(super) footprints: Vec<Footprint>,
    /// The limits of each cast.
    pub(super) limits: Limits,
    /// The steps and bytes that all casts took.
    spent: AtomicU64,
    rendered: Mutex<HashMap<(usize, u64, String), Arc<Rendered>>>,
    parsed: Mutex<HashMap<(Language, u64), Option<Mistake>>>,
}

/// What an entry counts beside its bytes: the plans of all sets are in memory together.
const COST_OF_ENTRY: u64 = 1_000;
/// All casts of a check take no more steps and bytes than this many casts at their limit.
const MOST_CASTS: u64 = 4;

impl<'m> Known<'m> {
    pub(super) fn new(mold: &'m Mold, limits: Limits) -> Self {
        Self {
            mold,
            footprints: Footprint::all(mold),
            limits,
            spent: AtomicU64::new(0),
            rendered: Mutex::default(),
            parsed: Mutex::default(),
        }
    }

    /// Returns true once all casts together took more than they may.
    pub(super) fn is_exhausted(&self) -> bool {
        self.spent.load(Ordering::Relaxed) > MOST_CASTS.saturating_mul(self.limits.bytes)
    }

    /// Returns where a text is not of its language.
    pub(super) fn mistake(&self, language: Language, text: &str) -> Option<Mistake> {
        let mut hasher = DefaultHasher::new();
        text.hash(&mut hasher);
        let key = (language, hasher.finish());
        let lock = || self.parsed.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(known) = lock().get(&key) {
            return known.clone();
        }
        let mistake = tinmold_grammar::mistake(language, text);
        lock().insert(key, mistake.clone());
        mistake
    }

    fn rendered(&self, plan: &Plan<'_>, keys: &[u64], entry: usize) -> Arc<Rendered> {
        let of = &plan.entries[entry];
        let key = (of.body, keys[of.body], of.path.to_string());
        let lock = || self.rendered.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(known) = lock().get(&key) {
            return Arc::clone(known);
        }
        let rendered = Arc::new(outcome::render(self, plan, of));
        lock().insert(key, Arc::clone(&rendered));
        rendered
    }
}

/// A set of answers and what a cast of it writes.
pub(super) struct Trial<'m> {
    pub(super) set: AnswerSet,
    /// `None` if the set has no plan.
    pub(super) cast: Option<Cast<'m>>,
    /// The mistakes that it shows.
    pub(super) findings: Vec<Finding>,
}

/// What a set of answers writes.
pub(super) struct Cast<'m> {
    pub(super) answers: Answers,
    pub(super) plan: VerifiedPlan<'m>,
    /// By entry of the plan.
    pub(super) rendered: Vec<Arc<Rendered>>,
}

impl<'m> Trial<'m> {
    /// Casts a set of answers in memory.
    pub(super) fn new(known: &Known<'m>, set: AnswerSet) -> Self {
        let mut findings = Vec::new();
        if known.is_exhausted() {
            return Self { set, cast: None, findings };
        }
        let cast = match cast(known, &set, &mut findings) {
            Ok(cast) => cast,
            Err(found) => {
                findings.extend(found);
                None
            }
        };
        Self { set, cast, findings }
    }
}

impl Cast<'_> {
    /// Returns the text of a file whose text is kept: those that others name, and those that name others.
    pub(super) fn text(&self, path: &str) -> Option<&str> {
        let at = self.plan.entries.iter().position(|entry| entry.path == path)?;
        self.rendered.get(at)?.text.as_deref()
    }

    /// Returns all paths of files, and those of the directories above them.
    pub(super) fn paths(&self) -> HashSet<&str> {
        let mut paths = HashSet::new();
        for entry in &self.plan.entries {
            let mut path: &str = &entry.path;
            while !path.is_empty() && paths.insert(path) {
                path = parent_of(path);
            }
        }
        paths
    }
}

fn cast<'m>(
    known: &Known<'m>,
    set: &AnswerSet,
    findings: &mut Vec<Finding>,
) -> Result<Option<Cast<'m>>, Vec<Finding>> {
    let mold = known.mold;
    let session = session(mold, set).map_err(|finding| vec![finding])?;
    if !session.problems().is_empty() {
        // Those of defaults and presets are reported beside them.
        return Ok(None);
    }
    findings.extend(refused_hidden(&session));
    let mut answers = session.preview();
    let folder = mold.folder_name(&answers.values).map_err(|finding| vec![finding])?;
    answers.set_folder(mold, &folder);
    let plan = Plan::new(mold, &answers, &known.limits).map_err(of_plan)?;
    let plan = plan.verify().map_err(|error| of_verify(mold, error))?;
    let keys: Vec<u64> = {
        let prints = Prints::of(&answers.values);
        known.footprints.iter().map(|footprint| footprint.key(&prints)).collect()
    };
    let rendered: Vec<Arc<Rendered>> =
        (0..plan.entries.len()).map(|at| known.rendered(&plan, &keys, at)).collect();
    let entries = plan.entries.len() as u64 * COST_OF_ENTRY;
    known.spent.fetch_add(plan.budget.spent() + entries, Ordering::Relaxed);
    let before = findings.len();
    findings.extend(rendered.iter().flat_map(|rendered| rendered.findings.clone()));
    if findings[before..].iter().any(Finding::is_error) {
        return Ok(None);
    }
    findings.extend(cover::findings(&plan));
    findings.extend(ignored(&plan));
    findings.extend(dangling(&plan));
    findings.extend(empty_values(&session, &rendered));
    Ok(Some(Cast { answers, plan, rendered }))
}

pub(super) fn of_plan(error: PlanError) -> Vec<Finding> {
    match error {
        PlanError::Faulty(found) => found,
        PlanError::Package(error) => {
            vec![Finding::new("mold.toml", Span::default(), codes::UNREADABLE_FILE, error.to_string(), "")]
        }
    }
}

pub(super) fn of_verify(mold: &Mold, error: VerifyError) -> Vec<Finding> {
    let found = match error {
        VerifyError::Faulty(found) => return found,
        VerifyError::Unsafe(found) => found,
    };
    let finding = |one: tinmold_project::verify::Unsafe| {
        let (code, help) = match one.reason {
            UnsafeReason::Meets(_) => (codes::SAME_PATH, "give one of them a condition, or another name"),
            _ => (codes::UNSAFE_PATH, "a project must not have this: give it another name or target"),
        };
        let message = format!("{} {}", one.path, one.reason);
        Finding::new(one.source, Span::default(), code, message, help)
    };
    let mut found: Vec<Finding> = found.into_iter().map(finding).collect();
    if found.is_empty() {
        found.push(Finding::new(
            mold.name(),
            Span::default(),
            codes::UNSAFE_PATH,
            "the plan is not safe",
            "",
        ));
    }
    found
}

/// Returns the hidden values that their own questions would refuse.
fn refused_hidden(session: &Session<'_>) -> Vec<Finding> {
    let mold = session.mold();
    let questions = mold.questions.iter().zip(session.resolved());
    let hidden = questions.filter(|(question, resolved)| {
        matches!(question.hidden, Some(Offered::Text(_) | Offered::Texts(_))) && !resolved.is_visible()
    });
    let refused = hidden.filter_map(|(question, resolved)| {
        let is_empty = matches!(&resolved.value, Value::Text(text) if text.is_empty());
        let refusal = judge(question, &resolved.value, &[]).filter(|_| !is_empty)?;
        let message = format!("`{}` would refuse its own hidden value: {}", question.key, refusal.reason);
        Some(Finding::new(
            Arc::clone(&question.file),
            question.hidden_span,
            codes::BAD_VALUE,
            message,
            refusal.advice,
        ))
    });
    refused.collect()
}

/// Returns the name of the manifest of a mold or part.
pub(super) fn manifest(mold: &Mold) -> String {
    if mold.home.is_empty() { "mold.toml".to_owned() } else { format!("{}part.toml", mold.home) }
}

/// Returns the files for everybody that the project's own ignore files keep out of git.
fn ignored(plan: &Plan<'_>) -> Vec<Finding> {
    let finding = |at: usize| {
        let entry = &plan.entries[at];
        let message =
            format!("{} is for everybody, and the ignore file that the mold casts covers it", entry.path);
        let help = "mark it `local` if it is for one machine only; else take it out of the ignore file";
        Finding::new(plan.mold.path_of(plan.body(entry)), Span::default(), codes::IGNORED_FILE, message, help)
    };
    cover::ignored(plan).into_iter().map(finding).collect()
}

/// Returns the links to something that is not written.
fn dangling(plan: &Plan<'_>) -> Vec<Finding> {
    let leads = |path: &str| {
        let below = |other: &str| other.strip_prefix(path).is_some_and(|rest| rest.starts_with('/'));
        path.is_empty() || plan.entries.iter().any(|entry| entry.path == path || below(&entry.path))
    };
    let links = plan.entries.iter().filter_map(|entry| match entry.kind {
        EntryKind::Link(target) => Some((entry, target)),
        _ => None,
    });
    let dangling = links.filter(|(entry, target)| !leads(&resolved(parent_of(&entry.path), target)));
    let finding = |(entry, target): (&tinmold_project::plan::Entry<'_>, &str)| {
        let message = format!("{} is a link to {target}, which is not written", entry.path);
        let help = "give both the same conditions, or mend the target";
        Finding::new(
            plan.mold.path_of(plan.body(entry)),
            Span::default(),
            codes::DANGLING_LINK,
            message,
            help,
        )
    };
    dangling.map(finding).collect()
}

/// Returns the path that a link in a directory leads to.
fn resolved(directory: &str, target: &str) -> String {
    let mut path = directory.to_owned();
    for part in target.split('/') {
        match part {
            "" | "." => {}
            ".." => path = parent_of(&path).to_owned(),
            _ => path = joined(&path, part),
        }
    }
    path
}

/// Returns the places where the empty value of a question that is not asked is put in.
fn empty_values(session: &Session<'_>, rendered: &[Arc<Rendered>]) -> Vec<Finding> {
    let mold = session.mold();
    let questions = mold.questions.iter().zip(session.resolved());
    let unasked: HashMap<NameId, &str> = questions
        .filter(|(_, resolved)| !resolved.is_visible() && is_nothing(&resolved.value))
        .map(|(question, _)| (question.id, question.key.as_str()))
        .collect();
    if unasked.is_empty() {
        return Vec::new();
    }
    let values = rendered.iter().flat_map(|rendered| &rendered.places).filter(|(_, reached)| *reached);
    let found = values.filter_map(|(place, _)| {
        let PlaceKind::Value { names } = &place.kind else { return None };
        let [name] = names.as_slice() else { return None };
        let message = format!("`{}` is not asked, and nothing comes out here", unasked.get(name)?);
        let help = "put it between `if` and `end`, or give the question a `hidden` value";
        Some(Finding::new(Arc::clone(&place.file), place.span, codes::EMPTY_VALUE, message, help))
    });
    found.collect()
}

fn is_nothing(value: &Value) -> bool {
    match value {
        Value::Text(text) => text.is_empty(),
        Value::List(values) => values.is_empty(),
        Value::Option(_, option) => option.is_none(),
        Value::Integer(_) | Value::Flag(_) => false,
    }
}
