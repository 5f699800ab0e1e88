//! The options that every command has.

use crate::args::Args;

/// The options that every command has, passed down to what needs them.
#[derive(Clone, Copy, Debug, Default)]
pub struct GlobalOptions {
    /// No colour, no full screen, no animation.
    pub plain: bool,
    /// Print errors only.
    pub quiet: bool,
    /// Never use the network.
    pub offline: bool,
    /// Print more.
    pub verbose: bool,
}

impl GlobalOptions {
    /// Reads them from the command line.
    #[must_use]
    pub fn of(args: &Args) -> Self {
        Self { plain: args.plain, quiet: args.quiet, offline: args.offline, verbose: args.verbose }
    }

    /// Returns true if no progress bar may be shown.
    #[must_use]
    pub fn hides_progress(self) -> bool {
        self.plain || self.quiet
    }
}
