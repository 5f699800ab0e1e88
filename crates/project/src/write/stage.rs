//! Renders and writes everything into a staging directory.

use super::error::{WriteError, collect};
use super::observer::Observer;
use crate::plan::{Entry, EntryKind, Rendered, Rendering};
use crate::record::{CASTING, Casting, DIGESTS, FOLDER};
use crate::verify::VerifiedPlan;
use std::borrow::Cow;
use std::fs::{self, File};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, AtomicU64, AtomicUsize, Ordering};
use tinmold_platform::digest::{Digest, digest_of};
use tinmold_platform::dir_handle::DirHandle;
use tinmold_platform::parallel;
use tinmold_platform::paths::parent_of;

/// An entry and its path.
pub(crate) struct Item<'p> {
    pub(crate) entry: &'p Entry<'p>,
    pub(crate) path: Cow<'p, str>,
}

/// What was staged.
pub(crate) struct Staged {
    /// Number of bytes in the files.
    pub(crate) bytes: u64,
    /// The digests of the files, in the order of the items; `None` for a folder or link.
    pub(crate) digests: Vec<Option<Digest>>,
}

/// Writes every item below `root`, which is an empty folder.
pub(crate) fn stage(
    plan: &VerifiedPlan<'_>,
    items: &[Item<'_>],
    root: &Path,
    observer: &dyn Observer,
) -> Result<Staged, WriteError> {
    let _span = tracing::debug_span!("stage", files = items.len(), root = %root.display()).entered();
    let progress = Progress::new(observer, items.len());
    let written = parallel::map_with(
        items,
        || Worker::new(plan, root),
        |worker, _, item| {
            if progress.stopped.load(Ordering::Relaxed) {
                return Ok(None);
            }
            let written =
                if observer.is_cancelled() { Err(WriteError::Cancelled) } else { worker.write(item) };
            match &written {
                Ok((bytes, _)) => progress.wrote(*bytes),
                // Mistakes are all reported; any other error ends the write.
                Err(WriteError::Plan(_)) => {}
                Err(_) => progress.stopped.store(true, Ordering::Relaxed),
            }
            written.map(|(_, digest)| digest)
        },
    );
    Ok(Staged { digests: collect(written)?, bytes: progress.bytes.into_inner() })
}

/// The progress of all threads together.
struct Progress<'o> {
    observer: &'o dyn Observer,
    total: usize,
    done: AtomicUsize,
    bytes: AtomicU64,
    stopped: AtomicBool,
}

impl<'o> Progress<'o> {
    fn new(observer: &'o dyn Observer, total: usize) -> Self {
        Self {
            observer,
            total,
            done: AtomicUsize::new(0),
            bytes: AtomicU64::new(0),
            stopped: AtomicBool::new(false),
        }
    }

    fn wrote(&self, bytes: u64) {
        self.bytes.fetch_add(bytes, Ordering::Relaxed);
        self.observer.wrote(self.done.fetch_add(1, Ordering::Relaxed) + 1, self.total);
    }
}

/// The buffers of a thread, reused for every file.
struct Worker<'p> {
    plan: &'p VerifiedPlan<'p>,
    root: &'p Path,
    rendering: Rendering<'p>,
    source: DirHandle,
    target: DirHandle,
    buffer: Vec<u8>,
    /// The path that is written to.
    path: PathBuf,
    /// The folder that was made last.
    folder: String,
}

impl<'p> Worker<'p> {
    fn new(plan: &'p VerifiedPlan<'_>, root: &'p Path) -> Self {
        Self {
            plan,
            root,
            rendering: plan.rendering(),
            source: DirHandle::default(),
            target: DirHandle::default(),
            buffer: Vec::new(),
            path: PathBuf::new(),
            folder: String::new(),
        }
    }

    /// Writes an item; returns its length and, for a file, its digest.
    fn write(&mut self, item: &Item<'_>) -> Result<(u64, Option<Digest>), WriteError> {
        let entry = item.entry;
        let is_folder = entry.kind == EntryKind::Folder;
        self.make_folder(if is_folder { &item.path } else { parent_of(&item.path) })?;
        if is_folder {
            return Ok((0, None));
        }
        self.set_path(&item.path);
        if let EntryKind::Link(target) = &entry.kind {
            make_link(target, &self.path).map_err(WriteError::io("make the link", &self.path))?;
            return Ok((0, None));
        }
        let source = &self.plan.mold.package.files[self.plan.body(entry).file];
        let mode = source.mode();
        if let Rendered::Bytes = self.rendering.render(entry, &mut self.buffer)? {
            self.target.write(&self.path, &self.buffer, mode).map_err(WriteError::io("write", &self.path))?;
            let same = self.rendering.digest_if_same(&self.buffer);
            let digest = same.unwrap_or_else(|| digest_of(&self.buffer));
            return Ok((self.buffer.len() as u64, Some(digest)));
        }
        let Some(from) = source.reader(&mut self.source) else { return Ok((0, None)) };
        let mut from = from?;
        let to = self.target.create(&self.path, mode);
        let length = to
            .and_then(|mut to| std::io::copy(&mut from, &mut to))
            .map_err(WriteError::io("write", &self.path))?;
        Ok((length, Some(from.finish()?)))
    }

    fn set_path(&mut self, inside: &str) {
        let path = self.path.as_mut_os_string();
        path.clear();
        path.push(self.root);
        path.push("/");
        path.push(inside);
    }

    /// Makes a folder unless it was made last. Another thread may make it at the same time.
    fn make_folder(&mut self, inside: &str) -> Result<(), WriteError> {
        if inside.is_empty() || inside == self.folder {
            return Ok(());
        }
        let path = self.root.join(inside);
        fs::create_dir_all(&path).map_err(WriteError::io("make the folder", path))?;
        inside.clone_into(&mut self.folder);
        Ok(())
    }
}

/// Writes a record below `root`; `list` writes the digests of the files.
pub(crate) fn stage_record(
    casting: &Casting,
    list: impl FnOnce(&mut File) -> std::io::Result<()>,
    root: &Path,
) -> Result<(), WriteError> {
    let folder = root.join(FOLDER);
    fs::create_dir_all(&folder).map_err(WriteError::io("make the folder", &folder))?;
    let path = root.join(CASTING);
    write_file(&path, casting.to_toml().as_bytes(), 0o644).map_err(WriteError::io("write", &path))?;
    let path = root.join(DIGESTS);
    let file = DirHandle::default().create(&path, 0o644);
    file.and_then(|mut file| list(&mut file)).map_err(WriteError::io("write", &path))
}

/// Writes a new file with these permission bits.
pub(crate) fn write_file(path: &Path, bytes: &[u8], mode: u32) -> std::io::Result<()> {
    DirHandle::default().write(path, bytes, mode)
}

#[cfg(unix)]
fn make_link(target: &str, path: &Path) -> std::io::Result<()> {
    std::os::unix::fs::symlink(target, path)
}

#[cfg(not(unix))]
fn make_link(_: &str, _: &Path) -> std::io::Result<()> {
    Err(std::io::Error::new(std::io::ErrorKind::Unsupported, "this system makes no symbolic links"))
}
