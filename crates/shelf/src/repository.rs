//! A copy of a repository, read with the real `git`. Nothing is checked out, and no hook of it runs.

use std::io::{self, BufRead, BufReader, Read, Write};
use std::path::{Path, PathBuf};
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};
use std::time::{Duration, Instant};
use tinmold_mold::{Content, File};
use tinmold_platform::process::{self, Ended};

/// Why git could not do what was asked.
#[derive(Debug, thiserror::Error)]
pub enum GitError {
    /// There is no cache directory.
    #[error("there is no cache directory: set HOME or XDG_CACHE_HOME")]
    NoCache,
    /// The copy cannot be stored.
    #[error("cannot store the copy: {0}")]
    Store(io::Error),
    /// Git cannot be run.
    #[error("git cannot be run: {0}")]
    Run(io::Error),
    /// Git reported an error.
    #[error("git says: {0}")]
    Git(String),
    /// Git ended without a message.
    #[error("git: {0}")]
    Ended(Ended),
    /// Git stopped answering.
    #[error("git broke off: {0}")]
    BrokeOff(io::Error),
    /// Git's output cannot be read.
    #[error("git's output cannot be read")]
    Output,
    /// Git does not have an object.
    #[error("git does not have {0}")]
    NoObject(String),
    /// A name or link that is not UTF-8.
    #[error("{0} in it is not UTF-8")]
    NotUtf8(&'static str),
    /// A mold cannot be listed.
    #[error("{0}")]
    Entry(String),
    /// A mold is too large.
    #[error("{name} is larger than {} MiB", limit >> 20)]
    TooLarge {
        /// The mold.
        name: String,
        /// The limit in bytes.
        limit: u64,
    },
    /// Two molds have one name.
    #[error("at {at} two molds are called {name:?}: in {first} and in {second}")]
    Twice {
        /// The tag or branch.
        at: String,
        /// The name.
        name: String,
        /// A folder.
        first: String,
        /// The other folder.
        second: String,
    },
    /// The repository holds no mold.
    #[error("it holds no mold: no version tag has a mold.toml at its top or in a folder{note}")]
    NoMold {
        /// Formats the first skipped item, in parentheses.
        note: String,
    },
    /// The copy is gone.
    #[error("its copy is gone")]
    NoCopy,
}

/// Timeout of a fetch.
const LIMIT: Duration = Duration::from_secs(600);
/// Timeout if a cached copy exists.
const HASTE: Duration = Duration::from_secs(15);
/// A server that gives no part of a repository refuses within this time.
const REFUSED_AT_ONCE: Duration = Duration::from_secs(5);
/// The name of the default branch's last commit in the local copy.
pub(crate) const TIP: &str = "refs/tinmold/tip";

/// The file of the copy with the references of the last fetch.
const KNOWN_REFS: &str = "tinmold-refs";

/// A copy of a repository that is kept, without files.
pub(crate) struct Repository {
    folder: PathBuf,
}

/// Something in a tree.
#[derive(Clone, Debug)]
pub(crate) struct Object {
    /// The six digits that git gives its kind and mode.
    pub(crate) mode: String,
    /// Its name in git's store.
    pub(crate) id: String,
    /// Its bytes; none for a tree.
    pub(crate) size: Option<u64>,
    pub(crate) path: String,
}

impl Repository {
    /// Returns the copy in this folder, brought up to the repository at `url` if that can be reached.
    pub(crate) fn fetched(
        folder: &Path,
        url: &str,
        timeout: Duration,
        hurried: bool,
    ) -> Result<Self, GitError> {
        let repository = Self { folder: folder.to_owned() };
        let limit = if hurried { HASTE } else { LIMIT };
        if !folder.join("HEAD").is_file() {
            std::fs::create_dir_all(folder).map_err(GitError::Store)?;
            repository.run(LIMIT, &["init", "--quiet", "--bare"])?;
        }
        // Where nothing is new, nothing is downloaded.
        let refs = repository.run(limit, &["ls-remote", "--quiet", "--", url, "HEAD", "refs/tags/*"])?;
        let known = folder.join(KNOWN_REFS);
        if std::fs::read_to_string(&known).is_ok_and(|known| known == refs) {
            tracing::debug!(url, "the references are as they were");
            return Ok(repository);
        }
        let slow = format!("http.lowSpeedTime={}", timeout.as_secs().max(1));
        let tip = format!("+HEAD:{TIP}");
        let fetch = |more: &[&str]| {
            let settings = ["-c", "http.lowSpeedLimit=100", "-c", &slow, "-c", "transfer.fsckObjects=true"];
            let fetch = ["fetch", "--quiet", "--prune", "--force", "--no-auto-maintenance"];
            let what = ["--", url, "+refs/tags/*:refs/tags/*", &tip];
            repository.run(limit, &[&settings[..], &fetch, more, &what].concat())
        };
        let begun = Instant::now();
        match fetch(&["--depth=1"]) {
            // Some servers only give everything: they refuse at once.
            Err(GitError::Git(_)) if begun.elapsed() < REFUSED_AT_ONCE => fetch(&[])?,
            done => done?,
        };
        std::fs::write(&known, refs).map_err(GitError::Store)?;
        // Many small fetches leave many small packs.
        if let Err(error) = repository.run(limit, &["gc", "--quiet", "--prune=now"]) {
            tracing::warn!(%error, "cannot repack the copy");
        }
        Ok(repository)
    }

    /// Returns the copy that is kept already.
    pub(crate) fn kept(folder: &Path) -> Option<Self> {
        folder.join("HEAD").is_file().then(|| Self { folder: folder.to_owned() })
    }

    /// Runs git in it; gives what it prints.
    fn run(&self, limit: Duration, arguments: &[&str]) -> Result<String, GitError> {
        let mut printed = String::new();
        let outcome = process::run(self.command().args(arguments), limit, &|| false, &mut |line| {
            printed += &String::from_utf8_lossy(line);
        });
        if outcome.ended.is_success() {
            return Ok(printed);
        }
        let said: Vec<&str> = printed.lines().filter(|line| !line.trim().is_empty()).collect();
        let why = said.iter().find(|line| line.starts_with("fatal:")).or(said.last());
        Err(match why {
            Some(why) => GitError::Git(why.trim_start_matches("fatal: ").to_owned()),
            None => GitError::Ended(outcome.ended),
        })
    }

    fn command(&self) -> Command {
        let mut command = process::git_over_network(&self.folder);
        command.env("GIT_DIR", &self.folder);
        if std::env::var_os("GIT_SSH_COMMAND").is_none() {
            command.env("GIT_SSH_COMMAND", "ssh -o BatchMode=yes");
        }
        command
    }

    /// Returns the names of all tags.
    pub(crate) fn tags(&self) -> Result<Vec<String>, GitError> {
        let all = self.run(LIMIT, &["for-each-ref", "--format=%(refname:strip=2)", "refs/tags"])?;
        Ok(all.lines().map(str::to_owned).collect())
    }

    /// Returns every entry of a tree, recursively; the tree itself is first, with an empty path.
    pub(crate) fn tree(&self, of: &str) -> Result<Vec<Object>, GitError> {
        let id = self.run(
            LIMIT,
            &["rev-parse", "--verify", "--quiet", "--end-of-options", &format!("{of}^{{tree}}")],
        )?;
        let id = id.trim().to_owned();
        let captured = process::capture(self.command().args(["ls-tree", "-r", "-t", "-l", "-z", &id]), LIMIT);
        let captured = captured.map_err(GitError::Run)?;
        if !captured.ended.is_success() {
            let said = String::from_utf8_lossy(&captured.errors).trim().to_owned();
            return Err(if said.is_empty() { GitError::Ended(captured.ended) } else { GitError::Git(said) });
        }
        let mut objects = vec![Object { mode: "040000".into(), id, size: None, path: String::new() }];
        for line in captured.output.split(|byte| *byte == 0).filter(|line| !line.is_empty()) {
            let line = std::str::from_utf8(line).map_err(|_| GitError::NotUtf8("a name"))?;
            // mode, kind, name in the store, size; a tab; the path.
            let (facts, path) = line.split_once('\t').ok_or(GitError::Output)?;
            let facts: Vec<&str> = facts.split_whitespace().collect();
            let [mode, _, id, size] = facts[..] else { return Err(GitError::Output) };
            objects.push(Object {
                mode: mode.into(),
                id: id.into(),
                size: size.parse().ok(),
                path: path.into(),
            });
        }
        Ok(objects)
    }

    /// Returns a reader of what is in the store.
    pub(crate) fn reader(&self) -> Result<Reader, GitError> {
        let mut command = self.command();
        command
            .args(["cat-file", "--batch"])
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::null());
        tracing::debug!(program = %command.get_program().display(), "start");
        let mut git = command.spawn().map_err(GitError::Run)?;
        match (git.stdin.take(), git.stdout.take()) {
            (Some(ask), Some(answers)) => {
                Ok(Reader { git, ask: Some(ask), answers: BufReader::new(answers) })
            }
            _ => Err(GitError::Output),
        }
    }
}

/// Reads objects one after another.
pub(crate) struct Reader {
    git: Child,
    ask: Option<ChildStdin>,
    answers: BufReader<ChildStdout>,
}

impl Reader {
    /// Returns the bytes of an object.
    pub(crate) fn read(&mut self, id: &str) -> Result<Vec<u8>, GitError> {
        let ask = self.ask.as_mut().ok_or(GitError::Output)?;
        writeln!(ask, "{id}").and_then(|()| ask.flush()).map_err(GitError::BrokeOff)?;
        let mut head = String::new();
        self.answers.read_line(&mut head).map_err(GitError::BrokeOff)?;
        let length = head.trim().rsplit(' ').next().and_then(|length| length.parse::<u64>().ok());
        let length = length.ok_or_else(|| GitError::NoObject(id.to_owned()))?;
        let mut bytes = Vec::new();
        (&mut self.answers).take(length).read_to_end(&mut bytes).map_err(GitError::BrokeOff)?;
        let mut end = [0];
        self.answers.read_exact(&mut end).map_err(GitError::BrokeOff)?;
        Ok(bytes)
    }

    /// Returns the file that an object is, at a path in a mold.
    pub(crate) fn file(&mut self, object: &Object, path: &str) -> Result<File, GitError> {
        let bytes = self.read(&object.id)?;
        let (content, mode) = match object.mode.as_str() {
            "120000" => {
                let target = String::from_utf8(bytes).map_err(|_| GitError::NotUtf8("a link"))?;
                (Content::Link(target), 0o777)
            }
            "100755" => (Content::Held(bytes.into()), 0o755),
            _ => (Content::Held(bytes.into()), 0o644),
        };
        Ok(File::new(path.to_owned(), content, mode))
    }
}

impl Drop for Reader {
    fn drop(&mut self) {
        // Without anything more to read it ends.
        self.ask = None;
        if let Err(error) = self.git.wait() {
            tracing::warn!(%error, "cannot wait for git");
        }
    }
}
