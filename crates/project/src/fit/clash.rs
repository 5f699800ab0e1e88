//! Values that are in the way of an edit.

/// How an edit treats a conflicting value.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum OnClash {
    /// Undecided: the file stays as it is.
    #[default]
    Ask,
    /// The value stays, and the rest of the edit is applied.
    Keep,
    /// The new value replaces it.
    Replace,
}
