//! The look at the machine, which goes on while the person answers.

use crate::args::CastArgs;
use crate::commands::preflight;
use crate::show::{BOLD, NAME, WARN, safe};
use std::cell::RefCell;
use std::thread::JoinHandle;
use tinmold_core::finish::{Probe, probe, search_path};
use tinmold_core::mold::{Mold, Need};
use tinmold_notation::Values;

/// A look at the machine that was begun.
pub struct Probing(RefCell<State>);

enum State {
    Skipped,
    /// Nobody waits for it: it is looked at when it is shown.
    Later,
    Running(JoinHandle<Vec<Probe>>),
    Known(Vec<Probe>),
}

fn look(needs: &[Need], ask: bool) -> Vec<Probe> {
    let path = search_path(std::env::var_os("PATH").as_deref());
    probe(&needs.iter().collect::<Vec<_>>(), &path, ask)
}

impl Probing {
    /// Begins to look. Without a person tools are only looked for, and not asked for their versions: that takes longer than a
    /// small cast.
    pub fn begin(mold: &Mold, cast: &CastArgs, ask: bool) -> Self {
        if cast.skip_preflight || cast.dry_run || mold.needs.is_empty() {
            return Self(RefCell::new(State::Skipped));
        }
        if !ask {
            return Self(RefCell::new(State::Later));
        }
        let needs = mold.needs.clone();
        Self(RefCell::new(State::Running(std::thread::spawn(move || look(&needs, true)))))
    }

    /// What the machine lacks of what these answers need, as text; empty if nothing.
    pub fn lacking(&self, mold: &Mold, values: &Values) -> String {
        let mut state = self.0.borrow_mut();
        let known = match std::mem::replace(&mut *state, State::Skipped) {
            State::Later => State::Known(look(&mold.needs, false)),
            State::Running(running) => running.join().map_or(State::Skipped, State::Known),
            known => known,
        };
        *state = known;
        let State::Known(probes) = &*state else { return String::new() };
        let mut out = String::new();
        for (need, probe) in mold.needs.iter().zip(probes).filter(|(_, probe)| !probe.verdict.is_met()) {
            let holds =
                |when: &tinmold_core::mold::Snippet| when.holds(&mold.shown_scope, values).unwrap_or(true);
            if need.when.as_ref().is_none_or(holds) {
                let why = if need.why.is_empty() { String::new() } else { format!(" ({})", safe(&need.why)) };
                out += &format!(
                    "  {WARN}{}{WARN:#}  {NAME}{}{NAME:#}{why}: {}\n",
                    preflight::word(&probe.verdict),
                    safe(&need.tool),
                    preflight::line(need, probe)
                );
            }
        }
        if out.is_empty() { out } else { format!("\n{BOLD}This machine lacks{BOLD:#}\n{out}") }
    }
}
