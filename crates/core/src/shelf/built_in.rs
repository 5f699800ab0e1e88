//! The shelf in the program: its files as they are, with their digests, so that reading one costs nothing.

use super::package::{Content, File, Origin, Package, PackageError};
use crate::digest::Digest;
use std::borrow::Cow;
use tinmold_notation::did_you_mean;

/// Path, permission bits, digest and bytes of a file, as the build script found them.
type BuiltInFile = (&'static str, u32, [u8; 32], &'static [u8]);

/// The molds by name, each with its digest and its files, sorted by path.
static MOLDS: &[(&str, [u8; 32], &[BuiltInFile])] = include!(concat!(env!("OUT_DIR"), "/built_in.rs"));

/// The names of the molds in the program, sorted.
pub fn built_in_names() -> impl Iterator<Item = &'static str> {
    MOLDS.iter().map(|(name, ..)| *name)
}

/// The built-in mold of this name.
///
/// # Errors
/// There is none; the message names the nearest one.
pub fn built_in(name: &str) -> Result<Package, PackageError> {
    let Some((name, digest, files)) = MOLDS.iter().find(|(known, ..)| *known == name) else {
        let all = built_in_names().collect::<Vec<_>>().join(", ");
        let advice = did_you_mean(name, built_in_names(), format!("there are {all}"));
        let stop = if advice.ends_with('?') { "" } else { "." };
        let hint = format!("; {advice}{stop} A path to a mold's folder has a slash: ./{name}");
        return Err(PackageError::Unknown { name: name.to_owned(), hint });
    };
    let files = files.iter().map(|(path, mode, digest, bytes)| {
        let file = File::new((*path).to_owned(), Content::Held(Cow::Borrowed(bytes)), *mode);
        file.set_digest(Digest(*digest));
        file
    });
    Ok(Package::new(Origin::BuiltIn((*name).to_owned()), files.collect()).of_digest(Digest(*digest)))
}
