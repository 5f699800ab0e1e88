//! One file a command.

pub mod count;
