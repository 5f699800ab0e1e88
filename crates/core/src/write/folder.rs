//! Into a new folder: staged beside it, and there with one rename.

use super::{Observer, WriteError, Written};
use crate::parallel;
use crate::plan::{Entry, EntryKind, Rendered};
use crate::shelf::Content;
use crate::verify::VerifiedPlan;
use std::cell::RefCell;
use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, AtomicU64, AtomicUsize, Ordering};

thread_local! {
    /// The bytes of the file at hand, kept from file to file.
    static BUFFER: RefCell<Vec<u8>> = const { RefCell::new(Vec::new()) };
}

/// Whether `folder` can become a new folder: it is not there, or is an empty folder.
///
/// # Errors
/// What is in the way.
fn is_free(folder: &Path) -> Result<(), WriteError> {
    match fs::symlink_metadata(folder) {
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(()),
        Err(error) => Err(WriteError::io("look at", folder)(error)),
        Ok(metadata) if metadata.is_dir() => {
            let mut entries = fs::read_dir(folder).map_err(WriteError::io("read", folder))?;
            if entries.next().is_some() { Err(WriteError::InTheWay(folder.to_owned())) } else { Ok(()) }
        }
        Ok(_) => Err(WriteError::NotAFolder(folder.to_owned())),
    }
}

/// Writes the plan into `folder`, which is not there yet or is empty.
///
/// Everything is rendered and written beside it first, so that it appears whole or not at all.
///
/// # Errors
/// What is in the way, mistakes in the body, and what the system refuses. Nothing is left behind then.
pub fn new_folder(
    plan: &VerifiedPlan<'_>,
    folder: &Path,
    observer: &dyn Observer,
) -> Result<Written, WriteError> {
    is_free(folder)?;
    let beside = match folder.parent() {
        Some(parent) if !parent.as_os_str().is_empty() => parent,
        _ => Path::new("."),
    };
    let made = made_folders(beside)?;
    let result = stage_and_rename(plan, folder, beside, observer);
    if result.is_err() {
        // Only folders that this call made, and only while they are empty.
        made.iter().rev().for_each(|folder| drop(fs::remove_dir(folder)));
    }
    result
}

/// Makes what is missing of a path; gives what was made, outermost first.
fn made_folders(path: &Path) -> Result<Vec<PathBuf>, WriteError> {
    let mut missing: Vec<PathBuf> = path
        .ancestors()
        .take_while(|folder| !folder.as_os_str().is_empty() && !folder.exists())
        .map(Path::to_owned)
        .collect();
    missing.reverse();
    fs::create_dir_all(path).map_err(WriteError::io("make the folder", path))?;
    Ok(missing)
}

fn stage_and_rename(
    plan: &VerifiedPlan<'_>,
    folder: &Path,
    beside: &Path,
    observer: &dyn Observer,
) -> Result<Written, WriteError> {
    let stage = tempfile::Builder::new()
        .prefix(".tinmold-stage-")
        .tempdir_in(beside)
        .map_err(WriteError::io("write in", beside))?;
    let bytes = write_all(plan, stage.path(), observer)?;
    set_mode(stage.path(), 0o755).map_err(WriteError::io("set the permissions of", stage.path()))?;
    rename_onto_nothing(stage.path(), folder)?;
    // The folder is the casting now.
    let _ = stage.keep();
    let files = plan.entries.iter().filter(|entry| entry.kind != EntryKind::Folder).count();
    Ok(Written { folder: folder.to_owned(), files, bytes })
}

/// Renames a folder to a path where nothing is, or an empty folder.
fn rename_onto_nothing(from: &Path, to: &Path) -> Result<(), WriteError> {
    // A folder is renamed onto an empty one only; where anything else is, the system refuses. Beginning with the removal of
    // an empty folder serves the systems that refuse that too.
    let _ = fs::remove_dir(to);
    fs::rename(from, to).map_err(|error| match error.kind() {
        std::io::ErrorKind::AlreadyExists | std::io::ErrorKind::DirectoryNotEmpty => {
            WriteError::InTheWay(to.to_owned())
        }
        std::io::ErrorKind::NotADirectory => WriteError::NotAFolder(to.to_owned()),
        _ => WriteError::io("make the folder", to)(error),
    })
}

/// Writes every entry below `root`; gives the number of bytes.
pub(super) fn write_all(
    plan: &VerifiedPlan<'_>,
    root: &Path,
    observer: &dyn Observer,
) -> Result<u64, WriteError> {
    make_folders(plan, root)?;
    let (bytes, done, failed) = (AtomicU64::new(0), AtomicUsize::new(0), AtomicBool::new(false));
    let of = plan.entries.len();
    let results = parallel::map(&plan.entries, |_, entry| {
        if failed.load(Ordering::Relaxed) {
            return Ok(());
        }
        if observer.is_cancelled() {
            failed.store(true, Ordering::Relaxed);
            return Err(WriteError::Cancelled);
        }
        let result = write_one(plan, entry, root).map(|length| {
            bytes.fetch_add(length, Ordering::Relaxed);
            observer.wrote(done.fetch_add(1, Ordering::Relaxed) + 1, of);
        });
        // Mistakes are all reported; after anything else there is no point in going on.
        if matches!(result, Err(WriteError::Io { .. })) {
            failed.store(true, Ordering::Relaxed);
        }
        result
    });
    let mut findings = Vec::new();
    for result in results {
        match result {
            Ok(()) => {}
            Err(WriteError::Plan(crate::plan::PlanError::Faulty(found))) => findings.extend(found),
            Err(other) => return Err(other),
        }
    }
    if !findings.is_empty() {
        tinmold_notation::sort_findings(&mut findings);
        return Err(crate::plan::PlanError::Faulty(findings).into());
    }
    Ok(bytes.into_inner())
}

/// Makes every folder once.
fn make_folders(plan: &VerifiedPlan<'_>, root: &Path) -> Result<(), WriteError> {
    let mut last = "";
    for entry in &plan.entries {
        let folder = match entry.kind {
            EntryKind::Folder => entry.path.as_str(),
            _ => entry.path.rsplit_once('/').map_or("", |(folder, _)| folder),
        };
        // Entries are sorted by path, so that those of one folder mostly stand together.
        if folder.is_empty() || folder == last {
            continue;
        }
        last = folder;
        let path = root.join(folder);
        fs::create_dir_all(&path).map_err(WriteError::io("make the folder", path))?;
    }
    Ok(())
}

fn write_one(plan: &VerifiedPlan<'_>, entry: &Entry, root: &Path) -> Result<u64, WriteError> {
    let path = root.join(&entry.path);
    let source = &plan.mold.package.files[plan.body(entry).file];
    match &entry.kind {
        EntryKind::Folder => Ok(0),
        EntryKind::Link(target) => {
            make_link(target, &path).map_err(WriteError::io("make the link", &path))?;
            Ok(0)
        }
        EntryKind::Copy | EntryKind::Text => BUFFER.with_borrow_mut(|buffer| {
            match plan.render(entry, buffer)? {
                Rendered::Bytes => write_file(&path, buffer, entry.mode),
                Rendered::AsIs => match &source.content {
                    Content::OnDisk(from, _) => copy_file(from, &path, entry.mode),
                    Content::Held(bytes) => write_file(&path, bytes, entry.mode),
                    Content::Link(_) | Content::EmptyFolder => Ok(0),
                },
            }
            .map_err(WriteError::io("write", &path))
        }),
    }
}

fn open_new(path: &Path, mode: u32) -> std::io::Result<fs::File> {
    let mut options = fs::OpenOptions::new();
    options.write(true).create_new(true);
    #[cfg(unix)]
    {
        use std::os::unix::fs::OpenOptionsExt;
        options.mode(mode);
    }
    #[cfg(not(unix))]
    let _ = mode;
    options.open(path)
}

fn write_file(path: &Path, bytes: &[u8], mode: u32) -> std::io::Result<u64> {
    open_new(path, mode)?.write_all(bytes)?;
    Ok(bytes.len() as u64)
}

/// Copies without holding the file in memory; the system shares the blocks where it can.
fn copy_file(from: &Path, to: &Path, mode: u32) -> std::io::Result<u64> {
    let mut target = open_new(to, mode)?;
    std::io::copy(&mut fs::File::open(from)?, &mut target)
}

#[cfg(unix)]
fn make_link(target: &str, path: &Path) -> std::io::Result<()> {
    std::os::unix::fs::symlink(target, path)
}

#[cfg(not(unix))]
fn make_link(_: &str, _: &Path) -> std::io::Result<()> {
    Err(std::io::Error::new(std::io::ErrorKind::Unsupported, "this system makes no symbolic links"))
}

#[cfg(unix)]
fn set_mode(path: &Path, mode: u32) -> std::io::Result<()> {
    use std::os::unix::fs::PermissionsExt;
    fs::set_permissions(path, fs::Permissions::from_mode(mode))
}

#[cfg(not(unix))]
fn set_mode(_: &Path, _: u32) -> std::io::Result<()> {
    Ok(())
}
