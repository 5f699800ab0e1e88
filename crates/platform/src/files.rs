//! Files that are written whole.

use std::io::{self, Write};
use std::path::Path;

/// Writes a file, all of it or nothing, also where several do so at the same time; it takes the place of one that is
/// there. Folders on the way are made, and on Unix nobody but its owner reads it.
///
/// # Errors
/// The folder cannot be made, or the file cannot be written beside or in its place.
pub fn write_whole(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let folder = path.parent().unwrap_or(Path::new("."));
    std::fs::create_dir_all(folder)?;
    // A temporary file is its owner's only, and so is what takes its place.
    let mut staged = tempfile::NamedTempFile::new_in(folder)?;
    staged.write_all(bytes)?;
    staged.persist(path).map(drop).map_err(|error| error.error)
}
