//! Watching a write, and stopping it.

/// Is told of progress, and can stop a write.
pub trait Observer: Sync {
    /// `done` of `total` files are written.
    fn wrote(&self, done: usize, total: usize) {
        let _ = (done, total);
    }

    /// Returns true to stop the write; the destination is then as before.
    fn is_cancelled(&self) -> bool {
        false
    }
}

impl Observer for () {}
