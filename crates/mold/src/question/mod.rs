//! Questions: their kinds, rules and forms, and whether a value may be the answer.

mod definition;
mod form;
mod refusal;
mod typed;
mod validate;

pub use definition::{Kind, Offered, OptionInfo, Question, Rules, in_order, with_required};
pub use form::{Form, bent};
pub use refusal::Refusal;
pub use typed::typed;
pub use validate::check_value;
