//! The check of the machine, which runs while the user answers.

use crate::args::CastArgs;
use std::cell::RefCell;
use std::thread::JoinHandle;
use tinmold_mold::{Mold, Need, Snippet};
use tinmold_notation::Values;
use tinmold_platform::process::search_path;
use tinmold_project::preflight::{Probe, probe};
use tinmold_project::review::LackingNeed;

/// A running check of the machine.
pub struct BackgroundCheck(RefCell<State>);

enum State {
    Skipped,
    /// No one waits for it: it is shown when it is done.
    Later,
    Running(JoinHandle<Vec<Probe>>),
    Known(Vec<Probe>),
}

fn look(needs: &[Need], ask: bool) -> Vec<Probe> {
    let path = search_path(std::env::var_os("PATH").as_deref());
    probe(&needs.iter().collect::<Vec<_>>(), &path, ask)
}

impl BackgroundCheck {
    /// Starts the check. Without a user the tools are only searched for and not run: that would
    /// take longer than a small cast.
    pub fn begin(mold: &Mold, cast: &CastArgs, ask: bool) -> Self {
        if cast.skip_preflight || cast.dry_run || mold.needs.is_empty() {
            return Self(RefCell::new(State::Skipped));
        }
        if !ask {
            return Self(RefCell::new(State::Later));
        }
        let needs = mold.needs.clone();
        let running = std::thread::Builder::new().spawn(move || look(&needs, true));
        Self(RefCell::new(running.map_or(State::Later, State::Running)))
    }

    /// Returns what the machine lacks for these answers.
    pub fn lacking(&self, mold: &Mold, values: &Values) -> Vec<LackingNeed> {
        let mut state = self.0.borrow_mut();
        let known = match std::mem::replace(&mut *state, State::Skipped) {
            State::Later => State::Known(look(&mold.needs, false)),
            State::Running(running) => running.join().map_or(State::Skipped, State::Known),
            known => known,
        };
        *state = known;
        let State::Known(probes) = &*state else { return Vec::new() };
        let holds = |when: &Snippet| when.holds(&mold.shown_scope, values).unwrap_or(true);
        let lacking = mold
            .needs
            .iter()
            .zip(probes)
            .filter(|(need, probe)| !probe.verdict.is_met() && need.when.as_ref().is_none_or(holds));
        lacking.map(|(need, probe)| LackingNeed { need: need.clone(), probe: probe.clone() }).collect()
    }
}
