//! The flat program that a source is compiled to.

use crate::finding::{Code, Finding};
use crate::scope::{NameId, Scope};
use crate::span::Span;
use crate::types::{ChoicesId, Type};
use crate::view::View;
use std::sync::Arc;

/// One step. Steps that take values take them from a stack, the last one on top.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Op<'s> {
    /// Puts in a text of the source.
    Text(&'s str),
    /// Renders a text that is not in the source in this form.
    OwnText(u32),
    /// Puts in a comma of a JSON body that may have to go.
    Comma,
    PutName(NameId),
    PutLocal(u16),
    /// Puts in a text field, by its column, of the option in a local.
    PutLocalField(u16, u32),
    /// Puts in a text and the value of a name.
    PutTextName(&'s str, NameId),
    /// Renders the same, and a text.
    PutLocalFieldText(u16, u32, &'s str),
    /// Puts in the value on top.
    Put,
    /// Remembers the length of the output.
    Open,
    /// Puts the text in front of each further line since `Open`.
    Indent(&'s str),
    OwnIndent(u32),
    /// Checks what came out since `Open` as a piece of a file's name.
    CheckName {
        path: bool,
    },

    Literal(&'s str),
    OwnLiteral(u32),
    Integer(i64),
    Flag(bool),
    OptionLiteral(ChoicesId, u16),
    Name(NameId),
    Local(u16),
    List(u32),

    Value,
    Label,
    Field(ChoicesId, u16),
    View(View, u8),
    Not,
    Negate,
    Join,
    Add,
    Subtract,
    Multiply,
    Divide,
    Remainder,
    Concatenate,
    Equal,
    NotEqual,
    Less,
    LessEqual,
    Greater,
    GreaterEqual,
    In,

    Jump(u32),
    /// Takes a flag and jumps if it is false.
    Unless(u32),
    /// Jumps if the flag on top is false, else takes it.
    And(u32),
    /// Jumps if the flag on top is true, else takes it.
    Or(u32),
    /// Jumps unless the local is this value.
    UnlessOption(u16, u16, u32),
    UnlessInteger(u16, i64, u32),
    UnlessText(u16, u32, u32),
    SetLocal(u16),

    /// Takes a list and begins its first round, or jumps if there is none.
    For {
        element: u16,
        counter: u16,
        exit: u32,
    },
    /// Takes a list and renders all its rounds, which are simple. The routine's `rows` hold their
    /// parts.
    Rows(u32),
    /// Takes a flag that keeps the current element or not; goes on to the next one, or to the first
    /// round.
    Keep {
        again: u32,
        exit: u32,
    },
    /// Puts in a text on every round but the last.
    BetweenText(u32),
    /// Leaves the loop if this round is the last.
    LeaveIfLast(u32),
    /// Begins the next round.
    NextRound(u32),
    /// Begins the next round, or leaves the loop after the last.
    Round(u32),
    /// Runs a fragment with its arguments on the stack. The routine's `placings` say how.
    Place(u32),
    /// Notes that a place of the source was reached.
    Reached(u32),
}

/// Marks a loop without a counter.
pub(crate) const NO_COUNTER: u16 = u16::MAX;

/// A part of a simple round.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Part<'s> {
    Text(&'s str),
    Name(NameId),
    /// The element itself.
    Element,
    /// A text field of the element, by its column.
    Column(u32),
    /// Renders the same, and a text.
    ColumnText(u32, &'s str),
    /// A text on every round but the last.
    Between(u32),
}

/// How a fragment is placed.
#[derive(Debug)]
pub(crate) struct Placing<'s> {
    pub(crate) routine: u32,
    pub(crate) arguments: u16,
    pub(crate) indent: Box<str>,
    /// The text after a `place` that is alone on its line; it is dropped if the fragment renders
    /// nothing.
    pub(crate) alone: Option<&'s str>,
}

/// The steps of one source.
#[derive(Debug)]
pub(crate) struct Routine<'s> {
    pub(crate) ops: Vec<Op<'s>>,
    pub(crate) placings: Vec<Placing<'s>>,
    /// The parts of simple loops, round by round.
    pub(crate) rows: Vec<Vec<Part<'s>>>,
    /// The spans of the steps that can fail, in the order of the steps.
    pub(crate) spans: Vec<(u32, Span)>,
    pub(crate) locals: u16,
    pub(crate) file: Arc<str>,
}

/// A compiled source. It can be rendered many times, from several threads.
#[derive(Debug)]
pub struct Program<'s> {
    pub(crate) routines: Vec<Routine<'s>>,
    pub(crate) texts: Vec<Box<str>>,
    /// The text fields that are put in from locals: the text of each option.
    pub(crate) columns: Vec<Vec<&'s str>>,
    pub(crate) scope: &'s Scope,
    pub(crate) json: bool,
    pub(crate) of: Type,
}

impl Program<'_> {
    /// Returns the type of its value, for a program that was compiled from an expression; else a text.
    #[must_use]
    pub fn value_type(&self) -> Type {
        self.of
    }

    pub(crate) fn finding(&self, routine: usize, op: usize, code: Code, message: String) -> Finding {
        let routine = &self.routines[routine];
        let known = routine.spans.binary_search_by_key(&op, |(at, _)| *at as usize);
        let span = known.map_or_else(
            |at| at.checked_sub(1).map_or(Span::default(), |before| routine.spans[before].1),
            |at| routine.spans[at].1,
        );
        let help = match code {
            Code::LimitReached => "the loops of this mold make more than a cast may hold",
            Code::DivisionByZero => "test the divisor with `if` first",
            Code::OutsideList => "test with `empty` or `len` first",
            Code::Overflow => "integers go from -9223372036854775808 to 9223372036854775807",
            Code::EmptyInName => {
                "put the value between `if` and `end` to leave the entry out, or give the answer a form"
            }
            Code::SlashInName => "only `dirs` and answers of form `path` may open into several folders",
            _ => "",
        };
        Finding::new(Arc::clone(&routine.file), span, code, message, help)
    }
}
