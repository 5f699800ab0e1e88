//! The files of a mold, wherever they lie: in the program, in a folder, or in an archive.

mod archive;
mod built_in;
mod contents;
mod error;
mod folder;
mod layers;
mod limits;
mod mold_digest;
mod on_disk;
mod origin;

pub use archive::{open_archive, pack};
pub use built_in::{built_in, built_in_names};
pub use contents::{Content, File, FileReader, Package};
pub use error::{ArchiveError, PackageError};
pub use folder::open_folder;
pub use layers::layer_name;
pub(crate) use limits::LARGEST_MANIFEST;
pub use limits::MOST_BYTES;
pub use mold_digest::MoldDigest;
pub use on_disk::OnDisk;
pub use origin::Origin;
