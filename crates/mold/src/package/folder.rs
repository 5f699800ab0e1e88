//! A mold in a folder of this machine.

use super::contents::{Content, File, Package};
use super::error::PackageError;
use super::layers::{layer_name, named_layers};
use super::on_disk::OnDisk;
use super::origin::Origin;
use std::fs;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use tinmold_platform::parallel;
use tinmold_platform::paths::joined;
use tinmold_platform::read_dir::{EntryKind, list};

/// Lists the mold in `folder`. Only names are read.
///
/// # Errors
/// The folder has no `mold.toml`, holds a name that is not UTF-8 or something that is not a file,
/// folder or link, or cannot be read.
pub fn open_folder(folder: &Path) -> Result<Package, PackageError> {
    let _span = tracing::debug_span!("open_folder", folder = %folder.display()).entered();
    if !folder.join("mold.toml").is_file() {
        return Err(PackageError::NotAMold(folder.to_owned()));
    }
    let mut files = below(folder, "")?;
    let manifest = fs::read_to_string(folder.join("mold.toml")).unwrap_or_default();
    let mut layers = Vec::new();
    for from in named_layers(&manifest) {
        let Some(name) = layer_name(&from) else { continue };
        let inside = format!("layers/{name}");
        // A mold that was packed has its layers.
        let is_own = folder.join(&inside).join("layer.toml").is_file();
        let outside = folder.join(&from);
        if is_own || layers.iter().any(|(other, _)| *other == name) || !outside.join("layer.toml").is_file() {
            continue;
        }
        files.extend(below(&outside, &inside)?);
        layers.push((name, from.trim_end_matches('/').to_owned()));
    }
    files.sort_unstable_by(|a, b| a.path.cmp(&b.path));
    Ok(Package::new(Origin::Folder(folder.to_owned()), files)?.with_layers(layers))
}

/// Lists everything below a directory, whose path in the mold is `inside`.
fn below(directory: &Path, inside: &str) -> Result<Vec<File>, PackageError> {
    let mut files = Vec::new();
    let mut level = vec![(directory.to_owned(), inside.to_owned())];
    while !level.is_empty() {
        let listed = parallel::map(&level, |_, (directory, inside)| list_one(directory, inside));
        level.clear();
        for listed in listed {
            let listed = listed?;
            files.extend(listed.files);
            level.extend(listed.folders);
        }
    }
    Ok(files)
}

/// The files and folders of one directory, with their paths in the mold.
#[derive(Default)]
struct Listed {
    files: Vec<File>,
    folders: Vec<(PathBuf, String)>,
}

/// Lists the directory whose path in the mold is `inside`.
fn list_one(directory: &Path, inside: &str) -> Result<Listed, PackageError> {
    let io = |path: &Path| {
        let path = path.to_owned();
        move |source| PackageError::Io { path, source }
    };
    let mut listed = Listed::default();
    let entries = list(directory).map_err(io(directory))?;
    if entries.is_empty() && !inside.is_empty() {
        listed.files.push(File::new(inside, Content::EmptyFolder, 0o755));
    }
    let shared: Arc<Path> = directory.into();
    for (name, kind) in entries {
        let path = directory.join(&name);
        let name = name.to_str().ok_or_else(|| PackageError::NotUtf8(path.clone()))?;
        // A mold may live in a repository of its own.
        if inside.is_empty() && name == ".git" {
            continue;
        }
        let inside = joined(inside, name);
        match kind {
            EntryKind::Directory => listed.folders.push((path, inside)),
            EntryKind::File => {
                let content = Content::OnDisk(OnDisk::new(Arc::clone(&shared)));
                listed.files.push(File::new(inside, content, 0));
            }
            EntryKind::Link => {
                let target = fs::read_link(&path).map_err(io(&path))?;
                let target = target.to_str().ok_or_else(|| PackageError::NotUtf8(target.clone()))?;
                listed.files.push(File::new(inside, Content::Link(target.to_owned()), 0o777));
            }
            EntryKind::Special => return Err(PackageError::Special(path)),
        }
    }
    Ok(listed)
}
