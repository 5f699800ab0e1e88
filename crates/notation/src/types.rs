//! The types of values.

/// The ID of a set of options; returned by [`Scope::add_choices`](crate::Scope::add_choices).
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ChoicesId(pub(crate) u16);

/// The type of a value.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Type {
    /// Text of any length.
    Text,
    /// A whole number of 64 bits.
    Integer,
    /// `true` or `false`.
    Flag,
    /// One of a question's options.
    Option {
        /// The options.
        of: ChoicesId,
        /// True if it may be no option, as when its question does not apply.
        or_none: bool,
    },
    /// Several values of one type.
    List(Element),
    /// The type of a mistake; it fits everywhere, so that one mistake is reported once.
    Unknown,
}

/// The type of a list's elements.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Element {
    /// Texts.
    Text,
    /// Integers.
    Integer,
    /// Flags.
    Flag,
    /// Options.
    Option(ChoicesId),
    /// Not known yet: the elements of `[]`.
    Open,
}

impl Element {
    /// Returns the type of one element.
    #[must_use]
    pub fn single(self) -> Type {
        match self {
            Self::Text => Type::Text,
            Self::Integer => Type::Integer,
            Self::Flag => Type::Flag,
            Self::Option(of) => Type::Option { of, or_none: false },
            Self::Open => Type::Unknown,
        }
    }

    /// Returns the element type of a list of values of type `of`; none for a list of lists.
    #[must_use]
    pub fn of(of: Type) -> Option<Self> {
        Some(match of {
            Type::Text => Self::Text,
            Type::Integer => Self::Integer,
            Type::Flag => Self::Flag,
            Type::Option { of, .. } => Self::Option(of),
            Type::Unknown => Self::Open,
            Type::List(_) => return None,
        })
    }
}

impl Type {
    /// Returns the one type that both fit, if there is one.
    #[must_use]
    pub fn joined(self, other: Self) -> Option<Self> {
        Some(match (self, other) {
            (Self::Unknown, any) | (any, Self::Unknown) => any,
            (Self::List(Element::Open), list @ Self::List(_)) => list,
            (list @ Self::List(_), Self::List(Element::Open)) => list,
            (Self::Option { of, or_none }, Self::Option { of: b, or_none: none }) if of == b => {
                Self::Option { of, or_none: or_none || none }
            }
            (a, b) if a == b => a,
            _ => return None,
        })
    }
}
