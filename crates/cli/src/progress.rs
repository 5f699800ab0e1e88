//! A bar for what takes longer than half a second.

use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};
use std::io::IsTerminal;
use std::sync::OnceLock;
use std::time::{Duration, Instant};

/// How long something may take before a bar is shown.
const PATIENCE: Duration = Duration::from_millis(500);

/// Shows how far something is, on a terminal only.
pub struct Progress {
    begun: Instant,
    shown: bool,
    bar: OnceLock<ProgressBar>,
}

impl Progress {
    /// Begins to wait. Nothing is ever shown without a terminal, nor if `hidden`.
    pub fn new(hidden: bool) -> Self {
        let shown = !hidden && std::io::stderr().is_terminal();
        Self { begun: Instant::now(), shown, bar: OnceLock::new() }
    }

    /// Says that `done` of `of` are done.
    pub fn at(&self, done: usize, of: usize) {
        if !self.shown || self.begun.elapsed() < PATIENCE {
            return;
        }
        let bar = self.bar.get_or_init(|| {
            let bar = ProgressBar::with_draw_target(Some(of as u64), ProgressDrawTarget::stderr_with_hz(10));
            // The template is a constant of this file.
            if let Ok(style) = ProgressStyle::with_template("Writing {bar:30} {pos} of {len} files") {
                bar.set_style(style.progress_chars("■■□"));
            }
            bar
        });
        bar.set_position(done as u64);
    }
}

impl Drop for Progress {
    fn drop(&mut self) {
        if let Some(bar) = self.bar.get() {
            bar.finish_and_clear();
        }
    }
}
