//! The languages that text is quoted for.

use crate::view::View;

/// The language that a text is quoted for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[expect(missing_docs, reason = "the names are those of the languages")]
pub enum Quoting {
    Json,
    Toml,
    Yaml,
    Xml,
    Shell,
    Batch,
    Python,
    JavaScript,
    Rust,
    Go,
    Java,
    C,
    Make,
    Env,
    Ini,
    Container,
    Markdown,
}

impl Quoting {
    /// Returns the language of a view that quotes; `None` for every other view.
    pub(crate) fn of(view: View) -> Option<Self> {
        Some(match view {
            View::TextJson => Self::Json,
            View::TextToml => Self::Toml,
            View::TextYaml => Self::Yaml,
            View::Xml => Self::Xml,
            View::Shell => Self::Shell,
            View::Batch => Self::Batch,
            View::Python => Self::Python,
            View::JavaScript => Self::JavaScript,
            View::Rust => Self::Rust,
            View::Go => Self::Go,
            View::Java => Self::Java,
            View::C => Self::C,
            View::Make => Self::Make,
            View::Env => Self::Env,
            View::Ini => Self::Ini,
            View::Container => Self::Container,
            View::Markdown => Self::Markdown,
            _ => return None,
        })
    }

    /// Returns true if quotes go round every text; else only signs with a meaning are escaped.
    pub(crate) fn delimits(self) -> bool {
        !matches!(self, Self::Xml | Self::Batch | Self::Make | Self::Markdown | Self::Ini)
    }

    /// Returns the name of the view.
    pub(crate) fn view(self) -> &'static str {
        match self {
            Self::Json => "json",
            Self::Toml => "toml",
            Self::Yaml => "yaml",
            Self::Xml => "xml",
            Self::Shell => "shell",
            Self::Batch => "batch",
            Self::Python => "python",
            Self::JavaScript => "javascript",
            Self::Rust => "rust",
            Self::Go => "go",
            Self::Java => "java",
            Self::C => "c",
            Self::Make => "make",
            Self::Env => "env",
            Self::Ini => "ini",
            Self::Container => "container",
            Self::Markdown => "markdown",
        }
    }
}
