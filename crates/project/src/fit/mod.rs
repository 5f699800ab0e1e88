//! Growing a project: parts, joints and edits of structured files.
//!
//! `fitting` plans what a part adds and changes, `joint` puts lines into a text, `edit` changes JSON, TOML and
//! YAML, `clash` says what becomes of values in the way, `text` keeps what is not touched as it was; `write`
//! writes all of it, and `undo` takes it back.

mod clash;
pub mod edit;
mod fitting;
pub mod joint;
mod splice;
mod text;
mod undo;
mod write;

pub use clash::OnClash;
pub use fitting::{
    Change, FitError, Fitting, InFile, Missing, ReadFile, TextProblem, UnsafePath, as_cast, belongs,
    in_folder,
};
pub use undo::{Undo, UndoError, UndoProblem};
pub use write::Fit;
