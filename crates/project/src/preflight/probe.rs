//! Is a tool on the machine, and is it new enough?

use super::tools::{version_arguments, version_in};
use semver::{Version, VersionReq};
use std::fs;
use std::path::PathBuf;
use std::process::Command;
use std::time::Duration;
use tinmold_mold::Need;
use tinmold_platform::process::{self, programs, usual_directories};

/// Timeout for a tool to print its version.
const LIMIT: Duration = Duration::from_secs(5);
/// Output beyond this many bytes is ignored.
const MOST_OUTPUT: usize = 64 * 1024;

/// A tool that was found.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FoundTool {
    /// The path of the executable.
    pub path: PathBuf,
    /// The version, if the tool printed one.
    pub version: Option<Version>,
    /// Why the version is unknown, as a clause.
    pub silence: Option<String>,
}

/// The verdict on a need.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Verdict {
    /// The tool is installed and new enough.
    Fine,
    /// The tool is installed; its version is unknown.
    Unknown,
    /// The tool is installed and too old or too new.
    WrongVersion,
    /// The tool is installed in another version; this one, later on PATH, would do.
    Behind(FoundTool),
    /// The tool is installed at this path, which is not on PATH.
    OffPath(PathBuf),
    /// The tool is not installed.
    Missing,
}

impl Verdict {
    /// Returns true unless the need is known to be unmet.
    #[must_use]
    pub fn is_met(&self) -> bool {
        matches!(self, Self::Fine | Self::Unknown)
    }

    /// Returns the verdict in a word.
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

/// A need, with the tool that was found.
#[derive(Clone, Debug)]
pub struct Probe {
    /// The name of its program.
    pub tool: String,
    /// The versions that will do.
    pub wanted: Option<VersionReq>,
    /// The first on PATH.
    pub found: Option<FoundTool>,
    /// The verdict.
    pub verdict: Verdict,
}

/// Finds the needed tools in the directories of `path`. With `ask`, the tools that this program
/// knows are run, in parallel, to print their versions; all others are only searched for.
#[must_use]
pub fn probe(needs: &[&Need], path: &[PathBuf], ask: bool) -> Vec<Probe> {
    if !ask {
        return needs.iter().map(|need| one(need, path, ask)).collect();
    }
    std::thread::scope(|scope| {
        let mut probes = Vec::with_capacity(needs.len());
        for need in needs {
            let probe = move || one(need, path, ask);
            // Without a thread to be had, the tool is asked here.
            let started = std::thread::Builder::new().spawn_scoped(scope, probe);
            probes.push(started.map_err(|_| one(need, path, ask)));
        }
        probes.into_iter().filter_map(|probe| probe.map_or_else(Some, |probe| probe.join().ok())).collect()
    })
}

/// Returns the version of a tool that this program knows how to ask, if the machine has the tool.
#[must_use]
pub fn version_of(tool: &str, path: &[PathBuf]) -> Option<Version> {
    version_arguments(tool)?;
    asked(tool, places_of(tool, path).next()?).version
}

/// Returns the executables of this name, the one that would be run first: Java's tools are those of
/// `JAVA_HOME` where it is set, as its build tools have it.
fn places_of(tool: &str, path: &[PathBuf]) -> impl Iterator<Item = PathBuf> {
    let home = std::env::var_os("JAVA_HOME").map(PathBuf::from).filter(|home| home.is_absolute());
    let home = home.filter(|_| matches!(tool, "java" | "javac")).map(|home| home.join("bin"));
    let directories: Vec<PathBuf> = home.into_iter().chain(path.iter().cloned()).collect();
    programs(tool, &directories).collect::<Vec<_>>().into_iter()
}

fn one(need: &Need, path: &[PathBuf], ask: bool) -> Probe {
    let result =
        |found, verdict| Probe { tool: need.tool.clone(), wanted: need.version.clone(), found, verdict };
    let mut all = places_of(&need.tool, path);
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
    // An older one may come first on PATH.
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
    command.current_dir("/");
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

/// Returns the names of this system in `get`, the most exact first: a distribution's `ID`, those it
/// is like, then the system.
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
