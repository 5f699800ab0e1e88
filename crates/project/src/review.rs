//! The review before a write, as data that any interface can show.

use crate::answers::{AnswerSource, Session, display_label, display_value};
use crate::plan::EntryKind;
use crate::preflight::Probe;
use crate::steps::StepChoice;
use crate::verify::VerifiedPlan;
use crate::write::{FileState, Inspection};
use std::path::PathBuf;
use tinmold_mold::{Kind, Need};

/// Everything that is decided before a write.
#[derive(Debug)]
pub struct Review {
    /// The settings, in the order of the questions.
    pub settings: Vec<Setting>,
    /// The folder or archive that is written.
    pub destination: PathBuf,
    /// True if nothing is at the destination.
    pub is_new: bool,
    /// The changes to files, sorted by path.
    pub changes: Vec<FileChange>,
    /// The tools that the machine lacks.
    pub lacking: Vec<LackingNeed>,
    /// The finishing steps; `None` where none can run.
    pub steps: Option<StepChoice>,
}

/// A setting that the project is made from.
#[derive(Clone, Debug, PartialEq)]
pub struct Setting {
    /// The index of the question.
    pub question: usize,
    /// The group of the question.
    pub group: Option<String>,
    /// The question, as it is asked.
    pub label: String,
    /// The answer.
    pub value: SettingValue,
    /// The source of the answer.
    pub source: AnswerSource,
}

/// The value of a setting.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum SettingValue {
    /// A text, a number, an option or a list; empty for none.
    Text(String),
    /// Yes or no.
    Flag(bool),
    /// A secret that was given; false if none was.
    Secret(bool),
    /// A value that is minted when the project is written.
    Minted {
        /// Its length in characters.
        length: u16,
    },
}

/// A change to a file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FileChange {
    /// The path in the project.
    pub path: String,
    /// The length in bytes, where it is known.
    pub bytes: Option<u64>,
    /// The kind of the change.
    pub kind: ChangeKind,
}

/// The kind of a change to a file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ChangeKind {
    /// The file is written; it was compared with the one on disk.
    Written(FileState),
    /// Lines or values in it change.
    Edited,
}

/// A tool that the machine lacks.
#[derive(Clone, Debug)]
pub struct LackingNeed {
    /// A need of the mold.
    pub need: Need,
    /// The tool that was found.
    pub probe: Probe,
}

/// Returns the settings of a session: every question that applies, without those of the project
/// that a part is fitted into.
#[must_use]
pub fn settings(session: &Session<'_>) -> Vec<Setting> {
    let mold = session.mold();
    let all = mold.questions.iter().zip(session.resolved()).enumerate();
    all.filter(|(_, (question, resolved))| resolved.is_visible() && !question.from_casting)
        .map(|(at, (question, resolved))| Setting {
            question: at,
            group: question.group.clone(),
            label: question.ask.clone(),
            value: match question.kind {
                Kind::Minted { length } => SettingValue::Minted { length },
                _ if question.secret => {
                    SettingValue::Secret(!display_value(mold, &resolved.value).is_empty())
                }
                Kind::Flag => SettingValue::Flag(display_value(mold, &resolved.value) == "true"),
                _ => SettingValue::Text(display_label(mold, &resolved.value)),
            },
            source: resolved.source.clone(),
        })
        .collect()
}

/// Returns what becomes of each entry of a plan. `sizes` are in the order of the entries.
#[must_use]
pub fn changes(plan: &VerifiedPlan<'_>, sizes: &[u64], inspection: Option<&Inspection>) -> Vec<FileChange> {
    let entries = plan.entries.iter().zip(sizes).enumerate();
    entries
        .map(|(at, (entry, bytes))| FileChange {
            path: entry.path.to_string(),
            bytes: Some(*bytes).filter(|_| entry.kind != EntryKind::Folder),
            kind: ChangeKind::Written(
                inspection.map_or(FileState::Absent, |inspection| inspection.state(at).clone()),
            ),
        })
        .collect()
}
