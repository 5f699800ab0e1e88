//! The shelf in the program.

use super::contents::{Content, File, Package};
use super::error::PackageError;
use super::origin::Origin;
use std::borrow::Cow;
use tinmold_platform::digest::Digest;

/// Path, permission bits, bytes and SHA-256 digest of a file.
type BuiltInFile = (&'static str, u32, &'static [u8], [u8; 32]);

/// The molds by name, each with its files sorted by path. The build script writes the table.
static MOLDS: &[(&str, &[BuiltInFile])] = include!(concat!(env!("OUT_DIR"), "/built_in.rs"));

/// Returns the names of the molds in the program, sorted.
pub fn built_in_names() -> impl Iterator<Item = &'static str> {
    MOLDS.iter().map(|(name, _)| *name)
}

/// Returns the built-in mold of this name.
///
/// # Errors
/// There is none; the error names the nearest one.
pub fn built_in(name: &str) -> Result<Package, PackageError> {
    let Some((name, files)) = MOLDS.iter().find(|(known, _)| *known == name) else {
        let nearest = tinmold_notation::nearest(name, built_in_names()).map(str::to_owned);
        return Err(PackageError::Unknown { name: name.to_owned(), nearest });
    };
    let files = files.iter().map(|(path, mode, bytes, digest)| {
        File::new(*path, Content::Held(Cow::Borrowed(bytes)), *mode).with_digest(Digest(*digest))
    });
    Package::new(Origin::BuiltIn((*name).to_owned()), files.collect())
}
