//! A project, and the two versions of its mold.

use super::history::History;
use super::replay::LoadedPart;
use crate::answers::Answers;
use crate::plan::Limits;
use crate::record::{Fitted, Recorded};
use std::sync::OnceLock;
use tinmold_mold::{Mold, MoldDigest};

/// The version of the mold that a project was cast from, as it can be rendered again.
#[derive(Debug)]
pub struct OldVersion<'m> {
    /// The mold.
    pub mold: &'m Mold,
    /// By recorded part: the part as it was.
    pub parts: &'m [LoadedPart],
    /// The recorded answers.
    pub answers: Answers,
}

/// A project and the version of its mold that it is brought to.
#[derive(Debug)]
pub struct Recasting<'m> {
    /// The project.
    pub recorded: &'m Recorded,
    /// The version that it was cast from; `None` if that cannot be had.
    pub old: Option<OldVersion<'m>>,
    /// The version that it is brought to.
    pub new: &'m Mold,
    /// The digest of that version.
    pub digest: MoldDigest,
    /// By recorded part: the part of the new version.
    pub parts: &'m [LoadedPart],
    /// The limits of what is rendered.
    pub limits: Limits,
    /// What the history of the project holds, once it was looked at.
    pub(super) history: OnceLock<History>,
}

impl<'m> Recasting<'m> {
    /// Brings a project to a version of its mold.
    #[must_use]
    pub fn new(
        recorded: &'m Recorded,
        old: Option<OldVersion<'m>>,
        (new, digest): (&'m Mold, MoldDigest),
        parts: &'m [LoadedPart],
        limits: Limits,
    ) -> Self {
        Self { recorded, old, new, digest, parts, limits, history: OnceLock::new() }
    }

    /// Returns what names a recorded part: its name and the first of its answers.
    pub(super) fn label(fitted: &Fitted) -> String {
        let first = fitted.answers.values().next().and_then(toml::Value::as_str);
        [Some(fitted.name.as_str()), first].into_iter().flatten().collect::<Vec<_>>().join(" ")
    }
}
