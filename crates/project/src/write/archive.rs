//! Into an archive: the same bytes for the same answers and date, on every run and machine.

use super::beside::{Beside, parent_of};
use super::decision::{Choice, WriteSummary};
use super::error::WriteError;
use super::journals::{Journals, WriteKind};
use super::observer::Observer;
use crate::plan::{Entry, EntryKind, Rendered, Rendering};
use crate::record::{CASTING, Casting, DIGESTS};
use crate::verify::VerifiedPlan;
use std::fs::{self, File};
use std::io::{BufWriter, Read, Seek, Write};
use std::path::Path;
use tinmold_platform::digest::{Digest, digest_of, write_digests};
use tinmold_platform::dir_handle::DirHandle;
use tinmold_platform::tarball::Tarball;

/// A format of archives.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ArchiveFormat {
    /// `.zip`
    Zip,
    /// `.tar.gz`
    TarGz,
}

impl ArchiveFormat {
    /// Tells by the name of the file; none if it is of no known format.
    #[must_use]
    pub fn of_path(path: &Path) -> Option<Self> {
        let name = path.file_name()?.to_string_lossy().to_ascii_lowercase();
        if name.ends_with(".zip") {
            Some(Self::Zip)
        } else if name.ends_with(".tar.gz") || name.ends_with(".tgz") {
            Some(Self::TarGz)
        } else {
            None
        }
    }
}

/// Packs the plan into the archive `file`, in a directory `top`. Files for this machine only are
/// left out.
///
/// `present` decides about an existing archive. The archive appears whole or not at all.
///
/// # Errors
/// The archive exists and `present` is `None`; mistakes in the body; what the system refuses.
pub fn write_archive(
    plan: &VerifiedPlan<'_>,
    file: &Path,
    format: ArchiveFormat,
    top: &str,
    present: Option<Choice>,
    journals: &Journals,
    observer: &dyn Observer,
) -> Result<WriteSummary, WriteError> {
    let mut summary = WriteSummary { path: file.to_owned(), ..WriteSummary::default() };
    match (fs::symlink_metadata(file), present) {
        (Err(_), _) | (Ok(_), Some(Choice::Replace)) => {}
        (Ok(_), Some(Choice::Keep)) => {
            summary.kept.push(file.display().to_string());
            return Ok(summary);
        }
        (Ok(_), Some(Choice::Aside)) => {
            let free = (2..u32::MAX).map(|number| numbered(file, number));
            summary.path = free.into_iter().find(|path| !path.exists()).unwrap_or_default();
        }
        (Ok(_), None) => return Err(WriteError::ArchiveExists(file.to_owned())),
    }
    let mut stage = Beside::begin(file, WriteKind::Archive, journals)?;
    let staged = stage.place.create(&stage.name, 0o644);
    let staged = staged.map_err(WriteError::io("write in", parent_of(file)))?;
    stage.note();
    let place = &stage.place;
    let packed = fill(plan, file, format, top, &staged, &mut summary, observer).and_then(|()| {
        let name = summary.path.file_name().and_then(|name| name.to_str());
        let name = name.ok_or_else(|| WriteError::BadName(summary.path.clone()))?;
        let renamed = match present {
            Some(Choice::Replace) => place.rename(&stage.name, name),
            _ => place.rename_new(&stage.name, name),
        };
        renamed.map_err(|error| match error.kind() {
            std::io::ErrorKind::AlreadyExists => WriteError::Appeared(summary.path.clone()),
            _ => WriteError::io("write", &summary.path)(error),
        })
    });
    if packed.is_ok() || place.remove_file(&stage.name).is_ok() {
        stage.end();
    }
    packed.map(|()| summary)
}

/// Writes the archive into the staged file.
fn fill(
    plan: &VerifiedPlan<'_>,
    file: &Path,
    format: ArchiveFormat,
    top: &str,
    staged: &File,
    summary: &mut WriteSummary,
    observer: &dyn Observer,
) -> Result<(), WriteError> {
    let out = BufWriter::new(staged);
    let mut packer = Packer::new(out, format, plan, top);
    let mut digests: Vec<(&str, Digest)> = Vec::new();
    let entries: Vec<&Entry<'_>> = plan.entries.iter().filter(|entry| !plan.body(entry).local).collect();
    let (mut rendering, mut buffer) = (plan.rendering(), Vec::new());
    for (at, entry) in entries.iter().enumerate() {
        if observer.is_cancelled() {
            return Err(WriteError::Cancelled);
        }
        let (bytes, digest) = pack(plan, entry, &mut packer, &mut rendering, &mut buffer)?;
        summary.bytes += bytes;
        summary.files += usize::from(entry.kind != EntryKind::Folder);
        if let Some(digest) = digest {
            digests.push((&entry.path, digest));
        }
        observer.wrote(at + 1, entries.len());
    }
    let broken = || WriteError::io("write", file);
    let casting = Casting::of(plan, plan.mold.package.digest()?, &summary.path).to_toml();
    let mut list = Vec::new();
    write_digests(&mut list, digests).map_err(broken())?;
    for (path, text) in [(CASTING, casting.as_bytes()), (DIGESTS, &list)] {
        packer.file(path, 0o644, text.len() as u64, &mut &*text).map_err(broken())?;
    }
    packer.finish().map_err(broken())?;
    summary.local = plan
        .entries
        .iter()
        .filter(|entry| plan.body(entry).local)
        .map(|entry| entry.path.to_string())
        .collect();
    Ok(())
}

/// `board.tar.gz` becomes `board-2.tar.gz`.
fn numbered(file: &Path, number: u32) -> std::path::PathBuf {
    let name = file.file_name().unwrap_or_default().to_string_lossy().into_owned();
    let end = [".tar.gz", ".tgz", ".zip"];
    let lower = name.to_ascii_lowercase();
    let cut = end.iter().find(|end| lower.ends_with(**end)).map_or(name.len(), |end| name.len() - end.len());
    file.with_file_name(format!("{}-{number}{}", &name[..cut], &name[cut..]))
}

fn pack<W: Write + Seek>(
    plan: &VerifiedPlan<'_>,
    entry: &Entry<'_>,
    packer: &mut Packer<W>,
    rendering: &mut Rendering<'_>,
    buffer: &mut Vec<u8>,
) -> Result<(u64, Option<Digest>), WriteError> {
    let io = || WriteError::io("pack", &*entry.path);
    let source = &plan.mold.package.files[plan.body(entry).file];
    let mode = plan.mode(entry);
    match &entry.kind {
        EntryKind::Folder => packer.folder(&entry.path).map(|()| (0, None)).map_err(io()),
        EntryKind::Link(target) => packer.link(&entry.path, target).map(|()| (0, None)).map_err(io()),
        EntryKind::Text | EntryKind::Copy => match rendering.render(entry, buffer)? {
            Rendered::Bytes => {
                let length = buffer.len() as u64;
                packer.file(&entry.path, mode, length, &mut buffer.as_slice()).map_err(io())?;
                Ok((length, Some(digest_of(buffer))))
            }
            Rendered::AsIs => {
                let length = source.len();
                let Some(bytes) = source.reader(&mut DirHandle::default()) else { return Ok((0, None)) };
                let mut bytes = bytes?;
                packer.file(&entry.path, mode, length, &mut bytes).map_err(io())?;
                Ok((length, Some(bytes.finish()?)))
            }
        },
    }
}

/// Both formats behind one face.
struct Packer<W: Write + Seek> {
    top: String,
    inner: Inner<W>,
}

enum Inner<W: Write + Seek> {
    Tar(Box<Tarball<W>>),
    Zip(Box<zip::ZipWriter<W>>, zip::DateTime),
}

impl<W: Write + Seek> Packer<W> {
    fn new(out: W, format: ArchiveFormat, plan: &VerifiedPlan<'_>, top: &str) -> Self {
        let day: Option<jiff::civil::Date> = plan.answers.built_ins.today.parse().ok();
        let inner = match format {
            ArchiveFormat::TarGz => {
                let midnight = day.and_then(|day| day.to_zoned(jiff::tz::TimeZone::UTC).ok());
                let seconds = midnight.map_or(0, |midnight| midnight.timestamp().as_second());
                Inner::Tar(Box::new(Tarball::new(out, u64::try_from(seconds).unwrap_or(0))))
            }
            ArchiveFormat::Zip => {
                // ZIP knows the years 1980 to 2107.
                let day = day.and_then(|day| {
                    let (year, month, day) = (day.year(), day.month(), day.day());
                    zip::DateTime::from_date_and_time(
                        u16::try_from(year).ok()?,
                        u8::try_from(month).ok()?,
                        u8::try_from(day).ok()?,
                        0,
                        0,
                        0,
                    )
                    .ok()
                });
                Inner::Zip(Box::new(zip::ZipWriter::new(out)), day.unwrap_or_default())
            }
        };
        Self { top: top.to_owned(), inner }
    }

    fn file(&mut self, path: &str, mode: u32, length: u64, bytes: &mut dyn Read) -> std::io::Result<()> {
        let path = format!("{}/{path}", self.top);
        match &mut self.inner {
            Inner::Tar(tarball) => tarball.file(&path, mode, length, bytes),
            Inner::Zip(writer, day) => {
                writer.start_file(path, options(*day, mode, length))?;
                std::io::copy(bytes, writer).map(drop)
            }
        }
    }

    fn folder(&mut self, path: &str) -> std::io::Result<()> {
        let path = format!("{}/{path}/", self.top);
        match &mut self.inner {
            Inner::Tar(tarball) => tarball.folder(&path),
            Inner::Zip(writer, day) => Ok(writer.add_directory(path, options(*day, 0o755, 0))?),
        }
    }

    fn link(&mut self, path: &str, target: &str) -> std::io::Result<()> {
        let path = format!("{}/{path}", self.top);
        match &mut self.inner {
            Inner::Tar(tarball) => tarball.link(&path, target),
            Inner::Zip(writer, day) => Ok(writer.add_symlink(path, target, options(*day, 0o777, 0))?),
        }
    }

    fn finish(self) -> std::io::Result<()> {
        match self.inner {
            Inner::Tar(tarball) => tarball.finish()?.flush(),
            Inner::Zip(writer, _) => writer.finish()?.flush(),
        }
    }
}

fn options(day: zip::DateTime, mode: u32, length: u64) -> zip::write::SimpleFileOptions {
    zip::write::SimpleFileOptions::default()
        .compression_method(zip::CompressionMethod::Deflated)
        .last_modified_time(day)
        .unix_permissions(mode)
        .large_file(length >= u64::from(u32::MAX))
}
