//! What was proven before: by the bytes that come out, the commands that prove it, and the tools of the machine.

use super::ProveOptions;
use super::report::Target;
use std::fs;
use std::path::PathBuf;
use tinmold_mold::Mold;
use tinmold_platform::digest::digest_of;
use tinmold_platform::files::write_whole;
use tinmold_platform::process::search_path;
use tinmold_project::answers::Answers;
use tinmold_project::plan::EntryKind;
use tinmold_project::preflight::{Probe, probe};
use tinmold_project::steps::OfferedStep;
use tinmold_project::verify::VerifiedPlan;

/// Remembers what was proven.
pub(super) struct Proven {
    memory: Option<PathBuf>,
    again: bool,
    /// The tools of all needs of the mold, as they are found now.
    probes: Vec<Probe>,
    /// The digest of the parts, which are fitted to every project.
    parts: String,
}

impl Proven {
    pub(super) fn new(mold: &Mold, options: &ProveOptions) -> Self {
        let needs: Vec<_> = mold.needs.iter().collect();
        let path = search_path(std::env::var_os("PATH").as_deref());
        let mut parts = String::new();
        for file in mold.package.files.iter().filter(|file| file.path.starts_with("parts/")) {
            let digest = file.digest().map_or_else(|error| error.to_string(), |digest| digest.to_string());
            parts.push_str(&format!("{} {digest}\n", file.path));
        }
        Self {
            memory: options.memory.clone(),
            again: options.again,
            probes: probe(&needs, &path, true),
            parts,
        }
    }

    /// Returns why the tools that a project needs with these answers are not there.
    pub(super) fn unmet(&self, mold: &Mold, answers: &Answers) -> Option<String> {
        let applies = |at: usize| match &mold.needs[at].when {
            Some(when) => when.holds(&mold.shown_scope, &answers.values).unwrap_or(true),
            None => true,
        };
        let unmet =
            self.probes.iter().enumerate().find(|(at, probe)| !probe.verdict.is_met() && applies(*at));
        unmet.map(|(_, probe)| {
            let wanted = probe.wanted.as_ref().map_or(String::new(), |wanted| format!(" {wanted}"));
            format!("it needs {}{wanted}, which is not on this machine", probe.tool)
        })
    }

    /// Returns what a proof depends on, in a digest: the project as it is cast, all that runs in it, and the tools.
    /// `None` if a file cannot be rendered.
    pub(super) fn key(&self, plan: &VerifiedPlan<'_>, steps: &[OfferedStep]) -> Option<String> {
        let mut all = format!("tinmold {}\n{}", env!("CARGO_PKG_VERSION"), self.parts);
        for entry in &plan.entries {
            let content = match entry.kind {
                EntryKind::Folder => "folder".to_owned(),
                EntryKind::Link(target) => format!("link {target}"),
                _ => digest_of(&plan.content(entry).ok()?).to_string(),
            };
            all.push_str(&format!("{} {:o} {content}\n", entry.path, plan.mode(entry)));
        }
        for step in steps {
            let (run, folder, environment) = (step.commands(), &step.folder, &step.environment);
            all.push_str(&format!("{} {run:?} {folder} {environment:?} {:?}\n", step.name, step.asks));
        }
        for probe in &self.probes {
            let version = probe.found.as_ref().and_then(|found| found.version.as_ref());
            let path = probe.found.as_ref().map(|found| &found.path);
            all.push_str(&format!("{} {version:?} {path:?}\n", probe.tool));
        }
        Some(digest_of(all.as_bytes()).to_string())
    }

    /// Returns what was proven before.
    pub(super) fn known(&self, key: &str) -> Option<Vec<Target>> {
        let path = self.memory.as_ref().filter(|_| !self.again)?.join(key);
        serde_json::from_str(&fs::read_to_string(path).ok()?).ok()
    }

    /// Remembers that all of these targets passed. Sets that come out alike may do so at the same time.
    pub(super) fn remember(&self, key: &str, targets: &[Target]) {
        let Some(memory) = &self.memory else { return };
        let written = serde_json::to_vec(targets)
            .map_err(std::io::Error::other)
            .and_then(|bytes| write_whole(&memory.join(key), &bytes));
        if let Err(error) = written {
            tracing::warn!(%error, "cannot remember what was proven");
        }
    }
}
