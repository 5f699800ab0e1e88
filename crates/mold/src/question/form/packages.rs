//! Names that package registries and module systems accept.

use super::general::{at_most, dotted_words, no_device, not_empty, shown};
use super::network::reverse_domain;
use super::words;
use super::{Form, FormError};
use heck::ToKebabCase;
use unicode_normalization::UnicodeNormalization;

pub(super) fn rust_crate(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    if !text.starts_with(|c: char| c.is_ascii_alphabetic()) {
        return Err(FormError::Rule("it does not begin with a letter (ASCII)"));
    }
    if let Some(c) = text.chars().find(|c| !c.is_ascii_alphanumeric() && !matches!(c, '-' | '_')) {
        return Err(FormError::BadCharacter { c, allowed: "letters (ASCII), digits, `-` and `_`" });
    }
    if words::RUST.contains(&text) {
        return Err(FormError::Keyword { word: text.to_owned(), language: "Rust" });
    }
    if words::RUST_TAKEN.contains(&text) {
        return Err(FormError::Taken { word: text.to_owned(), by: "Rust's own crates or Cargo's folders" });
    }
    at_most(text, 64)?;
    no_device(text)
}

pub(super) fn python_module(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    let first = text.chars().next().unwrap_or(' ');
    if first.is_ascii_digit() {
        return Err(FormError::Rule("it begins with a digit"));
    }
    if !(unicode_ident::is_xid_start(first) || first == '_') {
        return Err(FormError::Detail(format!(
            "it begins with {}, and a letter must come first",
            shown(first)
        )));
    }
    if let Some(c) = text.chars().find(|c| !unicode_ident::is_xid_continue(*c)) {
        return Err(FormError::BadCharacter { c, allowed: "letters, digits and underscores" });
    }
    if text.nfkc().ne(text.chars()) {
        return Err(FormError::Rule(
            "Python reads it as another name (it is not in Unicode's normal form NFKC)",
        ));
    }
    if text.chars().any(char::is_uppercase) {
        return Err(FormError::Rule("it has a capital; modules are written in lower case (PEP 8)"));
    }
    if words::PYTHON.contains(&text) {
        return Err(FormError::Keyword { word: text.to_owned(), language: "Python" });
    }
    if words::PYTHON_STANDARD.contains(&text) {
        return Err(FormError::Detail(format!(
            "`{text}` is a module of Python's standard library, which it would hide"
        )));
    }
    at_most(text, 64)?;
    no_device(text)
}

pub(super) fn python_package(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    if let Some(c) = text.chars().find(|c| !c.is_ascii_alphanumeric() && !matches!(c, '-' | '_' | '.')) {
        return Err(FormError::BadCharacter { c, allowed: "letters (ASCII), digits, `.`, `-` and `_`" });
    }
    let ends = |c: char| c.is_ascii_alphanumeric();
    if !text.starts_with(ends) || !text.ends_with(ends) {
        return Err(FormError::Rule("it does not begin and end with a letter or digit"));
    }
    at_most(text, 100)?;
    no_device(text)
}

pub(super) fn npm_package(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    if text.chars().count() > 214 {
        return Err(FormError::Rule("it has more than 214 characters, its scope included"));
    }
    let name = match text.strip_prefix('@') {
        Some(scoped) => {
            let Some((scope, name)) = scoped.split_once('/') else {
                return Err(FormError::Rule("a scope is followed by `/` and a name: `@saltmarsh/tides`"));
            };
            npm_part(scope)?;
            name
        }
        None => text,
    };
    npm_part(name)?;
    if matches!(name, "node_modules" | "favicon.ico") {
        return Err(FormError::Detail(format!("`{name}` is not a name for a package")));
    }
    if name == text && words::NODE.contains(&name) {
        return Err(FormError::Taken { word: name.to_owned(), by: "a module of Node.js" });
    }
    no_device(name)
}

fn npm_part(part: &str) -> Result<(), FormError> {
    not_empty(part)?;
    if part.starts_with(['.', '_', '-']) {
        return Err(FormError::Detail(format!("`{part}` begins with `{}`", &part[..1])));
    }
    match part.chars().find(|c| !(c.is_ascii_lowercase() || c.is_ascii_digit() || "-_.".contains(*c))) {
        Some(c) if c.is_ascii_uppercase() => Err(FormError::Rule("it has a capital")),
        Some(c) => Err(FormError::BadCharacter {
            c,
            allowed: "lower-case letters (ASCII), digits, `-`, `_` and `.`",
        }),
        None => Ok(()),
    }
}

pub(super) fn npm_scoped(text: &str) -> String {
    match text.strip_prefix('@').and_then(|scoped| scoped.split_once('/')) {
        Some((scope, name)) => format!("@{}/{}", scope.to_kebab_case(), name.to_kebab_case()),
        None => text.to_kebab_case(),
    }
}

pub(super) fn java_package(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    for part in text.split('.') {
        let Some(first) = part.chars().next() else {
            return Err(FormError::Rule("two dots follow each other, or one is at an end"));
        };
        if first.is_ascii_digit() {
            return Err(FormError::Part { part: part.to_owned(), problem: "begins with a digit" });
        }
        if !(unicode_ident::is_xid_start(first) || first == '_') {
            return Err(FormError::Detail(format!(
                "its part `{part}` begins with {}, and a letter must come first",
                shown(first)
            )));
        }
        if let Some(c) = part.chars().find(|c| !unicode_ident::is_xid_continue(*c)) {
            return Err(FormError::Detail(format!(
                "it holds {}; only letters, digits and underscores are allowed between dots",
                shown(c)
            )));
        }
        if part.chars().any(char::is_uppercase) {
            return Err(FormError::Part {
                part: part.to_owned(),
                problem: "has a capital; packages are written in lower case",
            });
        }
        if words::JAVA.contains(&part) {
            return Err(FormError::Keyword { word: part.to_owned(), language: "Java" });
        }
        no_device(part)?;
    }
    if text == "java" || text.starts_with("java.") {
        return Err(FormError::Rule("packages under `java` belong to the platform"));
    }
    at_most(text, 200)
}

pub(super) fn java_package_candidates(text: &str) -> Vec<String> {
    let bent = |joint: &str| {
        let words = dotted_words(&text.to_lowercase(), &['_', '-']);
        let parts = words.split('.').map(|part| {
            let part = part.replace('-', joint);
            let digit = part.starts_with(|c: char| c.is_ascii_digit());
            // The Java Language Specification's own advice for such names (6.1) is the underscore.
            if digit {
                format!("_{part}")
            } else if words::JAVA.contains(&part.as_str()) {
                format!("{part}_")
            } else {
                part
            }
        });
        parts.collect::<Vec<_>>().join(".")
    };
    vec![bent("_"), bent(""), format!("app.{}", bent(""))]
}

pub(super) fn java_artifact(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    if !text.starts_with(|c: char| c.is_ascii_lowercase()) {
        return Err(FormError::Rule("it does not begin with a lower-case letter (ASCII)"));
    }
    if let Some(c) =
        text.chars().find(|c| !(c.is_ascii_lowercase() || c.is_ascii_digit() || "-.".contains(*c)))
    {
        return Err(FormError::BadCharacter {
            c,
            allowed: "lower-case letters (ASCII), digits, `-` and `.`",
        });
    }
    if text.ends_with(['-', '.']) || text.contains("..") {
        return Err(FormError::Rule("a hyphen or dot is allowed between two words only"));
    }
    at_most(text, 100)?;
    no_device(text)
}

pub(super) fn java_coordinates(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    let Some((owner, name)) = text.split_once(':') else {
        return Err(FormError::Rule("it has no colon between the owner, a domain backwards, and the name"));
    };
    if name.contains(':') {
        return Err(FormError::Rule("it has more than an owner and a name; the version is asked by itself"));
    }
    let part = |what: &str, part: &str, error: FormError| {
        FormError::Detail(format!("its {what} `{part}` is not right: {error}"))
    };
    reverse_domain(owner).map_err(|error| part("owner", owner, error))?;
    java_artifact(name).map_err(|error| part("name", name, error))
}

pub(super) fn java_coordinates_candidates(text: &str) -> Vec<String> {
    // Between owner and name stands a sign, a space, or the dot before the last word or the first capital.
    let first_word = text.find([' ', '/']);
    let capital = text.find(|c: char| c.is_uppercase()).filter(|at| text[..*at].ends_with('.'));
    let (owner, name) = match (text.split_once(':'), first_word, capital) {
        (Some((owner, rest)), ..) => (owner, rest.split(':').next().unwrap_or(rest)),
        (None, _, Some(at)) if text[..at].matches('.').count() > 1 => (&text[..at - 1], &text[at..]),
        (None, Some(at), _) if text[..at].contains('.') => (&text[..at], &text[at + 1..]),
        (None, None, _) if text.contains('.') => text.rsplit_once('.').unwrap_or((text, "")),
        _ => ("org.example", text),
    };
    let bent = |form: Form, part: &str| match part {
        part if form.judge(part).is_ok() => Some(part.to_owned()),
        part => form.bend(part),
    };
    match (bent(Form::ReverseDomain, owner), bent(Form::JavaArtifact, name)) {
        (Some(owner), Some(name)) => vec![format!("{owner}:{name}")],
        (None, Some(name)) => vec![format!("org.example:{name}")],
        _ => Vec::new(),
    }
}

pub(super) fn go_module(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    for (at, element) in text.split('/').enumerate() {
        if element.is_empty() {
            return Err(FormError::Rule("two slashes follow each other, or one is at an end"));
        }
        if element.starts_with('.') || element.ends_with('.') {
            return Err(FormError::Part { part: element.to_owned(), problem: "begins or ends with a dot" });
        }
        if let Some(c) = element.chars().find(|c| !c.is_ascii_alphanumeric() && !"-._~".contains(*c)) {
            return Err(FormError::BadCharacter { c, allowed: "letters (ASCII), digits and `-._~`" });
        }
        if at == 0 && element.starts_with('-') {
            return Err(FormError::Rule("it begins with a hyphen"));
        }
        if at == 0 && element.contains('.') && element.chars().any(|c| c.is_ascii_uppercase()) {
            return Err(FormError::Rule("its domain has a capital"));
        }
        let before_dot = element.split('.').next().unwrap_or(element);
        no_device(before_dot)?;
        let short_name = before_dot
            .rsplit_once('~')
            .is_some_and(|(_, digits)| !digits.is_empty() && digits.bytes().all(|b| b.is_ascii_digit()));
        if short_name {
            return Err(FormError::Part {
                part: element.to_owned(),
                problem: "looks like a short name of Windows",
            });
        }
    }
    let last = text.rsplit('/').next().unwrap_or(text);
    let major = last.strip_prefix('v').filter(|n| !n.is_empty() && n.bytes().all(|b| b.is_ascii_digit()));
    if text.contains('/') && major.is_some_and(|major| major == "1" || major.starts_with('0')) {
        return Err(FormError::Detail(format!(
            "`{last}` is not a major version: they are written from `v2` on"
        )));
    }
    if matches!(text, "std" | "cmd" | "all" | "main") {
        return Err(FormError::Detail(format!("`{text}` means something to the go command itself")));
    }
    at_most(text, 200)
}

pub(super) fn go_module_candidates(text: &str, kebab: &str) -> Vec<String> {
    let cleaned = text.trim_start_matches("https://").trim_start_matches("http://").trim_matches('/');
    let parts = cleaned.split('/').map(|part| {
        let kept: String = part
            .chars()
            .map(|c| if c == ' ' { '-' } else { c })
            .filter(|c| c.is_ascii_alphanumeric() || "-._~".contains(*c))
            .collect();
        kept.trim_matches(['.', '-']).to_owned()
    });
    let joined = parts.filter(|part| !part.is_empty()).collect::<Vec<_>>().join("/");
    let without_version = joined.trim_end_matches("/v1").trim_end_matches("/v0").to_owned();
    let mut all = vec![joined.clone(), without_version, joined.to_lowercase()];
    if !text.contains('/') {
        all.push(format!("{kebab}.example/{kebab}"));
    }
    all
}
