//! Why a step of a program failed.

use crate::finding::Code;

/// A failed step of a program; the machine knows its span.
#[derive(Debug)]
pub(crate) struct Trouble {
    pub(crate) code: Code,
    pub(crate) message: String,
}

/// Makes a boxed trouble, so that results stay small.
pub(crate) fn trouble(code: Code, message: impl Into<String>) -> Box<Trouble> {
    Box::new(Trouble { code, message: message.into() })
}
