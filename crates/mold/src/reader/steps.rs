//! Reads `[[need]]` and `[[finish]]`.

use super::context::ManifestReader;
use crate::codes;
use crate::manifest::{FinishEntry, NeedEntry, Placed};
use crate::model::{FinishStep, Need, StepAction};
use crate::question::Form;
use crate::snippet::has_tag;
use std::time::Duration;
use tinmold_notation::Scope;

/// The default timeout of a step.
const USUAL_LIMIT: u64 = 15;

/// The variables that a step may set: settings of services and programs. Whatever loaders, interpreters,
/// build tools, package managers or git read is not among them.
const SETTINGS: [&str; 22] = [
    "ADDRESS",
    "ADMIN_EMAIL",
    "APP_ENV",
    "BASE_URL",
    "BIND",
    "CACHE_URL",
    "DATABASE",
    "DATABASE_URL",
    "DATA_DIR",
    "HOST",
    "LOG_FORMAT",
    "LOG_LEVEL",
    "PORT",
    "PUBLIC_URL",
    "QUEUE_URL",
    "REDIS_URL",
    "SECRET_KEY",
    "SESSION_KEY",
    "STAGE",
    "STORAGE_URL",
    "WORKERS",
    "APP_*",
];

/// Returns true if a step may set this variable.
fn is_setting(name: &str) -> bool {
    let own = name.strip_prefix("APP_").is_some_and(|rest| {
        !rest.is_empty() && rest.bytes().all(|b| b.is_ascii_uppercase() || b.is_ascii_digit() || b == b'_')
    });
    own || (!name.contains('*') && SETTINGS.contains(&name))
}

/// Reads the needs. Their conditions see `system`, as `shown` does.
pub(super) fn needs(reader: &mut ManifestReader, entries: Vec<NeedEntry>, shown: &Scope) -> Vec<Need> {
    let mut needs = Vec::new();
    for entry in entries {
        reader.enter(entry.origin);
        let tool = entry.tool.get_ref();
        if tool.is_empty()
            || tool.contains(['/', '\\', ' '])
            || tool.starts_with('-')
            || tool.starts_with('.')
        {
            let help = "write the program's name as one types it, such as `python3`";
            reader.add(codes::BAD_NEED, entry.tool.span(), "this is not the name of a program", help);
        }
        let version = entry.version.and_then(|range| match semver::VersionReq::parse(range.get_ref()) {
            Ok(range) => Some(range),
            Err(error) => {
                let message = format!("this is not a version range: {error}");
                reader.add(codes::BAD_NEED, range.span(), message, "write `>=3.9`");
                None
            }
        });
        needs.push(Need {
            tool: tool.clone(),
            version,
            why: entry.why.unwrap_or_default(),
            when: entry.when.as_ref().map(|when| reader.condition(when, shown)),
            get: entry.get,
        });
    }
    reader.enter(0);
    needs
}

/// Reads the steps. Their texts see `system`, as `shown` does, and no minted value.
pub(super) fn steps(
    reader: &mut ManifestReader,
    entries: Vec<FinishEntry>,
    shown: &Scope,
) -> Vec<FinishStep> {
    let mut steps: Vec<FinishStep> = Vec::new();
    for entry in entries {
        reader.enter(entry.origin);
        let name = entry.name.get_ref().clone();
        if let Err(refusal) = Form::Kebab.check(&name) {
            let message = format!("{name:?} is not the name of a step: {}", refusal.reason);
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
        if !entry.offered && !entry.proof && entry.asks.is_none() {
            let help = "write `proof = true` too, or leave `offered` out";
            reader.add(codes::BAD_STEP, entry.name.span(), "nothing would ever run this step", help);
        }
        let Some(action) = action(reader, &entry, shown) else { continue };
        let text = |reader: &mut ManifestReader, text: &Placed| reader.text(text, shown);
        let folder = entry.folder.as_ref().map(|folder| text(reader, folder));
        let asks = entry.asks.as_ref().map(|asks| text(reader, asks));
        for (variable, value) in &entry.environment {
            if !is_setting(variable) {
                let message = format!("a step cannot set the variable {variable:?}");
                let help =
                    format!("a step sets only settings of the project itself: {}", SETTINGS.join(", "));
                reader.add(codes::BAD_STEP, value.span(), message, help);
            }
        }
        let environment =
            entry.environment.iter().map(|(name, value)| (name.clone(), text(reader, value))).collect();
        steps.push(FinishStep {
            name,
            label: entry.label.unwrap_or_else(|| entry.name.get_ref().clone()),
            action,
            when: entry.when.as_ref().map(|when| reader.condition(when, shown)),
            tick: entry.tick,
            folder,
            environment,
            after: entry.after.iter().map(|name| name.get_ref().clone()).collect(),
            limit: Duration::from_secs(60 * entry.minutes.unwrap_or(USUAL_LIMIT).clamp(1, 24 * 60)),
            interactive: entry.interactive,
            proof: entry.proof || asks.is_some(),
            asks,
            offered: entry.offered,
            network: entry.network.as_ref().map(|when| reader.condition(when, shown)),
        });
    }
    reader.enter(0);
    steps
}

fn action(reader: &mut ManifestReader, entry: &FinishEntry, scope: &Scope) -> Option<StepAction> {
    let wrong = |reader: &mut ManifestReader, message: &str, help: &str| {
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
            let arguments = arguments.iter().map(|argument| reader.text(argument, scope)).collect();
            Some(StepAction::Run(name.clone(), arguments))
        }
        (None, Some(message)) => Some(StepAction::Git(reader.text(message, scope))),
        _ => wrong(
            reader,
            "a step has either `run` or `git`",
            "`run` is a list of a program and its arguments, `git` the message of a first commit",
        ),
    }
}
