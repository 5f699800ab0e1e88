//! `tinmold preflight`: is the machine ready for a mold?

use crate::args::{Format, PreflightArgs};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::flow::answer_sources::{Person, built_ins};
use crate::flow::fetch::fetch;
use crate::global::GlobalOptions;
use crate::stop::Stop;
use crate::text::style::{BOLD, ERROR, FAINT, GOOD, NAME, WARN, result, result_document, safe};
use crate::text::{conditions, needs};
use serde_json::{Value as Json, json};
use std::fmt::Write;
use tinmold_mold::{Mold, Need, Snippet, built_in_names};
use tinmold_platform::process::search_path;
use tinmold_project::answers::{Offers, Session};
use tinmold_project::preflight::{Probe, Verdict, probe};
use unicode_width::UnicodeWidthStr;

pub fn run(preflight: &PreflightArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let names: Vec<String> = match &preflight.mold {
        Some(mold) => vec![mold.clone()],
        None => built_in_names().map(str::to_owned).collect(),
    };
    let mut all: Vec<ToolNeed> = Vec::new();
    for name in &names {
        let mold = Mold::load(fetch(name, global)?).map_err(Failure::from)?;
        for (need, usual) in mold.needs.iter().cloned().zip(usual(&mold)) {
            let when = need.when.as_ref().map(|when| conditions::words(&mold, when));
            // No project needs every tool of a shelf: name the molds that need it.
            let molds = if preflight.mold.is_none() { vec![name.clone()] } else { Vec::new() };
            let known = |other: &ToolNeed| other.need.tool == need.tool && other.need.version == need.version;
            match all.iter_mut().find(|other| preflight.mold.is_none() && known(other)) {
                Some(other) => {
                    other.usual |= usual;
                    if !other.molds.contains(name) {
                        other.molds.push(name.clone());
                    }
                }
                None => all.push(ToolNeed { need, usual, when, molds }),
            }
        }
    }
    let needed: Vec<&Need> = all.iter().map(|tool| &tool.need).collect();
    let probes = probe(&needed, &search_path(std::env::var_os("PATH").as_deref()), true);
    match preflight.format {
        Format::Text => result(as_text(&all, &probes)),
        Format::Json => result_document("preflight-1", as_json(&all, &probes)),
    }
    Ok(if lacking(&all, &probes, true) == 0 { Exit::Done } else { Exit::Failed })
}

/// A need; and true if a project of the mold's defaults has it.
struct ToolNeed {
    need: Need,
    usual: bool,
    /// The condition, in words.
    when: Option<String>,
    /// The molds that have it, where several are checked.
    molds: Vec<String>,
}

impl ToolNeed {
    /// Returns why it is needed, in a line.
    fn note(&self) -> String {
        if !self.molds.is_empty() {
            return format!("for {}", safe(&self.molds.join(", ")));
        }
        let when = self.when.as_ref().map(|when| format!("when {when}"));
        let all = [Some(safe(&self.need.why)), when].into_iter().flatten().filter(|text| !text.is_empty());
        all.collect::<Vec<_>>().join(", ")
    }
}

/// Returns which needs the mold's defaults have; all of them if that is unknown.
fn usual(mold: &Mold) -> Vec<bool> {
    let nothing = vec![None; mold.questions.len()];
    let Ok(session) = Session::new(mold, nothing, Offers::default(), built_ins(Person::none())) else {
        return vec![true; mold.needs.len()];
    };
    let holds = |when: &Snippet| when.holds(&mold.shown_scope, session.values()).unwrap_or(true);
    mold.needs.iter().map(|need| need.when.as_ref().is_none_or(holds)).collect()
}

/// Counts the tools that are missing for the defaults, and those for other answers only.
fn lacking(tools: &[ToolNeed], probes: &[Probe], usual: bool) -> usize {
    let missing =
        tools.iter().zip(probes).filter(|(tool, probe)| tool.usual == usual && !probe.verdict.is_met());
    let mut names: Vec<&str> = missing.map(|(tool, _)| tool.need.tool.as_str()).collect();
    names.sort_unstable();
    names.dedup();
    names.len()
}

fn as_text(tools: &[ToolNeed], probes: &[Probe]) -> String {
    let mut out = String::new();
    let wide = tools.iter().map(|wanted| wanted.need.tool.width()).max().unwrap_or(0);
    let longest = probes.iter().map(|probe| needs::word(&probe.verdict).len()).max().unwrap_or(0);
    let indent = " ".repeat(longest + wide + 4);
    for (at, tool) in tools.iter().enumerate() {
        if tools[..at].iter().any(|other| other.need.tool == tool.need.tool) {
            continue;
        }
        // Each tool once, with its worst verdict among the defaults.
        let mut same: Vec<(&ToolNeed, &Probe)> =
            tools.iter().zip(probes).filter(|(other, _)| other.need.tool == tool.need.tool).collect();
        same.sort_by_key(|(tool, probe)| (!tool.usual, probe.verdict.is_met()));
        let (first, probe) = same[0];
        let style = match &probe.verdict {
            Verdict::Fine => GOOD,
            Verdict::Unknown => WARN,
            _ if first.usual => ERROR,
            _ => WARN,
        };
        let verdict = needs::word(&probe.verdict);
        let name = safe(&first.need.tool);
        let pad = " ".repeat(wide.saturating_sub(name.width()));
        let found = needs::line(&first.need, probe);
        let _ = writeln!(out, "{style}{verdict:<longest$}{style:#}  {NAME}{name}{NAME:#}{pad}  {found}");
        for (at, (tool, probe)) in same.iter().enumerate() {
            let mut note = tool.note();
            if at > 0 && tool.need.version != first.need.version {
                let wanted = tool.need.version.as_ref().map(ToString::to_string).unwrap_or_default();
                let word = if probe.verdict.is_met() { "" } else { ", not there" };
                note = format!("{wanted}{word}: {note}");
            }
            if !note.is_empty() {
                let _ = writeln!(out, "{indent}{FAINT}{note}{FAINT:#}");
            }
        }
    }
    let others = match lacking(tools, probes, false) {
        0 => "",
        _ => " Some answers other than the defaults want more.",
    };
    let summary = match (tools.len(), lacking(tools, probes, true)) {
        (0, _) => "Nothing is needed.".to_owned(),
        (_, 0) => format!("The machine is ready.{others}"),
        (_, 1) => format!("1 tool is missing.{others}"),
        (_, several) => format!("{several} tools are missing.{others}"),
    };
    let _ = writeln!(out, "{BOLD}{summary}{BOLD:#}");
    out
}

fn as_json(tools: &[ToolNeed], probes: &[Probe]) -> Json {
    let all: Vec<Json> = tools
        .iter()
        .zip(probes)
        .map(|(ToolNeed { need, usual, molds, .. }, probe)| {
            let found = probe.found.as_ref();
            json!({
                "tool": need.tool,
                "wanted": need.version.as_ref().map(ToString::to_string),
                "why": need.why,
                "when": need.when.as_ref().map(Snippet::text),
                "usual": usual,
                "molds": molds,
                "verdict": probe.verdict.as_str(),
                "version": found.and_then(|found| found.version.as_ref()).map(ToString::to_string),
                "path": found.map(|found| found.path.display().to_string()),
                "elsewhere": match &probe.verdict {
                    Verdict::Behind(other) => Some(other.path.display().to_string()),
                    Verdict::OffPath(path) => Some(path.display().to_string()),
                    _ => None,
                },
                "get": needs::how_to_get(need),
            })
        })
        .collect();
    json!({ "needs": all, "ready": lacking(tools, probes, true) == 0 })
}
