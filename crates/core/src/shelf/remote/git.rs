//! Reading a repository with the real `git`. Nothing of it is checked out, and no hook of it runs.

use crate::finish::process;
use crate::shelf::package::{Content, File};
use std::io::{BufRead, BufReader, Read, Write};
use std::path::{Path, PathBuf};
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};
use std::time::Duration;

/// How long fetching may take.
const LIMIT: Duration = Duration::from_secs(600);
/// The same if what is kept will do.
const HASTE: Duration = Duration::from_secs(15);
/// What git calls the default branch's last commit in our copy.
pub(super) const TIP: &str = "refs/tinmold/tip";

/// A copy of a repository that is kept, without files.
pub(super) struct Repository {
    folder: PathBuf,
}

/// Something in a tree.
#[derive(Clone, Debug)]
pub(super) struct Object {
    /// The six digits that git gives its kind and mode.
    pub(super) mode: String,
    /// Its name in git's store.
    pub(super) id: String,
    /// Its bytes; none for a tree.
    pub(super) size: Option<u64>,
    pub(super) path: String,
}

impl Repository {
    /// The copy in this folder, brought up to the repository at `url` if that can be reached.
    pub(super) fn fetched(
        folder: &Path,
        url: &str,
        patience: Duration,
        hurried: bool,
    ) -> Result<Self, String> {
        let repository = Self { folder: folder.to_owned() };
        let limit = if hurried { HASTE } else { LIMIT };
        if !folder.join("HEAD").is_file() {
            std::fs::create_dir_all(folder).map_err(|error| format!("it cannot be kept: {error}"))?;
            repository.run(LIMIT, &["init", "--quiet", "--bare"])?;
        }
        let slow = format!("http.lowSpeedTime={}", patience.as_secs().max(1));
        let tip = format!("+HEAD:{TIP}");
        let fetch = |more: &[&str]| {
            let settings = ["-c", "http.lowSpeedLimit=100", "-c", &slow, "-c", "transfer.fsckObjects=true"];
            let fetch = ["fetch", "--quiet", "--prune", "--force", "--no-auto-maintenance"];
            let what = ["--", url, "+refs/tags/*:refs/tags/*", &tip];
            repository.run(limit, &[&settings[..], &fetch, more, &what].concat())
        };
        // Some servers only give everything.
        match fetch(&["--depth=1"]) {
            Err(error) if error.contains("shallow") => fetch(&[])?,
            done => done?,
        };
        Ok(repository)
    }

    /// The copy that is kept already.
    pub(super) fn kept(folder: &Path) -> Option<Self> {
        folder.join("HEAD").is_file().then(|| Self { folder: folder.to_owned() })
    }

    /// Runs git in it; gives what it prints.
    fn run(&self, limit: Duration, arguments: &[&str]) -> Result<String, String> {
        let mut printed = String::new();
        let outcome = process::run(self.command().args(arguments), limit, &|| false, &mut |line| {
            printed += &String::from_utf8_lossy(line);
        });
        if outcome.ended.is_good() {
            return Ok(printed);
        }
        let said: Vec<&str> = printed.lines().filter(|line| !line.trim().is_empty()).collect();
        let why = said.iter().find(|line| line.starts_with("fatal:")).or(said.last());
        Err(match why {
            Some(why) => format!("git says: {}", why.trim_start_matches("fatal: ")),
            None => format!("git {}", outcome.ended),
        })
    }

    fn command(&self) -> Command {
        let mut command = process::command("git", &self.folder);
        command
            // A command of the repository's own is never run, whatever the settings say.
            .args([
                "-c",
                "core.hooksPath=/dev/null",
                "-c",
                "protocol.ext.allow=never",
                "-c",
                "core.quotePath=false",
            ])
            .env("GIT_DIR", &self.folder)
            .env_remove("GIT_WORK_TREE")
            .env_remove("GIT_INDEX_FILE")
            .env("LC_ALL", "C")
            .env("GIT_TERMINAL_PROMPT", "0");
        if std::env::var_os("GIT_SSH_COMMAND").is_none() {
            command.env("GIT_SSH_COMMAND", "ssh -o BatchMode=yes");
        }
        command
    }

    /// The names of all tags.
    pub(super) fn tags(&self) -> Result<Vec<String>, String> {
        let all = self.run(LIMIT, &["for-each-ref", "--format=%(refname:strip=2)", "refs/tags"])?;
        Ok(all.lines().map(str::to_owned).collect())
    }

    /// Everything in a tree, trees among it; the tree itself stands first, with an empty path.
    pub(super) fn tree(&self, of: &str) -> Result<Vec<Object>, String> {
        let id = self.run(
            LIMIT,
            &["rev-parse", "--verify", "--quiet", "--end-of-options", &format!("{of}^{{tree}}")],
        )?;
        let id = id.trim().to_owned();
        let output =
            self.command().args(["ls-tree", "-r", "-t", "-l", "-z", &id]).stdin(Stdio::null()).output();
        let output = output.map_err(|error| format!("git cannot be run: {error}"))?;
        if !output.status.success() {
            return Err(format!("git says: {}", String::from_utf8_lossy(&output.stderr).trim()));
        }
        let mut objects = vec![Object { mode: "040000".into(), id, size: None, path: String::new() }];
        for line in output.stdout.split(|byte| *byte == 0).filter(|line| !line.is_empty()) {
            let line = std::str::from_utf8(line).map_err(|_| "a name in it is not UTF-8")?;
            // mode, kind, name in the store, size; a tab; the path.
            let (facts, path) = line.split_once('\t').ok_or("git's list cannot be read")?;
            let facts: Vec<&str> = facts.split_whitespace().collect();
            let [mode, _, id, size] = facts[..] else { return Err("git's list cannot be read".into()) };
            objects.push(Object {
                mode: mode.into(),
                id: id.into(),
                size: size.parse().ok(),
                path: path.into(),
            });
        }
        Ok(objects)
    }

    /// A reader of what is in the store.
    pub(super) fn reader(&self) -> Result<Reader, String> {
        let mut command = self.command();
        command
            .args(["cat-file", "--batch"])
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::null());
        let failed = |error: std::io::Error| format!("git cannot be run: {error}");
        let mut git = command.spawn().map_err(failed)?;
        match (git.stdin.take(), git.stdout.take()) {
            (Some(ask), Some(answers)) => {
                Ok(Reader { git, ask: Some(ask), answers: BufReader::new(answers) })
            }
            _ => Err("git cannot be asked".into()),
        }
    }
}

/// Reads objects one after another.
pub(super) struct Reader {
    git: Child,
    ask: Option<ChildStdin>,
    answers: BufReader<ChildStdout>,
}

impl Reader {
    /// The bytes of an object.
    pub(super) fn read(&mut self, id: &str) -> Result<Vec<u8>, String> {
        let broke = |error: std::io::Error| format!("git broke off: {error}");
        let ask = self.ask.as_mut().ok_or("git broke off")?;
        writeln!(ask, "{id}").and_then(|()| ask.flush()).map_err(broke)?;
        let mut head = String::new();
        self.answers.read_line(&mut head).map_err(broke)?;
        let length = head.trim().rsplit(' ').next().and_then(|length| length.parse::<u64>().ok());
        let length = length.ok_or_else(|| format!("git does not have {id}"))?;
        let mut bytes = Vec::new();
        (&mut self.answers).take(length).read_to_end(&mut bytes).map_err(broke)?;
        let mut end = [0];
        self.answers.read_exact(&mut end).map_err(broke)?;
        Ok(bytes)
    }

    /// The file that an object is, at a path in a mold.
    pub(super) fn file(&mut self, object: &Object, path: &str) -> Result<File, String> {
        let bytes = self.read(&object.id)?;
        let (content, mode) = match object.mode.as_str() {
            "120000" => {
                let target = String::from_utf8(bytes).map_err(|_| "a link in it is not UTF-8")?;
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
        let _ = self.git.wait();
    }
}
