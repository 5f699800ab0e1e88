//! The record of a project: the mold, version and answers it came from, and the digests of its
//! files as written.
//!
//! `casting` is `.tinmold/casting.toml`, `digests` is `.tinmold/files.sha256`, `status` compares
//! them with the files. A record is committed with a project and is untrusted input: every path and
//! value in it is validated.

mod address;
mod casting;
mod find;
mod status;

pub use address::mold_in_repository;
pub(crate) use casting::answered;
pub use casting::{BuiltInValues, Casting, CastingMold, Fitted, FittedChange, Splice};
pub use find::{RecordError, RecordMismatch, Recorded, at, find, open};
pub use status::{FileStatus, Status, status};

/// The program's own directory in a project.
pub const FOLDER: &str = ".tinmold";
/// The path of the record in a project.
pub const CASTING: &str = ".tinmold/casting.toml";
/// The path of the digests in a project.
pub const DIGESTS: &str = ".tinmold/files.sha256";
