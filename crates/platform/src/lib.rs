//! The machine below Tin Mold: digests, directory handles, portable paths, processes, archives and
//! parallel work. Nothing here knows what a mold is.

pub mod digest;
pub mod dir_handle;
pub mod files;
pub mod parallel;
pub mod paths;
pub mod process;
pub mod read_dir;
pub mod repository;
pub mod root_dir;
pub mod tarball;
pub mod terminal;
pub mod text;
