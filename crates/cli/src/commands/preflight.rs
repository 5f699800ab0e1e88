//! `tinmold preflight`: is the machine ready for a mold?

use crate::args::{Format, PreflightArgs};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::given;
use crate::show::{BOLD, ERROR, FAINT, GOOD, NAME, WARN, result, safe};
use serde_json::{Value as Json, json};
use std::fmt::Write;
use tinmold_core::answers::{Offers, Session};
use tinmold_core::finish::{Probe, Verdict, probe, search_path, system_keys};
use tinmold_core::mold::{Mold, Need, Snippet};
use tinmold_core::shelf::built_in_names;

pub fn run(preflight: &PreflightArgs) -> Result<Exit, Failure> {
    let names: Vec<String> = match &preflight.mold {
        Some(mold) => vec![mold.clone()],
        None => built_in_names().map(str::to_owned).collect(),
    };
    let mut needs: Vec<Wanted> = Vec::new();
    for name in &names {
        let mold = Mold::load(super::find(name)?)?;
        for (mut need, usual) in mold.needs.iter().cloned().zip(usual(&mold)) {
            if preflight.mold.is_none() {
                // Nobody needs all of a shelf: what is lacking is lacking for some mold.
                need.why = format!("{name}: {}", need.why);
            }
            let known = |other: &Wanted| other.need.tool == need.tool && other.need.version == need.version;
            // Of one mold all are said, with their conditions; of a whole shelf each tool once.
            match needs.iter_mut().find(|other| preflight.mold.is_none() && known(other)) {
                Some(other) => other.usual |= usual,
                None => needs.push(Wanted { need, usual }),
            }
        }
    }
    let all: Vec<&Need> = needs.iter().map(|wanted| &wanted.need).collect();
    let probes = probe(&all, &search_path(std::env::var_os("PATH").as_deref()), true);
    match preflight.format {
        Format::Text => result(as_text(&needs, &probes)),
        Format::Json => result(format!("{:#}\n", as_json(&needs, &probes))),
    }
    Ok(if lacking(&needs, &probes, true) == 0 { Exit::Done } else { Exit::Failed })
}

/// A need, and whether a casting of the mold's defaults has it.
struct Wanted {
    need: Need,
    usual: bool,
}

/// Which needs the mold's defaults have; all of them where that cannot be told.
fn usual(mold: &Mold) -> Vec<bool> {
    let nothing = vec![None; mold.questions.len()];
    let Ok(session) = Session::new(mold, nothing, Offers::default(), given::built_ins(given::Person::none()))
    else {
        return vec![true; mold.needs.len()];
    };
    let holds = |when: &Snippet| when.holds(&mold.shown_scope, session.values()).unwrap_or(true);
    mold.needs.iter().map(|need| need.when.as_ref().is_none_or(holds)).collect()
}

/// How many tools are lacking for the defaults, or for other answers only.
fn lacking(needs: &[Wanted], probes: &[Probe], usual: bool) -> usize {
    needs
        .iter()
        .zip(probes)
        .filter(|(wanted, probe)| wanted.usual == usual && !probe.verdict.is_met())
        .count()
}

/// How to get a tool on this system, as the mold says.
pub fn hint(need: &Need) -> Option<&str> {
    system_keys().iter().find_map(|key| need.get.get(key)).map(String::as_str)
}

/// What was found, in a line; with what to do about it where something is wrong.
pub fn line(need: &Need, probe: &Probe) -> String {
    let version = |found: &tinmold_core::finish::Found| match (&found.version, &found.silence) {
        (Some(version), _) => version.to_string(),
        (None, Some(silence)) => format!("version unknown ({silence})"),
        (None, None) => String::new(),
    };
    let found = probe.found.as_ref();
    let at =
        found.map_or_else(String::new, |found| format!("{} at {}", version(found), found.path.display()));
    let wanted = need.version.as_ref().map_or_else(String::new, |wanted| format!(", wanted {wanted}"));
    let get = hint(need).map_or_else(String::new, |hint| format!("; get it: {hint}"));
    let text = match &probe.verdict {
        Verdict::Fine | Verdict::Unknown => format!("{}{wanted}", at.trim_start()),
        Verdict::WrongVersion => format!("{}{wanted}{get}", at.trim_start()),
        Verdict::Behind(better) => format!(
            "{}{wanted}; {} at {} stands behind it on PATH: put its folder first",
            at.trim_start(),
            version(better),
            better.path.display()
        ),
        Verdict::OffPath(path) => {
            format!("not on PATH, but there is {}{wanted}: add its folder to PATH", path.display())
        }
        Verdict::Missing => format!("not found{wanted}{get}"),
    };
    safe(&text)
}

/// The verdict in a word, as people read it.
pub fn word(verdict: &Verdict) -> &'static str {
    match verdict {
        Verdict::Fine => "fine",
        Verdict::Unknown => "there",
        Verdict::WrongVersion | Verdict::Behind(_) => "other version",
        Verdict::OffPath(_) => "not on PATH",
        Verdict::Missing => "missing",
    }
}

fn as_text(needs: &[Wanted], probes: &[Probe]) -> String {
    let mut out = String::new();
    let wide = needs.iter().map(|wanted| wanted.need.tool.chars().count()).max().unwrap_or(0);
    let longest = probes.iter().map(|probe| word(&probe.verdict).len()).max().unwrap_or(0);
    for (Wanted { need, usual }, probe) in needs.iter().zip(probes) {
        let style = match &probe.verdict {
            Verdict::Fine => GOOD,
            Verdict::Unknown => WARN,
            _ if *usual => ERROR,
            _ => WARN,
        };
        let verdict = word(&probe.verdict);
        let _ = writeln!(
            out,
            "{style}{verdict:<longest$}{style:#}  {NAME}{:<wide$}{NAME:#}  {}",
            safe(&need.tool),
            line(need, probe)
        );
        let when = need.when.as_ref().map_or_else(String::new, |when| format!("when {}", safe(when.text())));
        let note: Vec<String> = [safe(&need.why), when].into_iter().filter(|text| !text.is_empty()).collect();
        if !note.is_empty() {
            let _ = writeln!(out, "{:longest$}  {:wide$}  {FAINT}{}{FAINT:#}", "", "", note.join(", "));
        }
    }
    let others = match lacking(needs, probes, false) {
        0 => "",
        _ => " Some answers other than the defaults want more.",
    };
    let summary = match (needs.len(), lacking(needs, probes, true)) {
        (0, _) => "Nothing is needed.".to_owned(),
        (_, 0) => format!("The machine is ready.{others}"),
        (_, 1) => format!("One thing is lacking.{others}"),
        (_, several) => format!("{several} things are lacking.{others}"),
    };
    let _ = writeln!(out, "{BOLD}{summary}{BOLD:#}");
    out
}

fn as_json(needs: &[Wanted], probes: &[Probe]) -> Json {
    let all: Vec<Json> = needs
        .iter()
        .zip(probes)
        .map(|(Wanted { need, usual }, probe)| {
            let found = probe.found.as_ref();
            json!({
                "tool": need.tool,
                "wanted": need.version.as_ref().map(ToString::to_string),
                "why": need.why,
                "when": need.when.as_ref().map(Snippet::text),
                "usual": usual,
                "verdict": probe.verdict.as_str(),
                "version": found.and_then(|found| found.version.as_ref()).map(ToString::to_string),
                "path": found.map(|found| found.path.display().to_string()),
                "elsewhere": match &probe.verdict {
                    Verdict::Behind(other) => Some(other.path.display().to_string()),
                    Verdict::OffPath(path) => Some(path.display().to_string()),
                    _ => None,
                },
                "get": hint(need),
            })
        })
        .collect();
    json!({ "needs": all, "ready": lacking(needs, probes, true) == 0 })
}
