//! A file as it comes out, and whether it is of its language.

use super::trial::{Known, of_plan};
use std::borrow::Cow;
use tinmold_grammar::Language;
use tinmold_mold::{Holds, codes, formats};
use tinmold_notation::{Finding, Place, Position, Span, Syntax};
use tinmold_project::plan::{Entry, EntryKind, Plan, Rendered as Kind};

/// A file as it comes out.
#[derive(Debug, Default)]
pub(super) struct Rendered {
    /// Its mistakes.
    pub(super) findings: Vec<Finding>,
    /// Its text, if others name what is in it, or it names others.
    pub(super) text: Option<String>,
    /// The places of its body file, and which of them were reached.
    pub(super) places: Vec<(Place, bool)>,
}

/// Renders an entry and parses it.
pub(super) fn render(known: &Known<'_>, plan: &Plan<'_>, entry: &Entry<'_>) -> Rendered {
    if matches!(entry.kind, EntryKind::Folder | EntryKind::Link(_)) {
        return Rendered::default();
    }
    let mut bytes = Vec::new();
    let bytes = match plan.render(entry, &mut bytes) {
        Ok(Kind::Bytes) => Cow::Owned(bytes),
        Ok(Kind::AsIs) => match plan.mold.package.files[plan.body(entry).file].read() {
            Ok(bytes) => bytes,
            Err(error) => return Rendered { findings: of_plan(error.into()), ..Rendered::default() },
        },
        Err(error) => return Rendered { findings: of_plan(error), ..Rendered::default() },
    };
    let places = plan.coverage(entry).unwrap_or_default();
    let text = std::str::from_utf8(&bytes).ok();
    let mut findings = Vec::new();
    if entry.kind == EntryKind::Copy {
        findings.extend(malformed_copy(plan, entry, &bytes));
    }
    findings.extend(text.and_then(|text| malformed_code(known, plan, entry, text)));
    findings.extend(text.and_then(|text| without_tab(plan, entry, text)));
    let is_named = is_named(&entry.path);
    Rendered { findings, text: text.filter(|_| is_named).map(str::to_owned), places }
}

/// Returns true for files that name others, or that others name parts of.
fn is_named(path: &str) -> bool {
    let name = path.rsplit('/').next().unwrap_or(path);
    name.ends_with(".md") || matches!(name, "Makefile" | "makefile" | "GNUmakefile" | "package.json")
}

/// Copied files are parsed before they are written too.
fn malformed_copy(plan: &Plan<'_>, entry: &Entry<'_>, bytes: &[u8]) -> Option<Finding> {
    let body = plan.body(entry);
    let holds = body.holds.unwrap_or_else(|| Holds::of_path(&entry.path));
    let wrong = formats::check(holds, bytes).err()?;
    let message = format!("{} would not be {}: {}", entry.path, wrong.format, wrong.reason);
    let span = Span::new(wrong.at, wrong.at + 1);
    Some(Finding::new(plan.mold.path_of(body), span, codes::MALFORMED_OUTPUT, message, ""))
}

/// Returns the finding for a recipe line of a makefile that does not begin with a tab: GNU make manual, 5.1.
fn without_tab(plan: &Plan<'_>, entry: &Entry<'_>, text: &str) -> Option<Finding> {
    let body = plan.body(entry);
    if Syntax::of_path(&entry.path) != Syntax::Make || body.holds == Some(Holds::Text) {
        return None;
    }
    let (mut at, mut goes_on, mut in_rule) = (0, false, false);
    for line in text.split_inclusive('\n') {
        let (start, inner) = (at, line.trim());
        at += line.len();
        let continues = std::mem::replace(&mut goes_on, inner.ends_with('\\'));
        if continues || inner.is_empty() || inner.starts_with('#') || line.starts_with('\t') {
            continue;
        }
        let word = inner.split([' ', '\t', '(']).next().unwrap_or("");
        let is_directive =
            ["if", "else", "endif", "include", "-include", "define", "endef", "export", "override"];
        let is_other = inner.contains('=') || is_directive.iter().any(|it| word.starts_with(it));
        if line.starts_with(' ') && in_rule && !is_other {
            let span = plan.origin(entry, start + line.len() - line.trim_start().len())?;
            let message =
                format!("{} would not be a makefile: a line of a recipe begins with spaces", entry.path);
            let help = "begin it with a tab";
            return Some(Finding::new(plan.mold.path_of(body), span, codes::MALFORMED_CODE, message, help));
        }
        in_rule = in_rule || (inner.contains(':') && !is_other);
    }
    None
}

/// Parses code by its grammar; JSON, TOML, YAML and XML are parsed when they are rendered.
fn malformed_code(known: &Known<'_>, plan: &Plan<'_>, entry: &Entry<'_>, text: &str) -> Option<Finding> {
    let body = plan.body(entry);
    let language = Language::of_path(&entry.path)?;
    if matches!(language, Language::Json | Language::Toml | Language::Yaml) || body.holds == Some(Holds::Text)
    {
        return None;
    }
    let mistake = known.mistake(language, text)?;
    let span = match entry.kind {
        EntryKind::Copy => Span::new(mistake.at, mistake.at + 1),
        _ => plan.origin(entry, mistake.at.min(text.len().saturating_sub(1)))?,
    };
    Some(finding(&entry.path, plan.mold.path_of(body), span, language, text, &mistake))
}

/// Returns the finding for a mistake in a source.
pub(super) fn finding(
    path: &str,
    file: &str,
    span: Span,
    language: Language,
    text: &str,
    mistake: &tinmold_grammar::Mistake,
) -> Finding {
    let place = Position::of(text, mistake.at);
    let line = text.lines().nth(place.line - 1).unwrap_or("").trim();
    let short: String = line.chars().take(120).collect();
    let wrong = match &mistake.missing {
        Some(missing) => format!("`{missing}` is missing"),
        None => "it cannot be read".to_owned(),
    };
    let message = format!(
        "{path} would not be {}: {wrong} at line {}, column {} of the output",
        language.name(),
        place.line,
        place.column
    );
    Finding::new(file, span, codes::MALFORMED_CODE, message, format!("that line is: {short}"))
}
