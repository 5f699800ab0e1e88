//! The grammars, each set up when it is first used.

use crate::language::Language;
use crate::word::{Word, WordKind};
use std::collections::HashMap;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use tree_sitter_highlight::{HighlightConfiguration, HighlightEvent, Highlighter};

/// The captures of the queries that have a colour, the first part of their names, and what they are.
const KINDS: &[(&str, WordKind)] = &[
    ("comment", WordKind::Comment),
    ("string", WordKind::Text),
    ("escape", WordKind::Text),
    ("number", WordKind::Constant),
    ("boolean", WordKind::Constant),
    ("constant", WordKind::Constant),
    ("keyword", WordKind::Keyword),
    ("include", WordKind::Keyword),
    ("repeat", WordKind::Keyword),
    ("conditional", WordKind::Keyword),
    ("function", WordKind::Name),
    ("type", WordKind::Name),
    ("tag", WordKind::Name),
    ("property", WordKind::Name),
    ("attribute", WordKind::Name),
];

/// The number of events between two looks at whether it was cancelled.
const LOOK_EVERY: usize = 256;

/// As [`crate::words`].
pub(crate) fn words(language: Language, text: &str, cancelled: &AtomicUsize) -> Vec<Word> {
    let Some(grammar) = grammar(language) else { return Vec::new() };
    let mut highlighter = Highlighter::new();
    let Ok(events) = highlighter.highlight(&grammar, text.as_bytes(), Some(cancelled), |_| None) else {
        return Vec::new();
    };
    let (mut words, mut open): (Vec<Word>, Vec<WordKind>) = (Vec::new(), Vec::new());
    for (number, event) in events.enumerate() {
        if number.is_multiple_of(LOOK_EVERY) && cancelled.load(Ordering::Relaxed) != 0 {
            return Vec::new();
        }
        match event {
            Ok(HighlightEvent::HighlightStart(kind)) => {
                open.extend(KINDS.get(kind.0).map(|(_, kind)| *kind));
            }
            Ok(HighlightEvent::HighlightEnd) => drop(open.pop()),
            Ok(HighlightEvent::Source { start, end }) => {
                if let Some(kind) = open.last().filter(|_| start < end) {
                    words.push(Word { bytes: start..end, kind: *kind });
                }
            }
            Err(_) => return Vec::new(),
        }
    }
    words
}

/// Returns a grammar; `None` if its query does not go with it.
fn grammar(language: Language) -> Option<Arc<HighlightConfiguration>> {
    static KNOWN: Mutex<Option<HashMap<Language, Option<Arc<HighlightConfiguration>>>>> = Mutex::new(None);
    let mut known = KNOWN.lock().unwrap_or_else(PoisonError::into_inner);
    let known = known.get_or_insert_default();
    known.entry(language).or_insert_with(|| new(language).map(Arc::new)).clone()
}

/// Returns a grammar without its colours.
pub(crate) fn grammar_of(language: Language) -> tree_sitter::Language {
    match language {
        Language::C => tree_sitter_c::LANGUAGE.into(),
        Language::Css => tree_sitter_css::LANGUAGE.into(),
        Language::Go => tree_sitter_go::LANGUAGE.into(),
        Language::Html => tree_sitter_html::LANGUAGE.into(),
        Language::Java => tree_sitter_java::LANGUAGE.into(),
        Language::JavaScript => tree_sitter_javascript::LANGUAGE.into(),
        Language::Json => tree_sitter_json::LANGUAGE.into(),
        Language::Python => tree_sitter_python::LANGUAGE.into(),
        Language::Rust => tree_sitter_rust::LANGUAGE.into(),
        Language::Shell => tree_sitter_bash::LANGUAGE.into(),
        Language::Toml => tree_sitter_toml_ng::LANGUAGE.into(),
        Language::TypeScript => tree_sitter_typescript::LANGUAGE_TYPESCRIPT.into(),
        Language::TypeScriptElements => tree_sitter_typescript::LANGUAGE_TSX.into(),
        Language::Yaml => tree_sitter_yaml::LANGUAGE.into(),
    }
}

fn new(language: Language) -> Option<HighlightConfiguration> {
    let javascript = tree_sitter_javascript::HIGHLIGHT_QUERY;
    let (name, query) = match language {
        Language::C => ("c", tree_sitter_c::HIGHLIGHT_QUERY.to_owned()),
        Language::Css => ("css", tree_sitter_css::HIGHLIGHTS_QUERY.to_owned()),
        Language::Go => ("go", tree_sitter_go::HIGHLIGHTS_QUERY.to_owned()),
        Language::Html => ("html", tree_sitter_html::HIGHLIGHTS_QUERY.to_owned()),
        Language::Java => ("java", tree_sitter_java::HIGHLIGHTS_QUERY.to_owned()),
        Language::JavaScript => {
            ("javascript", format!("{javascript}\n{}", tree_sitter_javascript::JSX_HIGHLIGHT_QUERY))
        }
        Language::Json => ("json", tree_sitter_json::HIGHLIGHTS_QUERY.to_owned()),
        Language::Python => ("python", tree_sitter_python::HIGHLIGHTS_QUERY.to_owned()),
        Language::Rust => ("rust", tree_sitter_rust::HIGHLIGHTS_QUERY.to_owned()),
        Language::Shell => ("bash", tree_sitter_bash::HIGHLIGHT_QUERY.to_owned()),
        Language::Toml => ("toml", tree_sitter_toml_ng::HIGHLIGHTS_QUERY.to_owned()),
        Language::TypeScript | Language::TypeScriptElements => {
            ("typescript", format!("{}\n{javascript}", tree_sitter_typescript::HIGHLIGHTS_QUERY))
        }
        Language::Yaml => ("yaml", tree_sitter_yaml::HIGHLIGHTS_QUERY.to_owned()),
    };
    let mut grammar = HighlightConfiguration::new(grammar_of(language), name, &query, "", "").ok()?;
    grammar.configure(&KINDS.iter().map(|(name, _)| *name).collect::<Vec<_>>());
    Some(grammar)
}
