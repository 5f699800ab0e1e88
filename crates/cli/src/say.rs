//! Messages on standard error.

use std::sync::atomic::{AtomicBool, Ordering};

static SILENT: AtomicBool = AtomicBool::new(false);

/// Says nothing from now on: a shell completes a line, and every word would be on it.
pub fn be_silent() {
    SILENT.store(true, Ordering::Relaxed);
}

/// Returns true if nothing is said.
pub fn is_silent() -> bool {
    SILENT.load(Ordering::Relaxed)
}

/// Prints a text on standard error, in colour where that is a terminal. If that fails (a closed or full
/// standard error), the work goes on: the exit code still tells how it ended.
macro_rules! say_text {
    ($($text:tt)*) => {{
        let text = format!($($text)*);
        if $crate::say::is_silent() {
            tracing::debug!(text, "not said");
        } else if let Err(error) = std::io::Write::write_all(&mut anstream::stderr(), text.as_bytes()) {
            tracing::debug!(%error, "cannot write a message");
        }
    }};
}

/// Prints a line on standard error, like [`say_text!`].
macro_rules! say {
    () => { say_text!("\n") };
    ($($text:tt)*) => { say_text!("{}\n", format_args!($($text)*)) };
}
