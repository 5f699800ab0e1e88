//! The real git, called so that nothing of a stranger's runs.
//!
//! A directory can bring a `.git/config`, `.gitattributes` and hooks along. Each can name programs; none
//! of them runs in a call that the program makes by itself.

use super::run::command;
use std::path::Path;
use std::process::Command;

/// Variables of git that say who the user is and where the user's settings are.
const OWN: [&str; 3] = ["GIT_AUTHOR_", "GIT_COMMITTER_", "GIT_CONFIG_GLOBAL"];
/// The same, exactly.
const OWN_EXACTLY: [&str; 2] = ["GIT_CONFIG_SYSTEM", "GIT_CONFIG_NOSYSTEM"];
/// Variables of git that say how the user reaches servers.
const NETWORK: [&str; 6] =
    ["GIT_SSH", "GIT_ASKPASS", "GIT_SSL_", "GIT_PROXY_", "GIT_HTTP_", "GIT_ALLOW_PROTOCOL"];

/// Settings that no file overrides.
const SETTINGS: [&str; 6] = [
    "core.fsmonitor=false",
    "core.hooksPath=/dev/null",
    "core.pager=cat",
    "core.quotePath=false",
    "protocol.ext.allow=never",
    "submodule.recurse=false",
];

/// Builds a git command that runs in `directory`: the absolute program, with the variables removed that
/// lead it elsewhere or name programs, without hooks, monitors and lazy fetches.
#[must_use]
pub fn git(directory: &Path) -> Command {
    build(directory, &[])
}

/// Builds the same with the user's variables for reaching servers.
#[must_use]
pub fn git_over_network(directory: &Path) -> Command {
    build(directory, &NETWORK)
}

fn build(directory: &Path, also: &[&str]) -> Command {
    let mut git = command("git", directory);
    for (name, _) in std::env::vars_os() {
        let Some(text) = name.to_str().filter(|name| name.starts_with("GIT_")) else { continue };
        let is_kept =
            OWN_EXACTLY.contains(&text) || OWN.iter().chain(also).any(|kept| text.starts_with(kept));
        if !is_kept {
            git.env_remove(name);
        }
    }
    git.env("GIT_TERMINAL_PROMPT", "0")
        .env("GIT_NO_LAZY_FETCH", "1")
        .env("GIT_OPTIONAL_LOCKS", "0")
        .env("LC_ALL", "C");
    git.arg("--no-pager");
    for setting in SETTINGS {
        git.args(["-c", setting]);
    }
    git
}
