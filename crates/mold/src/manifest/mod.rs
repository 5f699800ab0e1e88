//! `mold.toml`, `part.toml` and `layer.toml` as they are written, before names and types are resolved.
//!
//! `raw` holds the shapes, `fields` reads typed keys from a table, `read` reads a whole manifest.
//! Every mistake of the shape is collected, with its span.

mod fields;
mod raw;
mod read;

pub use fields::{ShapeError, ShapeErrorKind};
pub use raw::{
    DerivedEntry, FilesEntry, FinishEntry, Header, LayerManifest, Manifest, NeedEntry, Owner, PartManifest,
    Placed, RawEdit, RawJoint, RawKind, RawLayer, RawOption, RawPart, RawPreset, RawQuestion, RawValue,
    TourEntry,
};
pub use read::{read_layer_manifest, read_manifest, read_part_manifest};
