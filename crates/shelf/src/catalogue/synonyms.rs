//! Other words for kinds, languages and purposes.

/// Words that people type, and the words that molds use.
const SYNONYMS: &[(&[&str], &[&str])] = &[
    (&["js", "ecmascript"], &["javascript"]),
    (&["ts"], &["typescript"]),
    (&["py", "python3"], &["python"]),
    (&["golang"], &["go"]),
    (&["rs", "rustlang"], &["rust"]),
    (&["nodejs", "node.js"], &["node"]),
    (&["jvm", "jdk"], &["java"]),
    (&["rest", "restful", "endpoint", "endpoints"], &["api"]),
    (&["server", "backend", "microservice", "daemon"], &["service"]),
    (&["frontend", "front-end", "spa", "ui", "gui"], &["web-app", "web"]),
    (&["web", "website", "webapp"], &["site", "http"]),
    (&["cli", "console", "terminal", "shell", "commandline"], &["command-line"]),
    (&["program", "executable", "binary", "utility"], &["cli"]),
    (&["lib", "package", "module", "sdk", "crate"], &["library"]),
    (&["doc", "documentation", "manual", "wiki"], &["docs"]),
    (&["db", "sql"], &["database"]),
    (&["postgres", "pg", "psql"], &["postgresql"]),
    (&["template", "templates", "skeleton"], &["mold"]),
];

/// Returns other words for a word in lower case.
pub(super) fn synonyms(word: &str) -> &'static [&'static str] {
    SYNONYMS.iter().find(|(words, _)| words.contains(&word)).map_or(&[], |(_, meant)| meant)
}

/// A synonym of so few letters counts as typed only where it is a whole word: `js` is not `json`.
pub(super) const SHORT: usize = 2;
