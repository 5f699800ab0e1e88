//! Files on their way from the mold into a folder: read, rendered, written, hashed.
//!
//! A stretch of them goes through each of these together: what does one thing over and over finds its instructions at hand,
//! which going through all four of them file by file does not.

use super::stage::{Item, unreadable};
use super::target::{Target, copy_file, make_link, write_near};
use super::{Observer, WriteError, whole};
use crate::digest::{Digest, digest_line, digests_of};
use crate::near::Near;
use crate::plan::{Entry, EntryKind, PlanError, Rendered, Rendering, Source, folder_of};
use crate::shelf::{Content, File, PackageDigest};
use crate::verify::VerifiedPlan;
use std::ops::Range;
use std::path::Path;
use std::sync::atomic::{AtomicBool, AtomicU64, AtomicUsize, Ordering};
use std::sync::{Mutex, PoisonError};

/// So many bytes are read before they are gone on with, and so many come out before they are written. That is most often a whole share
/// of files: the system, too, does one thing over and over sooner than several in turns.
const TOGETHER: usize = 512 * 1024;
/// Room for more bytes than these is not kept for the next stretch.
const KEPT: usize = 2 * TOGETHER;
/// So many bytes lie between two texts. Without them, texts whose lengths are powers of two would take the same places of a processor's
/// cache from each other when they are hashed side by side.
const BETWEEN: usize = 64;

/// What became of each item: the digest of a file.
type Results = Vec<Result<Option<Digest>, WriteError>>;

/// How far all threads together are.
pub(super) struct Progress<'p> {
    observer: &'p dyn Observer,
    of: usize,
    done: AtomicUsize,
    bytes: AtomicU64,
    /// Whether there is no point in going on.
    stopped: AtomicBool,
    /// The mold's digest, as far as its files are read.
    mold: Mutex<PackageDigest<'p>>,
}

impl<'p> Progress<'p> {
    /// Of this many items of a plan none is written.
    pub(super) fn new(plan: &'p VerifiedPlan<'_>, of: usize, observer: &'p dyn Observer) -> Self {
        Self {
            observer,
            of,
            done: AtomicUsize::new(0),
            bytes: AtomicU64::new(0),
            stopped: AtomicBool::new(false),
            mold: Mutex::new(plan.mold.package.digesting()),
        }
    }

    /// The number of bytes that were written, and the digest of the mold.
    pub(super) fn end(self) -> (u64, PackageDigest<'p>) {
        (self.bytes.into_inner(), self.mold.into_inner().unwrap_or_else(PoisonError::into_inner))
    }

    /// Takes into the mold's digest what was read, if no other thread is at it.
    fn digest_mold(&self) {
        if let Ok(mut mold) = self.mold.try_lock() {
            mold.go_on();
        }
    }

    fn is_stopped(&self) -> bool {
        self.stopped.load(Ordering::Relaxed)
    }

    /// Says that so many items were written, and so many bytes in them.
    fn wrote(&self, items: usize, bytes: u64) {
        if items > 0 {
            self.bytes.fetch_add(bytes, Ordering::Relaxed);
            self.observer.wrote(self.done.fetch_add(items, Ordering::Relaxed) + items, self.of);
        }
    }

    /// Says that an item was not. Mistakes are all reported; after anything else there is no point in going on.
    fn failed(&self, error: &WriteError) {
        if !matches!(error, WriteError::Plan(_)) {
            self.stopped.store(true, Ordering::Relaxed);
        }
    }
}

/// What a thread works with, from share to share.
pub(super) struct Tools<'p> {
    rendering: Rendering<'p>,
    /// What copies read with.
    reading: Near,
    target: Target,
    /// Files that are read, and not written yet.
    fresh: Vec<Held<'p>>,
    /// Files that are written, and have no digests yet.
    written: Vec<Held<'p>>,
    /// The bytes of both as they were read, and as they come out.
    sources: Vec<u8>,
    outs: Vec<u8>,
}

impl<'p> Tools<'p> {
    /// For the items of this plan.
    pub(super) fn new(plan: &'p VerifiedPlan<'_>) -> Self {
        Self {
            rendering: plan.rendering(),
            reading: Near::default(),
            target: Target::default(),
            fresh: Vec::new(),
            written: Vec::new(),
            sources: Vec::new(),
            outs: Vec::new(),
        }
    }
}

/// What became of a share of a plan's items.
pub(super) struct Carried {
    /// The digest of each that is a file, or why they were not all written.
    pub(super) digests: Result<Vec<Option<Digest>>, WriteError>,
    /// Their lines in the list of digests, while all of it is at hand.
    pub(super) lines: Vec<u8>,
}

/// Writes a share of a plan's items below `root`.
pub(super) fn carry(
    plan: &VerifiedPlan<'_>,
    share: &[Item<'_>],
    root: &Path,
    progress: &Progress<'_>,
    tools: &mut Tools<'_>,
) -> Carried {
    let results = Vec::with_capacity(share.len());
    let mut work = Carrying { plan, share, root, progress, results, tools };
    while work.results.len() < share.len() {
        work.read();
        while !work.tools.fresh.is_empty() {
            let rendered = work.render();
            work.write(rendered);
            work.settle();
            empty(&mut work.tools.outs);
        }
        empty(&mut work.tools.sources);
        progress.digest_mold();
    }
    let digests = whole(work.results);
    let mut lines = Vec::new();
    for (item, digest) in share.iter().zip(digests.iter().flatten()) {
        if let Some(digest) = digest
            && !plan.body(item.entry).local
        {
            digest_line(&mut lines, &item.path, *digest);
        }
    }
    Carried { digests, lines }
}

/// Makes room for another stretch.
fn empty(room: &mut Vec<u8>) {
    if room.capacity() > KEPT {
        *room = Vec::new();
    }
    room.clear();
}

/// A file that was read, and where its bytes are.
struct Held<'p> {
    /// Which item of the share, and which of the results, it is.
    at: usize,
    source: Source<'p>,
    /// Those that come out; none if it comes out as it was read.
    out: Option<Range<usize>>,
}

impl Held<'_> {
    fn comes_out<'b>(&'b self, sources: &'b [u8], outs: &'b [u8]) -> &'b [u8] {
        self.out.clone().map_or_else(|| self.source.bytes(sources), |out| &outs[out])
    }
}

/// A share that is carried.
struct Carrying<'c, 'm, 'o, 'p> {
    plan: &'c VerifiedPlan<'m>,
    share: &'c [Item<'c>],
    root: &'c Path,
    progress: &'c Progress<'o>,
    results: Results,
    tools: &'c mut Tools<'p>,
}

impl<'c> Carrying<'c, '_, '_, '_> {
    fn entry(&self, at: usize) -> &'c Entry<'c> {
        self.share[at].entry
    }

    fn source(&self, at: usize) -> &'c File {
        &self.plan.mold.package.files[self.plan.body(self.entry(at)).file]
    }

    /// Reads the next items; what needs no reading is written at once.
    fn read(&mut self) {
        let (mut written, mut bytes_written) = (0, 0);
        while self.tools.sources.len() < TOGETHER && self.results.len() < self.share.len() {
            let at = self.results.len();
            let result = match self.go_on(at) {
                Ok(true) if !self.plan.needs_source(self.entry(at)) => {
                    let whole = self.write_whole(at);
                    match &whole {
                        Ok((length, _)) => (written, bytes_written) = (written + 1, bytes_written + length),
                        Err(error) => self.progress.failed(error),
                    }
                    whole.map(|(_, digest)| digest)
                }
                Ok(true) => {
                    let Tools { rendering, fresh, sources, .. } = &mut *self.tools;
                    let read = rendering.read(self.share[at].entry, sources);
                    sources.resize(sources.len() + BETWEEN, 0);
                    let held = |source| fresh.push(Held { at, source, out: None });
                    read.map(held).map(|()| None).map_err(|finding| PlanError::from(finding).into())
                }
                other => other.map(|_| None),
            };
            self.results.push(result);
        }
        self.progress.wrote(written, bytes_written);
    }

    /// Whether there is a point in going on with an item; its folder is there then.
    fn go_on(&mut self, at: usize) -> Result<bool, WriteError> {
        if self.progress.is_stopped() {
            return Ok(false);
        }
        let item = &self.share[at];
        let folder = match item.entry.kind {
            EntryKind::Folder => &item.path,
            _ => folder_of(&item.path),
        };
        let ready = if self.progress.observer.is_cancelled() {
            Err(WriteError::Cancelled)
        } else {
            self.tools.target.make_folder(self.root, folder)
        };
        ready.inspect_err(|error| self.progress.failed(error)).map(|()| true)
    }

    /// Renders the first ones of those that were read; says how many.
    fn render(&mut self) -> usize {
        let Tools { rendering, fresh, sources, outs, .. } = &mut *self.tools;
        let mut rendered = 0;
        for held in fresh {
            if outs.len() >= TOGETHER {
                break;
            }
            rendered += 1;
            let (source, start) = (held.source.bytes(sources), outs.len());
            match rendering.render_from(self.share[held.at].entry, source, outs) {
                Ok(Rendered::Bytes) if outs[start..] != *source => held.out = Some(start..outs.len()),
                Ok(_) => outs.truncate(start),
                Err(error) => self.results[held.at] = Err(error.into()),
            }
            outs.resize(outs.len() + BETWEEN, 0);
        }
        rendered
    }

    /// Writes what was rendered.
    fn write(&mut self, rendered: usize) {
        let Tools { target, fresh, written, sources, outs, .. } = &mut *self.tools;
        // Threads that tell each other of every file wait for each other at every file.
        let (mut items, mut bytes) = (0, 0);
        for held in fresh.drain(..rendered) {
            let at = held.at;
            if self.results[at].is_ok() && !self.progress.is_stopped() {
                let item = &self.share[at];
                let mode = self.plan.mode(item.entry);
                let (near, path) = target.at(self.root, &item.path);
                match write_near(near, path, held.comes_out(sources, outs), mode) {
                    Ok(length) => {
                        (items, bytes) = (items + 1, bytes + length);
                        written.push(held);
                    }
                    Err(error) => self.results[at] = Err(WriteError::io("write", path)(error)),
                }
            }
            if let Err(error) = &self.results[at] {
                self.progress.failed(error);
            }
        }
        self.progress.wrote(items, bytes);
    }

    /// Writes an item of whose source nothing has to be known; gives its length and its digest, if it is a file.
    fn write_whole(&mut self, at: usize) -> Result<(u64, Option<Digest>), WriteError> {
        let item = &self.share[at];
        let source = self.source(at);
        let mode = source.mode();
        let (near, path) = self.tools.target.at(self.root, &item.path);
        let written = match (&item.entry.kind, &source.content) {
            (EntryKind::Link(target), _) => {
                make_link(target, path).map_err(WriteError::io("make the link", path)).map(|()| None)
            }
            (_, Content::OnDisk(disk)) => source
                .open(disk, &mut self.tools.reading)
                .map_err(WriteError::io("read", &*source.path))
                .and_then(|from| copy_file(from, path, mode, near).map_err(WriteError::io("write", path)))
                .map(Some),
            (_, Content::Held(bytes)) => {
                write_near(near, path, bytes, mode).map_err(WriteError::io("write", path)).map(Some)
            }
            (_, Content::Link(_) | Content::EmptyFolder) => Ok(None),
        };
        match written? {
            Some(length) => Ok((length, Some(source.digest().map_err(unreadable)?))),
            None => Ok((0, None)),
        }
    }

    /// Computes the digests of what was written: those of what came out go into the results, those of what was read into
    /// the mold.
    fn settle(&mut self) {
        let written = std::mem::take(&mut self.tools.written);
        let Tools { sources, outs, .. } = &*self.tools;
        // Bytes in memory stay what they are; a file is hashed as it was read just now.
        let said: Vec<Option<Digest>> = written
            .iter()
            .map(|held| match held.source {
                Source::Held(_) => self.source(held.at).known_digest(),
                Source::Read(_) => None,
            })
            .collect();
        let to_read = written.iter().zip(&said).filter(|(_, said)| said.is_none());
        let to_read = to_read.map(|(held, _)| held.source.bytes(sources));
        let to_write = written.iter().filter_map(|held| held.out.clone()).map(|out| &outs[out]);
        let texts: Vec<&[u8]> = to_read.clone().chain(to_write).collect();
        let digests = digests_of(&texts);
        let (read, out) = digests.split_at(to_read.count());
        let (mut read, mut out) = (read.iter().copied(), out.iter().copied());
        for (held, said) in written.iter().zip(said) {
            let own = said.or_else(|| read.next());
            own.into_iter().for_each(|own| self.source(held.at).set_digest(own));
            self.results[held.at] = Ok(if held.out.is_some() { out.next() } else { own });
        }
        self.tools.written = written;
        self.tools.written.clear();
    }
}
