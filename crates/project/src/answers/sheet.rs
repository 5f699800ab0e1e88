//! Answer sheets: files of answers in TOML, JSON or YAML.

use super::resolve::ResolvedAnswer;
use super::sources::{SetError, not_asked, unknown_key};
use std::fmt::Write;
use std::path::Path;
use tinmold_mold::Mold;
use tinmold_mold::{Kind, Offered, Question, typed};
use tinmold_notation::Value;
use tinmold_platform::text::steers;

/// The format of an answer sheet.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SheetFormat {
    /// TOML 1.0.
    Toml,
    /// JSON (RFC 8259).
    Json,
    /// YAML 1.2.
    Yaml,
}

impl SheetFormat {
    /// Returns the format of the file's extension.
    #[must_use]
    pub fn of_path(path: &Path) -> Option<Self> {
        match path.extension()?.to_str()?.to_ascii_lowercase().as_str() {
            "toml" => Some(Self::Toml),
            "json" => Some(Self::Json),
            "yaml" | "yml" => Some(Self::Yaml),
            _ => None,
        }
    }

    /// By the text: JSON begins with a brace, TOML is what parses as such, the rest is YAML.
    #[must_use]
    pub fn of_text(text: &str) -> Self {
        if text.trim_start().starts_with('{') {
            Self::Json
        } else if text.parse::<toml::Table>().is_ok() {
            Self::Toml
        } else {
            Self::Yaml
        }
    }
}

/// Why a sheet cannot be read at all.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum SheetError {
    /// The text is not of its format.
    #[error("line {line}, column {column}: {reason}")]
    Syntax {
        /// The line, from 1.
        line: usize,
        /// The column, from 1.
        column: usize,
        /// The parser's message.
        reason: String,
    },
    /// The YAML parser's error, with its position.
    #[error("{0}")]
    Yaml(String),
    /// The sheet is not a table of keys.
    #[error("an answer sheet is a table of keys and answers")]
    NotATable,
}

/// The answers of a sheet, by index of the question, and the refused ones.
#[derive(Clone, Debug, Default)]
pub struct SheetAnswers {
    /// The index of the question in the mold, and the answer.
    pub answers: Vec<(usize, Value)>,
    /// The refused answers.
    pub wrong: Vec<SetError>,
}

/// Reads a sheet. A `null` is no answer.
///
/// # Errors
/// The sheet is not of its format, or is no table of keys; with line and column.
pub fn read_sheet(mold: &Mold, text: &str, format: SheetFormat) -> Result<SheetAnswers, SheetError> {
    let text = text.trim_start_matches('\u{feff}');
    let table = match format {
        SheetFormat::Toml => text.parse::<toml::Table>().map_err(|error| {
            let at = error.span().map_or(0, |span| span.start);
            let place = tinmold_notation::Position::of(text, at);
            SheetError::Syntax { line: place.line, column: place.column, reason: one_line(error.message()) }
        })?,
        SheetFormat::Json => {
            let value: serde_json::Value = serde_json::from_str(text).map_err(|error| {
                let reason = tinmold_mold::formats::json_reason(&error);
                SheetError::Syntax { line: error.line(), column: error.column(), reason }
            })?;
            table_of(value)?
        }
        SheetFormat::Yaml => {
            if text.lines().all(|line| line.trim().is_empty() || line.trim_start().starts_with('#')) {
                return Ok(SheetAnswers::default());
            }
            let value: serde_json::Value = serde_saphyr::from_str(text)
                .map_err(|error| SheetError::Yaml(one_line(&error.to_string())))?;
            table_of(value)?
        }
    };
    let mut sheet = SheetAnswers::default();
    for (key, value) in &table {
        let wrong = |refusal| SetError { key: key.clone(), refusal };
        let Some(at) = mold.questions.iter().position(|question| question.key == *key) else {
            sheet.wrong.push(wrong(unknown_key(mold, key)));
            continue;
        };
        let question = &mold.questions[at];
        if !question.is_asked() {
            sheet.wrong.push(wrong(not_asked(question)));
            continue;
        }
        match typed(question.kind, value, &mold.scope) {
            Ok(value) => sheet.answers.push((at, value)),
            Err(refusal) => sheet.wrong.push(wrong(refusal)),
        }
    }
    Ok(sheet)
}

fn one_line(message: &str) -> String {
    message.lines().next().unwrap_or("").trim().to_owned()
}

fn table_of(value: serde_json::Value) -> Result<toml::Table, SheetError> {
    let serde_json::Value::Object(entries) = value else {
        return Err(SheetError::NotATable);
    };
    let mut table = toml::Table::new();
    for (key, value) in entries {
        if let Some(value) = toml_of(value) {
            table.insert(key, value);
        }
    }
    Ok(table)
}

/// Converts a value to TOML's types; `None` for null. A value that TOML does not have becomes one
/// that every question refuses.
fn toml_of(value: serde_json::Value) -> Option<toml::Value> {
    Some(match value {
        serde_json::Value::Null => return None,
        serde_json::Value::Bool(flag) => toml::Value::Boolean(flag),
        serde_json::Value::Number(number) => match (number.as_i64(), number.as_f64()) {
            (Some(number), _) => toml::Value::Integer(number),
            // JSON does not tell 1.0 from 1; up to this size a whole number is exact.
            (None, Some(float)) if float.fract() == 0.0 && float.abs() <= 9_007_199_254_740_992.0 => {
                toml::Value::Integer(float as i64)
            }
            (None, float) => toml::Value::Float(float.unwrap_or(f64::NAN)),
        },
        serde_json::Value::String(text) => toml::Value::String(text),
        serde_json::Value::Array(elements) => {
            toml::Value::Array(elements.into_iter().filter_map(toml_of).collect())
        }
        serde_json::Value::Object(_) => toml::Value::Table(toml::Table::new()),
    })
}

/// Returns an answer in TOML's types.
pub(crate) fn as_toml(mold: &Mold, value: &Value) -> toml::Value {
    match value {
        Value::Text(text) => toml::Value::String(text.clone()),
        Value::Integer(number) => toml::Value::Integer(*number),
        Value::Flag(flag) => toml::Value::Boolean(*flag),
        Value::Option(..) => toml::Value::String(super::session::display_value(mold, value)),
        Value::List(values) => toml::Value::Array(values.iter().map(|value| as_toml(mold, value)).collect()),
    }
}

/// Writes the answers of a cast as a TOML sheet that can be replayed, without secrets and questions that did
/// not apply.
#[must_use]
pub fn full_sheet(mold: &Mold, answers: &super::session::Answers) -> String {
    sheet_of(mold, answers, |_, _| true)
}

/// Writes the same, with those answers only for which `wanted` returns true.
#[must_use]
pub fn sheet_of(
    mold: &Mold,
    answers: &super::session::Answers,
    wanted: impl Fn(&Question, &ResolvedAnswer) -> bool,
) -> String {
    let mut out = format!("# Answers to {} {}\n", mold.name(), mold.version());
    for (question, settled) in mold.questions.iter().zip(&answers.questions) {
        if question.is_asked() && !question.secret && settled.is_visible() && wanted(question, settled) {
            let _ = writeln!(out, "{} = {}", question.key, literal(&as_toml(mold, &settled.value)));
        }
    }
    out
}

/// Returns a sheet to fill in: every question with its help, options and default, each answer behind a `#`.
#[must_use]
pub fn blank_sheet(mold: &Mold) -> String {
    let mut out = format!("# Answers to {} {}\n", mold.name(), mold.version());
    out += "# Take away the # in front of what you answer; the rest takes its default.\n";
    let comment = |out: &mut String, text: &str| {
        for line in text.lines() {
            let _ = writeln!(out, "# {}", escaped(line.trim_end()));
        }
    };
    for question in mold.questions.iter().filter(|question| question.is_asked()) {
        out.push('\n');
        comment(&mut out, &question.ask);
        if let Some(help) = &question.help {
            comment(&mut out, help);
        }
        if question.secret {
            comment(&mut out, "a secret: rather give it when you are asked");
        }
        let form = question.rules.form.map_or_else(String::new, |form| format!(", {}", form.name()));
        comment(&mut out, &format!("({}{form})", question.kind.as_str()));
        if let Some(when) = &question.when {
            comment(&mut out, &format!("asked when {}", when.text()));
        }
        for option in &question.options {
            let note = option.note.as_ref().map_or_else(String::new, |note| format!(": {note}"));
            comment(&mut out, &format!("  {:?} {}{note}", option.value, option.label));
        }
        let example = match &question.default {
            Some(Offered::Fixed(value)) => literal(&as_toml(mold, value)),
            Some(Offered::Text(text)) => {
                comment(&mut out, &format!("default: {}", text.text()));
                empty_example(question.kind)
            }
            _ => empty_example(question.kind),
        };
        let _ = writeln!(out, "#{} = {example}", question.key);
    }
    out
}

/// Returns a value as TOML has it, with the characters escaped that control a terminal.
fn literal(value: &toml::Value) -> String {
    match value {
        toml::Value::String(text) if text.contains(steers) => {
            format!("\"{}\"", escaped(&text.replace('\\', "\\\\").replace('"', "\\\"")))
        }
        toml::Value::Array(elements) => {
            format!("[{}]", elements.iter().map(literal).collect::<Vec<_>>().join(", "))
        }
        other => other.to_string(),
    }
}

/// Escapes the characters that control a terminal, as TOML's basic strings do.
fn escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            c if !steers(c) => out.push(c),
            c => {
                let _ = write!(out, "\\U{:08x}", u32::from(c));
            }
        }
    }
    out
}

fn empty_example(kind: Kind) -> String {
    match kind {
        Kind::Text | Kind::OneOf(_) | Kind::Minted { .. } => "\"\"",
        Kind::Texts | Kind::SomeOf(_) => "[]",
        Kind::Flag => "false",
        Kind::Integer => "0",
    }
    .to_owned()
}
