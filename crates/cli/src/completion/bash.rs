//! bash, which breaks words at `=`, `:` and `@`: they are joined here, and what is typed before the last
//! of these is taken off the candidates.

use super::values::is_word;
use super::words::{is_break, unbroken};
use clap_complete::engine::complete;
use clap_complete::env::EnvCompleter;
use std::ffi::OsString;
use std::io::{Error, Write};
use std::path::Path;

/// The adapter for bash.
#[derive(Clone, Copy, Debug)]
pub struct Bash;

/// Tells which word the cursor is in.
const INDEX: &str = "TINMOLD_COMPLETE_INDEX";

impl EnvCompleter for Bash {
    fn name(&self) -> &'static str {
        "bash"
    }

    fn is(&self, name: &str) -> bool {
        name == "bash"
    }

    fn write_registration(
        &self,
        var: &str,
        name: &str,
        bin: &str,
        completer: &str,
        out: &mut dyn Write,
    ) -> Result<(), Error> {
        write!(
            out,
            r#"_{name}_complete() {{
    local IFS=$'\n'
    COMPREPLY=( $({var}=bash {INDEX}="$COMP_CWORD" "{completer}" -- "${{COMP_WORDS[@]}}" 2>/dev/null) )
    if [[ "${{COMPREPLY-}}" =~ [=/:@]$ ]] && type compopt >/dev/null 2>&1; then
        compopt -o nospace
    fi
}}
complete -o nosort -o bashdefault -o default -F _{name}_complete {bin} 2>/dev/null ||
    complete -o bashdefault -o default -F _{name}_complete {bin}
"#
        )
    }

    fn write_complete(
        &self,
        command: &mut clap::Command,
        words: Vec<OsString>,
        current_dir: Option<&Path>,
        out: &mut dyn Write,
    ) -> Result<(), Error> {
        let index = std::env::var(INDEX).ok().and_then(|index| index.parse().ok()).unwrap_or(words.len());
        let words: Vec<String> = words.iter().map(|word| word.to_string_lossy().into_owned()).collect();
        let Joined { words, index, before } = joined(&words, index);
        let words = words.into_iter().map(OsString::from).collect();
        for candidate in complete(command, words, index, current_dir)? {
            let value = candidate.get_value().to_string_lossy().into_owned();
            // bash puts it on the line as it is. Paths with other characters are completed by bash itself, which quotes.
            if let Some(rest) = value.strip_prefix(&before).filter(|rest| is_word(rest)) {
                writeln!(out, "{rest}")?;
            }
        }
        Ok(())
    }
}

/// The words as they were typed.
#[derive(Debug, PartialEq)]
struct Joined {
    words: Vec<String>,
    /// The word with the cursor.
    index: usize,
    /// What is typed of that word before the piece that bash replaces.
    before: String,
}

/// Joins the pieces of words that bash broke apart; the cursor is in the piece at `index`.
fn joined(pieces: &[String], index: usize) -> Joined {
    let mut words = unbroken(&pieces[..pieces.len().min(index + 1)]);
    let piece = pieces.get(index).map_or("", String::as_str);
    if index >= pieces.len() {
        words.push(String::new());
    }
    // bash replaces nothing of a piece that only breaks.
    let replaced = if is_break(piece) { "" } else { piece };
    let before = words.last().and_then(|word| word.strip_suffix(replaced)).unwrap_or_default().to_owned();
    Joined { index: words.len().saturating_sub(1), words, before }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_that_bash_broke_apart_are_joined() {
        for (pieces, index, words, before) in [
            (vec!["t", "cast", "py"], 2, vec!["t", "cast", "py"], ""),
            (vec!["t", "--set", "web", "=", "fl"], 4, vec!["t", "--set", "web=fl"], "web="),
            (vec!["t", "--set", "web", "="], 3, vec!["t", "--set", "web="], "web="),
            (vec!["t", "tides", "@", "1.2"], 3, vec!["t", "tides@1.2"], "tides@"),
            (vec!["t", "a", "=", "b", "ca"], 4, vec!["t", "a=b", "ca"], ""),
            (vec!["t", "cast", ""], 2, vec!["t", "cast", ""], ""),
            (vec!["t", "cast"], 2, vec!["t", "cast", ""], ""),
        ] {
            let pieces: Vec<String> = pieces.into_iter().map(str::to_owned).collect();
            let found = joined(&pieces, index);
            assert_eq!(
                (found.words.clone(), found.before.as_str()),
                (words.iter().map(|w| (*w).to_owned()).collect(), before)
            );
            assert_eq!(found.index, words.len() - 1);
        }
    }
}
