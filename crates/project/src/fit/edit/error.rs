//! Why a file cannot be edited.

/// Why a file cannot be edited.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum EditError {
    /// The file is not of its format.
    #[error("it is not {format}: {reason} at line {line}, column {column}")]
    Malformed {
        /// The format.
        format: &'static str,
        /// The parser's message.
        reason: String,
        /// The line, from 1.
        line: usize,
        /// The column, from 1.
        column: usize,
    },
    /// The editing parser refuses the file.
    #[error("{0}")]
    Parser(String),
    /// The YAML file holds several documents.
    #[error("it holds several documents")]
    SeveralDocuments,
    /// Only JSON, TOML and YAML are edited.
    #[error("it is neither JSON nor TOML nor YAML")]
    Format,
    /// A value on the way is missing or has another type.
    #[error("a value of it cannot be found")]
    Lost,
    /// The file is written in a style that cannot be edited safely.
    #[error("it is written in a style that cannot be edited safely")]
    Style,
}
