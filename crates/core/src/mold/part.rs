//! A part: a small mold inside a mold, read with the names of the mold that it grows.

use super::body;
use super::check;
use super::loader::{Asked, Faulty, Mold, MoldError, Reader, manifest_text, read_shape};
use super::manifest::{PartManifest, Placed, RawEdit, RawSeam};
use super::question::{Kind, Question};
use super::snippet::Snippet;
use super::texts::Texts;
use crate::answers::Form;
use crate::codes;
use regex::Regex;
use std::collections::BTreeMap;
use std::ops::Range;
use std::sync::Arc;
use tinmold_notation::{Finding, Fragments, NameId, Scope, Type, compile};

/// A part that can be asked, rendered and fitted.
#[derive(Debug)]
pub struct Part {
    /// Its name.
    pub name: String,
    /// What it gives, in a line.
    pub summary: String,
    /// When it goes with a casting.
    pub when: Option<Snippet>,
    /// The names of the molds whose castings it goes with. A part that names some, or goes anywhere, sees the answers to its
    /// own questions only.
    pub fits: Vec<String>,
    /// Whether it goes with a project that is no casting.
    pub anywhere: bool,
    /// What it puts at seams.
    pub seams: Vec<PartSeam>,
    /// What it changes in files of settings.
    pub edits: Vec<PartEdit>,
    /// Its questions behind those of its mold, and its own body.
    pub mold: Mold,
}

/// Lines that a part puts at a seam.
#[derive(Clone, Debug)]
pub struct PartSeam {
    /// The file; rendered.
    pub file: Snippet,
    /// The seam's name.
    pub name: String,
    /// The lines; rendered, and each may come out as several.
    pub lines: Vec<Snippet>,
    /// When they are put in.
    pub when: Option<Snippet>,
    /// Whether they are put among the lines above the seam in order.
    pub sorted: bool,
}

/// What a part changes in a JSON, TOML or YAML file.
#[derive(Clone, Debug)]
pub struct PartEdit {
    /// The file; rendered.
    pub file: Snippet,
    /// When it is changed.
    pub when: Option<Snippet>,
    /// What is set, table by table.
    pub set: Option<Piece>,
    /// What is added to lists, table by table.
    pub add: Option<Piece>,
    /// What is taken out of tables and lists, table by table.
    pub remove: Option<Piece>,
    /// What two texts of a list have in common if they are about the same thing.
    pub same: Option<Regex>,
}

/// A value of a `part.toml` whose texts are rendered.
#[derive(Clone, Debug)]
pub enum Piece {
    /// Keys and what they hold, in their order.
    Table(Vec<(Snippet, Self)>),
    /// A list.
    List(Vec<Self>),
    /// A text.
    Text(Snippet),
    /// Yes or no.
    Flag(bool),
    /// A whole number.
    Integer(i64),
    /// Another number.
    Float(f64),
}

impl Mold {
    /// The names of its parts, sorted.
    #[must_use]
    pub fn parts(&self) -> Vec<&str> {
        let inside = |path| str::strip_prefix(path, "parts/")?.strip_suffix("/part.toml");
        let files = self.package.files.iter().filter_map(|file| inside(&file.path));
        files.filter(|name| !name.contains('/')).collect()
    }

    /// Reads a part of it.
    ///
    /// # Errors
    /// There is none of this name, its files cannot be read, and every mistake of its manifest.
    pub fn part(&self, name: &str) -> Result<Part, MoldError> {
        let home = format!("parts/{name}/");
        let path = format!("{home}part.toml");
        let package = self.package.clone();
        let faulty =
            |findings: Vec<Finding>, package| MoldError::Faulty(Box::new(Faulty { findings, package }));
        let source = match manifest_text(&package, &path)? {
            Ok(source) => source,
            Err(finding) => return Err(faulty(vec![finding], package)),
        };
        let mut reader = Reader {
            source: &source,
            file: path.as_str().into(),
            findings: Vec::new(),
            scope: Scope::with_built_ins(),
        };
        let Some(manifest) = read_shape::<PartManifest>(&mut reader, &package) else {
            return Err(faulty(reader.findings, package));
        };
        let PartManifest { part: header, question, derive, files, seam, edit, next } = manifest;
        if header.name.get_ref() != name {
            let message =
                format!("this part is in the folder {name}, and is called {:?}", header.name.get_ref());
            reader.add(codes::BAD_PART, header.name.span(), message, "give both the same name");
        }
        let fixed: Vec<&Placed> = [&header.name].into_iter().chain(&header.fits).collect();
        for text in fixed {
            if let Err(refusal) = Form::Kebab.check(text.get_ref()) {
                let message = format!("{:?} is no name: {}", text.get_ref(), refusal.reason);
                reader.add(codes::BAD_PART, text.span(), message, refusal.advice);
            }
        }
        check::fixed_texts(&mut reader, &[&header.summary], &question);
        let stands_alone = header.anywhere || !header.fits.is_empty();
        let before = if stands_alone { Asked::default() } else { self.asked(&mut reader) };
        let known = before.questions.len();
        let Asked { questions, derived, steps } = before.and(&mut reader, question, derive);
        let when = header.when.as_ref().map(|when| condition(&mut reader, when));
        let seams: Vec<PartSeam> = seam.into_iter().map(|seam| read_seam(&mut reader, seam)).collect();
        let edits: Vec<PartEdit> = edit.into_iter().map(|edit| read_edit(&mut reader, edit)).collect();
        let mut mold = Self {
            package,
            header: self.header.clone(),
            source: String::new(),
            questions,
            scope: Scope::new(),
            shown_scope: reader.scope.clone(),
            steps,
            derived,
            fragments: if stands_alone { Fragments::default() } else { self.fragments.clone() },
            body: Vec::new(),
            each: Vec::new(),
            texts: Texts {
                folder: None,
                tour: Vec::new(),
                next: next.lines.iter().map(|line| reader.snippet(line)).collect(),
            },
            needs: Vec::new(),
            finish: Vec::new(),
            presets: BTreeMap::new(),
            marks: vec![self.marks[0].clone()],
            home,
            rules: Vec::new(),
        };
        body::read(&mut reader, &mut mold, files);
        mold.shown_scope.unbar("system");
        check::manifest_texts(&mut reader, &mold.texts, &mold.shown_scope);
        mold.scope = reader.scope.clone();
        mold.no_minted_of_the_casting(&mut reader, known);
        let mut findings = reader.findings;
        tinmold_notation::sort_findings(&mut findings);
        if findings.iter().any(Finding::is_error) {
            return Err(faulty(findings, mold.package));
        }
        mold.source = source;
        Ok(Part {
            name: header.name.into_inner(),
            summary: header.summary,
            when,
            fits: header.fits.into_iter().map(toml::Spanned::into_inner).collect(),
            anywhere: header.anywhere,
            seams,
            edits,
            mold,
        })
    }

    /// What this mold asks and computes, as a part of it sees that.
    fn asked(&self, reader: &mut Reader<'_>) -> Asked {
        reader.scope = self.scope.clone();
        let questions = self.questions.iter().cloned();
        Asked {
            questions: questions.map(|question| Question { from_casting: true, ..question }).collect(),
            derived: self.derived.clone(),
            steps: self.steps.clone(),
        }
    }

    /// No record holds what was minted, so that a part cannot have it, not even in files for this machine only.
    fn no_minted_of_the_casting(&self, reader: &mut Reader<'_>, known: usize) {
        let minted: Vec<NameId> = self.questions[..known]
            .iter()
            .filter(|question| matches!(question.kind, Kind::Minted { .. }))
            .map(|question| question.id)
            .collect();
        for entry in self.body.iter().filter(|entry| entry.local && !minted.is_empty()) {
            let bytes = self.package.files[entry.file].read();
            let Ok(text) = bytes.as_deref().map(|bytes| String::from_utf8_lossy(bytes)) else { continue };
            let setting = self.setting_of(entry);
            let compiled = compile(self.path_of(entry), &text, self.scope_of(entry), &setting);
            if let Some(id) = compiled.used.iter().find(|id| minted.contains(id)) {
                reader.findings.push(Finding {
                    file: self.path_of(entry).into(),
                    span: tinmold_notation::Span::default(),
                    code: codes::BAD_PART,
                    message: format!("`{}` was minted when the mold was cast", self.scope.name(*id).name),
                    help: "nothing records it: mint another one in the part".into(),
                });
            }
        }
    }
}

impl Part {
    /// Its own questions: their places among those of its mold.
    pub fn own_questions(&self) -> impl Iterator<Item = usize> + '_ {
        (0..self.mold.questions.len()).filter(|at| !self.mold.questions[*at].from_casting)
    }

    /// Whether it sees the answers to its own questions only.
    #[must_use]
    pub fn stands_alone(&self) -> bool {
        self.anywhere || !self.fits.is_empty()
    }

    /// Every text and expression of its manifest beside those of its mold; true for expressions.
    pub(super) fn snippets(&self) -> Vec<(&Snippet, bool)> {
        let mut all: Vec<(&Snippet, bool)> = self.when.iter().map(|when| (when, true)).collect();
        for seam in &self.seams {
            all.push((&seam.file, false));
            all.extend(seam.lines.iter().map(|line| (line, false)));
            all.extend(seam.when.iter().map(|when| (when, true)));
        }
        for edit in &self.edits {
            all.push((&edit.file, false));
            all.extend(edit.when.iter().map(|when| (when, true)));
            for piece in [&edit.set, &edit.add, &edit.remove].into_iter().flatten() {
                piece.snippets(&mut all);
            }
        }
        all
    }
}

impl Piece {
    fn snippets<'a>(&'a self, all: &mut Vec<(&'a Snippet, bool)>) {
        match self {
            Self::Text(text) => all.push((text, false)),
            Self::List(pieces) => pieces.iter().for_each(|piece| piece.snippets(all)),
            Self::Table(entries) => entries.iter().for_each(|(key, piece)| {
                all.push((key, false));
                piece.snippets(all);
            }),
            Self::Flag(_) | Self::Integer(_) | Self::Float(_) => {}
        }
    }
}

fn condition(reader: &mut Reader<'_>, text: &Placed) -> Snippet {
    let snippet = reader.snippet(text);
    let findings = snippet.with_expression(&reader.scope, Some(Type::Flag), |compiled| compiled.findings);
    reader.findings.extend(findings);
    snippet
}

fn rendered(reader: &mut Reader<'_>, snippet: Snippet) -> Snippet {
    let findings = snippet.with_text(&reader.scope, false, |compiled| compiled.findings);
    reader.findings.extend(findings);
    snippet
}

fn read_seam(reader: &mut Reader<'_>, raw: RawSeam) -> PartSeam {
    let name = raw.name.get_ref();
    if let Err(refusal) = Form::Kebab.check(name) {
        let message = format!("{name:?} is no name of a seam: {}", refusal.reason);
        reader.add(codes::BAD_SEAM, raw.name.span(), message, refusal.advice);
    }
    if raw.lines.is_empty() {
        let help = "write `lines = [\"…\"]`";
        reader.add(codes::BAD_SEAM, raw.name.span(), "this puts no lines at the seam", help);
    }
    PartSeam {
        file: reader.rendered(&raw.file),
        lines: raw.lines.iter().map(|line| reader.rendered(line)).collect(),
        when: raw.when.as_ref().map(|when| condition(reader, when)),
        sorted: raw.sorted,
        name: raw.name.into_inner(),
    }
}

fn read_edit(reader: &mut Reader<'_>, raw: RawEdit) -> PartEdit {
    if raw.set.is_none() && raw.add.is_none() && raw.remove.is_none() {
        let help = "there are `set`, `add` and `remove`";
        reader.add(codes::BAD_EDIT, raw.file.span(), "this changes nothing in the file", help);
    }
    let same = raw.same.as_ref().and_then(|same| match Regex::new(same.get_ref()) {
        Ok(pattern) => Some(pattern),
        Err(error) => {
            let reason = error.to_string();
            let reason = reason.lines().last().unwrap_or("").to_owned();
            let message = format!("this is no regular expression: {reason}");
            reader.add(codes::BAD_PATTERN, same.span(), message, "");
            None
        }
    });
    let file = reader.rendered(&raw.file);
    let when = raw.when.as_ref().map(|when| condition(reader, when));
    let piece = |reader: &mut Reader<'_>, raw: Option<toml::Spanned<toml::Table>>| {
        let raw = raw?;
        let span = raw.span();
        piece(reader, toml::Value::Table(raw.into_inner()), &span)
    };
    let set = piece(reader, raw.set);
    let add = piece(reader, raw.add);
    let remove = piece(reader, raw.remove);
    PartEdit { file, when, set, add, remove, same }
}

impl Reader<'_> {
    fn rendered(&mut self, text: &Placed) -> Snippet {
        let snippet = self.snippet(text);
        rendered(self, snippet)
    }
}

/// A value with its texts as snippets; `span` is where all of it stands.
fn piece(reader: &mut Reader<'_>, value: toml::Value, span: &Range<usize>) -> Option<Piece> {
    let text = |reader: &mut Reader<'_>, text: String| {
        let at = written_at(reader.source, span, &text);
        let file = Arc::clone(&reader.file);
        let snippet = Snippet::new(text, at, &file, reader.source);
        rendered(reader, snippet)
    };
    Some(match value {
        toml::Value::String(value) => Piece::Text(text(reader, value)),
        toml::Value::Integer(number) => Piece::Integer(number),
        toml::Value::Float(number) => Piece::Float(number),
        toml::Value::Boolean(flag) => Piece::Flag(flag),
        toml::Value::Array(values) => {
            Piece::List(values.into_iter().filter_map(|value| piece(reader, value, span)).collect())
        }
        toml::Value::Table(table) => {
            let mut entries = Vec::with_capacity(table.len());
            for (key, value) in table {
                let key = text(reader, key);
                if let Some(value) = piece(reader, value, span) {
                    entries.push((key, value));
                }
            }
            Piece::Table(entries)
        }
        toml::Value::Datetime(_) => {
            let help = "write it as a text, or put it into the body";
            reader.add(codes::BAD_EDIT, span.clone(), "dates cannot be set in a file", help);
            return None;
        }
    })
}

/// Where in `span` a text is written, quotes included; all of it where that cannot be told.
fn written_at(source: &str, span: &Range<usize>, text: &str) -> Range<usize> {
    let Some(within) = source.get(span.clone()).filter(|_| !text.is_empty()) else { return span.clone() };
    for quote in ["\"", "'", ""] {
        let written = format!("{quote}{text}{quote}");
        if let Some(at) = within.find(&written) {
            return span.start + at..span.start + at + written.len();
        }
    }
    span.clone()
}
