//! Growing a project: parts, joints and edits of structured files.
//!
//! `fitting` plans what a part adds and changes, `joint` inserts lines, `edit` changes JSON, TOML
//! and YAML, `clash` names the choices for conflicting values, `text` keeps the style of a file;
//! `write` writes the fit and `undo` undoes it.

mod clash;
pub mod edit;
mod error;
mod fitting;
pub mod joint;
mod splice;
mod text;
mod undo;
mod write;

pub use clash::OnClash;
pub(crate) use splice::{between, made};
pub(crate) use text::Text;

pub use error::{FitError, TextProblem, UnsafePath};
pub use fitting::{Fitting, InFile, Missing, ReadFile, as_cast, belongs, in_folder};
pub use undo::{Undo, UndoError, UndoProblem};
pub use write::Fit;

pub use crate::write::Change;
