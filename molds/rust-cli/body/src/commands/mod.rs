//! One file a command.

pub mod count;
// joint: commands (tinmold)
