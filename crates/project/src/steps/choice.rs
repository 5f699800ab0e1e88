//! The finishing steps that run, and who vouches for them.

use super::offered::{OfferedStep, ReadText, StepCommand, StepError, offered};
use crate::plan::Plan;
use tinmold_mold::{Mold, PackageError};
use tinmold_notation::{Values, did_you_mean};

/// The steps that are offered, and which of them are to run.
#[derive(Clone, Debug)]
pub struct StepChoice {
    /// The steps, in the order in which they run.
    pub steps: Vec<OfferedStep>,
    /// By step: true if it is to run.
    pub ticked: Vec<bool>,
    /// True if the mold is built in, or the user vouched for its digest, and the project is the user's.
    pub vouched: bool,
    /// True if the project was cast by this user on this machine, and not brought along.
    pub is_own: bool,
    /// The address of the mold.
    pub origin: String,
    /// The digest of the mold; empty where no one need vouch for it.
    pub digest: String,
}

/// Why steps cannot be offered or chosen.
#[derive(Debug, thiserror::Error)]
pub enum ChoiceError {
    /// A step cannot be offered.
    #[error(transparent)]
    Step(#[from] StepError),
    /// The mold cannot be read.
    #[error(transparent)]
    Package(#[from] PackageError),
    /// The user vouched for another digest.
    #[error("the mold {origin} has another digest")]
    OtherDigest {
        /// The address of the mold.
        origin: String,
        /// The digest of the mold.
        found: String,
        /// The digest that the user vouched for.
        vouched: String,
    },
    /// No step has this name.
    #[error("no finishing step is called {name:?}; {advice}")]
    Unknown {
        /// The name.
        name: String,
        /// The nearest name, or all of them.
        advice: String,
    },
    /// No one vouches for the selected steps.
    #[error("you have not vouched for the finishing steps of this mold")]
    NotVouched {
        /// The address of the mold.
        origin: String,
        /// The digest of the mold.
        digest: String,
        /// The steps.
        steps: Vec<OfferedStep>,
    },
}

impl StepChoice {
    /// Offers the steps of a mold for these values. They are ticked as the mold says if someone
    /// vouches for it: `vouch` is a digest that the user gave, `is_vouched` looks a digest up. In a project
    /// that was brought along (`is_own` is false), files may be others than the mold's: only `vouch` counts.
    /// `read` returns the text of a file of the project, to show what the steps run of it; without it nothing is
    /// looked up.
    ///
    /// # Errors
    /// A step cannot be offered, the mold cannot be read, or `vouch` is another digest.
    pub fn new(
        mold: &Mold,
        values: &Values,
        read: Option<ReadText<'_>>,
        is_own: bool,
        vouch: Option<&str>,
        is_vouched: impl FnOnce(&str) -> bool,
    ) -> Result<Self, ChoiceError> {
        let steps = offered(mold, values, read)?;
        let origin = mold.package.origin.to_string();
        let built_in = mold.package.origin.is_built_in();
        let digest = if (built_in && is_own) || steps.is_empty() {
            String::new()
        } else {
            mold.package.digest()?.to_string()
        };
        if let Some(vouched) = vouch.filter(|vouch| !digest.is_empty() && **vouch != digest) {
            return Err(ChoiceError::OtherDigest { origin, found: digest, vouched: vouched.to_owned() });
        }
        let vouched = vouch.is_some() || (is_own && (built_in || is_vouched(&digest)));
        let ticked = steps.iter().map(|step| vouched && step.tick).collect();
        Ok(Self { steps, ticked, vouched, is_own, origin, digest })
    }

    /// Leaves the local files of the plan out of a first commit.
    pub fn leave_out_local(&mut self, plan: &Plan<'_>) {
        let local = plan.entries.iter().filter(|entry| plan.body(entry).local);
        let local: Vec<String> = local.map(|entry| entry.path.to_string()).collect();
        for step in &mut self.steps {
            // A repository below the project's root holds other paths.
            if matches!(step.run, StepCommand::Git(_)) && step.folder.is_empty() {
                step.left_out.clone_from(&local);
            }
        }
    }

    /// Ticks the steps of a list with commas: names, `all` or `none`.
    ///
    /// # Errors
    /// A name is unknown, or no one vouches for the steps.
    pub fn tick(&mut self, list: &str) -> Result<(), ChoiceError> {
        let names: Vec<&str> = list.split(',').map(str::trim).filter(|name| !name.is_empty()).collect();
        for name in &names {
            if !matches!(*name, "all" | "none") && !self.steps.iter().any(|step| step.name == *name) {
                let known = || self.steps.iter().map(|step| step.name.as_str());
                let all = known().collect::<Vec<_>>().join(", ");
                let all =
                    if all.is_empty() { "there are none here".into() } else { format!("there are {all}") };
                let advice = did_you_mean(name, known(), all);
                return Err(ChoiceError::Unknown { name: (*name).to_owned(), advice });
            }
        }
        for (ticked, step) in self.ticked.iter_mut().zip(&self.steps) {
            *ticked = names.contains(&"all") || names.contains(&step.name.as_str());
        }
        if self.vouched || !self.ticked.contains(&true) {
            return Ok(());
        }
        let (origin, digest) = (self.origin.clone(), self.digest.clone());
        Err(ChoiceError::NotVouched { origin, digest, steps: self.chosen() })
    }

    /// Ticks the steps of these names and no others.
    pub fn select_only(&mut self, names: &[String]) {
        for (ticked, step) in self.ticked.iter_mut().zip(&self.steps) {
            *ticked = names.contains(&step.name);
        }
    }

    /// Keeps the steps for which `keep` returns true.
    pub fn retain(&mut self, keep: impl Fn(&OfferedStep) -> bool) {
        let kept: Vec<bool> = self.steps.iter().map(keep).collect();
        let mut flags = kept.iter();
        self.steps.retain(|_| flags.next() == Some(&true));
        let mut flags = kept.iter();
        self.ticked.retain(|_| flags.next() == Some(&true));
    }

    /// Returns the names of the ticked steps.
    #[must_use]
    pub fn names(&self) -> Vec<String> {
        self.chosen().into_iter().map(|step| step.name).collect()
    }

    /// Returns the ticked steps.
    #[must_use]
    pub fn chosen(&self) -> Vec<OfferedStep> {
        let both = self.steps.iter().zip(&self.ticked);
        both.filter(|(_, ticked)| **ticked).map(|(step, _)| step.clone()).collect()
    }
}
