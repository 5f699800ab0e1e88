//! The route `/{= route =}`.

/// All of them, as JSON: the start of what it is to answer.
pub fn all() -> String {
    "[]".into()
}
