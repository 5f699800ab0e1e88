//! One file for each command.

pub mod assay;
pub mod cast;
pub mod check;
pub mod completion;
pub mod demo;
mod dry_run;
pub mod find;
pub mod finish;
pub mod fit;
pub mod help;
pub mod pack;
pub mod preflight;
pub mod prove;
pub mod recast;
pub mod settings;
pub mod shelf;
pub mod show;
pub mod status;
mod undo;
