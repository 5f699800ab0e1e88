//! One file a command.

pub mod cast;
pub mod demo;
