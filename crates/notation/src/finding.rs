//! Findings of the checker, as data for any interface.

use crate::span::{Position, Span};
use serde::Serialize;
use std::sync::Arc;

/// The severity of a finding.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Severity {
    /// The mold cannot be used until it is corrected.
    Error,
    /// The mold works, and is probably not what was meant.
    Warning,
}

/// The stable name of a kind of finding, and how much such a finding weighs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Code {
    name: &'static str,
    severity: Severity,
}

impl Code {
    /// Returns a kind of mistake. Names are lower-case words with hyphens and never change.
    #[must_use]
    pub const fn error(name: &'static str) -> Self {
        Self { name, severity: Severity::Error }
    }

    /// Returns the kind of a finding.
    #[must_use]
    pub const fn warning(name: &'static str) -> Self {
        Self { name, severity: Severity::Warning }
    }

    /// Returns the code as it is printed.
    #[must_use]
    pub const fn as_str(self) -> &'static str {
        self.name
    }

    /// Returns the severity of findings of this kind.
    #[must_use]
    pub const fn severity(self) -> Severity {
        self.severity
    }
}

macro_rules! codes {
    ($($severity:ident { $($(#[doc = $doc:literal])* $constant:ident = $code:literal),* $(,)? })*) => {
        /// The notation's own codes.
        #[allow(non_upper_case_globals, reason = "they read like the variants that they stand for")]
        impl Code {
            $($($(#[doc = $doc])* pub const $constant: Self = Self::$severity($code);)*)*

            /// Every code of the notation, in the order of the reference.
            pub const ALL: &[Self] = &[$($(Self::$constant,)*)*];

            /// Every code of the notation with the mistake that it stands for.
            pub const DESCRIBED: &[(Self, &str)] = &[$($((Self::$constant, concat!($($doc),*)),)*)*];
        }
    };
}

codes! {
    error {
        /// A tag that no closing mark ends.
        UnclosedTag = "unclosed-tag",
        /// A quoted text that no quote ends.
        UnclosedText = "unclosed-text",
        /// A character that no expression holds.
        BadCharacter = "bad-character",
        /// A backslash in a text that begins no escape.
        BadEscape = "bad-escape",
        /// An integer that 64 bits do not hold.
        NumberTooBig = "number-too-big",
        /// Something else was expected here.
        Unexpected = "unexpected",
        /// Tags or expressions that are nested too deep.
        TooDeep = "too-deep",
        /// A source of more than 4 GiB.
        TooLarge = "too-large",
        /// A block that no `end` closes.
        UnclosedBlock = "unclosed-block",
        /// An `end`, `else`, `case` or `between` that belongs to nothing.
        StrayTag = "stray-tag",
        /// An `end` that names another block than the one it closes.
        WrongEnd = "wrong-end",
        /// A word of the language used as a name.
        ReservedWord = "reserved-word",
        /// A name that is defined twice or hides another.
        HiddenName = "hidden-name",
        /// A name that nothing defines.
        UnknownName = "unknown-name",
        /// A view that the type does not have.
        UnknownView = "unknown-view",
        /// A field that the options do not have.
        UnknownField = "unknown-field",
        /// A fragment that the mold does not have.
        UnknownFragment = "unknown-fragment",
        /// Fragments that place each other in a circle.
        FragmentCircle = "fragment-circle",
        /// A value of the wrong type.
        WrongType = "wrong-type",
        /// A view with more or fewer arguments than it takes.
        WrongArguments = "wrong-arguments",
        /// A list where a single value is put in.
        ListPutIn = "list-put-in",
        /// A text that none of the options has as its value.
        NotAnOption = "not-an-option",
        /// A `match` that leaves out options.
        MissingCase = "missing-case",
        /// A value that two cases name.
        RepeatedCase = "repeated-case",
        /// A `match` that needs an `else` and has none.
        MissingElse = "missing-else",
        /// A date pattern that means nothing.
        BadDatePattern = "bad-date-pattern",
        /// A tag that the name of a file or directory must not hold.
        TagInName = "tag-in-name",
        /// A name that has no value here.
        OutOfPlace = "out-of-place",
        /// A minted value outside a `local` file.
        MintedOutsideLocal = "minted-outside-local",
        /// While rendering: a sum, product or negation that 64 bits do not hold.
        Overflow = "overflow",
        /// While rendering: a division by zero.
        DivisionByZero = "division-by-zero",
        /// While rendering: `first`, `last` or `at` outside a list.
        OutsideList = "outside-list",
        /// While rendering: an argument that a view cannot use.
        BadArgument = "bad-argument",
        /// While rendering: the limit on steps and bytes was reached.
        LimitReached = "limit-reached",
        /// While rendering: a value in the name of a file or folder is empty.
        EmptyInName = "empty-in-name",
        /// While rendering: a value brings a slash into the name of a file or folder.
        SlashInName = "slash-in-name",
    }
    warning {
        /// A branch that can never be taken.
        DeadBranch = "dead-branch",
        /// Free text put without quoting into a file that has a syntax of its own.
        UnquotedText = "unquoted-text",
        /// Text that is quoted for another language than the file's.
        WrongQuoting = "wrong-quoting",
    }
}

impl std::fmt::Display for Code {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(self.as_str())
    }
}

impl Serialize for Code {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self.as_str())
    }
}

/// A mistake or warning, with its position and a way out.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Finding {
    /// The file it is in, as the mold names it.
    pub file: Arc<str>,
    /// The span in the file.
    pub span: Span,
    /// The kind of the finding.
    pub code: Code,
    /// The mistake, in a sentence without a full stop.
    pub message: String,
    /// The way out; empty if the message is enough.
    pub help: String,
    /// The name that the finding is about, for [`Code::UnknownName`].
    pub subject: Option<Box<str>>,
}

impl Finding {
    /// Makes a finding.
    #[must_use]
    pub fn new(
        file: impl Into<Arc<str>>,
        span: Span,
        code: Code,
        message: impl Into<String>,
        help: impl Into<String>,
    ) -> Self {
        Self { file: file.into(), span, code, message: message.into(), help: help.into(), subject: None }
    }

    /// Returns the severity.
    #[must_use]
    pub fn severity(&self) -> Severity {
        self.code.severity()
    }

    /// Returns true if the mold cannot be used until it is corrected.
    #[must_use]
    pub fn is_error(&self) -> bool {
        self.severity() == Severity::Error
    }

    /// Line and column in `source`, the text of its file.
    #[must_use]
    pub fn position(&self, source: &str) -> Position {
        Position::of(source, self.span.start as usize)
    }
}

/// Sorts findings by file and position, and drops duplicates.
pub fn sort_findings(findings: &mut Vec<Finding>) {
    findings
        .sort_by(|a, b| (&a.file, a.span, a.code, &a.message).cmp(&(&b.file, b.span, b.code, &b.message)));
    findings.dedup();
}
