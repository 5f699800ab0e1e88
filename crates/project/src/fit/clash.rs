//! Values that are in the way of an edit.

/// What becomes of a value that is in the way of an edit.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum OnClash {
    /// Nobody has said: the file is left as it is.
    #[default]
    Ask,
    /// It stays, and the rest of the edit is made.
    Keep,
    /// The new one takes its place.
    Replace,
}
