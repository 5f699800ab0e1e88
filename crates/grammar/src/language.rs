//! The languages, by the names of files.

/// A language that has a grammar.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Language {
    /// C.
    C,
    /// CSS.
    Css,
    /// Go.
    Go,
    /// HTML.
    Html,
    /// Java.
    Java,
    /// JavaScript, also with elements.
    JavaScript,
    /// JSON, also with comments.
    Json,
    /// Python.
    Python,
    /// Rust.
    Rust,
    /// Shell.
    Shell,
    /// TOML.
    Toml,
    /// TypeScript.
    TypeScript,
    /// TypeScript with elements.
    TypeScriptElements,
    /// YAML.
    Yaml,
}

impl Language {
    /// Returns its name.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::C => "C",
            Self::Css => "CSS",
            Self::Go => "Go",
            Self::Html => "HTML",
            Self::Java => "Java",
            Self::JavaScript => "JavaScript",
            Self::Json => "JSON",
            Self::Python => "Python",
            Self::Rust => "Rust",
            Self::Shell => "shell",
            Self::Toml => "TOML",
            Self::TypeScript | Self::TypeScriptElements => "TypeScript",
            Self::Yaml => "YAML",
        }
    }

    /// Returns the language of a file by its name.
    ///
    /// ```
    /// use tinmold_grammar::Language;
    /// assert_eq!(Language::of_path("src/harbour/app.py"), Some(Language::Python));
    /// assert_eq!(Language::of_path("LICENSE"), None);
    /// ```
    #[must_use]
    pub fn of_path(path: &str) -> Option<Self> {
        let name = path.rsplit('/').next().unwrap_or(path);
        let extension = name.rsplit_once('.').map_or("", |(_, extension)| extension);
        Some(match extension.to_ascii_lowercase().as_str() {
            "c" | "h" => Self::C,
            "css" => Self::Css,
            "go" => Self::Go,
            "html" | "htm" => Self::Html,
            "java" => Self::Java,
            "js" | "mjs" | "cjs" | "jsx" => Self::JavaScript,
            "json" | "jsonc" => Self::Json,
            "py" | "pyi" => Self::Python,
            "rs" => Self::Rust,
            "sh" | "bash" => Self::Shell,
            "toml" => Self::Toml,
            "ts" | "mts" | "cts" => Self::TypeScript,
            "tsx" => Self::TypeScriptElements,
            "yaml" | "yml" => Self::Yaml,
            _ => return None,
        })
    }
}
