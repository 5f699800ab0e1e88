//! Why a part, or a change of it, cannot be fitted.

use super::edit::EditError;
use super::joint;
use crate::plan::PlanError;
use crate::verify::VerifyError;
use tinmold_notation::Finding;
use tinmold_platform::paths::PathError;

/// The largest file that is changed, in bytes.
pub(super) const LARGEST: u64 = 16 << 20;

/// Why a file cannot be changed. Displayed as a clause that follows the path.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum TextProblem {
    /// The file does not exist.
    #[error("is not there")]
    Absent,
    /// It is not a file.
    #[error("is not a file there")]
    NotAFile,
    /// The file is too large.
    #[error("is larger than {} MiB", LARGEST >> 20)]
    TooLarge,
    /// The file is not text.
    #[error("is not UTF-8 text")]
    NotUtf8,
    /// The mold does not cast it.
    #[error("is not cast")]
    NotCast,
    /// The file has no such joint.
    #[error("has no line with `{}`", joint::label(.0))]
    NoJoint(String),
    /// The file has the joint more than once.
    #[error("has `{}` more than once: at lines {}", joint::label(.name), joined(.lines))]
    SeveralJoints {
        /// The joint.
        name: String,
        /// The numbers of the lines, from 1.
        lines: Vec<usize>,
    },
    /// The file cannot be edited.
    #[error("cannot be edited: {0}")]
    Edit(EditError),
}

fn joined(lines: &[usize]) -> String {
    lines.iter().map(usize::to_string).collect::<Vec<_>>().join(" and ")
}

/// Why a part cannot be fitted at all.
#[derive(Debug, thiserror::Error)]
pub enum FitError {
    /// The part's condition is false for the project's answers.
    #[error("the part {part} does not apply to this project: `{when}` is false")]
    DoesNotGo {
        /// The part.
        part: String,
        /// The condition.
        when: String,
    },
    /// Mistakes of the part that these answers show.
    #[error(transparent)]
    Plan(#[from] PlanError),
    /// Entries that may not be written.
    #[error(transparent)]
    Verify(#[from] VerifyError),
    /// The part would change a path that it must not.
    #[error("{path:?} {reason}")]
    Unsafe {
        /// The file as the part names it.
        path: String,
        /// Why not.
        reason: UnsafePath,
    },
    /// A file of the project cannot be read.
    #[error("cannot read {path}: {source}")]
    Io {
        /// The file.
        path: String,
        /// The system's error.
        source: std::io::Error,
    },
}

impl From<Finding> for FitError {
    fn from(finding: Finding) -> Self {
        Self::Plan(finding.into())
    }
}

/// Why a path may not be changed. Displayed as a clause that follows the path.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum UnsafePath {
    /// The path is not portable.
    #[error(transparent)]
    Path(#[from] PathError),
    /// A folder on the way is a link.
    #[error("is behind a link that leads elsewhere")]
    BehindLink,
}
