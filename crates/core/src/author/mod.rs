//! For those who make molds: answers that try a mold, and a check of all of it.

mod combinations;
mod rehearsal;

pub use combinations::combinations;
pub use rehearsal::check;
