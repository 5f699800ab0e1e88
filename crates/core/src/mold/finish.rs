//! `[[need]]` and `[[finish]]`: what a casting needs on the machine, and what may run in it once it is written.

use super::loader::Reader;
use super::manifest::{FinishEntry, NeedEntry, Placed};
use super::snippet::{Snippet, has_tag};
use crate::answers::Form;
use crate::codes;
use std::collections::BTreeMap;
use std::time::Duration;
use tinmold_notation::{Scope, Type};

/// A tool that a casting needs on the machine.
#[derive(Clone, Debug)]
pub struct Need {
    /// The name of its program.
    pub tool: String,
    /// The versions that will do; any, if there is none.
    pub version: Option<semver::VersionReq>,
    /// What it is for.
    pub why: String,
    /// The condition under which it is needed.
    pub when: Option<Snippet>,
    /// How to get it, by system: a distribution's `ID`, `linux`, `macos`, `windows`.
    pub get: BTreeMap<String, String>,
}

/// A command that may run in a casting once it is written.
#[derive(Clone, Debug)]
pub struct FinishStep {
    /// Its name, by which it is asked for.
    pub name: String,
    /// What it does, in a line.
    pub label: String,
    /// What runs.
    pub action: StepAction,
    /// The condition under which it is offered.
    pub when: Option<Snippet>,
    /// Whether a vouched mold offers it ticked.
    pub tick: bool,
    /// The folder in the casting where it runs.
    pub folder: Option<Snippet>,
    /// What is added to its environment.
    pub environment: Vec<(String, Snippet)>,
    /// The steps that must be done before.
    pub after: Vec<String>,
    /// How long it may take.
    pub limit: Duration,
    /// Whether it gets the terminal.
    pub interactive: bool,
    /// Whether it proves that the casting works. Proofs run last.
    pub proof: bool,
    /// The address that must answer while it runs; it is ended then.
    pub asks: Option<Snippet>,
}

/// What a finishing step runs.
#[derive(Clone, Debug)]
pub enum StepAction {
    /// A program with its arguments.
    Run(String, Vec<Snippet>),
    /// A git repository with a first commit of this message.
    Git(Snippet),
}

/// How long a step may take that does not say so.
const USUAL_LIMIT: u64 = 15;

/// Reads the needs. Their conditions see `system`, as `shown` does.
pub(super) fn needs(reader: &mut Reader<'_>, entries: Vec<NeedEntry>, shown: &Scope) -> Vec<Need> {
    let mut needs = Vec::new();
    for entry in entries {
        let tool = entry.tool.get_ref();
        if tool.is_empty()
            || tool.contains(['/', '\\', ' '])
            || tool.starts_with('-')
            || tool.starts_with('.')
        {
            let help = "write the program's name as one types it, such as `python3`";
            reader.add(codes::BAD_NEED, entry.tool.span(), "this is no name of a program", help);
        }
        let version = entry.version.and_then(|range| match semver::VersionReq::parse(range.get_ref()) {
            Ok(range) => Some(range),
            Err(error) => {
                let message = format!("this is no range of versions: {error}");
                reader.add(codes::BAD_NEED, range.span(), message, "write `>=3.9`");
                None
            }
        });
        needs.push(Need {
            tool: tool.clone(),
            version,
            why: entry.why.unwrap_or_default(),
            when: condition(reader, entry.when.as_ref(), shown),
            get: entry.get,
        });
    }
    needs
}

fn condition(reader: &mut Reader<'_>, when: Option<&Placed>, shown: &Scope) -> Option<Snippet> {
    let snippet = reader.snippet(when?);
    reader.findings.extend(snippet.with_expression(shown, Some(Type::Flag), |compiled| compiled.findings));
    Some(snippet)
}

/// Reads the steps. Their texts see `system`, as `shown` does, and no minted value.
pub(super) fn steps(reader: &mut Reader<'_>, entries: Vec<FinishEntry>, shown: &Scope) -> Vec<FinishStep> {
    let mut steps: Vec<FinishStep> = Vec::new();
    for entry in entries {
        let name = entry.name.get_ref().clone();
        if let Err(refusal) = Form::Kebab.check(&name) {
            let message = format!("{name:?} is no name of a step: {}", refusal.reason);
            reader.add(codes::BAD_STEP, entry.name.span(), message, refusal.advice);
        } else if matches!(name.as_str(), "all" | "none") || steps.iter().any(|step| step.name == name) {
            let message = format!("no step can be called `{name}` here");
            reader.add(codes::BAD_STEP, entry.name.span(), message, "it is taken; choose another name");
        }
        for earlier in &entry.after {
            if !steps.iter().any(|step| step.name == *earlier.get_ref()) {
                let names = steps.iter().map(|step| step.name.as_str());
                let help =
                    tinmold_notation::did_you_mean(earlier.get_ref(), names, "`after` names steps above");
                let message = format!("no step above is called `{}`", earlier.get_ref());
                reader.add(codes::BAD_STEP, earlier.span(), message, help);
            }
        }
        let Some(action) = action(reader, &entry, shown) else { continue };
        let text = |reader: &mut Reader<'_>, text: &Placed| checked(reader, text, shown);
        let folder = entry.folder.as_ref().map(|folder| text(reader, folder));
        let asks = entry.asks.as_ref().map(|asks| text(reader, asks));
        let environment =
            entry.environment.iter().map(|(name, value)| (name.clone(), text(reader, value))).collect();
        steps.push(FinishStep {
            name,
            label: entry.label.unwrap_or_else(|| entry.name.get_ref().clone()),
            action,
            when: condition(reader, entry.when.as_ref(), shown),
            tick: entry.tick,
            folder,
            environment,
            after: entry.after.iter().map(|name| name.get_ref().clone()).collect(),
            limit: Duration::from_secs(60 * entry.minutes.unwrap_or(USUAL_LIMIT).clamp(1, 24 * 60)),
            interactive: entry.interactive,
            proof: entry.proof || asks.is_some(),
            asks,
        });
    }
    steps
}

fn checked(reader: &mut Reader<'_>, text: &Placed, scope: &Scope) -> Snippet {
    let snippet = reader.snippet(text);
    reader.findings.extend(snippet.with_text(scope, false, |compiled| compiled.findings));
    snippet
}

fn action(reader: &mut Reader<'_>, entry: &FinishEntry, scope: &Scope) -> Option<StepAction> {
    let wrong = |reader: &mut Reader<'_>, message: &str, help: &str| {
        reader.add(codes::BAD_STEP, entry.name.span(), message, help);
        None
    };
    match (&entry.run, &entry.git) {
        (Some(run), None) => {
            let Some((program, arguments)) = run.split_first() else {
                return wrong(reader, "this step runs nothing", "write `run = [\"make\", \"test\"]`");
            };
            let name = program.get_ref();
            if name.is_empty() || has_tag(name) || name.contains(['\n', '\0']) {
                let help = "a program is named as it is; its arguments may hold tags";
                reader.add(codes::BAD_STEP, program.span(), "this cannot be the program of a step", help);
                return None;
            }
            let arguments = arguments.iter().map(|argument| checked(reader, argument, scope)).collect();
            Some(StepAction::Run(name.clone(), arguments))
        }
        (None, Some(message)) => Some(StepAction::Git(checked(reader, message, scope))),
        _ => wrong(
            reader,
            "a step has either `run` or `git`",
            "`run` is a list of a program and its arguments, `git` the message of a first commit",
        ),
    }
}
