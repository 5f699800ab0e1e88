//! Growing a casting: parts, seams and edits of structured files.
//!
//! `fitting` plans what a part adds to a casting and changes in it, `seam` puts lines into a text, `edit` changes JSON, TOML and
//! YAML, `text` keeps what is not touched as it was; `write` brings all of it into the casting, and `undo` takes it back.

pub mod edit;
mod fitting;
pub mod seam;
mod splice;
mod text;
mod undo;
mod write;

pub use fitting::{Change, FitError, Fitting, InFile, Missing, OnClash, Read, as_cast, belongs, in_folder};
pub use undo::{Undo, UndoError};
pub use write::Fit;
