//! Sources of answers, and the values known before the first question.

use super::assign::{assign, assign_text};
use std::path::PathBuf;
use tinmold_mold::Refusal;
use tinmold_notation::{Value, Values};

/// The source of an answer.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum AnswerSource {
    /// `--set` on the command line.
    Set,
    /// An answer sheet.
    Sheet(PathBuf),
    /// An environment variable.
    Environment(String),
    /// A preset of the mold.
    Preset(String),
    /// The user.
    Person,
    /// The folder that was named.
    Folder,
    /// The project's record.
    Casting,
    /// The answers of the last cast of the same mold.
    Last,
    /// The user's own defaults.
    Own,
    /// The version of a tool on this machine.
    Machine,
    /// The mold's default.
    Default,
    /// The question was not asked: its condition does not hold.
    NotAsked,
    /// Made with randomness.
    Minted,
    /// No source gave an answer, and the mold has no default.
    Nobody,
}

impl AnswerSource {
    /// Returns true if a source gave the answer, so that it is not asked.
    #[must_use]
    pub fn is_given(&self) -> bool {
        matches!(self, Self::Set | Self::Sheet(_) | Self::Environment(_) | Self::Preset(_) | Self::Person)
    }
}

impl std::fmt::Display for AnswerSource {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Set => f.write_str("--set"),
            Self::Sheet(path) => write!(f, "{}", path.display()),
            Self::Environment(variable) => write!(f, "${variable}"),
            Self::Preset(name) => write!(f, "preset {name}"),
            Self::Person => f.write_str("you"),
            Self::Folder => f.write_str("folder"),
            Self::Casting => f.write_str("the project"),
            Self::Last => f.write_str("used again"),
            Self::Own => f.write_str("your defaults"),
            Self::Machine => f.write_str("machine"),
            Self::Default => f.write_str("default"),
            Self::NotAsked => f.write_str("not asked"),
            Self::Minted => f.write_str("minted"),
            Self::Nobody => f.write_str("no answer"),
        }
    }
}

/// An answer with its source.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Given {
    /// The answer.
    pub value: Value,
    /// The source.
    pub source: AnswerSource,
}

/// Defaults offered before the mold's own.
#[derive(Clone, Debug, Default)]
pub struct Offers {
    /// The name of the folder that was named, for the questions that take it.
    pub folder: Option<String>,
    /// The preset of the mold whose answers are taken.
    pub preset: Option<String>,
    /// By key: the answers of the project that a part goes into.
    pub casting: Vec<(String, Value)>,
    /// By key: questions whose recorded answer is none any more. They offer nothing, and somebody has to answer them.
    pub anew: Vec<(String, Refusal)>,
    /// By key: the answers of the last cast of the same mold.
    pub last: Vec<(String, Value)>,
    /// By key: the user's own defaults.
    pub own: Vec<(String, Value)>,
    /// By name: the main versions of the tools on this machine.
    pub tools: Vec<(String, u64)>,
}

/// The values of the built-in names.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct BuiltIns {
    /// The user's name.
    pub user_name: String,
    /// The user's email address.
    pub user_email: String,
    /// The day, by ISO 8601.
    pub today: String,
    /// The year of that day.
    pub year: i64,
    /// `linux`, `macos` or `windows`.
    pub system: String,
}

impl BuiltIns {
    /// Returns the system's date (that of `SOURCE_DATE_EPOCH` in UTC if it is set) and name,
    /// without a user.
    #[must_use]
    pub fn of_system(epoch: Option<&str>) -> Self {
        let fixed = epoch.and_then(|seconds| seconds.trim().parse().ok());
        let fixed = fixed.and_then(|seconds| jiff::Timestamp::from_second(seconds).ok());
        let day = match fixed {
            Some(instant) => instant.to_zoned(jiff::tz::TimeZone::UTC).date(),
            None => jiff::Zoned::now().date(),
        };
        Self {
            today: day.to_string(),
            year: i64::from(day.year()),
            system: match std::env::consts::OS {
                "windows" => "windows",
                "macos" => "macos",
                _ => "linux",
            }
            .to_owned(),
            ..Self::default()
        }
    }

    /// Returns this date (ISO 8601) and this system, without a user.
    #[must_use]
    pub fn on(day: &str) -> Self {
        let year = day.split('-').next().and_then(|year| year.parse().ok()).unwrap_or(0);
        Self { today: day.to_owned(), year, ..Self::of_system(None) }
    }

    pub(super) fn enter(&self, mold: &tinmold_mold::Mold, values: &mut Values) {
        let texts = [
            ("mold.name", mold.name()),
            ("mold.version", mold.version()),
            ("user.name", &self.user_name),
            ("user.email", &self.user_email),
            ("today", &self.today),
            ("system", &self.system),
        ];
        for (name, text) in texts {
            // The built-in names are texts in every scope that has them.
            assign_text(values, &mold.scope, name, text);
        }
        if let Some(year) = mold.scope.find("year") {
            assign(values, &mold.scope, year, Value::Integer(self.year));
        }
    }
}
