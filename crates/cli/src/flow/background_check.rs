//! The check of the machine, which runs while the user answers.

use crate::args::CastArgs;
use std::sync::{Mutex, PoisonError};
use std::thread::JoinHandle;
use tinmold_mold::{Mold, Need, Snippet};
use tinmold_notation::Values;
use tinmold_platform::process::search_path;
use tinmold_project::preflight::{Probe, probe};
use tinmold_project::review::LackingNeed;

/// A running check of the machine.
pub struct BackgroundCheck(Mutex<State>);

enum State {
    Skipped,
    Running(JoinHandle<Vec<Probe>>),
    Known(Vec<Probe>),
}

fn look(needs: &[Need]) -> Vec<Probe> {
    let path = search_path(std::env::var_os("PATH").as_deref());
    probe(&needs.iter().collect::<Vec<_>>(), &path, true)
}

impl BackgroundCheck {
    /// Starts the check, which asks each tool for its version, unless nobody sees what it finds.
    pub fn begin(mold: &Mold, cast: &CastArgs, is_seen: bool) -> Self {
        if !is_seen || cast.skip_preflight || cast.dry_run || mold.needs.is_empty() {
            return Self(Mutex::new(State::Skipped));
        }
        let needs = mold.needs.clone();
        let running = std::thread::Builder::new().spawn(move || look(&needs));
        Self(Mutex::new(running.map_or(State::Skipped, State::Running)))
    }

    /// Returns the tools that are needed for these answers, as they were found; `None` while they are looked for.
    pub fn known(&self, mold: &Mold, values: &Values) -> Option<Vec<(Need, Probe)>> {
        let is_running = matches!(&*self.state(), State::Running(running) if !running.is_finished());
        (!is_running).then(|| self.needs(mold, values))
    }

    /// Returns the tools that are needed for these answers, as they were found; waits for that.
    fn needs(&self, mold: &Mold, values: &Values) -> Vec<(Need, Probe)> {
        let mut state = self.state();
        let known = match std::mem::replace(&mut *state, State::Skipped) {
            State::Running(running) => running.join().map_or(State::Skipped, State::Known),
            known => known,
        };
        *state = known;
        let State::Known(probes) = &*state else { return Vec::new() };
        let holds = |when: &Snippet| when.holds(&mold.shown_scope, values).unwrap_or(true);
        let needed = mold.needs.iter().zip(probes).filter(|(need, _)| need.when.as_ref().is_none_or(holds));
        needed.map(|(need, probe)| (need.clone(), probe.clone())).collect()
    }

    /// Returns what the machine lacks for these answers.
    pub fn lacking(&self, mold: &Mold, values: &Values) -> Vec<LackingNeed> {
        let lacking = self.needs(mold, values).into_iter().filter(|(_, probe)| !probe.verdict.is_met());
        lacking.map(|(need, probe)| LackingNeed { need, probe }).collect()
    }

    fn state(&self) -> std::sync::MutexGuard<'_, State> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }
}
