//! Ctrl-C: at once while people answer, in good order while something is written.

use crate::exit::Exit;
use crate::progress::Progress;
use std::sync::atomic::{AtomicBool, Ordering};
use tinmold_core::write::Observer;

static WRITING: AtomicBool = AtomicBool::new(false);
static WANTED: AtomicBool = AtomicBool::new(false);

/// Takes over what Ctrl-C does.
pub fn listen() {
    // Without a handler the system's own reaction stands, which ends the program too.
    let _ = ctrlc::set_handler(|| {
        if WRITING.load(Ordering::SeqCst) {
            WANTED.store(true, Ordering::SeqCst);
        } else {
            std::process::exit(Exit::Interrupted as i32);
        }
    });
}

/// Watches a write: shows how far it is, and while it lives, Ctrl-C makes it stop in good order.
pub struct Watch(Progress);

impl Watch {
    pub fn new(hidden: bool) -> Self {
        WRITING.store(true, Ordering::SeqCst);
        Self(Progress::new(hidden))
    }
}

impl Drop for Watch {
    fn drop(&mut self) {
        WRITING.store(false, Ordering::SeqCst);
    }
}

impl Observer for Watch {
    fn wrote(&self, done: usize, of: usize) {
        self.0.at(done, of);
    }

    fn is_cancelled(&self) -> bool {
        WANTED.load(Ordering::Relaxed)
    }
}
