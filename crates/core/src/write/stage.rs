//! Everything rendered and written below a folder of its own, where nobody looks yet.

use super::{Observer, WriteError};
use crate::digest::{Digest, digest_of, written_digests};
use crate::parallel;
use crate::plan::{Entry, EntryKind, PlanError, Rendered};
use crate::record::{CASTING, Casting, DIGESTS, FOLDER};
use crate::shelf::{Content, PackageError};
use crate::verify::VerifiedPlan;
use std::borrow::Cow;
use std::cell::RefCell;
use std::collections::BTreeMap;
use std::fs;
use std::io::Write;
use std::path::Path;
use std::sync::atomic::{AtomicBool, AtomicU64, AtomicUsize, Ordering};

thread_local! {
    /// The bytes of the file at hand, kept from file to file.
    static BUFFER: RefCell<Vec<u8>> = const { RefCell::new(Vec::new()) };
}

/// An entry and the path where it goes.
pub(super) struct Item<'p> {
    pub(super) entry: &'p Entry,
    pub(super) path: Cow<'p, str>,
}

/// What was staged.
pub(super) struct Staged {
    pub(super) bytes: u64,
    /// By the item's place: the digest of a file.
    pub(super) digests: Vec<Option<Digest>>,
}

/// Writes every item below `root`, which is an empty folder.
pub(super) fn stage(
    plan: &VerifiedPlan<'_>,
    items: &[Item<'_>],
    root: &Path,
    observer: &dyn Observer,
) -> Result<Staged, WriteError> {
    make_folders(items, root)?;
    let (bytes, done, failed) = (AtomicU64::new(0), AtomicUsize::new(0), AtomicBool::new(false));
    let results = parallel::map(items, |_, item| {
        if failed.load(Ordering::Relaxed) {
            return Ok(None);
        }
        if observer.is_cancelled() {
            failed.store(true, Ordering::Relaxed);
            return Err(WriteError::Cancelled);
        }
        let result = write_one(plan, item.entry, &root.join(&*item.path));
        match &result {
            Ok(_) => observer.wrote(done.fetch_add(1, Ordering::Relaxed) + 1, items.len()),
            // Mistakes are all reported; after anything else there is no point in going on.
            Err(WriteError::Plan(_)) => {}
            Err(_) => failed.store(true, Ordering::Relaxed),
        }
        result.map(|(length, digest)| {
            bytes.fetch_add(length, Ordering::Relaxed);
            digest
        })
    });
    let (mut digests, mut findings) = (Vec::with_capacity(items.len()), Vec::new());
    for result in results {
        match result {
            Ok(digest) => digests.push(digest),
            Err(WriteError::Plan(PlanError::Faulty(found))) => findings.extend(found),
            Err(other) => return Err(other),
        }
    }
    if !findings.is_empty() {
        tinmold_notation::sort_findings(&mut findings);
        return Err(PlanError::Faulty(findings).into());
    }
    Ok(Staged { bytes: bytes.into_inner(), digests })
}

/// Writes the record of the casting below `root`: what it came from, and the digests of its files by path.
pub(super) fn stage_record(
    plan: &VerifiedPlan<'_>,
    digests: &BTreeMap<String, Digest>,
    root: &Path,
) -> Result<(), WriteError> {
    let folder = root.join(FOLDER);
    fs::create_dir_all(&folder).map_err(WriteError::io("make the folder", &folder))?;
    for (path, text) in record(plan, digests)? {
        let path = root.join(path);
        write_file(&path, text.as_bytes(), 0o644).map_err(WriteError::io("write", &path))?;
    }
    Ok(())
}

/// The files of the record: path and text.
pub(super) fn record(
    plan: &VerifiedPlan<'_>,
    digests: &BTreeMap<String, Digest>,
) -> Result<[(&'static str, String); 2], WriteError> {
    let digest = plan.mold.package.digest().map_err(unreadable)?;
    Ok([(CASTING, Casting::of(plan, digest).written()), (DIGESTS, written_digests(digests))])
}

/// A file of the mold that cannot be read any more.
pub(super) fn unreadable(error: PackageError) -> WriteError {
    match error {
        PackageError::Io { path, source } => WriteError::Io { what: "read", path, source },
        other => WriteError::Io {
            what: "read",
            path: "the mold".into(),
            source: std::io::Error::other(other.to_string()),
        },
    }
}

/// Makes every folder once.
fn make_folders(items: &[Item<'_>], root: &Path) -> Result<(), WriteError> {
    let mut last = "";
    for item in items {
        let folder = match item.entry.kind {
            EntryKind::Folder => &item.path,
            _ => item.path.rsplit_once('/').map_or("", |(folder, _)| folder),
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

/// Gives the number of bytes and the digest of what was written.
fn write_one(
    plan: &VerifiedPlan<'_>,
    entry: &Entry,
    path: &Path,
) -> Result<(u64, Option<Digest>), WriteError> {
    let source = &plan.mold.package.files[plan.body(entry).file];
    match &entry.kind {
        EntryKind::Folder => Ok((0, None)),
        EntryKind::Link(target) => {
            make_link(target, path).map_err(WriteError::io("make the link", path))?;
            Ok((0, None))
        }
        EntryKind::Copy | EntryKind::Text => BUFFER.with_borrow_mut(|buffer| {
            let (length, digest) = match (plan.render(entry, buffer)?, &source.content) {
                (Rendered::Bytes, _) => (write_file(path, buffer, entry.mode), digest_of(buffer)),
                (Rendered::AsIs, Content::OnDisk(from, _)) => {
                    (copy_file(from, path, entry.mode), source.digest().map_err(unreadable)?)
                }
                (Rendered::AsIs, Content::Held(bytes)) => {
                    (write_file(path, bytes, entry.mode), source.digest().map_err(unreadable)?)
                }
                (Rendered::AsIs, Content::Link(_) | Content::EmptyFolder) => return Ok((0, None)),
            };
            Ok((length.map_err(WriteError::io("write", path))?, Some(digest)))
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
