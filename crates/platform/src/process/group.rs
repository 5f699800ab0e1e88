//! Process groups: a program and everything that it started end together.

use std::process::{Child, Command};

/// Puts the program into a process group of its own.
#[cfg(unix)]
pub(super) fn own_group(command: &mut Command) {
    use std::os::unix::process::CommandExt;
    command.process_group(0);
}

#[cfg(not(unix))]
pub(super) fn own_group(_: &mut Command) {}

/// Sends SIGTERM to the group, or SIGKILL with `at_once`.
#[cfg(unix)]
pub(super) fn signal(child: &Child, at_once: bool) {
    use rustix::process::{Signal, kill_process_group};
    let signal = if at_once { Signal::KILL } else { Signal::TERM };
    if let Some(group) = group_of(child)
        && let Err(error) = kill_process_group(group, signal)
        && error != rustix::io::Errno::SRCH
    {
        tracing::warn!(%error, process = child.id(), "cannot signal a process group");
    }
}

#[cfg(not(unix))]
pub(super) fn signal(child: &Child, at_once: bool) {
    if at_once
        && let Err(error) =
            Command::new("taskkill").args(["/T", "/F", "/PID", &child.id().to_string()]).status()
    {
        tracing::warn!(%error, process = child.id(), "cannot end a process tree");
    }
}

/// Returns true when no process of the group is left.
#[cfg(unix)]
pub(super) fn is_gone(child: &Child) -> bool {
    group_of(child).is_none_or(|group| rustix::process::test_kill_process_group(group).is_err())
}

#[cfg(not(unix))]
pub(super) fn is_gone(_: &Child) -> bool {
    true
}

#[cfg(unix)]
fn group_of(child: &Child) -> Option<rustix::process::Pid> {
    i32::try_from(child.id()).ok().and_then(rustix::process::Pid::from_raw)
}
