//! Ctrl-C and other signals: at once at rest, in good order while something is written or the screen is taken.

use crate::exit::Exit;
use crate::progress::Progress;
#[cfg(unix)]
use signal_hook::consts::{SIGHUP, SIGTSTP};
use signal_hook::consts::{SIGINT, SIGTERM};
use signal_hook::flag;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, LazyLock, Once};
use tinmold_project::write::Observer;

/// True while nothing is being written, so that the program may end at once.
static AT_REST: LazyLock<Arc<AtomicBool>> = LazyLock::new(|| Arc::new(AtomicBool::new(true)));
/// True if Ctrl-C was pressed during a write.
static WANTED: LazyLock<Arc<AtomicBool>> = LazyLock::new(Arc::default);

/// True unless the screen is taken, so that a signal to end or stop acts as it does by itself.
static UNHELD: LazyLock<Arc<AtomicBool>> = LazyLock::new(|| Arc::new(AtomicBool::new(true)));
/// True if such a signal came while the screen was taken.
static ENDED: LazyLock<Arc<AtomicBool>> = LazyLock::new(Arc::default);
static STOPPED: LazyLock<Arc<AtomicBool>> = LazyLock::new(Arc::default);

/// Holds signals back while it lives, for who gives the terminal back before acting on them.
pub struct Held;

impl Held {
    pub fn new() -> Self {
        static REGISTERED: Once = Once::new();
        REGISTERED.call_once(|| {
            #[cfg(unix)]
            let signals = [(SIGTERM, &ENDED), (SIGHUP, &ENDED), (SIGTSTP, &STOPPED)];
            #[cfg(not(unix))]
            let signals = [(SIGTERM, &ENDED)];
            for (signal, flag) in signals {
                let registered = flag::register_conditional_default(signal, Arc::clone(&UNHELD))
                    .and_then(|_| flag::register(signal, Arc::clone(flag)));
                if let Err(error) = registered {
                    tracing::warn!(%error, signal, "cannot handle a signal");
                }
            }
        });
        // A stop that acted by itself is no wish any more.
        STOPPED.store(false, Ordering::SeqCst);
        AT_REST.store(false, Ordering::SeqCst);
        UNHELD.store(false, Ordering::SeqCst);
        Self
    }
}

impl Drop for Held {
    fn drop(&mut self) {
        AT_REST.store(true, Ordering::SeqCst);
        UNHELD.store(true, Ordering::SeqCst);
    }
}

/// Returns true once a signal to end came.
pub fn is_ended() -> bool {
    WANTED.load(Ordering::Relaxed) || ENDED.load(Ordering::Relaxed)
}

/// Returns true once for a signal to stop.
pub fn is_stopped() -> bool {
    STOPPED.swap(false, Ordering::Relaxed)
}

/// Stops the program until it is called on again.
pub fn suspend() {
    #[cfg(unix)]
    if let Err(error) = signal_hook::low_level::emulate_default_handler(SIGTSTP) {
        tracing::warn!(%error, "cannot stop");
    }
}

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
