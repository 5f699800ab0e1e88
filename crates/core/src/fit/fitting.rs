//! What a part adds to a casting and changes in it. Nothing is touched yet.

use super::edit::{self, Clash, Data, Edited, Wanted};
use super::seam::{self, Put};
use crate::answers::Answers;
use crate::codes;
use crate::digest::{Digest, digest_of};
use crate::formats::{self, Holds};
use crate::mold::{Part, PartEdit, PartSeam, Piece, Snippet};
use crate::plan::{Limits, Plan, PlanError};
use crate::record::leads_elsewhere;
use crate::verify::{VerifiedPlan, VerifyError, portable_path};
use std::collections::BTreeMap;
use std::fs;
use std::io::ErrorKind;
use std::path::Path;
use std::sync::Arc;
use tinmold_notation::{Finding, Position, Span, Values};

/// The largest file that lines are put into or that is edited, in bytes.
const LARGEST: u64 = 16 << 20;

/// What becomes of a value that is in the way of an edit.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum OnClash {
    /// Nobody has said: the file is left as it is.
    #[default]
    Ask,
    /// It stays, and the rest of the edit is made.
    Keep,
    /// The new one takes its place.
    Replace,
}

/// What a fit will do.
#[derive(Debug)]
pub struct Fitting<'p> {
    /// The part.
    pub part: &'p Part,
    /// The files that it adds.
    pub plan: VerifiedPlan<'p>,
    /// The files that it changes, sorted by path.
    pub changes: Vec<Change>,
    /// What cannot be put where it belongs, in the order of the part.
    pub missing: Vec<Missing>,
    /// Values that are in the way of edits, with the file that they are in.
    pub clashes: Vec<InFile<Clash>>,
}

/// Something of a file of the casting.
#[derive(Clone, Debug, PartialEq)]
pub struct InFile<T> {
    /// The file's path.
    pub path: String,
    /// What there is of it.
    pub what: T,
    /// Which manifest says so, and where in it.
    pub at: (Arc<str>, Span),
}

/// A file before and after.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Change {
    /// Its path in the casting.
    pub path: String,
    /// What it holds.
    pub before: String,
    /// What it will hold.
    pub after: String,
}

impl Change {
    /// What must still be there when it is written.
    pub(super) fn expected(&self) -> (String, Option<Digest>) {
        (self.path.clone(), Some(digest_of(self.before.as_bytes())))
    }
}

/// What a part would put into a file, and cannot.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Missing {
    /// The file's path.
    pub path: String,
    /// Why not, in a clause that goes on from the path.
    pub why: String,
    /// The seam where the lines belong; none for an edit.
    pub seam: Option<String>,
    /// What a person would have to write there.
    pub lines: Vec<String>,
    /// Which manifest says so, and where in it.
    pub at: (Arc<str>, Span),
}

/// Gives the text of a file of the casting, or why it cannot be changed, in a clause that goes on from its path.
pub type Read<'a> = dyn Fn(&str) -> Result<Result<String, String>, FitError> + 'a;

/// Why a part cannot be fitted at all.
#[derive(Debug, thiserror::Error)]
pub enum FitError {
    /// Its condition does not hold for the casting's answers.
    #[error("the part {part} does not go with this casting: `{when}` does not hold")]
    DoesNotGo {
        /// The part.
        part: String,
        /// The condition.
        when: String,
    },
    /// Mistakes of the part that these answers show.
    #[error(transparent)]
    Plan(#[from] PlanError),
    /// Entries that may not be written.
    #[error(transparent)]
    Verify(#[from] VerifyError),
    /// It would change a file where it must not.
    #[error("{path:?} {reason}")]
    Unsafe {
        /// The file as the part names it.
        path: String,
        /// Why not, in a clause that goes on from the path.
        reason: String,
    },
    /// A file of the casting cannot be read.
    #[error("cannot read {path}: {source}")]
    Io {
        /// The file.
        path: String,
        /// What the system said.
        source: std::io::Error,
    },
}

impl From<Finding> for FitError {
    fn from(finding: Finding) -> Self {
        Self::Plan(finding.into())
    }
}

/// The files that are looked at and changed, each once.
struct Files<'r> {
    read: &'r Read<'r>,
    /// By path: what was read, and what becomes of it; or why it cannot be changed.
    seen: BTreeMap<String, Result<(String, String), String>>,
}

impl Files<'_> {
    fn text(&mut self, path: &str) -> Result<Result<String, String>, FitError> {
        if !self.seen.contains_key(path) {
            let read = (self.read)(path)?.map(|text| (text.clone(), text));
            self.seen.insert(path.to_owned(), read);
        }
        Ok(match &self.seen[path] {
            Ok((_, now)) => Ok(now.clone()),
            Err(why) => Err(why.clone()),
        })
    }

    fn change(&mut self, path: &str, text: String) {
        if let Some(Ok((_, now))) = self.seen.get_mut(path) {
            *now = text;
        }
    }

    fn changes(self) -> Vec<Change> {
        let read = self.seen.into_iter().filter_map(|(path, read)| Some((path, read.ok()?)));
        read.filter(|(_, (before, after))| before != after)
            .map(|(path, (before, after))| Change { path, before, after })
            .collect()
    }
}

/// The files of the casting whose folder is `root`, as they are now.
pub fn in_folder(root: &Path) -> impl Fn(&str) -> Result<Result<String, String>, FitError> {
    move |path| {
        let refuse = |reason: String| FitError::Unsafe { path: path.to_owned(), reason };
        portable_path(path).map_err(refuse)?;
        if leads_elsewhere(root, path) {
            return Err(refuse("is behind a link that leads elsewhere".into()));
        }
        let at = root.join(path);
        let io = |source| FitError::Io { path: path.to_owned(), source };
        let metadata = match fs::symlink_metadata(&at) {
            Err(error) if matches!(error.kind(), ErrorKind::NotFound | ErrorKind::NotADirectory) => {
                return Ok(Err("is not there".into()));
            }
            other => other.map_err(io)?,
        };
        if !metadata.is_file() {
            return Ok(Err("is no file there".into()));
        }
        if metadata.len() > LARGEST {
            return Ok(Err("is larger than 16 MiB".into()));
        }
        Ok(String::from_utf8(fs::read(&at).map_err(io)?).map_err(|_| "is no UTF-8 text".into()))
    }
}

/// The files of a casting as its plan has them.
pub fn as_cast(plan: &VerifiedPlan<'_>) -> impl Fn(&str) -> Result<Result<String, String>, FitError> {
    move |path| {
        let Some(entry) = plan.entries.iter().find(|entry| entry.path == path) else {
            return Ok(Err("is not cast".into()));
        };
        let mut bytes = Vec::new();
        plan.render(entry, &mut bytes)?;
        Ok(String::from_utf8(bytes).map_err(|_| "is no UTF-8 text".into()))
    }
}

impl<'p> Fitting<'p> {
    /// Decides what the part does to the casting whose files `read` gives.
    ///
    /// # Errors
    /// The part does not go with the casting, has mistakes that these answers show, or would write where it must not.
    pub fn new(
        part: &'p Part,
        answers: &Answers,
        read: &Read<'_>,
        limits: &Limits,
        on_clash: OnClash,
    ) -> Result<Self, FitError> {
        let (mold, values) = (&part.mold, &answers.values);
        if let Some(when) = &part.when
            && !when.holds(&mold.scope, values)?
        {
            return Err(FitError::DoesNotGo { part: part.name.clone(), when: when.text().to_owned() });
        }
        let mut files = Files { read, seen: BTreeMap::new() };
        let ignore_file = files.text(".gitignore")?.unwrap_or_default();
        let plan = Plan::new(mold, answers, limits)?.verify_beside(Some(&ignore_file))?;
        let mut fitting = Self { part, plan, changes: Vec::new(), missing: Vec::new(), clashes: Vec::new() };
        for seam in &part.seams {
            fitting.put(seam, values, &mut files)?;
        }
        for edit in &part.edits {
            fitting.edit(edit, values, &mut files, on_clash)?;
        }
        fitting.changes = files.changes();
        fitting.still_well_formed()?;
        Ok(fitting)
    }

    /// Whether there is something that would be changed; what is to be written is for a survey to say.
    #[must_use]
    pub fn changes_nothing(&self) -> bool {
        self.changes.is_empty() && self.missing.is_empty()
    }

    /// The path that a text of the part names, which is none of those that the part makes itself.
    fn path(&self, file: &Snippet, values: &Values) -> Result<String, FitError> {
        let path = file.render(&self.part.mold.scope, values)?;
        if self.plan.entries.iter().any(|entry| entry.path == path) {
            return Err(
                finding(file, codes::BAD_PART, format!("{path} is a file of the part's own body")).into()
            );
        }
        Ok(path)
    }

    fn applies(&self, when: Option<&Snippet>, values: &Values) -> Result<bool, FitError> {
        Ok(match when {
            Some(when) => when.holds(&self.part.mold.scope, values)?,
            None => true,
        })
    }

    fn put(&mut self, put: &PartSeam, values: &Values, files: &mut Files<'_>) -> Result<(), FitError> {
        if !self.applies(put.when.as_ref(), values)? {
            return Ok(());
        }
        let path = self.path(&put.file, values)?;
        let lines = put.lines.iter().map(|line| line.render(&self.part.mold.scope, values));
        let lines = lines.collect::<Result<Vec<String>, Finding>>()?;
        let why = match files.text(&path)? {
            Err(why) => why,
            Ok(text) => match seam::put(&text, &put.name, &lines, put.sorted) {
                Put::Changed(text) => {
                    files.change(&path, text);
                    return Ok(());
                }
                Put::Same => return Ok(()),
                Put::NoSeam => format!("has no line with `{} {}`", seam::SEAM, put.name),
                Put::Several(at) => {
                    let at: Vec<String> = at.iter().map(usize::to_string).collect();
                    let at = at.join(" and ");
                    format!("has `{} {}` more than once: at lines {at}", seam::SEAM, put.name)
                }
            },
        };
        let lines = lines.iter().flat_map(|block| block.lines()).map(str::to_owned).collect();
        let (seam, at) = (Some(put.name.clone()), place(&put.file));
        self.missing.push(Missing { path, why, seam, lines, at });
        Ok(())
    }

    fn edit(
        &mut self,
        change: &PartEdit,
        values: &Values,
        files: &mut Files<'_>,
        on_clash: OnClash,
    ) -> Result<(), FitError> {
        if !self.applies(change.when.as_ref(), values)? {
            return Ok(());
        }
        let path = self.path(&change.file, values)?;
        let wanted = self.wanted(change, values)?;
        let why = match files.text(&path)? {
            Err(why) => why,
            Ok(text) => match edit::edit(Holds::of_path(&path), &text, &wanted, on_clash) {
                Edited::Changed(text, clashes) => {
                    files.change(&path, text);
                    return self.clash(change, &path, clashes);
                }
                Edited::Same => return Ok(()),
                Edited::Clashes(clashes) => return self.clash(change, &path, clashes),
                Edited::Beyond(why) => format!("cannot be edited: {why}"),
            },
        };
        let (lines, at) = (wanted.lines(), place(&change.file));
        self.missing.push(Missing { path, why, seam: None, lines, at });
        Ok(())
    }

    fn clash(&mut self, edit: &PartEdit, path: &str, clashes: Vec<Clash>) -> Result<(), FitError> {
        let (path, at) = (path.to_owned(), place(&edit.file));
        self.clashes.extend(clashes.into_iter().map(|what| InFile {
            path: path.clone(),
            what,
            at: at.clone(),
        }));
        Ok(())
    }

    fn wanted(&self, edit: &PartEdit, values: &Values) -> Result<Wanted, FitError> {
        let entries = |piece: &Option<Piece>| match piece {
            Some(piece) => match self.data(piece, values)? {
                Data::Table(entries) => Ok(entries),
                _ => Ok(Vec::new()),
            },
            None => Ok(Vec::new()),
        };
        let (set, add, remove): (Result<_, FitError>, Result<_, FitError>, Result<_, FitError>) =
            (entries(&edit.set), entries(&edit.add), entries(&edit.remove));
        Ok(Wanted { set: set?, add: add?, remove: remove?, same: edit.same.clone() })
    }

    fn data(&self, piece: &Piece, values: &Values) -> Result<Data, FitError> {
        let scope = &self.part.mold.scope;
        Ok(match piece {
            Piece::Text(text) => Data::Text(text.render(scope, values)?),
            Piece::Flag(flag) => Data::Flag(*flag),
            Piece::Integer(number) => Data::Integer(*number),
            Piece::Float(number) => Data::Float(*number),
            Piece::List(pieces) => {
                let mut elements = Vec::with_capacity(pieces.len());
                for piece in pieces {
                    match self.data(piece, values)? {
                        // What renders to several lines is several elements, and what renders to nothing none.
                        Data::Text(text) => {
                            let lines = text.lines().filter(|line| !line.is_empty());
                            elements.extend(lines.map(|line| Data::Text(line.to_owned())));
                        }
                        other => elements.push(other),
                    }
                }
                Data::List(elements)
            }
            Piece::Table(entries) => {
                let mut table = Vec::with_capacity(entries.len());
                for (key, piece) in entries {
                    table.push((key.render(scope, values)?, self.data(piece, values)?));
                }
                Data::Table(table)
            }
        })
    }

    /// Lines at a seam of a structured file may break it: that is the part's mistake.
    fn still_well_formed(&self) -> Result<(), FitError> {
        for change in &self.changes {
            let holds = Holds::of_path(&change.path);
            if formats::check(holds, change.before.as_bytes()).is_err() {
                continue;
            }
            let Err(wrong) = formats::check(holds, change.after.as_bytes()) else { continue };
            let place = Position::of(&change.after, wrong.at);
            let line = change.after.lines().nth(place.line - 1).unwrap_or("").trim();
            let (message, path) = (&wrong.reason, &change.path);
            let message = format!(
                "{path} would not be {} any more: {message} at line {}, column {} of what comes out: {line}",
                wrong.format, place.line, place.column
            );
            let file = format!("{}part.toml", self.part.mold.home).into();
            let help = "the lines of its seam must go with the file".into();
            return Err(Finding {
                file,
                span: Span::default(),
                code: codes::MALFORMED_OUTPUT,
                message,
                help,
            }
            .into());
        }
        Ok(())
    }
}

fn place(snippet: &Snippet) -> (Arc<str>, Span) {
    (snippet.file().clone(), snippet.span())
}

fn finding(at: &Snippet, code: tinmold_notation::Code, message: String) -> Finding {
    let help = "put it into the body itself".into();
    Finding { file: at.file().clone(), span: at.span(), code, message, help }
}

/// Where lines belong whose seam is gone: up to three lines above the seam, and the seam, as the mold casts the file.
/// `plan` is that of the casting's mold with its answers; none if it casts no such file or seam.
#[must_use]
pub fn belongs(plan: &VerifiedPlan<'_>, path: &str, seam: &str) -> Option<Vec<String>> {
    let entry = plan.entries.iter().find(|entry| entry.path == path)?;
    let mut bytes = Vec::new();
    plan.render(entry, &mut bytes).ok()?;
    let text = String::from_utf8(bytes).ok()?;
    let at = *seam::places(&text, seam).first()?;
    Some(text.lines().take(at).skip(at.saturating_sub(4)).map(str::to_owned).collect())
}
