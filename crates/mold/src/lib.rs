//! Molds: what a template package holds, read and checked. No answers, no terminal, no network.
//!
//! The modules, in the order of the data: `package` (files) → `manifest` (TOML as written) →
//! `reader` (names, types, order) → `model` (a mold) → `check` (mistakes that need the whole mold).
//! `question` holds kinds, rules and forms, `snippet` a text or expression of a manifest, `formats`
//! the file formats that can be parsed, `codes` the codes of findings.

pub mod check;
pub mod codes;
pub mod formats;
pub mod manifest;
pub mod model;
pub mod package;
pub mod question;
mod reader;
mod snippet;

pub use check::Usage;
pub use formats::Holds;
pub use manifest::{Header, Owner};
pub use model::{
    BodyFile, DerivedValue, EachRule, EarlierPaths, Faulty, FileRules, FinishStep, Mold, MoldError, Need,
    Part, PartEdit, PartJoint, Piece, Preset, ResolveStep, StepAction, Texts, name_label, named_entry,
};
pub use package::{Content, File, MoldDigest, Origin, Package, PackageError, built_in, built_in_names};
pub use question::{Form, Kind, Offered, OptionInfo, Question, Refusal, Rules, check_value, typed};
pub use snippet::{Snippet, has_tag};
