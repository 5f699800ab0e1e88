//! What the line that is completed says already.

use crate::args::Args;
use clap::{ArgAction, Command, CommandFactory};

/// The words of the line, sorted.
#[derive(Debug, Default, PartialEq)]
pub struct TypedLine {
    /// The command, as in `cast` or `shelf drop`.
    pub command: String,
    /// The words that belong to no option.
    pub positional: Vec<String>,
    /// The options with their values.
    pub options: Vec<(String, String)>,
}

impl TypedLine {
    /// Reads the line that the shell passed on.
    pub fn read() -> Self {
        let words = std::env::args_os().map(|word| word.to_string_lossy().into_owned());
        // The program, `--`, and the program as it was typed.
        let words: Vec<String> = words.skip_while(|word| word != "--").skip(2).collect();
        let mut command = Args::command();
        command.build();
        Self::of(&unbroken(&words), &command)
    }

    fn of(words: &[String], program: &Command) -> Self {
        let mut line = Self::default();
        let mut command = program;
        let mut words = words.iter();
        while let Some(word) = words.next() {
            if let Some(option) = word.strip_prefix("--") {
                let (name, value) = match option.split_once('=') {
                    Some((name, value)) => (name, Some(value.to_owned())),
                    None => (option, None),
                };
                let takes_value = command.get_arguments().any(|arg| {
                    arg.get_long() == Some(name)
                        && matches!(arg.get_action(), ArgAction::Set | ArgAction::Append)
                });
                let value = value.or_else(|| takes_value.then(|| words.next().cloned()).flatten());
                line.options.push((name.to_owned(), value.unwrap_or_default()));
            } else if word.starts_with('-') && word.len() > 1 {
                continue;
            } else if let Some(found) = command.find_subcommand(word) {
                command = found;
                line.command = format!("{} {word}", line.command).trim().to_owned();
            } else {
                line.positional.push(word.clone());
            }
        }
        line
    }

    /// Returns the last value of an option.
    pub fn option(&self, name: &str) -> Option<&str> {
        self.options.iter().rev().find(|(option, _)| option == name).map(|(_, value)| value.as_str())
    }
}

/// Returns true for a piece of a line at which bash breaks words.
pub fn is_break(piece: &str) -> bool {
    !piece.is_empty() && piece.chars().all(|c| "=:@".contains(c))
}

/// Joins words that bash broke at `@`, `=` and `:`.
pub fn unbroken(words: &[String]) -> Vec<String> {
    let mut all: Vec<String> = Vec::new();
    let mut follows = false;
    for word in words {
        let breaks = is_break(word);
        match all.last_mut() {
            Some(last) if breaks || follows => last.push_str(word),
            _ => all.push(word.clone()),
        }
        follows = breaks;
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_line_is_taken_apart_as_the_parser_does() {
        let mut command = Args::command();
        command.build();
        let line = |text: &str| {
            let words: Vec<String> = text.split(' ').map(str::to_owned).collect();
            TypedLine::of(&unbroken(&words), &command)
        };
        let cast = line("--plain cast --set web = flask tides @ 1.2 here --unattended --preset team");
        assert_eq!(
            (cast.command.as_str(), cast.positional),
            ("cast", vec!["tides@1.2".into(), "here".into()])
        );
        assert_eq!(cast.options[1], ("set".to_owned(), "web=flask".to_owned()));
        assert_eq!(line("shelf drop x").command, "shelf drop");
        assert_eq!(line("fit route --mold=./m").option("mold"), Some("./m"));
    }
}
