//! For authors: combinations of answers that try a mold, and a check of the mold with its parts.

mod combinations;
mod rehearsal;

pub use combinations::combinations;
pub use rehearsal::check;
