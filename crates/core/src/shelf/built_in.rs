//! The shelf in the program: an archive a mold, unpacked when it is asked for.

use super::package::{Content, File, Origin, Package, PackageError};
use std::io::Read;
use tinmold_notation::did_you_mean;

static MOLDS: &[(&str, &[u8])] = include!(concat!(env!("OUT_DIR"), "/built_in.rs"));

/// The names of the molds in the program, sorted.
pub fn built_in_names() -> impl Iterator<Item = &'static str> {
    MOLDS.iter().map(|(name, _)| *name)
}

/// The built-in mold of this name.
///
/// # Errors
/// There is none; the message names the nearest one.
pub fn built_in(name: &str) -> Result<Package, PackageError> {
    let Some((name, archive)) = MOLDS.iter().find(|(known, _)| *known == name) else {
        let all = built_in_names().collect::<Vec<_>>().join(", ");
        let advice = did_you_mean(name, built_in_names(), format!("there are {all}"));
        let stop = if advice.ends_with('?') { "" } else { "." };
        let hint = format!("; {advice}{stop} A path to a mold's folder has a slash: ./{name}");
        return Err(PackageError::Unknown { name: name.to_owned(), hint });
    };
    let io = |source| PackageError::Io { path: name.into(), source };
    let mut files = Vec::new();
    let mut archive = tar::Archive::new(flate2::read::GzDecoder::new(*archive));
    for entry in archive.entries().map_err(io)? {
        let mut entry = entry.map_err(io)?;
        let path = entry.path().map_err(io)?.to_string_lossy().into_owned();
        let mode = entry.header().mode().map_err(io)?;
        let mut bytes = Vec::new();
        entry.read_to_end(&mut bytes).map_err(io)?;
        files.push(File::new(path, Content::Held(bytes), mode));
    }
    files.sort_by(|a, b| a.path.cmp(&b.path));
    Ok(Package { origin: Origin::BuiltIn((*name).to_owned()), files })
}
