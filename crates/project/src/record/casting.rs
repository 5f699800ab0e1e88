//! The record of a project, `.tinmold/casting.toml`.

use super::address::address;
use crate::answers::{Answers, BuiltIns, as_toml};
use crate::plan::Plan;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::path::Path;
use tinmold_mold::{Mold, MoldDigest};
use tinmold_notation::Value;

/// The form of record that this program writes, and the newest that it reads.
pub(super) const FORMAT: u32 = 1;

const HEAD: &str =
    "# Which template this project came from. `tinmold status` reads it; commit it with the project.\n\n";

/// The record of a project: the mold, its version and the answers it was cast with.
#[derive(Clone, Debug, Deserialize, PartialEq, Serialize)]
#[serde(deny_unknown_fields)]
pub struct Casting {
    /// The form of the record.
    pub format: u32,
    /// The mold.
    pub mold: CastingMold,
    /// The answers, by key. Minted values and what was not asked are left out.
    pub answers: toml::Table,
    /// The values of the built-in names.
    #[serde(rename = "built-in")]
    pub built_in: BuiltInValues,
    /// The symbolic links as they were written: path and what it points to.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub links: BTreeMap<String, String>,
    /// The parts that were fitted later, in that order.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub part: Vec<Fitted>,
}

/// The mold of a project.
#[derive(Clone, Debug, Deserialize, PartialEq, Eq, Serialize)]
#[serde(deny_unknown_fields)]
pub struct CastingMold {
    /// Its name.
    pub name: String,
    /// Its version.
    pub version: String,
    /// The address it was found at: on a shelf, a URL, or a path relative to the project. Empty for what only
    /// this machine has.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub address: String,
    /// The digest of all its files, as [`MoldDigest`] prints it; earlier programs computed another.
    pub digest: String,
}

/// The values of the built-in names that the project was rendered with.
#[derive(Clone, Debug, Default, Deserialize, PartialEq, Eq, Serialize)]
#[serde(deny_unknown_fields)]
pub struct BuiltInValues {
    /// The day, by ISO 8601.
    pub today: String,
    /// The user's name.
    #[serde(rename = "user.name", default, skip_serializing_if = "String::is_empty")]
    pub user_name: String,
    /// The user's email address.
    #[serde(rename = "user.email", default, skip_serializing_if = "String::is_empty")]
    pub user_email: String,
    /// The name of the project's directory.
    #[serde(rename = "project.dir")]
    pub project_dir: String,
}

/// A part that was fitted.
#[derive(Clone, Debug, Deserialize, PartialEq, Serialize)]
#[serde(deny_unknown_fields)]
pub struct Fitted {
    /// The part's name.
    pub name: String,
    /// The day, by ISO 8601.
    pub today: String,
    /// The mold of the part, if it is not the project's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mold: Option<CastingMold>,
    /// The answers to its questions.
    pub answers: toml::Table,
    /// The files and links that it made, by path: the digest, or `link` and what it points to.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub files: BTreeMap<String, String>,
    /// The changes to existing files, in order.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub change: Vec<FittedChange>,
}

/// A change to an existing file, with what undoes it.
#[derive(Clone, Debug, Deserialize, PartialEq, Eq, Serialize)]
#[serde(deny_unknown_fields)]
pub struct FittedChange {
    /// The file.
    pub path: String,
    /// Its digest before.
    pub was: String,
    /// Its digest after.
    pub now: String,
    /// True if the file did not come from the project's mold.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub foreign: bool,
    /// The edits that undo it, from the end of the file to its start; `None` if the file is not
    /// text.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub back: Vec<Splice>,
}

/// Bytes of a file that become others.
#[derive(Clone, Debug, Deserialize, PartialEq, Eq, Serialize)]
#[serde(deny_unknown_fields)]
pub struct Splice {
    /// The first byte.
    pub at: usize,
    /// The number of bytes to remove.
    pub length: usize,
    /// The bytes to insert.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub text: String,
}

impl CastingMold {
    /// Returns a mold of this digest, for the record of the project at `root`.
    pub(crate) fn of(mold: &Mold, digest: MoldDigest, root: &Path) -> Self {
        Self {
            name: mold.name().to_owned(),
            version: mold.version().to_owned(),
            address: address(&mold.package.origin, mold.version(), root),
            digest: digest.to_string(),
        }
    }
}

impl Casting {
    /// Returns the record of a cast to `root` by `plan`, of a mold of this digest, once it is rendered.
    #[must_use]
    pub fn of(plan: &Plan<'_>, digest: MoldDigest, root: &Path) -> Self {
        let (mold, answers) = (plan.mold, &plan.answers);
        let text = |name: &str| match mold.scope.find(name).and_then(|id| answers.values.get(id)) {
            Some(Value::Text(text)) => text.clone(),
            _ => String::new(),
        };
        Self {
            format: FORMAT,
            mold: CastingMold::of(mold, digest, root),
            answers: answered(mold, answers),
            built_in: BuiltInValues {
                today: answers.built_ins.today.clone(),
                user_name: answers.built_ins.user_name.clone(),
                user_email: match plan.uses_email() {
                    true => answers.built_ins.user_email.clone(),
                    false => String::new(),
                },
                project_dir: text("project.dir"),
            },
            links: plan
                .entries
                .iter()
                .filter_map(|entry| match &entry.kind {
                    crate::plan::EntryKind::Link(target) => {
                        Some((entry.path.to_string(), (*target).to_owned()))
                    }
                    _ => None,
                })
                .collect(),
            part: Vec::new(),
        }
    }

    /// Returns the recorded values of the built-in names, on another day (ISO 8601).
    #[must_use]
    pub fn built_ins_on(&self, day: &str) -> BuiltIns {
        let recorded = &self.built_in;
        BuiltIns {
            user_name: recorded.user_name.clone(),
            user_email: recorded.user_email.clone(),
            ..BuiltIns::on(day)
        }
    }

    /// Returns the same as they were recorded.
    #[must_use]
    pub fn built_ins(&self) -> BuiltIns {
        self.built_ins_on(&self.built_in.today)
    }

    /// Returns the record as the file holds it.
    #[must_use]
    pub fn to_toml(&self) -> String {
        format!("{HEAD}{}", toml::to_string(self).unwrap_or_default())
    }
}

/// Returns the answers in TOML's types: what was asked, secrets left out.
pub(crate) fn answered(mold: &Mold, answers: &Answers) -> toml::Table {
    let questions = mold.questions.iter().zip(&answers.questions);
    questions
        .filter(|(question, settled)| question.is_asked() && !question.secret && settled.is_visible())
        .map(|(question, settled)| (question.key.clone(), as_toml(mold, &settled.value)))
        .collect()
}
