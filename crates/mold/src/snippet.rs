//! A piece of notation in `mold.toml`: a rendered text, or an expression.

use std::ops::Range;
use std::sync::Arc;
use tinmold_notation::{
    Budget, Compiled, Finding, Scope, Setting, Span, Type, Value, Values, compile, compile_expression,
};

/// A rendered text or an expression, with its span in the manifest.
#[derive(Clone, Debug)]
pub struct Snippet {
    text: String,
    file: Arc<str>,
    /// The span of the value in the manifest.
    span: Range<usize>,
    /// The start of the text in the manifest, if it is written there without escapes.
    offset: Option<usize>,
}

/// Limit of a rendered text; a person reads far less than a megabyte.
const LIMIT: u64 = 1 << 24;

impl Snippet {
    /// Makes a snippet of the text at `span` of the manifest `source`.
    #[must_use]
    pub fn new(text: impl Into<String>, span: Range<usize>, file: &Arc<str>, source: &str) -> Self {
        let text = text.into();
        let written = source.get(span.clone()).unwrap_or("");
        let quotes = ["\"\"\"\n", "'''\n", "\"\"\"", "'''", "\"", "'"];
        let quote = quotes.into_iter().find(|quote| written.starts_with(quote)).unwrap_or("");
        let exact = written[quote.len()..].strip_prefix(&text).is_some_and(|rest| rest == quote.trim_end());
        let offset = exact.then_some(span.start + quote.len());
        Self { text, file: Arc::clone(file), span, offset }
    }

    /// Returns the text as it was written.
    #[must_use]
    pub fn text(&self) -> &str {
        &self.text
    }

    /// Returns its span in the manifest.
    #[must_use]
    pub fn span(&self) -> Span {
        Span::new(self.span.start, self.span.end)
    }

    /// Returns the name of its manifest.
    #[must_use]
    pub fn file(&self) -> &Arc<str> {
        &self.file
    }

    /// Returns true if it holds no tag, so that it renders to itself.
    #[must_use]
    pub fn is_fixed(&self) -> bool {
        !has_tag(&self.text)
    }

    /// Compiles it as a rendered text and calls `then` with the result, with spans of the manifest.
    /// `minted` allows minted values in it.
    pub fn with_text<T>(&self, scope: &Scope, minted: bool, then: impl FnOnce(Compiled<'_>) -> T) -> T {
        let setting = Setting { local: minted, ..Setting::for_text() };
        let mut compiled = compile(&self.file, &self.text, scope, &setting);
        compiled.findings.iter_mut().for_each(|finding| self.move_into_manifest(finding));
        then(compiled)
    }

    /// Compiles it as an expression and calls `then` with the result, with spans of the manifest.
    pub fn with_expression<T>(
        &self,
        scope: &Scope,
        wanted: Option<Type>,
        then: impl FnOnce(Compiled<'_>) -> T,
    ) -> T {
        let setting = Setting::for_text();
        let mut compiled = compile_expression(&self.file, &self.text, scope, &setting, wanted);
        compiled.findings.iter_mut().for_each(|finding| self.move_into_manifest(finding));
        then(compiled)
    }

    /// Renders it.
    ///
    /// # Errors
    /// The first finding, of the compiler or of the rendering.
    pub fn render(&self, scope: &Scope, values: &Values) -> Result<String, Finding> {
        if self.is_fixed() {
            return Ok(self.text.clone());
        }
        self.with_text(scope, true, |compiled| match &compiled.program {
            Some(program) => program.render_text(values, &Budget::new(LIMIT)).map_err(|f| self.moved(f)),
            None => Err(first_error(compiled.findings)),
        })
    }

    /// Returns the value of the expression.
    ///
    /// # Errors
    /// The first finding, of the compiler or of the evaluation.
    pub fn evaluate(&self, scope: &Scope, values: &Values) -> Result<Value, Finding> {
        self.with_expression(scope, None, |compiled| match &compiled.program {
            Some(program) => program.evaluate(values, &Budget::new(LIMIT)).map_err(|f| self.moved(f)),
            None => Err(first_error(compiled.findings)),
        })
    }

    /// Evaluates the condition.
    ///
    /// # Errors
    /// As for [`Snippet::evaluate`].
    pub fn holds(&self, scope: &Scope, values: &Values) -> Result<bool, Finding> {
        Ok(self.evaluate(scope, values)? == Value::Flag(true))
    }

    fn moved(&self, mut finding: Finding) -> Finding {
        self.move_into_manifest(&mut finding);
        finding
    }

    fn move_into_manifest(&self, finding: &mut Finding) {
        finding.span = match self.offset {
            Some(offset) => {
                Span::new(offset + finding.span.start as usize, offset + finding.span.end as usize)
            }
            None => self.span(),
        };
    }
}

/// Returns true if a text or name holds a tag.
#[must_use]
pub fn has_tag(text: &str) -> bool {
    text.contains("{=")
}

fn first_error(findings: Vec<Finding>) -> Finding {
    let mut findings = findings.into_iter();
    findings.find(Finding::is_error).unwrap_or_else(|| {
        Finding::new(
            "mold.toml",
            Span::default(),
            tinmold_notation::Code::Unexpected,
            "this text cannot be rendered",
            "",
        )
    })
}
