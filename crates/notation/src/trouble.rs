//! Why a step of a program failed.

use crate::finding::Code;

/// Why a step of a program failed; its place is known to the machine.
#[derive(Debug)]
pub(crate) struct Trouble {
    pub(crate) code: Code,
    pub(crate) message: String,
}

/// A trouble, boxed so that the steps that go well hand nothing large around.
pub(crate) fn trouble(code: Code, message: impl Into<String>) -> Box<Trouble> {
    Box::new(Trouble { code, message: message.into() })
}
