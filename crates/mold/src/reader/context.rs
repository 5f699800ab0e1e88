//! The state that the readers of a manifest share: source, scope and findings.

use crate::codes;
use crate::manifest::{Placed, ShapeError, ShapeErrorKind};
use crate::package::{LARGEST_MANIFEST, Package, PackageError};
use crate::snippet::Snippet;
use std::ops::Range;
use std::path::PathBuf;
use std::sync::Arc;
use tinmold_notation::{Code, Finding, Marks, Scope, Span, Type, did_you_mean};

/// A manifest that is being read.
pub(super) struct ManifestReader {
    /// The text of the manifest that is read now.
    pub(super) source: Arc<str>,
    /// Its name in findings.
    pub(super) file: Arc<str>,
    pub(super) findings: Vec<Finding>,
    pub(super) scope: Scope,
    /// By origin of an entry: the manifest that it is in.
    manifests: Vec<(Arc<str>, Arc<str>)>,
}

impl ManifestReader {
    /// Starts to read the manifest at `path`.
    pub(super) fn new(source: &str, path: &str) -> Self {
        let (file, source): (Arc<str>, Arc<str>) = (path.into(), source.into());
        let manifests = vec![(Arc::clone(&file), Arc::clone(&source))];
        Self { source, file, findings: Vec::new(), scope: Scope::with_built_ins(), manifests }
    }

    /// Adds the manifest of a layer, and returns the origin of its entries.
    pub(super) fn add_manifest(&mut self, source: &str, path: &str) -> usize {
        self.manifests.push((path.into(), source.into()));
        self.manifests.len() - 1
    }

    /// Goes on with the manifest of an entry; spans are those of its text.
    pub(super) fn enter(&mut self, origin: usize) {
        if let Some((file, source)) = self.manifests.get(origin) {
            (self.file, self.source) = (Arc::clone(file), Arc::clone(source));
        }
    }

    /// Reports a finding in the manifest.
    pub(super) fn add(
        &mut self,
        code: Code,
        span: Range<usize>,
        message: impl Into<String>,
        help: impl Into<String>,
    ) {
        let span = Span::new(span.start, span.end);
        self.findings.push(Finding::new(Arc::clone(&self.file), span, code, message, help));
    }

    /// Reports mistakes of the manifest's shape.
    pub(super) fn add_shape_errors(&mut self, errors: Vec<ShapeError>) {
        for ShapeError { span, kind } in errors {
            let listed =
                |words: &[&str]| words.iter().map(|word| format!("`{word}`")).collect::<Vec<_>>().join(", ");
            match kind {
                ShapeErrorKind::NotToml(reason) => {
                    self.add(codes::UNREADABLE_MANIFEST, span, format!("this is not TOML: {reason}"), "");
                }
                ShapeErrorKind::UnknownKey { key, known } => {
                    let all = format!("the keys here are {}", listed(&known));
                    let help = did_you_mean(&key, known.iter().copied(), all);
                    self.add(codes::UNKNOWN_KEY, span, format!("the key `{key}` is unknown here"), help);
                }
                ShapeErrorKind::MissingKey(key) => {
                    self.add(codes::WRONG_SHAPE, span, format!("the key `{key}` is missing here"), "");
                }
                ShapeErrorKind::WrongType { wanted, found } => {
                    self.add(codes::WRONG_SHAPE, span, format!("this must be {wanted}, and is {found}"), "");
                }
                ShapeErrorKind::UnknownWord { word, known } => {
                    let all = format!("write one of {}", listed(&known));
                    let help = did_you_mean(&word, known.iter().copied(), all);
                    self.add(codes::UNKNOWN_KEY, span, format!("the value `{word}` is unknown here"), help);
                }
                ShapeErrorKind::TooMany { most } => {
                    self.add(codes::WRONG_SHAPE, span, format!("there are more than {most} of these"), "");
                }
                ShapeErrorKind::OutOfRange { least, most } => {
                    self.add(codes::WRONG_SHAPE, span, format!("this must be from {least} to {most}"), "");
                }
            }
        }
    }

    /// Makes a snippet of a text of the manifest.
    pub(super) fn snippet(&self, text: &Placed) -> Snippet {
        Snippet::new(text.get_ref().clone(), text.span(), &self.file, &self.source)
    }

    /// Makes a snippet of a rendered text and checks it. It sees no minted values.
    pub(super) fn text(&mut self, text: &Placed, scope: &Scope) -> Snippet {
        let snippet = self.snippet(text);
        self.findings.extend(snippet.with_text(scope, false, |compiled| compiled.findings));
        snippet
    }

    /// Does the same in the scope of the questions.
    pub(super) fn own_text(&mut self, text: &Placed) -> Snippet {
        let snippet = self.snippet(text);
        self.findings.extend(snippet.with_text(&self.scope, false, |compiled| compiled.findings));
        snippet
    }

    /// Makes a snippet of a condition and checks it.
    pub(super) fn condition(&mut self, when: &Placed, scope: &Scope) -> Snippet {
        let snippet = self.snippet(when);
        self.findings.extend(snippet.with_expression(scope, Some(Type::Flag), |compiled| compiled.findings));
        snippet
    }

    /// Does the same in the scope of the questions.
    pub(super) fn own_condition(&mut self, when: &Placed) -> Snippet {
        let snippet = self.snippet(when);
        self.findings
            .extend(snippet.with_expression(&self.scope, Some(Type::Flag), |compiled| compiled.findings));
        snippet
    }

    /// Makes marks; the usual ones where the texts cannot be marks.
    pub(super) fn marks(&mut self, marks: &toml::Spanned<[String; 2]>) -> Marks {
        let [open, close] = marks.get_ref();
        Marks::new(open, close).unwrap_or_else(|error| {
            self.add(codes::BAD_MARKS, marks.span(), "these cannot be marks", error.to_string());
            Marks::default()
        })
    }

    /// Compiles a regular expression and reports why it is not one.
    pub(super) fn regex(&mut self, pattern: &str, span: Range<usize>) -> Option<regex::Regex> {
        let built = regex::RegexBuilder::new(pattern).size_limit(1 << 20).build();
        built
            .map_err(|error| {
                let error = error.to_string();
                let message =
                    format!("this is not a regular expression: {}", error.lines().last().unwrap_or(""));
                self.add(codes::BAD_PATTERN, span, message, "");
            })
            .ok()
    }
}

/// Reads the text of a manifest, or returns why it is not text.
pub(super) fn manifest_text(package: &Package, path: &str) -> Result<Result<String, Finding>, PackageError> {
    let Some(file) = package.file(path) else {
        return Err(PackageError::NotAMold(PathBuf::from(package.origin.to_string())));
    };
    if file.len() > LARGEST_MANIFEST {
        let message = format!("{path} is larger than {} MiB", LARGEST_MANIFEST >> 20);
        return Ok(Err(Finding::new(path, Span::default(), codes::UNREADABLE_MANIFEST, message, "")));
    }
    Ok(String::from_utf8(file.read()?.into_owned()).map_err(|error| {
        let at = error.utf8_error().valid_up_to();
        let message = format!("{path} is not UTF-8 text (byte {at})");
        Finding::new(path, Span::new(at, at), codes::UNREADABLE_MANIFEST, message, "save it as UTF-8")
    }))
}
