//! A mold proven: sets of its answers are cast into folders, and the commands that it names as proofs run there.
//!
//! `set_run` casts and proves one set, `following` brings one from an earlier version, `proven` remembers what was proven before, `ports` finds free ports, `groups`
//! puts failures together, and `approved` holds what comes out against what was approved.

pub mod approved;
mod following;
mod groups;
mod ports;
mod proven;
mod report;
mod set_run;

pub use report::{FailureGroup, MoldProof, SetProof, Target, TargetResult};

use crate::sets::{AnswerSet, plain, with_odd_texts};
use proven::Proven;
use set_run::SetRun;
use std::path::PathBuf;
use std::sync::PoisonError;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};
use tinmold_mold::Mold;
use tinmold_notation::Finding;
use tinmold_project::plan::Limits;

/// How a mold is proven.
#[derive(Clone, Debug)]
pub struct ProveOptions {
    /// The limits of each cast.
    pub limits: Limits,
    /// The number of sets that run at the same time.
    pub jobs: usize,
    /// The timeout of each set.
    pub set_limit: Duration,
    /// When the last set may begin.
    pub until: Option<Instant>,
    /// True to leave out what needs a network.
    pub offline: bool,
    /// True to run also what was proven before.
    pub again: bool,
    /// Where it is remembered what was proven; `None` for nowhere.
    pub memory: Option<PathBuf>,
    /// The folder for projects and logs. That of a failure is kept.
    pub folder: PathBuf,
    /// An earlier version: projects are cast from it, and brought to the mold.
    pub from: Option<Arc<Mold>>,
}

/// Is told of the progress of a proof, and can stop it.
pub trait ProveObserver: Sync {
    /// A set ended: the number of those that ended, and of all.
    fn ended(&self, done: usize, of: usize, proof: &SetProof);
    /// Returns true to stop.
    fn is_cancelled(&self) -> bool {
        false
    }
}

/// Returns the sets of answers with which a mold is proven: the defaults, also with odd texts; presets; the answers
/// of its approved outputs; and sets in which every two choices meet.
///
/// # Errors
/// The mold fails on its defaults.
pub fn sets_of(mold: &Mold) -> Result<Vec<AnswerSet>, Finding> {
    let mut sets = plain(mold, 2)?;
    sets.extend(with_odd_texts(mold, &AnswerSet::default()));
    Ok(sets)
}

/// Proves a mold with these sets of answers, which are those of the earlier version if there is one.
#[must_use]
pub fn prove(
    mold: &Mold,
    sets: &[AnswerSet],
    options: &ProveOptions,
    observer: &dyn ProveObserver,
) -> MoldProof {
    let proven = Proven::new(mold, options);
    let (next, ended) = (AtomicUsize::new(0), AtomicUsize::new(0));
    let proofs: Mutex<Vec<(usize, SetProof)>> = Mutex::default();
    let work = || {
        loop {
            let at = next.fetch_add(1, Ordering::Relaxed);
            let Some(set) = sets.get(at) else { return };
            let is_late = options.until.is_some_and(|until| Instant::now() > until);
            let proof = match is_late || observer.is_cancelled() {
                true => {
                    SetProof::not_begun(set.clone(), if is_late { "the time is over" } else { "interrupted" })
                }
                false => SetRun::new(mold, options, &proven, &at.to_string()).prove(set, observer),
            };
            observer.ended(ended.fetch_add(1, Ordering::Relaxed) + 1, sets.len(), &proof);
            proofs.lock().unwrap_or_else(PoisonError::into_inner).push((at, proof));
        }
    };
    std::thread::scope(|scope| {
        for _ in 1..options.jobs.clamp(1, sets.len().max(1)) {
            // Without a thread to be had, this one does all the work.
            drop(std::thread::Builder::new().spawn_scoped(scope, work));
        }
        work();
    });
    let mut proofs = proofs.into_inner().unwrap_or_else(PoisonError::into_inner);
    proofs.sort_by_key(|(at, _)| *at);
    let mut proofs: Vec<SetProof> = proofs.into_iter().map(|(_, proof)| proof).collect();
    let failures = groups::of(mold, &mut proofs, options, &proven, observer);
    MoldProof { sets: proofs, failures }
}
