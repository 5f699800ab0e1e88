//! What a repository has not committed, judged without running a filter of it.

use super::git::git;
use super::run::printed_text;
use std::collections::{BTreeMap, BTreeSet};
use std::fs::File;
use std::path::Path;
use std::time::Duration;

/// The longest that git is waited for.
const LIMIT: Duration = Duration::from_secs(20);
/// The most paths in one call.
const PATHS: usize = 400;

/// Returns the paths in `directory`, relative to it, of files that differ from the last commit of their repository;
/// `None` where there is none. Files that git does not know do not count.
///
/// Git compares contents through the filters that a repository names, which are programs: here they are turned off, and
/// files that were touched are compared by the digest of their bytes as they are.
#[must_use]
pub fn uncommitted(directory: &Path) -> Option<Vec<String>> {
    let mut off: Vec<(String, String)> = Vec::new();
    let all = printed_text(
        git(directory).args(["config", "-z", "--name-only", "--get-regexp", r"^filter\."]),
        LIMIT,
    );
    for name in all.unwrap_or_default().split('\0').filter_map(|key| Some(key.rsplit_once('.')?.0)) {
        for (key, value) in [("clean", ""), ("process", ""), ("required", "false")] {
            off.push((format!("{name}.{key}"), value.to_owned()));
        }
    }
    let run = |args: &[&str]| -> Option<String> {
        let mut git = git(directory);
        git.env("GIT_CONFIG_COUNT", off.len().to_string());
        for (at, (key, value)) in off.iter().enumerate() {
            git.env(format!("GIT_CONFIG_KEY_{at}"), key).env(format!("GIT_CONFIG_VALUE_{at}"), value);
        }
        printed_text(git.args(args), LIMIT)
    };
    let lines = |text: String| -> Vec<String> {
        text.split('\0').filter(|line| !line.is_empty()).map(str::to_owned).collect()
    };
    run(&["rev-parse", "--git-dir"])?;
    let staged = run(&[
        "diff-index",
        "--cached",
        "--ignore-submodules=all",
        "--name-only",
        "-z",
        "--relative",
        "HEAD",
        "--",
        ".",
    ])
    .or_else(|| run(&["ls-files", "-z", "--", "."]))
    .map(lines)?;
    let mut all: BTreeSet<String> = staged.into_iter().collect();
    let touched =
        lines(run(&["diff-files", "--ignore-submodules=all", "--name-only", "-z", "--relative", "--", "."])?);
    for paths in touched.chunks(PATHS) {
        let paths: Vec<&str> = paths.iter().map(String::as_str).collect();
        let known = lines(run(&[&["ls-files", "-s", "-z", "--"], paths.as_slice()].concat())?);
        let known: BTreeMap<&str, &str> = known
            .iter()
            .filter_map(|line| {
                let (entry, path) = line.split_once('\t')?;
                Some((path, entry.split(' ').nth(1)?))
            })
            .collect();
        let (there, gone): (Vec<&str>, Vec<&str>) =
            paths.into_iter().partition(|path| is_readable(&directory.join(path)));
        all.extend(gone.into_iter().map(str::to_owned));
        if there.is_empty() {
            continue;
        }
        let digests = run(&[&["hash-object", "--no-filters", "--"], there.as_slice()].concat());
        let digests = digests.unwrap_or_default();
        let mut digests = digests.lines();
        let changed = there.into_iter().filter(|path| known.get(path).copied() != digests.next());
        all.extend(changed.map(str::to_owned));
    }
    Some(all.into_iter().collect())
}

/// Returns true for a file that can be read: git stops at the first that cannot.
fn is_readable(path: &Path) -> bool {
    path.is_file() && File::open(path).is_ok()
}
