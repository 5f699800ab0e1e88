//! Answers to try a mold with.
//!
//! `answer_set` is one of them, `factors` are the choices of a mold, `combinations` lets every few of them meet,
//! `chosen` are those that a mold is tried with, `texts` are answers that break out of careless quoting, `smallest` leaves out what does not matter.

mod answer_set;
mod chosen;
mod combinations;
mod factors;
mod smallest;
mod texts;

pub use answer_set::AnswerSet;
pub(crate) use answer_set::{applicable, built_ins, given, session};
pub use chosen::{BadAnswers, approved_sets};
pub(crate) use chosen::{plain, with_odd_texts};
pub use combinations::combinations;
pub(crate) use factors::{enumerated, of_snippet};
pub(crate) use smallest::smallest;
