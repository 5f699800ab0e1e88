//! What files were, from the project's own git history.

use super::disk::with_digest;
use crate::record::DIGESTS;
use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;
use std::process::Command;
use std::time::{Duration, Instant};
use tinmold_platform::digest::Digest;
use tinmold_platform::process::{git, printed};

/// The most commits that are looked at.
const MOST_COMMITS: &str = "10000";
/// The longest that is looked, altogether.
const LIMIT: Duration = Duration::from_secs(60);
/// The most paths in one call of git.
const PATHS: usize = 400;

/// What was found in the history of a project.
#[derive(Clone, Debug, Default)]
pub(super) struct History {
    /// By path: the content.
    pub(super) found: BTreeMap<String, Vec<u8>>,
    /// True if the clone is shallow: what is missing may be further back.
    pub(super) is_shallow: bool,
}

/// Looks in the commits that touch the record's list for content of these digests, along each path; also with its line
/// endings turned round. A project without git has no history.
pub(super) fn history(root: &Path, wanted: &[(String, Digest)]) -> History {
    let mut history = History::default();
    if wanted.is_empty() {
        return history;
    }
    let end = Instant::now() + LIMIT;
    let run = |set: &dyn Fn(&mut Command)| -> Option<Vec<u8>> {
        let mut command = git(root);
        set(&mut command);
        printed(&mut command, end.checked_duration_since(Instant::now())?)
    };
    let text = |set: &dyn Fn(&mut Command)| run(set).and_then(|bytes| String::from_utf8(bytes).ok());
    let log = text(&|git| {
        git.args(["log", "--format=%H", "-n", MOST_COMMITS, "--", DIGESTS]);
    });
    let Some(log) = log else { return history };
    let shallow = text(&|git| {
        git.args(["rev-parse", "--is-shallow-repository"]);
    });
    history.is_shallow = shallow.is_some_and(|shallow| shallow.trim() == "true");
    let mut left: BTreeMap<&str, Digest> =
        wanted.iter().map(|(path, digest)| (path.as_str(), *digest)).collect();
    let mut seen: BTreeSet<(String, String)> = BTreeSet::new();
    for commit in log.lines() {
        let paths: Vec<&str> = left.keys().copied().collect();
        for paths in paths.chunks(PATHS) {
            let tree = text(&|git| {
                git.args(["ls-tree", "-z", commit, "--"]).args(paths);
            });
            for line in tree.unwrap_or_default().split('\0') {
                let Some((object, path)) = line.split_once('\t') else { continue };
                let Some(object) = object.split(' ').nth(2) else { continue };
                let Some(digest) = left.get(path).copied() else { continue };
                if !seen.insert((path.to_owned(), object.to_owned())) {
                    continue;
                }
                let blob = run(&|git| {
                    git.args(["cat-file", "blob", object]);
                });
                if let Some(bytes) = blob.and_then(|blob| with_digest(blob, digest)) {
                    history.found.insert(path.to_owned(), bytes);
                    left.remove(path);
                }
            }
        }
        if left.is_empty() {
            break;
        }
    }
    history
}
