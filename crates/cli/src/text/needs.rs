//! The tools that a mold needs, as people read them.

use super::style::{BOLD, NAME, WARN, safe};
use tinmold_mold::Need;
use tinmold_project::preflight::{FoundTool, Probe, Verdict, system_keys};
use tinmold_project::review::LackingNeed;

/// Returns how to get a tool on this system, as the mold says.
pub fn how_to_get(need: &Need) -> Option<&str> {
    system_keys().iter().find_map(|key| need.get.get(key)).map(String::as_str)
}

/// Returns what was found in a line, with what to do about it where something is wrong.
pub fn line(need: &Need, probe: &Probe) -> String {
    let version = |found: &FoundTool| match (&found.version, &found.silence) {
        (Some(version), _) => version.to_string(),
        (None, Some(silence)) => format!("version unknown ({silence})"),
        (None, None) => String::new(),
    };
    let found = probe.found.as_ref();
    let at =
        found.map_or_else(String::new, |found| format!("{} at {}", version(found), found.path.display()));
    let wanted = need.version.as_ref().map_or_else(String::new, |wanted| format!(", wanted {wanted}"));
    let get = how_to_get(need).map_or_else(String::new, |hint| format!("; get it: {hint}"));
    let text = match &probe.verdict {
        Verdict::Fine | Verdict::Unknown => format!("{}{wanted}", at.trim_start()),
        Verdict::WrongVersion => format!("{}{wanted}{get}", at.trim_start()),
        Verdict::Behind(better) => format!(
            "{}{wanted}; {} at {} comes later on PATH: put its folder first",
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

/// Returns the verdict in a word, as people read it.
pub fn word(verdict: &Verdict) -> &'static str {
    match verdict {
        Verdict::Fine => "fine",
        Verdict::Unknown => "there",
        Verdict::WrongVersion | Verdict::Behind(_) => "other version",
        Verdict::OffPath(_) => "not on PATH",
        Verdict::Missing => "missing",
    }
}

/// Lists what the machine lacks; empty if nothing.
pub fn lacking(all: &[LackingNeed]) -> String {
    if all.is_empty() {
        return String::new();
    }
    let mut out = format!("\n{BOLD}This machine is missing{BOLD:#}\n");
    for LackingNeed { need, probe } in all {
        let why = if need.why.is_empty() { String::new() } else { format!(" ({})", safe(&need.why)) };
        out += &format!(
            "  {WARN}{}{WARN:#}  {NAME}{}{NAME:#}{why}: {}\n",
            word(&probe.verdict),
            safe(&need.tool),
            line(need, probe)
        );
    }
    out
}
