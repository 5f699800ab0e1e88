//! Answers: their sources, and the session that asks the questions.
//!
//! `provenance` names the sources of answers; `sources` and `sheet` read answers; `resolve`
//! computes every value from the given ones; `session` holds the state of an interview; `schema`
//! and `sheet` write what can be answered.

mod assign;
mod minted;
mod provenance;
mod resolve;
mod schema;
mod session;
mod sheet;
mod sources;

pub use provenance::{AnswerSource, BuiltIns, Given, Offers};
pub use resolve::{Resolution, ResolvedAnswer, judge};
pub use schema::json_schema;
pub use session::{Answers, Problem, Session, SessionState, display_label, display_value};
pub(crate) use sheet::as_toml;
pub use sheet::{SheetAnswers, SheetError, SheetFormat, blank_sheet, full_sheet, read_sheet, sheet_of};
pub use sources::{SetError, parse_set, parse_text};
