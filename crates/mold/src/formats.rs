//! File formats: outputs that have a parser must be well-formed: JSON, TOML, YAML, XML.

use tinmold_notation::Syntax;

/// The format of a file, as far as it is parsed before it is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Holds {
    /// JSON by RFC 8259.
    Json,
    /// JSON with comments and a comma after the last element.
    Jsonc,
    /// TOML 1.0.
    Toml,
    /// YAML 1.2, any number of documents.
    Yaml,
    /// XML 1.0.
    Xml,
    /// Any text; it is not parsed.
    Text,
}

/// Copied files larger than this are not parsed: they are never in memory whole.
pub const LARGEST_PARSED: u64 = 16 << 20;

impl Holds {
    /// The words of `mold.toml` for the formats.
    pub const WORDS: &[(&str, Self)] = &[
        ("json", Self::Json),
        ("jsonc", Self::Jsonc),
        ("toml", Self::Toml),
        ("yaml", Self::Yaml),
        ("xml", Self::Xml),
        ("text", Self::Text),
    ];

    /// Returns the format for the path of an output.
    #[must_use]
    pub fn of_path(path: &str) -> Self {
        let (folder, name) = path.rsplit_once('/').unwrap_or(("", path));
        match Syntax::of_path(path) {
            Syntax::Json if takes_comments(folder, name) => Self::Jsonc,
            Syntax::Json => Self::Json,
            Syntax::Toml => Self::Toml,
            Syntax::Yaml => Self::Yaml,
            Syntax::Xml => Self::Xml,
            _ => Self::Text,
        }
    }

    /// Returns the notation's syntax for it.
    pub fn syntax(self) -> Syntax {
        match self {
            Self::Json | Self::Jsonc => Syntax::Json,
            Self::Toml => Syntax::Toml,
            Self::Yaml => Syntax::Yaml,
            Self::Xml => Syntax::Xml,
            Self::Text => Syntax::Plain,
        }
    }

    fn name(self) -> &'static str {
        match self {
            Self::Json => "JSON",
            Self::Jsonc => "JSON with comments",
            Self::Toml => "TOML",
            Self::Yaml => "YAML",
            Self::Xml => "XML",
            Self::Text => "text",
        }
    }
}

/// Returns the settings of editors and compilers that are read with comments.
fn takes_comments(folder: &str, name: &str) -> bool {
    let settings = |prefix: &str| {
        name.strip_prefix(prefix).is_some_and(|rest| rest == ".json" || rest.starts_with(['.', '-']))
    };
    name.ends_with(".jsonc")
        || name.ends_with(".code-workspace")
        || settings("tsconfig")
        || settings("jsconfig")
        || matches!(name, "devcontainer.json" | "api-extractor.json" | "language-configuration.json")
        || matches!(folder.rsplit('/').next(), Some(".vscode" | ".zed" | ".devcontainer"))
}

/// A text that is not of its format.
#[derive(Debug, PartialEq, Eq)]
pub struct Malformed {
    /// The byte of the text where that shows.
    pub at: usize,
    /// The mistake, as a clause.
    pub reason: String,
    /// The format.
    pub format: &'static str,
}

/// Parses `bytes` as what they should hold.
pub fn check(holds: Holds, bytes: &[u8]) -> Result<(), Malformed> {
    if holds == Holds::Text {
        return Ok(());
    }
    let malformed = |at: usize, reason: String| Malformed { at, reason, format: holds.name() };
    let text = match std::str::from_utf8(bytes) {
        Ok(text) => text,
        // XML may declare another encoding; such files are not supported.
        Err(_) if holds == Holds::Xml => return Ok(()),
        Err(error) => return Err(malformed(error.valid_up_to(), "this is not UTF-8".into())),
    };
    let body = text.strip_prefix('\u{feff}').unwrap_or(text);
    let skipped = text.len() - body.len();
    let found = match holds {
        Holds::Json => json(body),
        Holds::Jsonc => jsonc(body),
        Holds::Toml => toml(body),
        Holds::Yaml => yaml(body),
        Holds::Xml => xml(body),
        Holds::Text => Ok(()),
    };
    found.map_err(|(at, reason)| {
        let at = if matches!(holds, Holds::Json | Holds::Jsonc) { left_out(body, at) } else { at };
        malformed((at + skipped).min(bytes.len()), reason)
    })
}

/// Returns where a comma was left out, or stands for nothing, if a JSON parser stopped at `at` because of it: on the
/// line before.
fn left_out(text: &str, at: usize) -> usize {
    let before = text.get(..at).map_or("", str::trim_end);
    let last = before.len().saturating_sub(1);
    match (before.as_bytes().last(), text.as_bytes().get(at)) {
        (Some(b','), Some(b'}' | b']')) => last,
        (Some(b',' | b'{' | b'[' | b':') | None, _) => at,
        _ if text[before.len()..at].contains('\n') => last,
        _ => at,
    }
}

type Found = Result<(), (usize, String)>;

fn json(text: &str) -> Found {
    serde_json::from_str::<serde::de::IgnoredAny>(text)
        .map(drop)
        .map_err(|error| (at_line(text, error.line(), error.column().saturating_sub(1)), json_reason(&error)))
}

/// Returns the message of a JSON parser without the position at its end.
#[must_use]
pub fn json_reason(error: &serde_json::Error) -> String {
    let place = format!(" at line {} column {}", error.line(), error.column());
    let message = error.to_string();
    message.strip_suffix(&place).unwrap_or(&message).to_owned()
}

/// Returns the byte at a line from 1 and a byte from 0 within it.
fn at_line(text: &str, line: usize, column: usize) -> usize {
    let start: usize = text.split_inclusive('\n').take(line.saturating_sub(1)).map(str::len).sum();
    (start + column).min(text.len())
}

fn jsonc(text: &str) -> Found {
    let options = jsonc_parser::ParseOptions {
        allow_comments: true,
        allow_trailing_commas: true,
        allow_loose_object_property_names: false,
        allow_missing_commas: false,
        allow_single_quoted_strings: false,
        allow_hexadecimal_numbers: false,
        allow_unary_plus_numbers: false,
        allow_bare_decimal_point_numbers: false,
        allow_non_finite_numbers: false,
        allow_extended_string_escapes: false,
    };
    match jsonc_parser::parse_to_ast(text, &jsonc_parser::CollectOptions::default(), &options) {
        Ok(parsed) if parsed.value.is_none() => Err((text.len(), "there is no value".into())),
        Ok(_) => Ok(()),
        Err(error) => Err((error.range().start, error.kind().to_string())),
    }
}

fn toml(text: &str) -> Found {
    ::toml::de::DeTable::parse(text).map(drop).map_err(|error| {
        let reason = error.message().lines().collect::<Vec<_>>().join("; ");
        (error.span().map_or(0, |span| span.start), reason)
    })
}

fn yaml(text: &str) -> Found {
    for event in granit_parser::Parser::new_from_str(text) {
        if let Err(error) = event {
            let at = text.char_indices().nth(error.marker().index()).map_or(text.len(), |(at, _)| at);
            return Err((at, error.info()));
        }
    }
    Ok(())
}

fn xml(text: &str) -> Found {
    let options = roxmltree::ParsingOptions { allow_dtd: true, ..roxmltree::ParsingOptions::default() };
    roxmltree::Document::parse_with_options(text, options).map(drop).map_err(|error| {
        let place = error.pos();
        let line = text.split_inclusive('\n').nth((place.row as usize).saturating_sub(1)).unwrap_or("");
        let column = line.char_indices().nth((place.col as usize).saturating_sub(1));
        let column = column.map_or(line.len(), |(at, _)| at);
        let message = error.to_string();
        let reason = message.strip_suffix(&format!(" at {place}")).unwrap_or(&message);
        (at_line(text, place.row as usize, column), reason.to_owned())
    })
}
