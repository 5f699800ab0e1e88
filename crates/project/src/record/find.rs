//! The record of a project, found from any directory inside it.

use super::casting::FORMAT;
use super::casting::{Casting, Fitted, answered};
use super::{CASTING, DIGESTS, FOLDER};
use crate::answers::{
    AnswerSource, Answers, BuiltIns, Given, Offers, Session, SheetError, SheetFormat, read_sheet,
};
use std::collections::BTreeMap;
use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};
use tinmold_mold::{Mold, Part, Refusal};
use tinmold_notation::{Finding, Position};
use tinmold_platform::digest::{Digest, read_digests, write_digests};
use tinmold_platform::paths::portable_path;
use tinmold_platform::root_dir::{ReadError, RootDir};

/// A project with its record.
#[derive(Clone, Debug)]
pub struct Recorded {
    /// The project's directory.
    pub root: PathBuf,
    /// The record.
    pub casting: Casting,
    /// By path, the digests of its files as they were written.
    pub digests: BTreeMap<String, Digest>,
}

impl Recorded {
    /// Writes the list of its digests.
    ///
    /// # Errors
    /// The record cannot be written.
    pub(crate) fn write_list(&self, out: &mut impl Write) -> std::io::Result<()> {
        write_digests(out, self.digests.iter().map(|(path, digest)| (path.as_str(), *digest)))
    }

    /// Computes the values of the recorded answers with `mold`, as they were at the cast.
    ///
    /// # Errors
    /// An answer that the mold's questions do not take any more, or that it asks for now.
    pub fn answers(&self, mold: &Mold) -> Result<Answers, RecordMismatch> {
        let session = self.session(mold)?;
        let mut answers = session.preview();
        answers.set_folder(mold, &self.casting.built_in.project_dir);
        Ok(answers)
    }

    /// Starts a session with the recorded answers, which needs no further one.
    ///
    /// # Errors
    /// An answer that the mold's questions do not take any more, or that it asks for now.
    pub fn session<'m>(&self, mold: &'m Mold) -> Result<Session<'m>, RecordMismatch> {
        let offers = Offers { folder: Some(self.casting.built_in.project_dir.clone()), ..Offers::default() };
        let mut session = Session::new(mold, self.given(mold)?, offers, self.built_ins())
            .map_err(|finding| RecordMismatch::Mold(Box::new(finding)))?;
        // No record holds a secret.
        session.leave_secrets();
        match session.problems().into_iter().next() {
            Some(problem) => Err(RecordMismatch::Answer { key: problem.key, refusal: problem.refusal }),
            None => Ok(session),
        }
    }

    /// Returns the recorded answers, by index of the question in `mold`.
    ///
    /// # Errors
    /// An answer that the mold's questions do not take any more.
    pub fn given(&self, mold: &Mold) -> Result<Vec<Option<Given>>, RecordMismatch> {
        let sheet = read_sheet(mold, &self.casting.answers.to_string(), SheetFormat::Toml)?;
        if let Some(wrong) = sheet.wrong.into_iter().next() {
            return Err(RecordMismatch::Answer { key: wrong.key, refusal: wrong.refusal });
        }
        let mut given = vec![None; mold.questions.len()];
        for (at, value) in sheet.answers {
            given[at] = Some(Given { value, source: AnswerSource::Casting });
        }
        Ok(given)
    }

    /// Returns the day on which this part was fitted with these answers.
    #[must_use]
    pub fn day_of(&self, part: &Part, answers: &Answers) -> Option<String> {
        let answers = answered(&part.mold, answers);
        let own = part.mold.name() == self.casting.mold.name;
        let is_it = |fitted: &&Fitted| {
            let from = fitted.mold.as_ref().map(|mold| mold.name.as_str());
            let same_mold = if own { from.is_none() } else { from == Some(part.mold.name()) };
            fitted.name == part.name && same_mold && fitted.answers == answers
        };
        self.casting.part.iter().find(is_it).map(|fitted| fitted.today.clone())
    }

    /// Returns the recorded values of the built-in names; `system` is this machine's.
    #[must_use]
    pub fn built_ins(&self) -> BuiltIns {
        self.casting.built_ins()
    }
}

/// Why a record does not fit its mold.
#[derive(Debug, thiserror::Error)]
pub enum RecordMismatch {
    /// An answer that the mold does not take any more, or asks for now.
    #[error("{key}: {refusal}")]
    Answer {
        /// The question's key.
        key: String,
        /// Why.
        refusal: Refusal,
    },
    /// The recorded answers cannot be read.
    #[error(transparent)]
    Sheet(#[from] SheetError),
    /// The mold cannot compute a value from the answers.
    #[error("{}", .0.message)]
    Mold(Box<Finding>),
}

/// Why a record cannot be read.
#[derive(Debug, thiserror::Error)]
pub enum RecordError {
    /// There is none here nor in a folder above.
    #[error("{0} is not in a project: neither it nor a folder above it has a {CASTING}")]
    NotAProject(PathBuf),
    /// A newer program wrote it.
    #[error("{path} has format {found}, and this program reads formats up to {FORMAT}")]
    Newer {
        /// The record.
        path: PathBuf,
        /// Its form.
        found: i64,
    },
    /// The record is damaged.
    #[error("{path} is damaged: {reason}")]
    Damaged {
        /// The record or the list of digests.
        path: PathBuf,
        /// The mistake, with its position.
        reason: String,
    },
    /// The system refused.
    #[error("cannot read {path}: {source}")]
    Io {
        /// The path.
        path: PathBuf,
        /// The system's error.
        source: std::io::Error,
    },
}

/// The largest record that is read, in bytes.
const LARGEST: u64 = 32 << 20;

/// Finds the project that contains `inside`.
///
/// # Errors
/// There is none, or its record cannot be read.
pub fn find(inside: &Path) -> Result<Recorded, RecordError> {
    let absolute = std::path::absolute(inside).map_err(io(inside))?;
    // A link or a pipe counts too: to open it is then an error that says so.
    let is_there = |path: &Path| fs::symlink_metadata(path).is_ok();
    let root = absolute.ancestors().find(|folder| match fs::symlink_metadata(folder.join(FOLDER)) {
        Ok(found) => found.is_symlink() || is_there(&folder.join(CASTING)),
        Err(_) => false,
    });
    match root {
        Some(root) => open(root),
        None => Err(RecordError::NotAProject(absolute)),
    }
}

/// Opens the project at `folder`, and none around it.
///
/// # Errors
/// It has no record, or the record cannot be read.
pub fn at(folder: &Path) -> Result<Recorded, RecordError> {
    let absolute = std::path::absolute(folder).map_err(io(folder))?;
    match fs::symlink_metadata(absolute.join(CASTING)) {
        Ok(_) => open(&absolute),
        Err(_) => Err(RecordError::NotAProject(absolute)),
    }
}

/// Opens the project at `root`.
///
/// # Errors
/// There is no record, it is damaged, or a newer program wrote it.
pub fn open(root: &Path) -> Result<Recorded, RecordError> {
    let path = root.join(CASTING);
    let directory = RootDir::open_through_links(root).map_err(io(root))?;
    let text = text(&directory, CASTING, &path)?;
    let damaged = |path: &Path, reason: String| RecordError::Damaged { path: path.to_owned(), reason };
    let placed = |error: toml::de::Error| {
        let place = Position::of(&text, error.span().map_or(0, |span| span.start));
        let message = error.message().lines().next().unwrap_or("").to_owned();
        damaged(&path, format!("line {}, column {}: {message}", place.line, place.column))
    };
    // The format is checked first: the rest of a newer record may mean anything.
    let table: toml::Table = text.parse().map_err(placed)?;
    match table.get("format").and_then(toml::Value::as_integer) {
        Some(form) if form > i64::from(FORMAT) => return Err(RecordError::Newer { path, found: form }),
        Some(_) => {}
        None => return Err(damaged(&path, "it does not say its `format`".into())),
    }
    let casting: Casting = toml::from_str(&text).map_err(placed)?;
    let path = root.join(DIGESTS);
    let list = match self::text(&directory, DIGESTS, &path) {
        Err(RecordError::Io { source, .. }) if source.kind() == std::io::ErrorKind::NotFound => String::new(),
        other => other?,
    };
    let digests = read_digests(&list).map_err(|error| damaged(&path, error.to_string()))?;
    for file in digests.keys().chain(casting.links.keys()) {
        portable_path(file).map_err(|reason| damaged(&path, format!("{file:?} {reason}")))?;
    }
    Ok(Recorded { root: root.to_owned(), casting, digests })
}

fn io(path: &Path) -> impl FnOnce(std::io::Error) -> RecordError {
    let path = path.to_owned();
    move |source| RecordError::Io { path, source }
}

/// Reads a file of the record, `path` in messages: a regular file, through no link.
fn text(directory: &RootDir, inside: &str, path: &Path) -> Result<String, RecordError> {
    let damaged = |reason: &str| RecordError::Damaged { path: path.to_owned(), reason: reason.to_owned() };
    let bytes = directory.read(inside, LARGEST).map_err(|error| match error {
        ReadError::Absent => io(path)(std::io::ErrorKind::NotFound.into()),
        ReadError::Io(error) => io(path)(error),
        other => damaged(&other.to_string()),
    })?;
    String::from_utf8(bytes).map_err(|_| damaged("it is not UTF-8 text"))
}
