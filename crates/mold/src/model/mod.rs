//! The model of a mold: names, types and order resolved, ready to be asked and rendered.

mod body;
mod error;
mod mold;
mod part;
mod steps;
mod texts;

pub use body::{BODY, BodyFile, EachRule, EarlierPaths, FileRules, MatchedRule, name_label, named_entry};
pub use error::{Faulty, MoldError};
pub(crate) use mold::bad_folder;
pub use mold::{DerivedValue, Layer, Mold, Preset, ResolveStep};
pub use part::{Part, PartEdit, PartJoint, Piece};
pub use steps::{FinishStep, Need, StepAction};
pub use texts::Texts;
