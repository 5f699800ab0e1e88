//! The patterns of ignore files, as git and container builders read them.

use gix_glob::pattern::{Case, Mode as PatternMode};
use gix_glob::{Pattern, wildmatch};

/// An ignore file of git: gitignore(5).
pub(super) struct GitPatterns {
    /// The directory of the file, relative to the repository; empty for its root.
    directory: String,
    patterns: Vec<Pattern>,
}

impl GitPatterns {
    /// Reads the text of an ignore file in this directory of the repository.
    pub(super) fn new(directory: &str, text: &[u8]) -> Self {
        let parsed = gix_ignore::parse(text, false);
        let patterns = parsed.map(|(pattern, _, _)| pattern).collect();
        Self { directory: directory.to_owned(), patterns }
    }

    /// Returns true if the last pattern that matches the path excludes it, false if that one includes it
    /// again, and `None` if none matches.
    fn decides(&self, path: &str, is_directory: bool) -> Option<bool> {
        let inside = match self.directory.as_str() {
            "" => path,
            directory => path.strip_prefix(directory)?.strip_prefix('/')?,
        };
        let name = inside.rfind('/').map(|slash| slash + 1);
        let mode = wildmatch::Mode::NO_MATCH_SLASH_LITERAL;
        let matching = self.patterns.iter().rev().find(|pattern| {
            pattern.matches_repo_relative_path(inside.into(), name, Some(is_directory), Case::Sensitive, mode)
        });
        matching.map(|pattern| !pattern.mode.contains(PatternMode::NEGATIVE))
    }
}

/// Returns true if git ignores the file at `path`, relative to the repository. `files` are sorted by
/// precedence, the strongest first.
pub(super) fn git_ignores(files: &[GitPatterns], path: &str) -> bool {
    let decided = |path: &str, is_directory| files.iter().find_map(|file| file.decides(path, is_directory));
    // What is in an excluded directory cannot be included again.
    let mut above = path.match_indices('/').map(|(at, _)| &path[..at]);
    above.any(|directory| decided(directory, true) == Some(true)) || decided(path, false) == Some(true)
}

/// Returns true if the ignore file of a container builder leaves out the file at `path`, relative to the
/// build context: the patterns of the `.dockerignore` file in the reference of Docker's build context.
pub(super) fn image_ignores(text: &str, path: &str) -> bool {
    let prefixes: Vec<&str> =
        path.match_indices('/').map(|(at, _)| &path[..at]).chain(std::iter::once(path)).collect();
    let mut ignored = false;
    for line in text.strip_prefix('\u{feff}').unwrap_or(text).lines() {
        let line = if line.starts_with('#') { "" } else { line.trim() };
        let (excludes, pattern) = match line.strip_prefix('!') {
            Some(pattern) => (false, pattern.trim()),
            None => (true, line),
        };
        let pattern = pattern.trim_start_matches("./").trim_matches('/');
        let matches =
            |path: &&str| wildmatch(pattern.into(), (*path).into(), wildmatch::Mode::NO_MATCH_SLASH_LITERAL);
        if !pattern.is_empty() && prefixes.iter().any(matches) {
            ignored = excludes;
        }
    }
    ignored
}
