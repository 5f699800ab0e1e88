//! Ctrl-C: at once while people answer, in good order while something is written.

use crate::exit::Exit;
use crate::progress::Progress;
use signal_hook::consts::SIGINT;
use signal_hook::flag;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, LazyLock};
use tinmold_project::write::Observer;

/// True while nothing is being written, so that the program may end at once.
static AT_REST: LazyLock<Arc<AtomicBool>> = LazyLock::new(|| Arc::new(AtomicBool::new(true)));
/// True if Ctrl-C was pressed during a write.
static WANTED: LazyLock<Arc<AtomicBool>> = LazyLock::new(Arc::default);

/// Takes over what Ctrl-C does.
pub fn listen() {
    let registered =
        flag::register_conditional_shutdown(SIGINT, Exit::Interrupted as i32, Arc::clone(&AT_REST))
            .and_then(|_| flag::register(SIGINT, Arc::clone(&WANTED)));
    if let Err(error) = registered {
        // The system's own reaction ends the program too.
        tracing::warn!(%error, "cannot handle Ctrl-C");
    }
}

/// Watches a write: shows how far it is, and while it lives, Ctrl-C makes it stop in good order.
pub struct Watch(Progress);

impl Watch {
    pub fn new(hidden: bool) -> Self {
        AT_REST.store(false, Ordering::SeqCst);
        Self(Progress::new(hidden))
    }
}

impl Drop for Watch {
    fn drop(&mut self) {
        AT_REST.store(true, Ordering::SeqCst);
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
