//! Quoting views: a complete literal of a language, or escaped text where the language has no literals.

use std::fmt::Write;

use crate::view::View;

/// Returns the text as a literal, or escaped, for the language that the view names.
pub(crate) fn quoted(view: View, text: &str) -> String {
    match view {
        View::TextJson => json(text),
        View::TextToml => toml(text),
        View::TextYaml => yaml(text),
        View::Xml => xml(text),
        View::Shell => shell(text),
        View::Batch => batch(text),
        View::Python => python(text),
        View::Rust => rust(text),
        View::Java => java(text),
        View::C => c(text),
        View::Make => make(text),
        View::JavaScript => javascript(text),
        View::Go => go(text),
        View::Env => env(text),
        View::Ini => ini(text),
        View::Container => container(text),
        _ => markdown(text),
    }
}

/// Returns the text in double quotes; `escape` writes every character that it returns true for.
fn in_double_quotes(text: &str, mut escape: impl FnMut(char, &mut String) -> bool) -> String {
    let mut out = String::with_capacity(text.len() + 2);
    out.push('"');
    for character in text.chars() {
        let short = match character {
            '"' => "\\\"",
            '\\' => "\\\\",
            '\n' => "\\n",
            '\r' => "\\r",
            '\t' => "\\t",
            _ => {
                if !escape(character, &mut out) {
                    out.push(character);
                }
                continue;
            }
        };
        out.push_str(short);
    }
    out.push('"');
    out
}

fn four_hex(character: char, out: &mut String) {
    let mut units = [0; 2];
    for unit in character.encode_utf16(&mut units) {
        let _ = write!(out, "\\u{unit:04x}");
    }
}

/// Characters that end a line or steer the direction of text in some languages' sources.
fn is_unseen(character: char) -> bool {
    character.is_control()
        || matches!(character, '\u{2028}' | '\u{2029}' | '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}' | '\u{feff}')
}

/// RFC 8259, section 7.
fn json(text: &str) -> String {
    in_double_quotes(text, |character, out| {
        let escaped = is_unseen(character);
        if escaped {
            four_hex(character, out);
        }
        escaped
    })
}

/// Returns a basic string of TOML 1.0.
fn toml(text: &str) -> String {
    in_double_quotes(text, |character, out| {
        let escaped = is_unseen(character);
        if escaped {
            let _ = write!(out, "\\u{:04X}", character as u32);
        }
        escaped
    })
}

/// Returns a double-quoted scalar of YAML 1.2, section 7.3.1.
fn yaml(text: &str) -> String {
    in_double_quotes(text, |character, out| {
        let escaped = is_unseen(character) || matches!(character, '\u{85}' | '\u{fffe}' | '\u{ffff}');
        if escaped {
            let _ = write!(out, "\\u{:04X}", character as u32);
        }
        escaped
    })
}

/// Character data and attribute values of XML 1.0. Characters that XML cannot hold become U+FFFD.
fn xml(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for character in text.chars() {
        match character {
            '&' => out.push_str("&amp;"),
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '"' => out.push_str("&quot;"),
            '\'' => out.push_str("&#39;"),
            '\r' => out.push_str("&#13;"),
            '\n' | '\t' => out.push(character),
            '\u{fffe}' | '\u{ffff}' => out.push('\u{fffd}'),
            _ if character < ' ' => out.push('\u{fffd}'),
            _ => out.push(character),
        }
    }
    out
}

/// Quotes a word of a POSIX shell, in single quotes (XCU 2.2.2). A NUL, which no argument can hold,
/// is dropped.
fn shell(text: &str) -> String {
    format!("'{}'", text.replace('\0', "").replace('\'', r"'\''"))
}

/// Escapes text for a line of a Windows command file: `%` is doubled and the shell's signs follow a
/// caret. Line breaks and quotes, which cannot be escaped there, become spaces and apostrophes.
fn batch(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for character in text.chars() {
        match character {
            '%' => out.push_str("%%"),
            '^' | '&' | '|' | '<' | '>' | '(' | ')' | '!' => {
                out.push('^');
                out.push(character);
            }
            '"' => out.push('\''),
            _ if character.is_control() => out.push(' '),
            _ => out.push(character),
        }
    }
    out
}

/// Returns a string literal of Python 3.
fn python(text: &str) -> String {
    in_double_quotes(text, |character, out| {
        let escaped = is_unseen(character);
        if escaped {
            let _ = match character as u32 {
                code @ 0..=0xff => write!(out, "\\x{code:02x}"),
                code => write!(out, "\\u{code:04x}"),
            };
        }
        escaped
    })
}

/// Returns a string literal of Rust.
fn rust(text: &str) -> String {
    in_double_quotes(text, |character, out| {
        let escaped = is_unseen(character);
        if escaped {
            let _ = write!(out, "\\u{{{:x}}}", character as u32);
        }
        escaped
    })
}

/// Writes a string literal of Java (JLS 3.10.5). Control characters are octal escapes: a `\u000a`
/// would break the line.
fn java(text: &str) -> String {
    in_double_quotes(text, |character, out| {
        let escaped = is_unseen(character);
        if escaped {
            match character as u32 {
                code @ 0..=0xff => drop(write!(out, "\\{code:03o}")),
                _ => four_hex(character, out),
            }
        }
        escaped
    })
}

/// Writes a string literal of C (C17 6.4.5). Octal escapes end after three digits whatever follows;
/// `??` is no trigraph.
fn c(text: &str) -> String {
    let mut question = false;
    in_double_quotes(text, |character, out| {
        let second_question = character == '?' && question;
        question = character == '?';
        if second_question {
            out.push_str("\\?");
        } else if is_unseen(character) {
            let mut bytes = [0; 4];
            for byte in character.encode_utf8(&mut bytes).bytes() {
                let _ = write!(out, "\\{byte:03o}");
            }
        } else {
            return false;
        }
        true
    })
}

/// Escapes text of a makefile: `$` is doubled, `#` and `\` before it escaped. A line break, which
/// cannot be escaped there, becomes a space.
fn make(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for character in text.chars() {
        match character {
            '$' => out.push_str("$$"),
            '#' => out.push_str("\\#"),
            _ if character.is_control() => out.push(' '),
            _ => out.push(character),
        }
    }
    if out.ends_with('\\') {
        out.push(' ');
    }
    out
}

/// Returns a string literal of ECMAScript (ECMA-262, 12.9.4), which is also safe in a `script` element of HTML.
fn javascript(text: &str) -> String {
    in_double_quotes(text, |character, out| {
        let escaped = is_unseen(character) || character == '<';
        if escaped {
            four_hex(character, out);
        }
        escaped
    })
}

/// Returns an interpreted string literal of Go.
fn go(text: &str) -> String {
    in_double_quotes(text, |character, out| {
        let escaped = is_unseen(character);
        if escaped {
            let _ = write!(out, "\\u{:04x}", character as u32);
        }
        escaped
    })
}

/// Returns the value of a variable in a file of environment variables. Single quotes keep all signs where they
/// can; else it is in double quotes. A NUL, which no variable can hold, is dropped.
fn env(text: &str) -> String {
    let text = text.replace('\0', "");
    if !text.contains(['\'', '\n', '\r']) {
        return format!("'{text}'");
    }
    in_double_quotes(&text, |character, out| {
        let escaped = matches!(character, '$' | '`');
        if escaped {
            out.push('\\');
            out.push(character);
        }
        escaped
    })
}

/// Returns the value of a key of an INI file: one line, in double quotes where a sign of it has a meaning there.
fn ini(text: &str) -> String {
    let line: String = text.chars().map(|c| if c.is_control() { ' ' } else { c }).collect();
    let is_plain = line.trim() == line && !line.contains(['"', '\\', ';', '#', '\'']);
    if is_plain { line } else { in_double_quotes(&line, |_, _| false) }
}

/// Returns a quoted word of an instruction in a container file. A line break becomes a space.
fn container(text: &str) -> String {
    let line: String = text.chars().map(|c| if c.is_control() { ' ' } else { c }).collect();
    in_double_quotes(&line, |character, out| {
        let escaped = character == '$';
        if escaped {
            out.push_str("\\$");
        }
        escaped
    })
}

/// Escapes text of CommonMark: every sign with a meaning follows a backslash, line breaks become
/// spaces.
fn markdown(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for (at, character) in text.char_indices() {
        match character {
            '\\' | '`' | '*' | '_' | '[' | ']' | '<' | '>' | '&' | '|' | '~' => {
                out.push('\\');
                out.push(character);
            }
            '#' | '+' | '-' | '=' if at == 0 => {
                out.push('\\');
                out.push(character);
            }
            '.' | ')' if at > 0 && text[..at].bytes().all(|b| b.is_ascii_digit()) => {
                out.push('\\');
                out.push(character);
            }
            _ if character.is_control() => out.push(' '),
            _ => out.push(character),
        }
    }
    out
}
