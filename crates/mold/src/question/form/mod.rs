//! Forms of text answers, by the real rules of the tools that read them.
//!
//! A refusal names the mistake and the nearest legal answers, each of which the form accepts.

mod code;
mod general;
mod network;
mod packages;
mod words;

use super::refusal::Refusal;
use heck::{ToKebabCase, ToPascalCase, ToSnakeCase};
use tinmold_platform::paths::PathError;

/// Why a text does not have its form.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub(super) enum FormError {
    /// The text is empty.
    #[error("it is empty")]
    Empty,
    /// The text is too long.
    #[error("it has {length} characters, and at most {most} are allowed")]
    TooLong { length: usize, most: usize },
    /// A character that is not allowed.
    #[error("it holds {}; allowed are {allowed}", general::shown(*.c))]
    BadCharacter { c: char, allowed: &'static str },
    /// A reserved word of a language.
    #[error("`{word}` is a keyword of {language}")]
    Keyword { word: String, language: &'static str },
    /// A name that something else has.
    #[error("`{word}` is taken by {by}")]
    Taken { word: String, by: &'static str },
    /// A part between dots or slashes.
    #[error("its part `{part}` {problem}")]
    Part { part: String, problem: &'static str },
    /// A part of a path.
    #[error("its part {part:?} {reason}")]
    Path { part: String, reason: PathError },
    /// A rule of the form that the text breaks.
    #[error("{0}")]
    Rule(&'static str),
    /// Makes the same refusal, with the character that was found.
    #[error("{0}")]
    Detail(String),
}

macro_rules! forms {
    ($($(#[doc = $doc:literal])* $form:ident $name:literal $check:path),* $(,)?) => {
        /// The form of a text answer.
        #[derive(Clone, Copy, Debug, PartialEq, Eq)]
        pub enum Form { $($(#[doc = $doc])* $form,)* }

        impl Form {
            /// All forms.
            pub const ALL: &[Self] = &[$(Self::$form,)*];

            /// Returns its name in `mold.toml`.
            #[must_use]
            pub const fn name(self) -> &'static str {
                match self { $(Self::$form => $name,)* }
            }

            /// Returns what such a text is, in words.
            #[must_use]
            pub const fn about(self) -> &'static str {
                match self { $(Self::$form => concat!($($doc),*),)* }
            }

            fn judge(self, text: &str) -> Result<(), FormError> {
                match self { $(Self::$form => $check(text),)* }
            }
        }
    };
}

forms! {
    /// One line of text that is not empty, without control characters.
    Plain "plain" general::plain,
    /// Lower-case words with hyphens between: `tide-service`. Legal as a folder's name on every system.
    Kebab "kebab" general::kebab,
    /// Lower-case words with underscores between: `tide_service`.
    Snake "snake" general::snake,
    /// A letter or underscore, then letters, digits and underscores (ASCII).
    Identifier "identifier" code::identifier,
    /// A capital, then letters and digits (ASCII): `TideTable`. No keyword of a common language.
    ClassName "class-name" code::class_name,
    /// A domain written backwards: `example.saltmarsh`. Labels by RFC 1035, section 2.3.1.
    ReverseDomain "reverse-domain" network::reverse_domain,
    /// A version by Semantic Versioning 2.0.0.
    Semver "semver" network::semver,
    /// A range of such versions as Cargo writes them: `>=1.2, <2`.
    SemverRange "semver-range" network::semver_range,
    /// A path inside the project, with `/`, legal on every system.
    Path "path" general::path,
    /// An address for mail, RFC 5321, section 4.1.2, without quoted parts and address literals.
    Email "email" network::email,
    /// An absolute URL with a host, RFC 3986.
    Url "url" network::url,
    /// A TCP port: 1 to 65535 (RFC 6335, section 6).
    Port "port" network::port,
    /// A licence expression of SPDX 2.3, annex D: `MIT`, `MIT OR Apache-2.0`.
    License "license" network::license,
    /// A name for crates.io: ASCII letters, digits, `-` and `_`, a letter first, at most 64, no
    /// keyword (the Cargo book, "The manifest format", and the crates.io policy).
    RustCrate "rust-crate" packages::rust_crate,
    /// The name of a module: an identifier by PEP 3131 that is lower-case (PEP 8), no keyword, no
    /// standard module.
    PythonModule "python-module" packages::python_module,
    /// The name of a distribution: PyPA's "Names and normalization".
    PythonPackage "python-package" packages::python_package,
    /// The name of a package for npm, with or without a scope: `package.json`'s documentation.
    NpmPackage "npm-package" packages::npm_package,
    /// The name of a Java package: identifiers by JLS 3.8, separated by dots, no keyword (JLS 3.9),
    /// lower-case.
    JavaPackage "java-package" packages::java_package,
    /// A Maven artifactId: lower-case letters, digits, hyphens and dots (Maven's naming guide).
    JavaArtifact "java-artifact" packages::java_artifact,
    /// Whose a Java project is and what it is called: `example.saltmarsh:tide-times`. A domain written
    /// backwards and an artifact's name, with a colon between, as in Maven's coordinates.
    JavaCoordinates "java-coordinates" packages::java_coordinates,
    /// An identifier of C17 (6.4.2) that is neither a keyword (6.4.1) nor reserved (7.1.3).
    CIdentifier "c-identifier" code::c_identifier,
    /// A module path of Go: "Go Modules Reference", module paths.
    GoModule "go-module" packages::go_module,
}

impl Form {
    /// Returns the form of this name.
    #[must_use]
    pub fn of_name(name: &str) -> Option<Self> {
        Self::ALL.iter().copied().find(|form| form.name() == name)
    }

    /// Returns true if an answer of this form may hold quotes and other signs that files must
    /// quote.
    #[must_use]
    pub fn is_free(self) -> bool {
        matches!(self, Self::Plain | Self::Url | Self::Email)
    }

    /// Splits a legal text of a form that says whose a project is and what it is called: the owner,
    /// with the sign that ends it, and the name.
    #[must_use]
    pub fn apart(self, text: &str) -> Option<(&str, &str)> {
        let sign = match self {
            Self::JavaCoordinates => ':',
            Self::GoModule => '/',
            _ => return None,
        };
        let at = text.rfind(sign)?;
        self.judge(text).is_ok().then(|| text.split_at(at + 1))
    }

    /// Says how a legal text of such a form is read: `owner example.saltmarsh, name tide-times`.
    #[must_use]
    pub fn reading(self, text: &str) -> Option<String> {
        let (owner, name) = self.apart(text)?;
        Some(format!("owner {}, name {name}", &owner[..owner.len() - 1]))
    }

    /// Judges a text.
    ///
    /// # Errors
    /// The reason, and the nearest legal texts.
    pub fn check(self, text: &str) -> Result<(), Refusal> {
        self.judge(text).map_err(|error| Refusal::offering(error.to_string(), &self.nearest(text)))
    }

    /// Returns the nearest legal text to one that is not, if there is one.
    #[must_use]
    pub fn bend(self, text: &str) -> Option<String> {
        self.nearest(text).into_iter().next()
    }

    /// At most two legal texts near this one, the nearest first.
    fn nearest(self, text: &str) -> Vec<String> {
        // A name of thousands of letters is never meant.
        let text: String = text.chars().map(|c| if c.is_control() { ' ' } else { c }).take(200).collect();
        let text = text.trim();
        let candidates = self.candidates(text);
        // The plain spelling, where it is legal, is what was meant.
        if let Some(plain) = candidates.first().filter(|plain| self.judge(plain).is_ok()) {
            return vec![plain.clone()];
        }
        let mut found: Vec<String> = Vec::new();
        for candidate in candidates {
            if found.len() < 2 && !found.contains(&candidate) && self.judge(&candidate).is_ok() {
                found.push(candidate);
            }
        }
        found
    }

    fn candidates(self, text: &str) -> Vec<String> {
        let plain = general::without_accents(text);
        let snake = plain.to_snake_case().replace(|c: char| !c.is_ascii_alphanumeric() && c != '_', "");
        let kebab = snake.replace('_', "-");
        let both = |word: String, first: &str| {
            let numbered = format!("{first}{word}");
            [word.clone(), format!("{word}_"), format!("{word}s"), format!("{word}es"), numbered]
        };
        let plural = if snake.ends_with('s') { format!("{snake}es") } else { format!("{snake}s") };
        match self {
            Self::Plain => vec![text.split_whitespace().collect::<Vec<_>>().join(" ")],
            Self::Kebab => {
                vec![kebab.clone(), format!("{kebab}-app"), format!("my-{kebab}"), cut(&kebab, 60, '-')]
            }
            Self::Snake => {
                vec![snake.clone(), format!("{snake}_app"), format!("my_{snake}"), cut(&snake, 60, '_')]
            }
            Self::Identifier => both(snake, "_").to_vec(),
            Self::ClassName => {
                let pascal: String =
                    plain.to_pascal_case().chars().filter(char::is_ascii_alphanumeric).collect();
                vec![pascal.clone(), format!("{pascal}Type"), format!("The{pascal}")]
            }
            Self::ReverseDomain => {
                let dotted = general::dotted_words(&plain.to_lowercase(), &['-']);
                vec![dotted.clone(), format!("com.example.{}", dotted.replace('.', "-"))]
            }
            Self::Semver => network::semver_candidates(text),
            Self::SemverRange => {
                network::semver_candidates(text).into_iter().map(|v| format!(">={v}")).collect()
            }
            Self::Path => vec![general::path_bent(text)],
            Self::Email => vec![plain.replace(' ', "")],
            Self::Url => {
                let after = text.split_once("://").map_or(text, |(_, after)| after);
                vec![format!("https://{}", after.replace(' ', ""))]
            }
            Self::Port => network::port_candidates(text),
            Self::License => network::license_candidates(text),
            Self::RustCrate => vec![
                plain.replace(' ', "-"),
                kebab.clone(),
                format!("{kebab}-rs"),
                format!("my-{kebab}"),
                cut(&kebab, 64, '-'),
            ],
            Self::PythonModule => {
                vec![
                    snake.clone(),
                    format!("{snake}_"),
                    plural,
                    format!("{snake}_app"),
                    format!("app_{snake}"),
                    cut(&snake, 60, '_'),
                ]
            }
            Self::PythonPackage => vec![kebab.clone(), format!("{kebab}-app"), cut(&kebab, 60, '-')],
            Self::NpmPackage => vec![
                packages::npm_scoped(&plain),
                kebab.clone(),
                format!("{kebab}-app"),
                format!("my-{kebab}"),
            ],
            Self::JavaPackage => packages::java_package_candidates(&plain),
            Self::JavaArtifact => vec![plain.to_kebab_case(), kebab.clone(), format!("app-{kebab}")],
            Self::JavaCoordinates => packages::java_coordinates_candidates(text),
            Self::CIdentifier => {
                let letters = snake.trim_start_matches('_').to_owned();
                [
                    letters.clone(),
                    format!("{letters}_"),
                    plural,
                    format!("my_{letters}"),
                    format!("n{letters}"),
                ]
                .to_vec()
            }
            Self::GoModule => packages::go_module_candidates(text, &kebab),
        }
    }
}

/// Returns the text cut after `most` characters, without a separator at its end.
fn cut(text: &str, most: usize, separator: char) -> String {
    text.chars().take(most).collect::<String>().trim_end_matches(separator).to_owned()
}

/// Returns the refusal of a number that is no port.
#[must_use]
pub fn port_refusal() -> Refusal {
    Refusal::offering(network::NO_PORT, &["8000".to_owned(), "8080".to_owned()])
}

/// Returns a folder's name bent to the form of a question that takes it. Where the form has an owner
/// before the name, it is that of `other`, an answer that would be offered without a folder.
#[must_use]
pub fn bent(form: Option<Form>, folder: &str, other: Option<&str>) -> Option<String> {
    let Some(form) = form else { return Some(folder.to_owned()) };
    let owned = other.and_then(|other| form.apart(other)).map(|(owner, _)| format!("{owner}{folder}"));
    let wanted = owned.as_deref().unwrap_or(folder);
    if form.judge(wanted).is_ok() { Some(wanted.to_owned()) } else { form.bend(wanted) }
}
