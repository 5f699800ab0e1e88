//! From questions to answers: forms, sources, and the session that walks a person through them. No terminal is known here.
//!
//! `check` judges a value, `form` a text by its form; `settle` computes every value from what was given; `session` keeps
//! what was given while a person answers; `sources` reads what the command line and the environment say.

mod check;
pub(crate) mod form;
mod given;
mod minted;
mod schema;
mod session;
mod settle;
mod sheet;
mod sources;

pub use check::{Refusal, check_value};
pub use form::Form;
pub use given::{BuiltIns, Given, Offers, Source};
pub use schema::json_schema;
pub use session::{Answers, Problem, Session, written};
pub use settle::{Settled, Settlement, judge};
pub(crate) use sheet::as_toml;
pub use sheet::{
    SheetAnswers, SheetError, SheetFormat, blank_sheet, read_sheet, written_sheet, written_sheet_of,
};
pub use sources::{SetError, parse_set, parse_text};
