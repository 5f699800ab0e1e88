//! Colours, and escaping of untrusted text.

use crate::exit::Exit;
use anstyle::{AnsiColor, Style};
use std::io::Write;
use tinmold_platform::text::steers;

/// Headings.
pub const BOLD: Style = Style::new().bold();
/// Secondary text.
pub const FAINT: Style = Style::new().dimmed();
/// Errors.
pub const ERROR: Style = AnsiColor::Red.on_default().bold();
/// Success.
pub const GOOD: Style = AnsiColor::Green.on_default();
/// Warnings.
pub const WARN: Style = AnsiColor::Yellow.on_default();
/// File names and commands.
pub const NAME: Style = AnsiColor::Cyan.on_default();

/// Returns the text with the characters escaped that control a terminal; line breaks become spaces.
pub fn safe(text: &str) -> String {
    if !text.chars().any(steers) {
        return text.to_owned();
    }
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '\n' | '\t' => out.push(' '),
            c if steers(c) => out.extend(c.escape_unicode()),
            c => out.push(c),
        }
    }
    out
}

/// Returns a text without its colours.
pub fn plain(text: &str) -> String {
    anstream::adapter::strip_str(text).to_string()
}

/// Returns a text of several lines with such characters escaped.
pub fn safe_lines(text: &str) -> String {
    text.lines().map(safe).collect::<Vec<_>>().join("\n")
}

/// Returns a number of bytes as people read it.
pub fn size(bytes: u64) -> String {
    match bytes {
        0..1024 => format!("{bytes} B"),
        1024..1_048_576 => format!("{:.1} KiB", bytes as f64 / 1024.0),
        _ => format!("{:.1} MiB", bytes as f64 / 1_048_576.0),
    }
}

/// Quotes a word for a POSIX shell. Line breaks and tabs are kept; a NUL, which no shell takes, is
/// dropped.
pub fn quoted(text: &str) -> String {
    let text = text.replace('\0', "");
    shlex::try_quote(&text).map_or_else(|_| text.clone(), std::borrow::Cow::into_owned)
}

/// Returns a number with its thousands apart.
pub fn grouped(number: usize) -> String {
    let digits = number.to_string();
    let first = digits.len() % 3;
    let mut out = digits[..first].to_owned();
    for three in digits.as_bytes()[first..].chunks(3) {
        if !out.is_empty() {
            out.push(',');
        }
        out.extend(three.iter().map(|digit| char::from(*digit)));
    }
    out
}

/// "1 file", "3 files".
pub fn count(number: usize, what: &str) -> String {
    if number == 1 { format!("1 {what}") } else { format!("{number} {what}s") }
}

/// Writes a result to standard output, in colour where that is a terminal.
pub fn result(text: impl AsRef<str>) {
    let mut out = anstream::stdout().lock();
    finish(out.write_all(text.as_ref().as_bytes()).and_then(|()| out.flush()));
}

/// Writes a JSON value to standard output, on lines for people. What would control a terminal is escaped as JSON
/// has it.
pub fn result_json(value: &serde_json::Value) {
    raw(json_escaped(&format!("{value:#}\n")).as_bytes());
}

/// Writes a document to standard output: a JSON object with the name of its schema, as in
/// `docs/schemas/NAME.json`, under `schema`.
pub fn result_document(schema: &str, mut document: serde_json::Value) {
    document["schema"] = schema.into();
    result_json(&document);
}

/// Returns a JSON value on one line, escaped like [`result_json`].
pub fn json_text(value: &serde_json::Value) -> String {
    json_escaped(&value.to_string())
}

fn json_escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        if c != '\n' && steers(c) {
            c.encode_utf16(&mut [0; 2]).iter().for_each(|unit| out.push_str(&format!("\\u{unit:04x}")));
        } else {
            out.push(c);
        }
    }
    out
}

/// Writes bytes to standard output as they are.
pub fn raw(bytes: &[u8]) {
    let mut out = std::io::stdout().lock();
    finish(out.write_all(bytes).and_then(|()| out.flush()));
}

/// Ends the program if a result cannot be written. A reader that closes the pipe early is not a failure.
fn finish(written: std::io::Result<()>) {
    let Err(error) = written else { return };
    if error.kind() == std::io::ErrorKind::BrokenPipe {
        std::process::exit(Exit::Done as i32);
    }
    say!("{ERROR}error:{ERROR:#} cannot write to standard output: {error}");
    std::process::exit(Exit::Failed as i32);
}
