//! What a mold holds, read and checked: every mistake of an author is found here.
//!
//! `manifest` is `mold.toml` as it stands, `snippet` a rendered text or expression of it, `texts` those that are shown at the end of a cast, `question` a question with its
//! types, `loader` puts them together, `part` does so for a part of the mold, `body` finds what becomes of each body file, `check` finds the mistakes that only show
//! in the whole.

mod body;
mod check;
mod derived;
mod finish;
mod loader;
mod manifest;
mod part;
mod question;
mod question_reader;
mod snippet;
mod texts;

pub(crate) use body::name_label;
pub use body::{BodyFile, EachRule, Said, named_entry};
pub use check::Usage;
pub use finish::{FinishStep, Need, StepAction};
pub use loader::{Mold, MoldError, Step};
pub use manifest::{Header, Owner, TourStop};
pub use part::{Part, PartEdit, PartSeam, Piece};
pub use question::{Kind, Offered, OptionInfo, Question, Rules};
pub use snippet::Snippet;
pub(crate) use snippet::has_tag;
pub use texts::Texts;

pub(crate) use question::typed;
