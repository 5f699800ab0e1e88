//! The casting record: which mold, version and answers a casting came from, and what its files were when they were written.
//!
//! `casting` is `.tinmold/casting.toml`, `digests` is `.tinmold/files.sha256`, `status` compares them with what is there. A
//! record is committed with a project and may come from anybody: nothing in it is believed without a look.

mod casting;
mod find;
mod status;

pub(crate) use casting::answered;
pub use casting::{BuiltInValues, Casting, CastingMold, Fitted, FittedChange, Splice};
pub use find::{RecordError, RecordMismatch, Recorded, find, open};
pub(crate) use status::leads_elsewhere;
pub use status::{FileStatus, Status, status};

/// The folder of a casting that belongs to the program.
pub const FOLDER: &str = ".tinmold";
/// The path of the record in a casting.
pub const CASTING: &str = ".tinmold/casting.toml";
/// The path of the digests in a casting.
pub const DIGESTS: &str = ".tinmold/files.sha256";
