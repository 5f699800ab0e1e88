//! Runs one program and passes on its output line by line.

use super::group::{is_gone, own_group, signal};
use super::path_search::{programs, search_path};
use std::io::{BufRead, BufReader, Read};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, ExitStatus, Stdio};
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::thread;
use std::time::{Duration, Instant};

/// How a program ended.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Ended {
    /// By itself, with this exit code.
    #[error("exit code {0}")]
    Exit(i32),
    /// By this signal.
    #[error("ended by signal {0}")]
    Signal(i32),
    /// It ran longer than its time limit.
    #[error("took longer than its time limit, and was ended")]
    TimedOut,
    /// Its output was not read to the end.
    #[error("its output is cut: a process that it left behind holds it open")]
    Cut,
    /// The user interrupted it.
    #[error("interrupted")]
    Cancelled,
    /// It could not be started.
    #[error("could not be started: {0}")]
    NotStarted(String),
    /// A service ended before it answered, or never answered.
    #[error("{0}")]
    NoAnswer(String),
}

impl Ended {
    /// Returns true for exit code 0.
    #[must_use]
    pub fn is_success(&self) -> bool {
        *self == Self::Exit(0)
    }
}

/// A program that ran.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Outcome {
    /// How it ended.
    pub ended: Ended,
    /// How long it took.
    pub took: Duration,
}

/// Longer lines are cut at this many bytes; the rest is read and dropped.
const LONGEST_LINE: u64 = 64 * 1024;
/// The time between SIGTERM and SIGKILL.
const GRACE: Duration = Duration::from_secs(3);
/// A process that a program left behind may hold the output open; it is read for so long after the exit.
const REST: Duration = Duration::from_secs(2);
/// The last line of an output that was not read to its end.
const CUT: &[u8] = b"(the output is cut here: a process that was left behind holds it open)\n";
/// The interval at which cancellation and timeouts are checked.
const TICK: Duration = Duration::from_millis(20);

/// Finds the program of this name in the absolute directories of PATH.
#[must_use]
pub fn find(name: &str) -> Option<PathBuf> {
    programs(name, &search_path(std::env::var_os("PATH").as_deref())).next()
}

/// Builds a command that runs in `directory`. A program with a slash in its name is relative to
/// `directory`; any other is looked up in the absolute directories of PATH.
#[must_use]
pub fn command(program: &str, directory: &Path) -> Command {
    let resolved = if program.contains('/') || (cfg!(windows) && program.contains('\\')) {
        directory.join(program)
    } else {
        // A path where nothing is makes the start fail with a clear error.
        find(program).unwrap_or_else(|| Path::new("/").join(program))
    };
    let mut command = Command::new(resolved);
    command.current_dir(directory);
    command
}

/// A running program.
pub struct Running {
    child: Child,
    lines: Option<Receiver<Vec<u8>>>,
    begun: Instant,
}

impl Running {
    /// Starts a program with no input, in a process group of its own.
    ///
    /// # Errors
    /// The program cannot be started.
    pub fn start(command: &mut Command) -> std::io::Result<Self> {
        tracing::debug!(program = %command.get_program().display(), "start");
        let (output, writer) = std::io::pipe()?;
        command.stdin(Stdio::null()).stdout(writer.try_clone()?).stderr(writer);
        own_group(command);
        let child = command.spawn();
        // The command holds the writing ends of the pipe: as long as it does, the output never ends.
        command.stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null());
        let mut child = child?;
        let (sender, lines) = channel();
        let reader = thread::Builder::new().spawn(move || {
            let mut output = BufReader::new(output);
            loop {
                let mut line = Vec::new();
                match output.by_ref().take(LONGEST_LINE).read_until(b'\n', &mut line) {
                    Ok(0) | Err(_) => return,
                    Ok(_) => {
                        if line.last() != Some(&b'\n') && output.skip_until(b'\n').is_err() {
                            return;
                        }
                        if sender.send(line).is_err() {
                            return;
                        }
                    }
                }
            }
        });
        if let Err(error) = reader {
            // Without a thread the program would wait for someone to read its output.
            signal(&child, true);
            child.wait()?;
            return Err(error);
        }
        Ok(Self { child, lines: Some(lines), begun: Instant::now() })
    }

    /// Hands on the lines that arrive within one tick. Returns how the program ended, once it has.
    pub fn poll(&mut self, each: &mut dyn FnMut(&[u8])) -> Option<Ended> {
        let end = Instant::now() + TICK;
        while let Some(lines) = &self.lines {
            match lines.recv_timeout(end.saturating_duration_since(Instant::now())) {
                Ok(line) => each(&line),
                Err(RecvTimeoutError::Timeout) => break,
                Err(RecvTimeoutError::Disconnected) => self.lines = None,
            }
            if Instant::now() >= end {
                break;
            }
        }
        if self.lines.is_none() {
            thread::sleep(end.saturating_duration_since(Instant::now()).min(Duration::from_millis(2)));
        }
        match self.child.try_wait() {
            Ok(Some(status)) => {
                let end = Instant::now() + REST;
                while let Some(lines) = &self.lines {
                    match lines.recv_timeout(end.saturating_duration_since(Instant::now())) {
                        Ok(line) => each(&line),
                        Err(RecvTimeoutError::Disconnected) => self.lines = None,
                        Err(RecvTimeoutError::Timeout) => {
                            each(CUT);
                            self.lines = None;
                        }
                    }
                }
                Some(ended(status))
            }
            _ => None,
        }
    }

    /// Ends the program and everything in its process group.
    pub fn end(&mut self, each: &mut dyn FnMut(&[u8])) {
        signal(&self.child, false);
        let end = Instant::now() + GRACE;
        let mut has_ended = false;
        // A child process may outlive the program and hold its output open.
        while Instant::now() < end && !(has_ended && is_gone(&self.child)) {
            has_ended = self.poll(each).is_some() || has_ended;
        }
        signal(&self.child, true);
        if let Err(error) = self.child.wait() {
            tracing::warn!(%error, "cannot wait for a process");
        }
        let end = Instant::now() + GRACE / 6;
        while Instant::now() < end && !is_gone(&self.child) {
            thread::sleep(Duration::from_millis(2));
        }
    }

    /// Returns how long the program has been running.
    #[must_use]
    pub fn took(&self) -> Duration {
        self.begun.elapsed()
    }
}

/// Runs a program to its end. `each` gets every line of its output as it arrives.
pub fn run(
    command: &mut Command,
    limit: Duration,
    is_cancelled: &dyn Fn() -> bool,
    each: &mut dyn FnMut(&[u8]),
) -> Outcome {
    let begun = Instant::now();
    let mut running = match Running::start(command) {
        Ok(running) => running,
        Err(error) => return Outcome { ended: not_started(command, &error), took: begun.elapsed() },
    };
    let ended = loop {
        if let Some(ended) = running.poll(each) {
            break ended;
        }
        let ended = if is_cancelled() {
            Ended::Cancelled
        } else if running.took() > limit {
            Ended::TimedOut
        } else {
            continue;
        };
        running.end(each);
        break ended;
    };
    tracing::debug!(program = %command.get_program().display(), %ended, "ended");
    Outcome { ended, took: running.took() }
}

/// What a program printed.
#[derive(Clone, Debug)]
pub struct Captured {
    /// How it ended.
    pub ended: Ended,
    /// Its standard output.
    pub output: Vec<u8>,
    /// Its standard error.
    pub errors: Vec<u8>,
}

/// Runs a program to its end, with no input, and returns all that it printed. What is not read two seconds
/// after its end, as a process that it left behind holds it open, makes it [`Ended::Cut`].
///
/// # Errors
/// The program cannot be started.
pub fn capture(command: &mut Command, limit: Duration) -> std::io::Result<Captured> {
    let program = command.get_program().display().to_string();
    tracing::debug!(program, "start");
    command.stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::piped());
    own_group(command);
    let mut child = command.spawn()?;
    let (sender, pieces) = channel();
    let started = match (child.stdout.take(), child.stderr.take()) {
        (Some(output), Some(errors)) => {
            read_all(output, 0, sender.clone()).and_then(|()| read_all(errors, 1, sender))
        }
        _ => Err(std::io::ErrorKind::BrokenPipe.into()),
    };
    if let Err(error) = started {
        signal(&child, true);
        child.wait()?;
        return Err(error);
    }
    let mut read = [None, None];
    let mut end = Instant::now() + limit;
    let mut status = None;
    let result = loop {
        let left = end.saturating_duration_since(Instant::now());
        match pieces.recv_timeout(if status.is_some() { left } else { left.min(TICK) }) {
            Ok((which, bytes)) => read[which] = Some(bytes),
            Err(RecvTimeoutError::Disconnected) => thread::sleep(Duration::from_millis(1)),
            Err(RecvTimeoutError::Timeout) => {}
        }
        if status.is_none() {
            status = child.try_wait()?;
            end = if status.is_some() { Instant::now() + REST } else { end };
        }
        match status {
            Some(status) if read.iter().all(Option::is_some) => break ended(status),
            Some(_) if Instant::now() >= end => break Ended::Cut,
            None if Instant::now() >= end => {
                signal(&child, true);
                child.wait()?;
                break Ended::TimedOut;
            }
            _ => {}
        }
    };
    tracing::debug!(program, ended = %result, "ended");
    let [output, errors] = read.map(Option::unwrap_or_default);
    Ok(Captured { ended: result, output, errors })
}

/// Runs a program as [`capture`] does, and returns its standard output if it succeeds.
#[must_use]
pub fn printed(command: &mut Command, limit: Duration) -> Option<Vec<u8>> {
    let captured = capture(command, limit).ok()?;
    captured.ended.is_success().then_some(captured.output)
}

/// Returns the same as text; `None` if it is none.
#[must_use]
pub fn printed_text(command: &mut Command, limit: Duration) -> Option<String> {
    String::from_utf8(printed(command, limit)?).ok()
}

/// Reads a stream to its end in a thread of its own, and sends all of it.
fn read_all(
    mut stream: impl Read + Send + 'static,
    which: usize,
    sender: Sender<(usize, Vec<u8>)>,
) -> std::io::Result<()> {
    let read = move || {
        let mut bytes = Vec::new();
        if stream.read_to_end(&mut bytes).is_ok() && sender.send((which, bytes)).is_err() {
            tracing::debug!("no one waits for the output any more");
        }
    };
    thread::Builder::new().spawn(read).map(drop)
}

/// Runs a program that gets the terminal.
pub fn run_on_terminal(command: &mut Command) -> Outcome {
    tracing::debug!(program = %command.get_program().display(), "start on the terminal");
    let begun = Instant::now();
    let ended = match command.status() {
        Ok(status) => ended(status),
        Err(error) => not_started(command, &error),
    };
    Outcome { ended, took: begun.elapsed() }
}

/// Describes why a command could not be started.
#[must_use]
pub fn not_started(command: &Command, error: &std::io::Error) -> Ended {
    let path = Path::new(command.get_program());
    Ended::NotStarted(match error.kind() {
        std::io::ErrorKind::NotFound => {
            format!("no program {} on PATH", path.strip_prefix("/").unwrap_or(path).display())
        }
        _ => format!("{}: {error}", path.display()),
    })
}

#[cfg(unix)]
fn ended(status: ExitStatus) -> Ended {
    use std::os::unix::process::ExitStatusExt;
    match (status.code(), status.signal()) {
        (Some(code), _) => Ended::Exit(code),
        (None, signal) => Ended::Signal(signal.unwrap_or(0)),
    }
}

#[cfg(not(unix))]
fn ended(status: ExitStatus) -> Ended {
    Ended::Exit(status.code().unwrap_or(1))
}
