//! A mold in an archive: `.tar.gz`, with the mold's files in one folder.

use super::package::{Content, File, Origin, Package, PackageError};
use crate::tarball::Tarball;
use std::collections::BTreeMap;
use std::fs;
use std::io::{Read, Write};
use std::path::Path;

/// The most bytes that an archive may unpack to; it is unpacked in memory.
pub(super) const MOST_BYTES: u64 = 256 << 20;
/// The most entries that it may hold.
const MOST_ENTRIES: usize = 100_000;

/// Packs a mold: the same bytes for the same files, whatever the machine. Everything lies in a folder `top`.
///
/// # Errors
/// A file cannot be read, or the archive cannot be written.
pub fn pack(package: &Package, top: &str, out: impl Write) -> Result<(), PackageError> {
    let mut tarball = Tarball::new(out, 0);
    let broken = |source| PackageError::Io { path: top.into(), source };
    for file in &package.files {
        let path = format!("{top}/{}", file.path);
        match &file.content {
            Content::Link(target) => tarball.link(&path, target),
            Content::EmptyFolder => tarball.folder(&format!("{path}/")),
            Content::Held(_) | Content::OnDisk(..) => {
                let bytes = file.read()?;
                tarball.file(&path, file.mode(), bytes.len() as u64, &mut bytes.as_ref())
            }
        }
        .map_err(broken)?;
    }
    tarball.finish().and_then(|mut out| out.flush()).map_err(broken)
}

/// Reads the mold in an archive. Nothing is written, and nothing in it is believed.
///
/// # Errors
/// It is no archive of one mold, holds what a mold may not, or unpacks to too much.
pub fn open_archive(path: &Path) -> Result<Package, PackageError> {
    let file = fs::File::open(path).map_err(|source| PackageError::Io { path: path.to_owned(), source })?;
    let files =
        unpacked(file).map_err(|reason| PackageError::BadArchive { path: path.to_owned(), reason })?;
    Ok(Package::new(Origin::Archive(path.to_owned()), files))
}

fn unpacked(bytes: impl Read) -> Result<Vec<File>, String> {
    let broken = |error: std::io::Error| format!("it cannot be read as .tar.gz: {error}");
    let unzipped = flate2::read::GzDecoder::new(bytes).take(MOST_BYTES + 1);
    let mut archive = tar::Archive::new(unzipped);
    let mut found: BTreeMap<String, File> = BTreeMap::new();
    let mut total = 0_u64;
    for (number, entry) in archive.entries().map_err(broken)?.enumerate() {
        let mut entry = entry.map_err(broken)?;
        if number >= MOST_ENTRIES {
            return Err(format!("it has more than {MOST_ENTRIES} entries"));
        }
        let path = entry.path_bytes().into_owned();
        let path = String::from_utf8(path).map_err(|_| "a name in it is not UTF-8".to_owned())?;
        let path = path.trim_start_matches("./").trim_end_matches('/').to_owned();
        let outside = path.starts_with('/')
            || path.contains('\\')
            || path.split('/').any(|part| matches!(part, "" | "." | ".."));
        let kind = entry.header().entry_type();
        if kind.is_dir() && !path.contains('/') {
            continue;
        }
        if outside {
            return Err(format!("the entry {path:?} leads out of it"));
        }
        let mode = entry.header().mode().unwrap_or(0o644);
        let mode = if mode & 0o100 != 0 { 0o755 } else { 0o644 };
        let content = if kind.is_dir() {
            Content::EmptyFolder
        } else if kind.is_symlink() {
            let target = entry.link_name().map_err(broken)?.unwrap_or_default().into_owned();
            Content::Link(target.to_str().ok_or("a link in it is not UTF-8")?.to_owned())
        } else if kind.is_file() {
            let mut held = Vec::new();
            entry.read_to_end(&mut held).map_err(broken)?;
            total += held.len() as u64;
            Content::Held(held.into())
        } else {
            return Err(format!("the entry {path:?} is neither a file, a folder nor a link"));
        };
        if total > MOST_BYTES {
            return Err(format!("it unpacks to more than {} MiB", MOST_BYTES >> 20));
        }
        if found.insert(path.clone(), File::new(path.clone(), content, mode)).is_some() {
            return Err(format!("the entry {path:?} is in it twice"));
        }
    }
    // What follows the last entry must be whole too: the archive's own check sum stands there.
    std::io::copy(&mut archive.into_inner(), &mut std::io::sink()).map_err(broken)?;
    settled(found)
}

/// The files below the one folder that all of them lie in; folders only where nothing is in them.
fn settled(found: BTreeMap<String, File>) -> Result<Vec<File>, String> {
    let top = |path: &str| path.split_once('/').map(|(top, _)| top.to_owned());
    let tops: Vec<Option<String>> = found.keys().map(|path| top(path)).collect();
    let same =
        tops.first().cloned().flatten().filter(|first| tops.iter().all(|top| top.as_ref() == Some(first)));
    let Some(top) = same else { return Err("its files do not lie in one folder".into()) };
    let filled: std::collections::HashSet<String> = found
        .keys()
        .flat_map(|path| path.match_indices('/').map(|(at, _)| path[..at].to_owned()).collect::<Vec<_>>())
        .collect();
    let files = found
        .into_iter()
        .filter(|(path, file)| !(matches!(file.content, Content::EmptyFolder) && filled.contains(path)));
    let mut files: Vec<File> = files
        .map(|(_, mut file)| {
            file.path = file.path.substr(top.len() + 1..);
            file
        })
        .collect();
    files.sort_by(|a, b| a.path.cmp(&b.path));
    if files.iter().any(|file| file.path == "mold.toml") {
        Ok(files)
    } else {
        Err("it holds no mold: there is no mold.toml in its folder".into())
    }
}
