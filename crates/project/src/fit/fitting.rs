//! Plans what a part adds to a project and changes in it. Nothing is written yet.

use super::clash::OnClash;
use super::edit::{self, Clash, Data, EditRequest, Edited};
use super::error::{FitError, LARGEST, TextProblem, UnsafePath};
use super::joint::{self, Put};
use crate::answers::Answers;
use crate::plan::{Limits, Plan};
use crate::verify::VerifiedPlan;
use crate::write::Change;
use std::collections::BTreeMap;
use std::path::Path;
use std::sync::Arc;
use tinmold_mold::{Holds, Part, PartEdit, PartJoint, Piece, Snippet, codes, formats};
use tinmold_notation::{Finding, Position, Span, Values};
use tinmold_platform::paths::portable_path;
use tinmold_platform::root_dir::{ReadError, RootDir};

/// A planned fit.
#[derive(Debug)]
pub struct Fitting<'p> {
    /// The part.
    pub part: &'p Part,
    /// The files that it adds.
    pub plan: VerifiedPlan<'p>,
    /// The files that it changes, sorted by path.
    pub changes: Vec<Change>,
    /// The lines and edits that cannot be applied, in the order of the part.
    pub missing: Vec<Missing>,
    /// Values that are in the way of edits, with the file that they are in.
    pub clashes: Vec<InFile<Clash>>,
}

/// Something in a file of the project.
#[derive(Clone, Debug, PartialEq)]
pub struct InFile<T> {
    /// The file's path.
    pub path: String,
    /// What it is.
    pub what: T,
    /// The manifest and the span that ask for it.
    pub at: (Arc<str>, Span),
}

/// A change that cannot be applied.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Missing {
    /// The file's path.
    pub path: String,
    /// Why not.
    pub why: TextProblem,
    /// The joint where the lines belong; none for an edit.
    pub joint: Option<String>,
    /// The lines for the user to apply by hand.
    pub lines: Vec<String>,
    /// The manifest and the span that ask for it.
    pub at: (Arc<str>, Span),
}

/// Reads a file of the project: its text, or why it cannot be changed.
pub type ReadFile<'a> = dyn Fn(&str) -> Result<Result<String, TextProblem>, FitError> + 'a;

/// The files that are read and changed, each once.
struct Files<'r> {
    read: &'r ReadFile<'r>,
    /// By path: what was read, and what becomes of it; or why it cannot be changed.
    seen: BTreeMap<String, Result<(String, String), TextProblem>>,
}

impl Files<'_> {
    fn text(&mut self, path: &str) -> Result<Result<String, TextProblem>, FitError> {
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

/// Reads the files of the project at `root` as they are on disk.
pub fn in_folder(root: &Path) -> impl Fn(&str) -> Result<Result<String, TextProblem>, FitError> {
    let directory = RootDir::open_through_links(root);
    move |path| {
        let refuse = |reason: UnsafePath| FitError::Unsafe { path: path.to_owned(), reason };
        portable_path(path).map_err(|error| refuse(error.into()))?;
        let io = |source| FitError::Io { path: path.to_owned(), source };
        let same = |error: &std::io::Error| io(std::io::Error::new(error.kind(), error.to_string()));
        match directory.as_ref().map_err(same)?.read(path, LARGEST) {
            Ok(bytes) => Ok(String::from_utf8(bytes).map_err(|_| TextProblem::NotUtf8)),
            Err(ReadError::Absent) => Ok(Err(TextProblem::Absent)),
            Err(ReadError::NotAFile) => Ok(Err(TextProblem::NotAFile)),
            Err(ReadError::TooLarge) => Ok(Err(TextProblem::TooLarge)),
            Err(ReadError::BehindLink) => Err(refuse(UnsafePath::BehindLink)),
            Err(ReadError::Io(error)) => Err(io(error)),
        }
    }
}

/// Reads the files of a project as its plan renders them.
pub fn as_cast(plan: &VerifiedPlan<'_>) -> impl Fn(&str) -> Result<Result<String, TextProblem>, FitError> {
    move |path| {
        let Some(entry) = plan.entries.iter().find(|entry| entry.path == path) else {
            return Ok(Err(TextProblem::NotCast));
        };
        let mut bytes = Vec::new();
        plan.render(entry, &mut bytes)?;
        Ok(String::from_utf8(bytes).map_err(|_| TextProblem::NotUtf8))
    }
}

impl<'p> Fitting<'p> {
    /// Plans what the part does to the project whose files `read` returns.
    ///
    /// # Errors
    /// The part does not apply to the project, has mistakes that these answers show, or would write
    /// where it must not.
    pub fn new(
        part: &'p Part,
        answers: &Answers,
        read: &ReadFile<'_>,
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
        let plan = Plan::new(mold, answers, limits)?.verify()?;
        let mut fitting = Self { part, plan, changes: Vec::new(), missing: Vec::new(), clashes: Vec::new() };
        for joint in &part.joints {
            fitting.put(joint, values, &mut files, on_clash)?;
        }
        for edit in &part.edits {
            fitting.edit(edit, values, &mut files, on_clash)?;
        }
        fitting.changes = files.changes();
        fitting.still_well_formed()?;
        Ok(fitting)
    }

    /// Returns true if no file is changed; new files are found by the inspection.
    #[must_use]
    pub fn changes_nothing(&self) -> bool {
        self.changes.is_empty() && self.missing.is_empty()
    }

    /// Returns the path that a text of the part names, which is none of those that the part makes itself.
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

    /// Returns the blocks that are put in: not those that another one is in the way of.
    fn without_clashes(
        &mut self,
        put: &PartJoint,
        path: &str,
        lines: Vec<String>,
        files: &mut Files<'_>,
        on_clash: OnClash,
    ) -> Result<Vec<String>, FitError> {
        let (Some(same), Ok(mut text)) = (&put.same, files.text(path)?) else { return Ok(lines) };
        let mut free = Vec::with_capacity(lines.len());
        for block in lines {
            let Some((start, there)) = joint::other_block(&text, &block, same) else {
                free.push(block);
                continue;
            };
            let what = Clash {
                place: format!("line {}", start + 1),
                there: Data::Text(there.join("\n").trim().to_owned()),
                wanted: Data::Text(block.trim().to_owned()),
            };
            self.clashes.push(InFile { path: path.to_owned(), what, at: place(&put.file) });
            if on_clash == OnClash::Replace {
                text = joint::replaced(&text, start, there.len(), &block);
            }
        }
        files.change(path, text);
        Ok(free)
    }

    fn put(
        &mut self,
        put: &PartJoint,
        values: &Values,
        files: &mut Files<'_>,
        on_clash: OnClash,
    ) -> Result<(), FitError> {
        if !self.applies(put.when.as_ref(), values)? {
            return Ok(());
        }
        let path = self.path(&put.file, values)?;
        let lines = put.lines.iter().map(|line| line.render(&self.part.mold.scope, values));
        let lines = lines.collect::<Result<Vec<String>, Finding>>()?;
        let lines = self.without_clashes(put, &path, lines, files, on_clash)?;
        if lines.is_empty() {
            return Ok(());
        }
        let why = match files.text(&path)? {
            Err(why) => why,
            Ok(text) => match joint::put(&text, &put.name, &lines, put.sorted) {
                Put::Changed(text) => {
                    files.change(&path, text);
                    return Ok(());
                }
                Put::Same => return Ok(()),
                Put::NoJoint => TextProblem::NoJoint(put.name.clone()),
                Put::Several(lines) => TextProblem::SeveralJoints { name: put.name.clone(), lines },
            },
        };
        let lines = lines.iter().flat_map(|block| block.lines()).map(str::to_owned).collect();
        let (joint, at) = (Some(put.name.clone()), place(&put.file));
        self.missing.push(Missing { path, why, joint, lines, at });
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
                    self.clash(change, &path, clashes);
                    return Ok(());
                }
                Edited::Same => return Ok(()),
                Edited::Clashes(clashes) => {
                    self.clash(change, &path, clashes);
                    return Ok(());
                }
                Edited::NotEditable(error) => TextProblem::Edit(error),
            },
        };
        let (lines, at) = (wanted.lines(), place(&change.file));
        self.missing.push(Missing { path, why, joint: None, lines, at });
        Ok(())
    }

    fn clash(&mut self, edit: &PartEdit, path: &str, clashes: Vec<Clash>) {
        let at = place(&edit.file);
        let in_file = |what| InFile { path: path.to_owned(), what, at: at.clone() };
        self.clashes.extend(clashes.into_iter().map(in_file));
    }

    fn wanted(&self, edit: &PartEdit, values: &Values) -> Result<EditRequest, FitError> {
        let entries = |piece: &Option<Piece>| -> Result<Vec<(String, Data)>, FitError> {
            let Some(piece) = piece else { return Ok(Vec::new()) };
            match self.data(piece, values)? {
                Data::Table(entries) => Ok(entries),
                _ => Ok(Vec::new()),
            }
        };
        let (set, add, remove) = (entries(&edit.set)?, entries(&edit.add)?, entries(&edit.remove)?);
        Ok(EditRequest { set, add, remove, same: edit.same.clone() })
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
                        // A text that renders to several lines is several elements; one that
                        // renders to nothing is none.
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

    /// Lines at a joint of a structured file may break it: that is the part's mistake.
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
            let file = format!("{}part.toml", self.part.mold.home);
            let help = "the lines of its joint must go with the file";
            return Err(Finding::new(file, Span::default(), codes::MALFORMED_OUTPUT, message, help).into());
        }
        Ok(())
    }
}

fn place(snippet: &Snippet) -> (Arc<str>, Span) {
    (snippet.file().clone(), snippet.span())
}

fn finding(at: &Snippet, code: tinmold_notation::Code, message: String) -> Finding {
    Finding::new(at.file().clone(), at.span(), code, message, "put it into the body itself")
}

/// Returns where lines belong whose joint is gone: up to three lines above the joint, and the
/// joint, as the mold renders the file. `plan` is that of the project's mold with its answers;
/// `None` if it renders no such file or joint.
#[must_use]
pub fn belongs(plan: &VerifiedPlan<'_>, path: &str, joint: &str) -> Option<Vec<String>> {
    let entry = plan.entries.iter().find(|entry| entry.path == path)?;
    let mut bytes = Vec::new();
    plan.render(entry, &mut bytes).ok()?;
    let text = String::from_utf8(bytes).ok()?;
    let at = *joint::places(&text, joint).first()?;
    Some(text.lines().take(at).skip(at.saturating_sub(4)).map(str::to_owned).collect())
}
