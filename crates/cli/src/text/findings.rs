//! Findings with their source lines, for people.

use super::style::{quoted, safe};
use annotate_snippets::renderer::DecorStyle;
use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet};
use serde_json::{Value, json};
use std::collections::HashMap;
use tinmold_author::{AnswerSet, Reported};
use tinmold_mold::{Package, named_entry};
use tinmold_notation::{Finding, Position, Severity};
use tinmold_platform::text::steers;

/// The longest source line that is shown; of longer ones only the position is.
const LONGEST_LINE: usize = 400;

/// The sources that spans refer to, each read once.
pub struct Sources<'a> {
    package: &'a Package,
    read: HashMap<String, String>,
}

impl<'a> Sources<'a> {
    pub fn new(package: &'a Package) -> Self {
        Self { package, read: HashMap::new() }
    }

    /// Returns the path of a file as the author knows it.
    pub fn shown(&self, file: &str) -> String {
        self.package.shown(file).into_owned()
    }

    /// Returns the text of a file of the mold; for an entry without text, its name.
    pub fn of(&mut self, file: &str) -> &str {
        let package = self.package;
        self.read.entry(file.to_owned()).or_insert_with(|| match package.file(file) {
            Some(file) => file
                .read()
                .map_or_else(|_| String::new(), |bytes| String::from_utf8_lossy(&bytes).into_owned()),
            None => {
                let path = named_entry(file).unwrap_or(file);
                path.rsplit('/').next().unwrap_or(path).to_owned()
            }
        })
    }
}

/// Returns every finding with its line underlined, sources taken from the mold's files.
pub fn rendered(findings: &[Finding], package: &Package) -> String {
    let mut sources = Sources::new(package);
    let renderer = Renderer::styled().decor_style(DecorStyle::Ascii);
    findings
        .iter()
        .map(|finding| one(&shown(finding, package), sources.of(&finding.file), &renderer) + "\n\n")
        .collect()
}

/// Returns a finding with the path of its file as the author knows it.
fn shown(finding: &Finding, package: &Package) -> Finding {
    Finding { file: package.shown(&finding.file).into(), ..finding.clone() }
}

/// Returns every finding with the answers that show it and the command that does, for the mold at an address.
pub fn reports(reported: &[Reported], package: &Package, address: &str) -> String {
    let mut sources = Sources::new(package);
    let renderer = Renderer::styled().decor_style(DecorStyle::Ascii);
    let one = |it: &Reported| {
        let mut text = one(&shown(&it.finding, package), sources.of(&it.finding.file), &renderer);
        if let Some(set) = &it.answers {
            let with = match &it.part {
                Some((part, of_part)) if of_part.is_empty() => format!("{set}, and the part {part}"),
                Some((part, of_part)) => format!("{set}, and the part {part} with {of_part}"),
                None => set.to_string(),
            };
            text.push_str(&format!(
                "\n  = with {}\n  = show it: {}",
                safe(&with),
                safe(&command(it, set, address))
            ));
        }
        text + "\n\n"
    };
    reported.iter().map(one).collect()
}

/// Returns the command that shows what answers do.
pub fn command(reported: &Reported, set: &AnswerSet, address: &str) -> String {
    let word = |word: &String| match word.split_once('=') {
        Some((key, value)) => format!(" {key}={}", quoted(value)),
        None => format!(" {}", quoted(word)),
    };
    let options = |set: &AnswerSet| set.arguments().iter().map(word).collect::<String>();
    // What only shows in the files themselves needs them.
    let is_shown = reported.finding.is_error() && reported.part.is_none();
    let place = if is_shown { " --dry-run" } else { " tried" };
    let cast = format!("tinmold cast {}{place} --unattended{}", quoted(address), options(set));
    match &reported.part {
        Some((part, fit)) => {
            format!("{cast} && cd tried && tinmold fit {part} --unattended{}", options(fit))
        }
        None => cast,
    }
}

/// Returns a set of answers for programs.
pub fn set_json(set: &AnswerSet) -> Value {
    let answers: serde_json::Map<String, Value> =
        set.answers.iter().map(|(key, text)| (key.clone(), Value::from(text.as_str()))).collect();
    json!({ "preset": set.preset, "set": answers })
}

/// Returns every finding with its line underlined, all in the text `source`.
pub fn rendered_in(findings: &[Finding], source: &str) -> String {
    let renderer = Renderer::styled().decor_style(DecorStyle::Ascii);
    findings.iter().map(|finding| one(finding, source, &renderer) + "\n\n").collect()
}

/// Returns the start and end of a finding.
pub fn positions(finding: &Finding, source: &str) -> (Position, Position) {
    (Position::of(source, finding.span.start as usize), Position::of(source, finding.span.end as usize))
}

fn one(finding: &Finding, source: &str, renderer: &Renderer) -> String {
    let level = match finding.severity() {
        Severity::Error => Level::ERROR,
        Severity::Warning => Level::WARNING,
    };
    let message = safe(&finding.message);
    let title = level.primary_title(message).id(finding.code.as_str());
    let (start, end) = place(finding, source);
    let line_start = source[..start].rfind('\n').map_or(0, |at| at + 1);
    let line_end = source[end..].find('\n').map_or(source.len(), |at| end + at);
    let position = finding.position(source);
    let file = safe(&finding.file);
    let group = if source.is_empty() || line_end - line_start > LONGEST_LINE {
        let place = format!("{file}:{}:{}", position.line, position.column);
        title.element(Level::NOTE.message(format!("at {place}")))
    } else {
        // A byte-order mark is no part of its line.
        let line = source[line_start..line_end].trim_start_matches('\u{feff}');
        let cut = line_end - line_start - line.len();
        let from = start.saturating_sub(line_start + cut);
        let to = end.saturating_sub(line_start + cut).max(from);
        let line = safe_line(line);
        let annotation = AnnotationKind::Primary.span(from.min(line.len())..to.min(line.len()));
        title.element(Snippet::source(line).line_start(position.line).path(file).annotation(annotation))
    };
    let group =
        if finding.help.is_empty() { group } else { group.element(Level::HELP.message(safe(&finding.help))) };
    renderer.render(&[group])
}

/// Returns the range of a finding in a text. Where the text is not UTF-8, a range may begin within
/// a replaced character; it then covers the whole character.
fn place(finding: &Finding, source: &str) -> (usize, usize) {
    let is_between = |at: &usize| source.is_char_boundary(*at);
    let start = (finding.span.start as usize).min(source.len());
    let end = (finding.span.end as usize).clamp(start, source.len());
    (
        (0..=start).rev().find(is_between).unwrap_or(0),
        (end..=source.len()).find(is_between).unwrap_or(source.len()),
    )
}

/// Replaces control characters of a line byte for byte, so that spans stay valid.
fn safe_line(line: &str) -> String {
    let hidden = |c: char| c != '\n' && c != '\t' && steers(c);
    line.chars().map(|c| if hidden(c) { "?".repeat(c.len_utf8()) } else { c.to_string() }).collect()
}
