//! The syntax of the text around the tags, as far as the notation cares for it.

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
            _ if matches!(name, "Makefile" | "makefile" | "GNUmakefile") => Self::Make,
            _ => Self::Plain,
        }
    }

    /// Returns the view that quotes free text in such a file; none for plain files.
    pub(crate) fn quoting(self) -> Option<&'static str> {
        Some(match self {
            Self::Plain => return None,
            Self::Json => "json",
            Self::Toml => "toml",
            Self::Yaml => "yaml",
            Self::Xml => "xml",
            Self::Shell => "shell",
            Self::Batch => "batch",
            Self::Make => "make",
        })
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
        }
    }
}
