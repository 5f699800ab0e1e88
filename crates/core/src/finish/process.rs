//! Running a program: without a shell, with a limit on time, and ended together with all that it started.

use super::probe::{programs, search_path};
use std::io::{BufRead, BufReader, Read};
use std::path::Path;
use std::process::{Child, Command, ExitStatus, Stdio};
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::thread;
use std::time::{Duration, Instant};

/// How a program ended.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Ended {
    /// By itself, with this exit code.
    Exit(i32),
    /// By a signal of this number.
    Signal(i32),
    /// It took longer than it may.
    TooLong,
    /// Somebody wanted it to stop.
    Cancelled,
    /// It could not be started; why.
    NotStarted(String),
    /// It ended before it answered, or never answered; why.
    NoAnswer(String),
}

impl Ended {
    /// Whether it did what it should.
    #[must_use]
    pub fn is_good(&self) -> bool {
        *self == Self::Exit(0)
    }
}

impl std::fmt::Display for Ended {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Exit(code) => write!(f, "exit code {code}"),
            Self::Signal(signal) => write!(f, "ended by signal {signal}"),
            Self::TooLong => f.write_str("took longer than it may, and was ended"),
            Self::Cancelled => f.write_str("interrupted"),
            Self::NotStarted(why) => write!(f, "could not be started: {why}"),
            Self::NoAnswer(why) => f.write_str(why),
        }
    }
}

/// A program that ran, and how long it took.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Outcome {
    /// How it ended.
    pub ended: Ended,
    /// How long it took.
    pub took: Duration,
}

/// Longer lines are cut; the rest of such a line is read and dropped.
const LONGEST_LINE: u64 = 64 * 1024;
/// How long a program is waited for that was asked to end.
const GRACE: Duration = Duration::from_secs(3);
/// How often cancelling and limits are looked at.
const TICK: Duration = Duration::from_millis(20);

/// A command in `folder`. A program with a slash in its name is meant from there; any other is looked for on PATH, and never in a
/// folder that depends on where one stands.
pub(crate) fn command(program: &str, folder: &Path) -> Command {
    let resolved = if program.contains('/') || (cfg!(windows) && program.contains('\\')) {
        folder.join(program)
    } else {
        let path = search_path(std::env::var_os("PATH").as_deref());
        // What is not there cannot be started, and says so.
        programs(program, &path).next().unwrap_or_else(|| Path::new("/").join(program))
    };
    let mut command = Command::new(resolved);
    command.current_dir(folder);
    command
}

/// A running program whose output comes line by line.
pub(super) struct Running {
    child: Child,
    lines: Option<Receiver<Vec<u8>>>,
    begun: Instant,
}

impl Running {
    /// Starts it, with nothing to read and its output gathered, in a process group of its own.
    pub(super) fn start(command: &mut Command) -> std::io::Result<Self> {
        let (output, writer) = std::io::pipe()?;
        command.stdin(Stdio::null()).stdout(writer.try_clone()?).stderr(writer);
        own_group(command);
        let child = command.spawn();
        // The command keeps the writing ends: without letting go of them here the output never ends.
        command.stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null());
        let child = child?;
        let (sender, lines) = channel();
        thread::spawn(move || {
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
        Ok(Self { child, lines: Some(lines), begun: Instant::now() })
    }

    /// Hands on the lines that come within a moment. Gives how it ended, once it has.
    pub(super) fn turn(&mut self, each: &mut dyn FnMut(&[u8])) -> Option<Ended> {
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
                // What it started may hold its output open; what is there by now is all that counts.
                while let Some(Ok(line)) = self.lines.as_ref().map(|lines| lines.recv_timeout(TICK)) {
                    each(&line);
                }
                Some(ended(status))
            }
            _ => None,
        }
    }

    /// Ends it and everything in its process group.
    pub(super) fn end(&mut self, each: &mut dyn FnMut(&[u8])) {
        signal(&self.child, false);
        let end = Instant::now() + GRACE;
        let mut has_ended = false;
        // What it started may take longer to end than it does itself.
        while Instant::now() < end && !(has_ended && is_gone(&self.child)) {
            has_ended = self.turn(each).is_some() || has_ended;
        }
        signal(&self.child, true);
        let _ = self.child.wait();
        let end = Instant::now() + GRACE / 6;
        while Instant::now() < end && !is_gone(&self.child) {
            thread::sleep(Duration::from_millis(2));
        }
    }

    pub(super) fn took(&self) -> Duration {
        self.begun.elapsed()
    }
}

/// Runs a program to its end. `each` gets every line of its output as it comes.
pub(crate) fn run(
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
    loop {
        if let Some(ended) = running.turn(each) {
            return Outcome { ended, took: running.took() };
        }
        let ended = if is_cancelled() {
            Ended::Cancelled
        } else if running.took() > limit {
            Ended::TooLong
        } else {
            continue;
        };
        running.end(each);
        return Outcome { ended, took: running.took() };
    }
}

/// Runs a program that gets the terminal.
pub(super) fn run_on_terminal(command: &mut Command) -> Outcome {
    let begun = Instant::now();
    let ended = match command.status() {
        Ok(status) => ended(status),
        Err(error) => not_started(command, &error),
    };
    Outcome { ended, took: begun.elapsed() }
}

pub(super) fn not_started(command: &Command, error: &std::io::Error) -> Ended {
    let program = Path::new(command.get_program());
    let program = program.strip_prefix("/").unwrap_or(program).display();
    Ended::NotStarted(match error.kind() {
        std::io::ErrorKind::NotFound => format!("there is no program {program} on this machine's PATH"),
        _ => format!("{program}: {error}"),
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

#[cfg(unix)]
fn own_group(command: &mut Command) {
    use std::os::unix::process::CommandExt;
    command.process_group(0);
}

#[cfg(not(unix))]
fn own_group(_: &mut Command) {}

/// Asks the process group to end, or ends it.
#[cfg(unix)]
fn signal(child: &Child, at_once: bool) {
    use rustix::process::{Pid, Signal, kill_process_group};
    let signal = if at_once { Signal::KILL } else { Signal::TERM };
    if let Some(group) = i32::try_from(child.id()).ok().and_then(Pid::from_raw) {
        // A group that is gone needs no signal.
        let _ = kill_process_group(group, signal);
    }
}

/// Whether nothing of the process group is left.
#[cfg(unix)]
fn is_gone(child: &Child) -> bool {
    use rustix::process::{Pid, test_kill_process_group};
    let group = i32::try_from(child.id()).ok().and_then(Pid::from_raw);
    group.is_none_or(|group| test_kill_process_group(group).is_err())
}

#[cfg(not(unix))]
fn is_gone(_: &Child) -> bool {
    true
}

#[cfg(not(unix))]
fn signal(child: &Child, at_once: bool) {
    if at_once {
        let _ = std::process::Command::new("taskkill")
            .args(["/T", "/F", "/PID", &child.id().to_string()])
            .status();
    }
}
