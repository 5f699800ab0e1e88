//! Waiting for what is typed.

use std::time::Duration;

/// What came of waiting.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Waited {
    /// Something was typed.
    Typed,
    /// Nothing was; or a signal came.
    Nothing,
    /// The terminal was closed: nothing will be typed any more.
    Lost,
}

/// Waits so long until something is typed on standard input.
///
/// Elsewhere than on Unix it does not wait, and tells of nothing that was lost.
///
/// # Errors
/// What the system says.
pub fn wait_for_input(wait: Duration) -> std::io::Result<Waited> {
    #[cfg(unix)]
    {
        use rustix::event::{PollFd, PollFlags, Timespec, poll};
        let stdin = std::io::stdin();
        let mut fds = [PollFd::new(&stdin, PollFlags::IN)];
        let timeout = Timespec { tv_sec: wait.as_secs() as i64, tv_nsec: i64::from(wait.subsec_nanos()) };
        match poll(&mut fds, Some(&timeout)) {
            Err(rustix::io::Errno::INTR) => return Ok(Waited::Nothing),
            Err(error) => return Err(error.into()),
            Ok(_) => {}
        }
        let found = fds[0].revents();
        Ok(if found.intersects(PollFlags::HUP | PollFlags::ERR | PollFlags::NVAL) {
            Waited::Lost
        } else if found.contains(PollFlags::IN) {
            Waited::Typed
        } else {
            Waited::Nothing
        })
    }
    #[cfg(not(unix))]
    {
        let _ = wait;
        Ok(Waited::Typed)
    }
}
