//! The setting-up of a project as a form that is filled in in any order, without a terminal.
//!
//! `state` holds the answers with what was typed and refused, and takes back what was done; `ticks` decides
//! what ticking an option forces and forbids; `rows` lists what stands in the form; `draft` keeps what a user
//! gave for the next time.

mod draft;
mod rows;
mod state;
mod ticks;

pub use draft::{draft_of, take_draft};
pub use rows::{SetupRow, rows};
pub use state::{Alternative, Rejected, Setup, Standing};
pub use ticks::Ticked;
