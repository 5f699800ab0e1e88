//! Renders and writes everything into a staging directory.

use super::error::{WriteError, collect};
use super::observer::Observer;
use crate::plan::{Entry, EntryKind, Rendered, Rendering};
use crate::record::{CASTING, Casting, DIGESTS};
use crate::verify::VerifiedPlan;
use std::borrow::Cow;
use std::fs::File;
use std::io::Write;
use std::sync::atomic::{AtomicBool, AtomicU64, AtomicUsize, Ordering};
use tinmold_platform::digest::{Digest, digest_of};
use tinmold_platform::dir_handle::DirHandle;
use tinmold_platform::parallel;
use tinmold_platform::root_dir::{Cursor, RootDir};

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
    root: &RootDir,
    observer: &dyn Observer,
) -> Result<Staged, WriteError> {
    let _span = tracing::debug_span!("stage", files = items.len(), root = %root.path().display()).entered();
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
    root: &'p RootDir,
    rendering: Rendering<'p>,
    source: DirHandle,
    target: Cursor<'p>,
    buffer: Vec<u8>,
}

impl<'p> Worker<'p> {
    fn new(plan: &'p VerifiedPlan<'_>, root: &'p RootDir) -> Self {
        Self {
            plan,
            root,
            rendering: plan.rendering(),
            source: DirHandle::default(),
            target: Cursor::new(root),
            buffer: Vec::new(),
        }
    }

    /// Writes an item; returns its length and, for a file, its digest.
    fn write(&mut self, item: &Item<'_>) -> Result<(u64, Option<Digest>), WriteError> {
        let (entry, path, root) = (item.entry, &*item.path, self.root);
        let failed = |action| WriteError::at(action, root, path);
        match &entry.kind {
            EntryKind::Folder => {
                self.target.make_directories(path).map_err(failed("make the folder"))?;
                return Ok((0, None));
            }
            EntryKind::Link(target) => {
                self.target.make_link(target, path).map_err(failed("make the link"))?;
                return Ok((0, None));
            }
            EntryKind::Text | EntryKind::Copy => {}
        }
        let source = &self.plan.mold.package.files[self.plan.body(entry).file];
        let mode = self.plan.mode(entry);
        if let Rendered::Bytes = self.rendering.render(entry, &mut self.buffer)? {
            let written = self.target.create(path, mode).and_then(|mut file| file.write_all(&self.buffer));
            written.map_err(failed("write"))?;
            let same = self.rendering.digest_if_same(&self.buffer);
            let digest = same.unwrap_or_else(|| digest_of(&self.buffer));
            return Ok((self.buffer.len() as u64, Some(digest)));
        }
        let Some(from) = source.reader(&mut self.source) else { return Ok((0, None)) };
        let mut from = from?;
        let to = self.target.create(path, mode);
        let length = to.and_then(|mut to| std::io::copy(&mut from, &mut to)).map_err(failed("write"))?;
        Ok((length, Some(from.finish()?)))
    }
}

/// Writes a record below `root`; `list` writes the digests of the files.
pub(crate) fn stage_record(
    casting: &Casting,
    list: impl FnOnce(&mut File) -> std::io::Result<()>,
    root: &RootDir,
) -> Result<(), WriteError> {
    let mut cursor = Cursor::new(root);
    let record =
        cursor.create(CASTING, 0o644).and_then(|mut file| file.write_all(casting.to_toml().as_bytes()));
    record.map_err(WriteError::at("write", root, CASTING))?;
    let digests = cursor.create(DIGESTS, 0o644).and_then(|mut file| list(&mut file));
    digests.map_err(WriteError::at("write", root, DIGESTS))
}
