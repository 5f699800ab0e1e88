//! A bar for what takes longer than half a second.

use crate::text::style::{WARN, safe, size};
use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};
use std::io::IsTerminal;
use std::sync::{Mutex, OnceLock, PoisonError};
use std::time::{Duration, Instant};
use tinmold_shelf::DownloadObserver;

/// The delay before a progress bar is shown.
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

/// Shows the progress of downloads, and prints their notes.
pub struct Downloads {
    shown: bool,
    at_work: Mutex<Option<(Instant, Option<ProgressBar>)>>,
}

impl Downloads {
    /// No bar is ever shown without a terminal, nor if `hidden`.
    pub fn new(hidden: bool) -> Self {
        Self { shown: !hidden && std::io::stderr().is_terminal(), at_work: Mutex::new(None) }
    }
}

impl DownloadObserver for Downloads {
    fn received(&self, what: &str, bytes: u64, of: Option<u64>) {
        if !self.shown {
            return;
        }
        let mut at_work = self.at_work.lock().unwrap_or_else(PoisonError::into_inner);
        let (begun, bar) = at_work.get_or_insert_with(|| (Instant::now(), None));
        // Without a known length, a spinner is shown.
        if begun.elapsed() < PATIENCE && bytes > 0 {
            return;
        }
        let bar = bar.get_or_insert_with(|| {
            let bar = ProgressBar::with_draw_target(of, ProgressDrawTarget::stderr_with_hz(10));
            let template = if of.is_some() {
                "Fetching {msg} {bar:24} {bytes} of {total_bytes}"
            } else {
                "Fetching {msg} {spinner}"
            };
            // The templates are constants of this file.
            if let Ok(style) = ProgressStyle::with_template(template) {
                bar.set_style(style.progress_chars("■■□"));
            }
            if of.is_none() {
                bar.enable_steady_tick(Duration::from_millis(120));
            }
            bar
        });
        bar.set_message(if of.is_some() || bytes == 0 {
            safe(what)
        } else {
            format!("{}, {}", safe(what), size(bytes))
        });
        bar.set_position(bytes);
    }

    fn finished(&self) {
        let ended = self.at_work.lock().unwrap_or_else(PoisonError::into_inner).take();
        if let Some((_, Some(bar))) = ended {
            bar.finish_and_clear();
        }
    }

    fn note(&self, line: &str) {
        say!("{WARN}note:{WARN:#} {}", safe(line));
    }
}
