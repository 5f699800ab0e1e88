//! All settings: their names, kinds and defaults.

use tinmold_project::plan::Limits;
use tinmold_shelf::NetworkSettings;

/// The kind of a setting's value.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SettingKind {
    /// `true` or `false`.
    Flag,
    /// A whole number, not negative.
    Number,
    /// A list of paths.
    Paths,
    /// Anything that an answer sheet can hold.
    Answer,
}

impl SettingKind {
    /// Returns what a value of it is, in words.
    pub fn words(self) -> &'static str {
        match self {
            Self::Flag => "true or false",
            Self::Number => "a whole number",
            Self::Paths => "paths, separated by commas",
            Self::Answer => "an answer, as an answer sheet holds it",
        }
    }
}

/// A setting that the file can hold.
#[derive(Debug)]
pub struct KnownSetting {
    /// The table of the file that holds it.
    pub table: &'static str,
    /// Its name there.
    pub name: &'static str,
    pub kind: SettingKind,
    /// What it does, a clause.
    pub does: &'static str,
}

impl KnownSetting {
    /// Returns its name with its table.
    pub fn key(&self) -> String {
        format!("{}.{}", self.table, self.name)
    }

    /// Returns its default as the file would hold it.
    pub fn default(&self) -> String {
        let limits = Limits::default();
        let network = NetworkSettings::default();
        match (self.table, self.name) {
            ("limits", "files") => limits.files.to_string(),
            ("limits", "bytes") => limits.bytes.to_string(),
            ("network", "fresh-hours") => (network.fresh.as_secs() / 3600).to_string(),
            ("network", "timeout-seconds") => network.timeout.as_secs().to_string(),
            _ if self.kind == SettingKind::Paths => "[]".to_owned(),
            _ => "false".to_owned(),
        }
    }
}

/// All settings but the answers, whose names are those of questions, and the shelves.
pub const KNOWN: &[KnownSetting] = &[
    KnownSetting {
        table: "network",
        name: "offline",
        kind: SettingKind::Flag,
        does: "never use the network; listings and molds come from the cache",
    },
    KnownSetting {
        table: "network",
        name: "fresh-hours",
        kind: SettingKind::Number,
        does: "hours until the listing of a shelf is fetched again",
    },
    KnownSetting {
        table: "network",
        name: "timeout-seconds",
        kind: SettingKind::Number,
        does: "seconds that a server may stay silent",
    },
    KnownSetting {
        table: "network",
        name: "certificates",
        kind: SettingKind::Paths,
        does: "files with certificates to trust besides the system's",
    },
    KnownSetting {
        table: "limits",
        name: "files",
        kind: SettingKind::Number,
        does: "the most files that one cast may write",
    },
    KnownSetting {
        table: "limits",
        name: "bytes",
        kind: SettingKind::Number,
        does: "the most bytes that one cast may write",
    },
];

/// The table of the user's own defaults.
pub const ANSWERS: &str = "answers";

/// Returns what the file can hold, in words.
pub fn known_in_words() -> String {
    let of = |table: &str| {
        let names: Vec<&str> =
            KNOWN.iter().filter(|setting| setting.table == table).map(|setting| setting.name).collect();
        format!("[{table}] with {}", names.join(", "))
    };
    format!(
        "known are [{ANSWERS}]; {}; {}; and [[shelf]] with name, one of folder, git and index, summary and \
         token-env",
        of("network"),
        of("limits")
    )
}
