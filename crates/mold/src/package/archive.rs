//! A mold in a `.tar.gz` archive, in one folder.

use super::contents::{Content, File, Package};
use super::error::{ArchiveError, PackageError};
use super::limits::{MOST_BYTES, MOST_ENTRIES};
use super::origin::Origin;
use std::collections::{BTreeMap, HashSet};
use std::fs;
use std::io::{Read, Write};
use std::path::Path;
use tinmold_platform::tarball::Tarball;

/// Packs a mold into a folder `top`: the same bytes for the same files on every machine.
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

/// Reads the mold in an archive. Nothing is written to disk.
///
/// # Errors
/// The file is not the archive of one mold, holds what a mold may not, or unpacks to too much.
pub fn open_archive(path: &Path) -> Result<Package, PackageError> {
    let _span = tracing::debug_span!("open_archive", path = %path.display()).entered();
    let file = fs::File::open(path).map_err(|source| PackageError::Io { path: path.to_owned(), source })?;
    let files =
        unpack(file).map_err(|reason| PackageError::Archive { name: path.display().to_string(), reason })?;
    Package::new(Origin::Archive(path.to_owned()), files)
}

fn unpack(bytes: impl Read) -> Result<Vec<File>, ArchiveError> {
    let unzipped = flate2::read::GzDecoder::new(bytes).take(MOST_BYTES + 1);
    let mut archive = tar::Archive::new(unzipped);
    let mut found: BTreeMap<String, File> = BTreeMap::new();
    let mut total = 0_u64;
    for (number, entry) in archive.entries()?.enumerate() {
        let mut entry = entry?;
        if number >= MOST_ENTRIES {
            return Err(ArchiveError::TooManyEntries);
        }
        let path = entry.path_bytes().into_owned();
        let path = String::from_utf8(path).map_err(|_| ArchiveError::NotUtf8)?;
        let path = path.trim_start_matches("./").trim_end_matches('/').to_owned();
        let outside = path.starts_with('/')
            || path.contains('\\')
            || path.split('/').any(|part| matches!(part, "" | "." | ".."));
        let kind = entry.header().entry_type();
        if kind.is_dir() && !path.contains('/') {
            continue;
        }
        if outside {
            return Err(ArchiveError::Outside(path));
        }
        let mode = entry.header().mode().unwrap_or(0o644);
        let mode = if mode & 0o100 != 0 { 0o755 } else { 0o644 };
        let content = if kind.is_dir() {
            Content::EmptyFolder
        } else if kind.is_symlink() {
            let target = entry.link_name()?.unwrap_or_default().into_owned();
            Content::Link(target.to_str().ok_or(ArchiveError::NotUtf8)?.to_owned())
        } else if kind.is_file() {
            let mut held = Vec::new();
            entry.read_to_end(&mut held)?;
            total += held.len() as u64;
            Content::Held(held.into())
        } else {
            return Err(ArchiveError::Special(path));
        };
        if total > MOST_BYTES {
            return Err(ArchiveError::TooLarge);
        }
        if found.insert(path.clone(), File::new(path.clone(), content, mode)).is_some() {
            return Err(ArchiveError::Twice(path));
        }
    }
    // The checksum of the compression follows the last entry.
    std::io::copy(&mut archive.into_inner(), &mut std::io::sink())?;
    below_root(found)
}

/// Takes the files below the one folder that holds all of them; folders only where they are empty.
fn below_root(found: BTreeMap<String, File>) -> Result<Vec<File>, ArchiveError> {
    let root = |path: &str| path.split_once('/').map(|(root, _)| root.to_owned());
    let first = found.keys().next().and_then(|path| root(path));
    let top = first.filter(|top| found.keys().all(|path| root(path).as_ref() == Some(top)));
    let Some(top) = top else { return Err(ArchiveError::SeveralRoots) };
    let filled: HashSet<String> = found
        .keys()
        .flat_map(|path| path.match_indices('/').map(|(at, _)| path[..at].to_owned()).collect::<Vec<_>>())
        .collect();
    let is_file =
        |path: &String, file: &File| !(matches!(file.content, Content::EmptyFolder) && filled.contains(path));
    let files = found.into_iter().filter(|(path, file)| is_file(path, file));
    let mut files: Vec<File> = files
        .map(|(_, mut file)| {
            file.path.drain(..=top.len());
            file
        })
        .collect();
    files.sort_by(|a, b| a.path.cmp(&b.path));
    if files.iter().any(|file| file.path == "mold.toml") { Ok(files) } else { Err(ArchiveError::NoManifest) }
}
