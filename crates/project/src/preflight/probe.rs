//! Is a tool on the machine, and is it new enough?

use super::tools::{version_arguments, version_in};
use semver::{Version, VersionReq};
use std::fs;
use std::path::PathBuf;
use std::process::Command;
use std::time::Duration;
use tinmold_mold::Need;
use tinmold_platform::process::{self, programs, usual_directories};

/// How long a tool may take to tell its version.
const LIMIT: Duration = Duration::from_secs(5);
/// What a tool prints beyond this is not looked at.
const MOST_OUTPUT: usize = 64 * 1024;

/// A tool that was found.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FoundTool {
    /// Where.
    pub path: PathBuf,
    /// Its version, if it told one.
    pub version: Option<Version>,
    /// Why it told none, in a clause.
    pub silence: Option<String>,
}

/// What a probe came to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Verdict {
    /// It is there, and new enough.
    Fine,
    /// It is there; its version is not known, so that nothing can be said of it.
    Unknown,
    /// It is there, and too old or too new.
    WrongVersion,
    /// It is there, and one that would do stands behind it on PATH, here.
    Behind(FoundTool),
    /// It is on the machine, here, and not on PATH.
    OffPath(PathBuf),
    /// It is not there.
    Missing,
}

impl Verdict {
    /// Whether the need is met, as far as anybody can tell.
    #[must_use]
    pub fn is_met(&self) -> bool {
        matches!(self, Self::Fine | Self::Unknown)
    }

    /// The verdict in a word.
    #[must_use]
    pub fn as_str(&self) -> &'static str {
        match self {
            Self::Fine => "fine",
            Self::Unknown => "unknown",
            Self::WrongVersion => "wrong-version",
            Self::Behind(_) => "behind",
            Self::OffPath(_) => "off-path",
            Self::Missing => "missing",
        }
    }
}

/// A tool, looked for.
#[derive(Clone, Debug)]
pub struct Probe {
    /// The name of its program.
    pub tool: String,
    /// The versions that will do.
    pub wanted: Option<VersionReq>,
    /// The first on PATH.
    pub found: Option<FoundTool>,
    /// What that comes to.
    pub verdict: Verdict,
}

/// Looks for what is needed in the folders of `path`. A tool that this program knows is asked for its version, all of them at the
/// same time; any other is only looked for. With `ask` false so are all.
#[must_use]
pub fn probe(needs: &[&Need], path: &[PathBuf], ask: bool) -> Vec<Probe> {
    if !ask {
        return needs.iter().map(|need| one(need, path, ask)).collect();
    }
    std::thread::scope(|scope| {
        let probes: Vec<_> = needs.iter().map(|need| scope.spawn(move || one(need, path, ask))).collect();
        probes.into_iter().filter_map(|probe| probe.join().ok()).collect()
    })
}

fn one(need: &Need, path: &[PathBuf], ask: bool) -> Probe {
    let result =
        |found, verdict| Probe { tool: need.tool.clone(), wanted: need.version.clone(), found, verdict };
    let mut all = programs(&need.tool, path);
    let Some(first) = all.next() else {
        let usual = usual_directories();
        let off_path = programs(&need.tool, &usual).next();
        return result(None, off_path.map_or(Verdict::Missing, Verdict::OffPath));
    };
    let found =
        if ask { asked(&need.tool, first) } else { FoundTool { path: first, version: None, silence: None } };
    let Some(wanted) = &need.version else { return result(Some(found), Verdict::Fine) };
    let Some(version) = &found.version else { return result(Some(found), Verdict::Unknown) };
    if wanted.matches(version) {
        return result(Some(found), Verdict::Fine);
    }
    // An older one may stand before a newer.
    let better = all
        .map(|path| asked(&need.tool, path))
        .find(|other| other.version.as_ref().is_some_and(|version| wanted.matches(version)));
    let verdict = better.map_or(Verdict::WrongVersion, Verdict::Behind);
    result(Some(found), verdict)
}

fn asked(tool: &str, path: PathBuf) -> FoundTool {
    let Some(arguments) = version_arguments(tool) else {
        return FoundTool {
            path,
            version: None,
            silence: Some("this program does not know how to ask it".into()),
        };
    };
    let mut printed = String::new();
    let mut command = Command::new(&path);
    command.args(arguments);
    // Some tools read settings of the folder that they are asked in.
    command.current_dir(std::env::temp_dir());
    let outcome = process::run(&mut command, LIMIT, &|| false, &mut |line| {
        if printed.len() < MOST_OUTPUT {
            printed.push_str(&String::from_utf8_lossy(line));
        }
    });
    let version = version_in(tool, &printed);
    let silence = match (&version, outcome.ended.is_success()) {
        (Some(_), _) => None,
        (None, true) => Some("it printed no version".into()),
        (None, false) => Some(format!("asked for its version: {}", outcome.ended)),
    };
    FoundTool { path, version, silence }
}

/// What this system is called in `get`, the most exact first: a distribution's `ID` and those it is like, then the system.
#[must_use]
pub fn system_keys() -> Vec<String> {
    let mut keys = Vec::new();
    if cfg!(target_os = "linux") {
        let release = fs::read_to_string("/etc/os-release").unwrap_or_default();
        let value = |key: &str| {
            let line = release.lines().find_map(|line| line.strip_prefix(key));
            line.map(|value| value.trim_matches('"').to_owned()).unwrap_or_default()
        };
        keys.push(value("ID="));
        keys.extend(value("ID_LIKE=").split_whitespace().map(str::to_owned));
    }
    let system = match std::env::consts::OS {
        "macos" => "macos",
        "windows" => "windows",
        _ => "linux",
    };
    keys.push(system.to_owned());
    keys.retain(|key| !key.is_empty());
    keys
}
