//! What helps those who write molds.

mod combinations;

pub use combinations::combinations;
