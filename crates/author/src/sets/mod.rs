//! Answers to try a mold with.
//!
//! `answer_set` is one of them, `factors` are the choices of a mold, `combinations` lets every few of them meet,
//! `texts` are answers that break out of careless quoting, `smallest` leaves out what does not matter.

mod answer_set;
mod combinations;
mod factors;
mod smallest;
mod texts;

pub use answer_set::AnswerSet;
pub(crate) use answer_set::{built_ins, given, session};
pub use combinations::combinations;
pub(crate) use factors::{enumerated, of_snippet};
pub(crate) use smallest::smallest;
pub(crate) use texts::odd_texts;
