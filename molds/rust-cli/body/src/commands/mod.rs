//! One file a command.

pub mod count;
// tinmold:seam commands
