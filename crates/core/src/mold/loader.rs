//! A package read as a mold: names, types and order settled, ready to be asked and rendered.

use super::body::{self, BodyFile, EachRule, FileRule};
use super::check;
use super::derived::Pending;
use super::finish::{FinishStep, Need};
use super::manifest::{Derived, Header, Manifest, Notation, Placed, RawQuestion};
use super::question::{Offered, Question};
use super::snippet::Snippet;
use super::texts::Texts;
use crate::codes;
use crate::shelf::{Origin, Package, PackageError};
use serde::de::DeserializeOwned;
use std::collections::BTreeMap;
use std::ops::Range;
use std::sync::Arc;
use tinmold_notation::{Code, Finding, Fragments, Marks, NameId, Scope, Span, Value, did_you_mean};

/// A mold that can be asked and rendered.
#[derive(Debug)]
pub struct Mold {
    /// Its files.
    pub package: Package,
    /// What it is.
    pub header: Header,
    /// The text of `mold.toml`, for showing places in it.
    pub source: String,
    /// Its questions, in their order.
    pub questions: Vec<Question>,
    /// Every name with its type.
    pub scope: Scope,
    /// The same with `system`, for what is shown and run on this machine only.
    pub shown_scope: Scope,
    /// The order in which questions are asked and values derived.
    pub steps: Vec<Step>,
    /// The derived values.
    pub derived: Vec<DerivedValue>,
    /// The pieces for `place`.
    pub fragments: Fragments,
    /// The files of the body.
    pub body: Vec<BodyFile>,
    /// The `[[files]]` entries that make a file for each element of a list.
    pub each: Vec<EachRule>,
    /// The rendered texts that a finished cast shows, and the folder's name.
    pub texts: Texts,
    /// What a casting needs on the machine.
    pub needs: Vec<Need>,
    /// What may run in a casting once it is written.
    pub finish: Vec<FinishStep>,
    /// The presets, by name.
    pub presets: BTreeMap<String, Preset>,
    /// The marks of the body's tags.
    pub marks: Vec<Marks>,
    /// The folder in the package that `body/` and `fragments/` are in, with its slash: empty, or that of a part.
    pub home: String,
    pub(crate) rules: Vec<FileRule>,
}

/// One step of settling the answers.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Step {
    /// The question of this index.
    Question(usize),
    /// The derived value of this index.
    Derive(usize),
}

/// A value that is computed, never asked.
#[derive(Clone, Debug)]
pub struct DerivedValue {
    /// How it is computed.
    pub snippet: Snippet,
    /// Whether the snippet is an expression rather than a text.
    pub is_expression: bool,
    /// Its name in the scope.
    pub id: NameId,
}

/// A named set of answers.
#[derive(Clone, Debug)]
pub struct Preset {
    /// What it is for.
    pub summary: String,
    /// The answers, by the question's place in the mold.
    pub answers: Vec<(usize, Offered)>,
}

/// Why a package is no mold that can be used.
#[derive(Debug, thiserror::Error)]
pub enum MoldError {
    /// Its files cannot be read.
    #[error(transparent)]
    Package(#[from] PackageError),
    /// It has mistakes.
    #[error("the mold has mistakes")]
    Faulty(Box<Faulty>),
}

/// The mistakes of a mold, with the texts they are in.
#[derive(Debug)]
pub struct Faulty {
    /// All findings, sorted.
    pub findings: Vec<Finding>,
    /// The files that the findings are in.
    pub package: Package,
}

/// What the reading of a manifest gathers findings in.
pub(super) struct Reader<'m> {
    pub(super) source: &'m str,
    pub(super) file: Arc<str>,
    pub(super) findings: Vec<Finding>,
    pub(super) scope: Scope,
}

impl Reader<'_> {
    pub(super) fn add(
        &mut self,
        code: Code,
        span: Range<usize>,
        message: impl Into<String>,
        help: impl Into<String>,
    ) {
        let span = Span::new(span.start, span.end);
        let file = Arc::clone(&self.file);
        self.findings.push(Finding { file, span, code, message: message.into(), help: help.into() });
    }

    pub(super) fn snippet(&self, text: &Placed) -> Snippet {
        Snippet::new(text.get_ref().clone(), text.span(), &self.file, self.source)
    }

    /// Marks given in the manifest; the usual ones where they cannot be.
    pub(super) fn marks(&mut self, marks: &toml::Spanned<[String; 2]>) -> Marks {
        let [open, close] = marks.get_ref();
        Marks::new(open, close).unwrap_or_else(|error| {
            self.add(codes::BAD_MARKS, marks.span(), "these cannot be marks", error.to_string());
            Marks::default()
        })
    }
}

impl Mold {
    /// Reads the manifest of a package and settles names, types and order. The body's texts are compiled when they are
    /// rendered or checked.
    ///
    /// # Errors
    /// Files that cannot be read, and every mistake of the manifest.
    pub fn load(package: Package) -> Result<Self, MoldError> {
        let faulty =
            |findings: Vec<Finding>, package| MoldError::Faulty(Box::new(Faulty { findings, package }));
        let source = match manifest_text(&package, "mold.toml")? {
            Ok(source) => source,
            Err(finding) => return Err(faulty(vec![finding], package)),
        };
        let mut reader = Reader {
            source: &source,
            file: "mold.toml".into(),
            findings: Vec::new(),
            scope: Scope::with_built_ins(),
        };
        let Some(manifest) = read_shape::<Manifest>(&mut reader, &package) else {
            // A newer mold may have keys that this program does not know.
            let other = source.parse::<toml::Table>().ok().and_then(|table| {
                let wanted = table.get("mold")?.get("tinmold")?.as_str()?.to_owned();
                Some((wanted, source.find("tinmold").unwrap_or(0)))
            });
            if let Some((wanted, at)) = other.filter(|(wanted, _)| !is_for_this_program(wanted)) {
                reader.findings.clear();
                let line = source[at..].find('\n').map_or(source.len(), |end| at + end);
                for_another_program(&mut reader, &wanted, at..line);
            }
            return Err(faulty(reader.findings, package));
        };
        if let Some(wanted) = &manifest.mold.tinmold
            && !is_for_this_program(wanted.get_ref())
        {
            for_another_program(&mut reader, wanted.get_ref(), wanted.span());
            return Err(faulty(reader.findings, package));
        }
        check::header(&mut reader, &manifest);
        let Manifest { mold: header, notation, question, derive, files, need, finish, tour, next, preset } =
            manifest;
        let Asked { questions, derived, steps } = Asked::default().and(&mut reader, question, derive);
        let marks = body_marks(&mut reader, &notation);
        let mut mold = Self {
            header,
            source: String::new(),
            questions,
            scope: Scope::new(),
            shown_scope: reader.scope.clone(),
            steps,
            derived,
            fragments: Fragments::default(),
            body: Vec::new(),
            each: Vec::new(),
            texts: Texts {
                folder: None,
                tour: tour
                    .iter()
                    .map(|stop| (reader.snippet(&stop.path), reader.snippet(&stop.says)))
                    .collect(),
                next: next.lines.iter().map(|line| reader.snippet(line)).collect(),
            },
            needs: Vec::new(),
            finish: Vec::new(),
            presets: BTreeMap::new(),
            marks: vec![marks],
            home: String::new(),
            rules: Vec::new(),
            package,
        };
        mold.texts.folder = mold.header.folder.as_ref().map(|folder| reader.snippet(folder));
        body::read(&mut reader, &mut mold, files);
        mold.shown_scope.unbar("system");
        check::manifest_texts(&mut reader, &mold.texts, &mold.shown_scope);
        mold.needs = super::finish::needs(&mut reader, need, &mold.shown_scope);
        mold.finish = super::finish::steps(&mut reader, finish, &mold.shown_scope);
        mold.presets = super::question_reader::presets(&mut reader, &mold.questions, preset);
        let (mut findings, scope) = (reader.findings, reader.scope);
        mold.scope = scope;
        tinmold_notation::sort_findings(&mut findings);
        if findings.iter().any(Finding::is_error) {
            return Err(faulty(findings, mold.package));
        }
        mold.source = source;
        Ok(mold)
    }

    /// The mold's name on a shelf.
    #[must_use]
    pub fn name(&self) -> &str {
        self.header.name.get_ref()
    }

    /// The mold's version.
    #[must_use]
    pub fn version(&self) -> &str {
        self.header.version.get_ref()
    }

    /// The path in the package of a file of the body.
    #[must_use]
    pub fn path_of(&self, file: &BodyFile) -> &str {
        &self.package.files[file.file].path
    }

    /// The path in `body/` of a file of the body, tags as they are written.
    #[must_use]
    pub fn path_in_body(&self, file: &BodyFile) -> &str {
        self.path_of(file).get(self.home.len() + body::BODY.len()..).unwrap_or("")
    }

    /// The question with this key.
    #[must_use]
    pub fn question(&self, key: &str) -> Option<&Question> {
        self.questions.iter().find(|question| question.key == key)
    }

    /// The option of a one-of answer, or the positions of those of a some-of answer.
    #[must_use]
    pub fn picked(&self, value: &Value) -> Vec<u16> {
        match value {
            Value::Option(_, at) => at.iter().copied().collect(),
            Value::List(values) => values.iter().flat_map(|value| self.picked(value)).collect(),
            _ => Vec::new(),
        }
    }
}

fn body_marks(reader: &mut Reader<'_>, notation: &Notation) -> Marks {
    notation.marks.as_ref().map_or_else(Marks::default, |marks| reader.marks(marks))
}

/// The text of a manifest, or why it is none.
///
/// # Errors
/// There is no such file, or it cannot be read.
pub(super) fn manifest_text(package: &Package, path: &str) -> Result<Result<String, Finding>, PackageError> {
    let Some(file) = package.file(path) else {
        let place = if let Origin::BuiltIn(name) = &package.origin { name.as_str() } else { "" };
        return Err(PackageError::NotAMold(place.into()));
    };
    Ok(String::from_utf8(file.read()?.into_owned()).map_err(|error| {
        let at = error.utf8_error().valid_up_to();
        Finding {
            file: path.into(),
            span: Span::new(at, at),
            code: codes::UNREADABLE_MANIFEST,
            message: format!("{path} is not UTF-8 text (byte {at})"),
            help: "save it as UTF-8".into(),
        }
    }))
}

/// What is asked and computed, and in which order.
#[derive(Default)]
pub(super) struct Asked {
    pub(super) questions: Vec<Question>,
    pub(super) derived: Vec<DerivedValue>,
    pub(super) steps: Vec<Step>,
}

impl Asked {
    /// Adds the questions and derived values of a manifest behind those that are there.
    pub(super) fn and(
        self,
        reader: &mut Reader<'_>,
        raw: Vec<RawQuestion>,
        derive: BTreeMap<Placed, Derived>,
    ) -> Self {
        let Self { mut questions, derived, mut steps } = self;
        let mut pending = Pending::new(reader, derive, derived);
        let keys: Vec<String> = raw.iter().map(|raw| raw.key.get_ref().clone()).collect();
        for (at, raw) in raw.into_iter().enumerate() {
            pending.settle(reader, &mut steps);
            if let Some(question) = super::question_reader::read(reader, raw, &keys[at..], &pending.names()) {
                steps.push(Step::Question(questions.len()));
                questions.push(question);
            }
        }
        pending.settle(reader, &mut steps);
        Self { questions, derived: pending.finish(reader), steps }
    }
}

/// Whether this program is among the versions that a mold is for, if that can be read.
fn is_for_this_program(wanted: &str) -> bool {
    match (semver::VersionReq::parse(wanted), semver::Version::parse(env!("CARGO_PKG_VERSION"))) {
        (Ok(wanted), Ok(own)) => wanted.matches(&own),
        _ => true,
    }
}

fn for_another_program(reader: &mut Reader<'_>, wanted: &str, place: Range<usize>) {
    let message =
        format!("this mold is for tinmold {wanted}, and this is tinmold {}", env!("CARGO_PKG_VERSION"));
    reader.add(codes::OTHER_PROGRAM, place, message, "get that version, or another one of the mold");
}

/// Reads the shape of the manifest of this package that the reader is at; none if it cannot be read.
pub(super) fn read_shape<T: DeserializeOwned>(reader: &mut Reader<'_>, package: &Package) -> Option<T> {
    let read = match package.document(&reader.file) {
        Some(document) => T::deserialize(toml::Deserializer::from(document)),
        None => toml::from_str(reader.source),
    };
    match read {
        Ok(manifest) => Some(manifest),
        Err(error) => {
            shape_finding(reader, &error);
            None
        }
    }
}

/// Puts what serde says of a wrong shape into our words.
fn shape_finding(reader: &mut Reader<'_>, error: &toml::de::Error) {
    let span = error.span().unwrap_or(0..0);
    let message = error.message();
    let quoted: Vec<&str> = message.split('`').skip(1).step_by(2).collect();
    if message.starts_with("unknown field") || message.starts_with("unknown variant") {
        let (word, known) = quoted.split_first().map_or(("", [].as_slice()), |(word, known)| (*word, known));
        let all: Vec<_> = known.iter().map(|key| format!("`{key}`")).collect();
        let help = did_you_mean(word, known.iter().copied(), format!("there are {}", all.join(", ")));
        let what = if message.starts_with("unknown field") { "key" } else { "value" };
        reader.add(codes::UNKNOWN_KEY, span, format!("the {what} `{word}` means nothing here"), help);
    } else if message.starts_with("missing field") {
        let key = quoted.first().copied().unwrap_or("");
        reader.add(codes::WRONG_SHAPE, span, format!("the key `{key}` is missing here"), "");
    } else if message.starts_with("invalid type") || message.starts_with("data did not match") {
        let message = message
            .replacen("invalid type: ", "this has the wrong type: ", 1)
            .replace(
                "data did not match any variant of untagged enum Derived",
                "this is neither a text nor `{ is = \"…\" }`",
            )
            .replace("boolean", "flag")
            .replace("sequence", "list")
            .replace("string", "text")
            .replace("map", "table");
        reader.add(codes::WRONG_SHAPE, span, message.trim_end(), "");
    } else {
        let message = message.trim_end().replace('\n', ": ");
        reader.add(codes::UNREADABLE_MANIFEST, span, format!("this is not TOML: {message}"), "");
    }
}
