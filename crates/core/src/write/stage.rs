//! Everything rendered and written below a folder of its own, where nobody looks yet.

use super::{Observer, WriteError, whole};
use crate::digest::{Digest, SIDE_BY_SIDE, digests_of, written_digests};
use crate::near::Near;
use crate::parallel;
use crate::plan::{Entry, EntryKind, PlanError, Rendered};
use crate::record::{CASTING, Casting, DIGESTS, FOLDER, Fitted};
use crate::shelf::{Content, PackageError};
use crate::verify::VerifiedPlan;
use std::borrow::Cow;
use std::cell::RefCell;
use std::collections::BTreeMap;
use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, AtomicU64, AtomicUsize, Ordering};

/// So many bytes are gathered before their digests are computed together.
const GATHERED: usize = 128 * 1024;

thread_local! {
    /// The buffers of a thread, kept from file to file.
    static BATCH: RefCell<Batch> = const { RefCell::new(Batch { waiting: Vec::new(), free: Vec::new(), bytes: 0 }) };
}

/// Files whose bytes wait for their digests.
struct Batch {
    waiting: Vec<Held>,
    /// Buffers to use again.
    free: Vec<Held>,
    bytes: usize,
}

/// Where a thread reads and where it writes.
#[derive(Default)]
struct Places {
    from: Near,
    to: Near,
    /// The path that is written to, kept from file to file.
    path: PathBuf,
}

impl Places {
    /// The path `inside` the folder `root`.
    fn at(&mut self, root: &Path, inside: &str) {
        let path = self.path.as_mut_os_string();
        path.clear();
        path.push(root);
        path.push("/");
        path.push(inside);
    }
}

/// The bytes of a file as it was read and as it was written.
#[derive(Default)]
struct Held {
    /// Which of the results it is.
    at: usize,
    /// Which file of the mold.
    file: usize,
    source: Vec<u8>,
    out: Vec<u8>,
    /// Whether it comes out as it was read.
    as_is: bool,
}

impl Batch {
    /// Computes the digests of everything gathered: those of what was written go into the results, those of what was read into
    /// the mold. Unless it is the `last` time, what would not fill the vectors waits on.
    fn settle(
        &mut self,
        plan: &VerifiedPlan<'_>,
        results: &mut [Result<Option<Digest>, WriteError>],
        last: bool,
    ) {
        let source = |held: &Held| &plan.mold.package.files[held.file];
        // Bytes in memory stay what they are; a file is hashed as it was read just now.
        let mut said: Vec<Option<Digest>> = Vec::with_capacity(self.waiting.len());
        let (mut texts, mut take) = (0, 0);
        for held in &self.waiting {
            let known = source(held).known_digest();
            said.push(known.filter(|_| matches!(source(held).content, Content::Held(_))));
            texts += usize::from(said.last() == Some(&None)) + usize::from(!held.as_is);
            if texts % SIDE_BY_SIDE == 0 {
                take = said.len();
            }
        }
        if last || take == 0 {
            take = self.waiting.len();
        }
        let held = &self.waiting[..take];
        let read = held.iter().zip(&said).filter(|(_, said)| said.is_none()).map(|(held, _)| &held.source);
        let written = held.iter().filter(|held| !held.as_is).map(|held| &held.out);
        let texts: Vec<&[u8]> = read.clone().chain(written).map(Vec::as_slice).collect();
        let digests = digests_of(&texts);
        let (read, written) = digests.split_at(read.count());
        let (mut read, mut written) = (read.iter().copied(), written.iter().copied());
        for (held, said) in held.iter().zip(said) {
            let own = said.or_else(|| read.next());
            own.into_iter().for_each(|own| source(held).set_digest(own));
            let came_out = if held.as_is { own } else { written.next() };
            if let Some(Ok(digest)) = results.get_mut(held.at) {
                *digest = came_out;
            }
        }
        for mut held in self.waiting.drain(..take) {
            self.bytes -= held.source.len() + held.out.len();
            // What a large file took is given back.
            held.source.shrink_to(GATHERED);
            held.out.shrink_to(GATHERED);
            self.free.push(held);
        }
    }
}

/// The files of a record: path and text.
pub(crate) type RecordFiles = [(&'static str, String); 2];

/// An entry and the path where it goes.
pub(crate) struct Item<'p> {
    pub(crate) entry: &'p Entry,
    pub(crate) path: Cow<'p, str>,
}

/// What was staged.
pub(crate) struct Staged {
    pub(crate) bytes: u64,
    /// By the item's place: the digest of a file.
    pub(crate) digests: Vec<Option<Digest>>,
}

/// Writes every item below `root`, which is an empty folder.
pub(crate) fn stage(
    plan: &VerifiedPlan<'_>,
    items: &[Item<'_>],
    root: &Path,
    observer: &dyn Observer,
) -> Result<Staged, WriteError> {
    make_folders(items, root)?;
    let (bytes, done, failed) = (AtomicU64::new(0), AtomicUsize::new(0), AtomicBool::new(false));
    let one = |item: &Item<'_>, at: usize, batch: &mut Batch, places: &mut Places| {
        if failed.load(Ordering::Relaxed) {
            return Ok(None);
        }
        if observer.is_cancelled() {
            failed.store(true, Ordering::Relaxed);
            return Err(WriteError::Cancelled);
        }
        places.at(root, &item.path);
        let result = write_one(plan, item.entry, at, batch, places);
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
    };
    let results = parallel::map_shares(items, |_, share, results| {
        let mut places = Places::default();
        BATCH.with_borrow_mut(|batch| {
            for item in share {
                let result = one(item, results.len(), batch, &mut places);
                results.push(result);
                if batch.bytes > GATHERED {
                    batch.settle(plan, results, false);
                }
            }
            batch.settle(plan, results, true);
        });
    });
    let digests = whole(results)?;
    Ok(Staged { bytes: bytes.into_inner(), digests })
}

/// Writes the files of a record below `root`.
pub(crate) fn stage_record(files: RecordFiles, root: &Path) -> Result<(), WriteError> {
    let folder = root.join(FOLDER);
    fs::create_dir_all(&folder).map_err(WriteError::io("make the folder", &folder))?;
    for (path, text) in files {
        let path = root.join(path);
        write_file(&path, text.as_bytes(), 0o644).map_err(WriteError::io("write", &path))?;
    }
    Ok(())
}

/// The files of the record of a cast: what it came from with the `parts` fitted, and the digests of its files, by path.
pub(super) fn record(
    plan: &VerifiedPlan<'_>,
    parts: &[Fitted],
    digests: &[(&str, Digest)],
) -> Result<RecordFiles, WriteError> {
    let casting = || {
        let digest = plan.mold.package.digest().map_err(unreadable)?;
        Ok::<_, WriteError>(Casting { part: parts.to_vec(), ..Casting::of(plan, digest) }.written())
    };
    let written = || written_digests(digests.iter().copied());
    let (casting, digests) = parallel::both(digests.len(), casting, written);
    Ok([(CASTING, casting?), (DIGESTS, digests)])
}

/// The files of a record.
pub(crate) fn record_files(casting: &Casting, digests: &BTreeMap<String, Digest>) -> RecordFiles {
    let digests = written_digests(digests.iter().map(|(path, digest)| (path.as_str(), *digest)));
    [(CASTING, casting.written()), (DIGESTS, digests)]
}

/// A file of the mold that cannot be read any more.
pub(crate) fn unreadable(error: PackageError) -> WriteError {
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

/// Writes an entry to the path of `places`. Gives the number of bytes of what was written, and its digest if that is known
/// already; else the batch holds the bytes.
fn write_one(
    plan: &VerifiedPlan<'_>,
    entry: &Entry,
    at: usize,
    batch: &mut Batch,
    places: &mut Places,
) -> Result<(u64, Option<Digest>), WriteError> {
    let Places { from: reading, to: writing, path } = places;
    let path = path.as_path();
    let file = plan.body(entry).file;
    let source = &plan.mold.package.files[file];
    match &entry.kind {
        EntryKind::Folder => return Ok((0, None)),
        EntryKind::Link(target) => {
            make_link(target, path).map_err(WriteError::io("make the link", path))?;
            return Ok((0, None));
        }
        EntryKind::Text | EntryKind::Copy => {}
    }
    if !plan.needs_source(entry) {
        let length = match &source.content {
            Content::OnDisk(from, _) => copy_file(from, path, entry.mode, reading, writing),
            Content::Held(bytes) => write_near(writing, path, bytes, entry.mode),
            Content::Link(_) | Content::EmptyFolder => return Ok((0, None)),
        };
        let length = length.map_err(WriteError::io("write", path))?;
        return Ok((length, Some(source.digest().map_err(unreadable)?)));
    }
    let mut held = batch.free.pop().unwrap_or_default();
    (held.at, held.file, held.as_is) = (at, file, true);
    plan.read(entry, &mut held.source, reading).map_err(PlanError::from)?;
    let bytes = match plan.render_from(entry, &held.source, &mut held.out)? {
        Rendered::Bytes => {
            held.as_is = held.out == held.source;
            &held.out
        }
        Rendered::AsIs => &held.source,
    };
    let length = write_near(writing, path, bytes, entry.mode).map_err(WriteError::io("write", path))?;
    batch.bytes += held.source.len() + held.out.len();
    batch.waiting.push(held);
    Ok((length, None))
}

/// Writes a new file.
pub(crate) fn write_file(path: &Path, bytes: &[u8], mode: u32) -> std::io::Result<u64> {
    write_near(&mut Near::default(), path, bytes, mode)
}

fn write_near(near: &mut Near, path: &Path, bytes: &[u8], mode: u32) -> std::io::Result<u64> {
    near.create(path, mode)?.write_all(bytes)?;
    Ok(bytes.len() as u64)
}

/// Copies without holding the file in memory; the system shares the blocks where it can.
fn copy_file(
    from: &Path,
    to: &Path,
    mode: u32,
    reading: &mut Near,
    writing: &mut Near,
) -> std::io::Result<u64> {
    let mut target = writing.create(to, mode)?;
    std::io::copy(&mut reading.open(from)?, &mut target)
}

#[cfg(unix)]
fn make_link(target: &str, path: &Path) -> std::io::Result<()> {
    std::os::unix::fs::symlink(target, path)
}

#[cfg(not(unix))]
fn make_link(_: &str, _: &Path) -> std::io::Result<()> {
    Err(std::io::Error::new(std::io::ErrorKind::Unsupported, "this system makes no symbolic links"))
}
