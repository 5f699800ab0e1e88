//! The help of the program: its commands in groups, and what to type instead of other programs' words.

use super::Args;
use anstyle::Style;
use clap::{Command, CommandFactory};
use std::fmt::Write;

/// The commands, as a user meets them.
pub const GROUPS: &[(&str, &[&str])] = &[
    ("Start a project", &["cast", "find", "show", "preflight", "demo"]),
    ("Grow it, and keep it up to date", &["fit", "finish", "status", "recast"]),
    ("Shelves and settings", &["shelf", "settings", "completion", "help"]),
    ("For authors of molds", &["check", "prove", "assay", "pack"]),
];

/// The commands to begin with, and the words that say why.
const FIRST: &[(&str, &str)] = &[
    ("tinmold demo", "look at a full example"),
    ("tinmold cast", "choose a mold, answer, start a project"),
    ("tinmold find web python", "search for a mold"),
    ("tinmold show python-service", "read what a mold asks, writes and needs"),
    ("tinmold preflight python-service", "check that this machine is ready for it"),
];

const HEADING: Style = Style::new().bold().underline();
const LITERAL: Style = Style::new().bold();

/// The heading of the options that every command has.
pub const SHARED: &str = "Options of every command";

/// Makes the examples at the end of a command's help: lines to type, each with what it does.
macro_rules! examples {
    ($($line:literal => $does:literal),+ $(,)?) => {
        concat!(
            "\x1b[1m\x1b[4mExamples:\x1b[0m",
            $("\n  ", $line, "\n      ", $does,)+
        )
    };
}
pub(crate) use examples;

/// Returns what `tinmold` alone prints.
#[must_use]
pub fn first_steps() -> String {
    let mut out = String::from("Start a project from a template: pick a mold, answer, review, write.\n\n");
    let _ = writeln!(out, "{HEADING}To begin with:{HEADING:#}");
    for (line, does) in FIRST {
        let _ = writeln!(out, "  {LITERAL}{line:34}{LITERAL:#}{does}");
    }
    let _ = writeln!(
        out,
        "\nIn a project: {LITERAL}tinmold status{LITERAL:#}, {LITERAL}tinmold fit{LITERAL:#} and \
         {LITERAL}tinmold recast{LITERAL:#}.\n\
         All commands: {LITERAL}tinmold help{LITERAL:#}. One of them: {LITERAL}tinmold help cast{LITERAL:#}."
    );
    out
}

/// Returns the help of the whole program, with all commands in their groups.
#[must_use]
pub fn all_commands() -> String {
    let mut command = Args::command();
    command.build();
    let about = command.get_about().map(ToString::to_string).unwrap_or_default();
    let mut out = format!("{about}\n\n{HEADING}Usage:{HEADING:#} {LITERAL}tinmold{LITERAL:#} COMMAND\n");
    for (group, names) in GROUPS {
        let _ = writeln!(out, "\n{HEADING}{group}:{HEADING:#}");
        for name in *names {
            let about = command.find_subcommand(name).and_then(Command::get_about);
            let about = about.map(ToString::to_string).unwrap_or_default();
            // The heading says it.
            let about = about.trim_start_matches("For authors: ");
            let first = about.chars().next().into_iter().flat_map(char::to_uppercase);
            let about: String = first.chain(about.chars().skip(1)).collect();
            let _ = writeln!(out, "  {LITERAL}{name:12}{LITERAL:#}{about}");
        }
    }
    // The options are laid out by the parser.
    let options = command.help_template("{options}").render_help();
    let _ = write!(out, "\n{HEADING}{SHARED}:{HEADING:#}\n{}", options.ansi());
    let _ = write!(
        out,
        "\nTo begin with: {LITERAL}tinmold demo{LITERAL:#}, then {LITERAL}tinmold cast{LITERAL:#}.\n\
         Help with examples: {LITERAL}tinmold help COMMAND{LITERAL:#}.\n"
    );
    out
}

/// Returns the help of the command of these names, as in `shelf add`: what its `--help` prints.
#[must_use]
pub fn of_command(names: &[String]) -> String {
    let words = std::iter::once("tinmold").chain(names.iter().map(String::as_str)).chain(["--help"]);
    let shown = Args::command().try_get_matches_from(words);
    shown.err().map_or_else(String::new, |help| help.render().ansi().to_string())
}

/// What other programs call it, and what to type here; the second is for `tinmold shelf`.
const OTHER_WORDS: &[(&[&str], &str)] = &[
    (
        &["new", "init", "create", "generate", "gen", "start", "make", "scaffold", "copy", "render", "apply"],
        "tinmold cast",
    ),
    (&["list", "ls", "search", "templates", "molds", "browse"], "tinmold find"),
    (&["info", "describe", "view", "questions"], "tinmold show"),
    (&["doctor", "env", "requirements"], "tinmold preflight"),
    (&["add", "component", "module", "extend"], "tinmold fit"),
    (&["update", "upgrade", "sync", "migrate", "pull"], "tinmold recast"),
    (&["diff", "outdated", "state"], "tinmold status"),
    (&["setup", "hooks", "tasks"], "tinmold finish"),
    (&["undo", "rollback", "revert"], "tinmold fit --undo, or tinmold recast --undo"),
    (&["version"], "tinmold --version"),
    (&["config", "configure", "set", "options"], "tinmold settings"),
    (&["shelves", "registry", "repo", "repository", "source", "sources", "remote", "clone"], "tinmold shelf"),
    (&["lint", "validate", "verify"], "tinmold check"),
    (&["test", "ci"], "tinmold prove"),
    (&["eval", "try", "console", "repl"], "tinmold assay"),
    (&["package", "publish", "bundle", "archive", "build"], "tinmold pack"),
    (&["example", "tutorial", "quickstart", "hello"], "tinmold demo"),
    (&["completions", "shell"], "tinmold completion"),
    (&["man", "usage", "commands", "manual"], "tinmold help"),
];

const OTHER_WORDS_OF_SHELF: &[(&[&str], &str)] = &[
    (&["remove", "rm", "delete", "unregister"], "tinmold shelf drop"),
    (&["help"], "tinmold help shelf"),
    (&["update", "upgrade", "fetch", "sync", "pull"], "tinmold shelf refresh"),
    (&["ls", "show", "all"], "tinmold shelf list"),
    (&["new", "register", "set", "clone"], "tinmold shelf add"),
    (&["prune", "purge", "gc", "clear"], "tinmold shelf clean"),
    (&["search", "find"], "tinmold find"),
    (&["init", "build"], "tinmold shelf index"),
    (&["run", "start", "host"], "tinmold shelf serve"),
];

/// Returns what to type for a word that is no command here, or `None`.
#[must_use]
pub fn instead(word: &str, in_shelf: bool) -> Option<&'static str> {
    let word = word.to_lowercase();
    let known = if in_shelf { OTHER_WORDS_OF_SHELF } else { OTHER_WORDS };
    known.iter().find(|(words, _)| words.contains(&word.as_str())).map(|(_, ours)| *ours)
}
