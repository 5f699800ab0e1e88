//! The syntax of the text around the tags, as far as the notation cares for it.

use crate::quoting::Quoting;

/// The kind of a body file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default)]
pub enum Syntax {
    /// Anything else.
    #[default]
    Plain,
    /// JSON, with or without comments.
    Json,
    /// TOML.
    Toml,
    /// YAML.
    Yaml,
    /// XML.
    Xml,
    /// A POSIX shell script.
    Shell,
    /// A Windows command file.
    Batch,
    /// A makefile.
    Make,
    /// Python.
    Python,
    /// JavaScript or TypeScript.
    JavaScript,
    /// Rust.
    Rust,
    /// Go.
    Go,
    /// Java.
    Java,
    /// C.
    C,
    /// HTML.
    Html,
    /// A file of environment variables.
    Env,
    /// An INI file.
    Ini,
    /// A file that a container image is built from.
    Container,
}

impl Syntax {
    /// Tells by the path of a body file, tags in it included.
    ///
    /// ```
    /// use tinmold_notation::Syntax;
    /// assert_eq!(Syntax::of_path("web/{= name =}.json"), Syntax::Json);
    /// assert_eq!(Syntax::of_path("Makefile"), Syntax::Make);
    /// ```
    #[must_use]
    pub fn of_path(path: &str) -> Self {
        let name = memchr::memrchr(b'/', path.as_bytes()).map_or(path, |slash| &path[slash + 1..]);
        let extension = memchr::memrchr(b'.', name.as_bytes()).map_or("", |dot| &name[dot + 1..]);
        match extension {
            "json" | "jsonc" | "webmanifest" | "geojson" | "code-workspace" => Self::Json,
            "toml" => Self::Toml,
            "yaml" | "yml" => Self::Yaml,
            "xml" | "xsd" | "svg" | "csproj" | "pom" => Self::Xml,
            "sh" | "bash" => Self::Shell,
            "bat" | "cmd" => Self::Batch,
            "mk" => Self::Make,
            "py" | "pyi" => Self::Python,
            "js" | "mjs" | "cjs" | "jsx" | "ts" | "mts" | "cts" | "tsx" => Self::JavaScript,
            "rs" => Self::Rust,
            "go" => Self::Go,
            "java" => Self::Java,
            "c" | "h" => Self::C,
            "html" | "htm" => Self::Html,
            "env" => Self::Env,
            "ini" | "cfg" | "editorconfig" => Self::Ini,
            _ if name.starts_with(".env.") => Self::Env,
            _ => match name.split('.').next() {
                Some("Makefile" | "makefile" | "GNUmakefile") => Self::Make,
                Some("Containerfile" | "Dockerfile") => Self::Container,
                _ => Self::Plain,
            },
        }
    }

    /// Returns the views that quote text for such a file, the best one first; none for plain files.
    pub(crate) fn quoting(self) -> &'static [Quoting] {
        match self {
            Self::Plain => &[],
            Self::Json => &[Quoting::Json],
            Self::Toml => &[Quoting::Toml],
            // Every JSON text is one of YAML: YAML 1.2, section 1.3.
            Self::Yaml => &[Quoting::Yaml, Quoting::Json],
            Self::Xml | Self::Html => &[Quoting::Xml],
            Self::Shell => &[Quoting::Shell],
            Self::Batch => &[Quoting::Batch],
            Self::Make => &[Quoting::Make],
            Self::Python => &[Quoting::Python],
            // Every JSON text is an expression: ECMA-262, since its 10th edition.
            Self::JavaScript => &[Quoting::JavaScript, Quoting::Json],
            Self::Rust => &[Quoting::Rust],
            Self::Go => &[Quoting::Go],
            Self::Java => &[Quoting::Java],
            Self::C => &[Quoting::C],
            Self::Env => &[Quoting::Env],
            Self::Ini => &[Quoting::Ini],
            Self::Container => &[Quoting::Container, Quoting::Json, Quoting::Shell],
        }
    }

    /// Returns true if what stands before a tag on its line begins a comment that goes to the line's end.
    pub(crate) fn begins_comment(self, before: &str) -> bool {
        let (opener, others): (&str, &[&str]) = match self {
            Self::Python
            | Self::Toml
            | Self::Yaml
            | Self::Shell
            | Self::Make
            | Self::Env
            | Self::Container => ("#", &[]),
            Self::JavaScript | Self::Rust | Self::Go | Self::Java | Self::C => ("//", &["*", "/*"]),
            Self::Ini => (";", &["#"]),
            Self::Batch => ("::", &["rem ", "REM "]),
            Self::Plain | Self::Json | Self::Xml | Self::Html => return false,
        };
        let line = before.trim_ascii_start();
        // The first line of a script names the interpreter.
        if line.starts_with(opener) || others.iter().any(|other| line.starts_with(other)) {
            return !line.starts_with("#!");
        }
        let behind = line.find(&format!(" {opener}"));
        behind.is_some_and(|at| !line[..at].contains(['"', '\'', '`']))
    }

    pub(crate) fn as_str(self) -> &'static str {
        match self {
            Self::Plain => "plain",
            Self::Json => "JSON",
            Self::Toml => "TOML",
            Self::Yaml => "YAML",
            Self::Xml => "XML",
            Self::Shell => "shell",
            Self::Batch => "batch",
            Self::Make => "make",
            Self::Python => "Python",
            Self::JavaScript => "JavaScript",
            Self::Rust => "Rust",
            Self::Go => "Go",
            Self::Java => "Java",
            Self::C => "C",
            Self::Html => "HTML",
            Self::Env => "environment",
            Self::Ini => "INI",
            Self::Container => "container",
        }
    }
}
