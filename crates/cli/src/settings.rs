//! The user's configuration: own defaults, limits, how the network is used, and the shelves.

use crate::exit::Exit;
use crate::failure::Failure;
use crate::global::GlobalOptions;
use crate::progress::Downloads;
use crate::state::by_key;
use catalogue::known_in_words;
use edit::stored;
use etcetera::BaseStrategy;
use etcetera::base_strategy::Xdg;
use serde::Deserialize;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::Duration;
use tinmold_mold::Mold;
use tinmold_notation::{Position, Value};
use tinmold_project::answers::{SheetFormat, read_sheet};
use tinmold_project::plan::Limits;
use tinmold_shelf::{
    BUILT_IN, Cache, FolderShelf, GitShelf, IndexShelf, Network, NetworkSettings, Shelf, Shelves,
    refuse_secret,
};

pub mod catalogue;
pub mod edit;
pub mod listed;

/// The configuration file, `tinmold/config.toml`.
#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Settings {
    /// The user's own defaults, by key.
    answers: toml::Table,
    limits: ConfigLimits,
    network: ConfigNetwork,
    shelf: Vec<toml::Spanned<ConfigShelf>>,
    #[serde(skip)]
    path: PathBuf,
}

/// Limits of a cast; missing keys have their defaults.
#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
struct ConfigLimits {
    files: Option<usize>,
    bytes: Option<u64>,
}

/// Settings of the network; missing keys have their defaults.
#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default, rename_all = "kebab-case")]
struct ConfigNetwork {
    offline: bool,
    fresh_hours: Option<u32>,
    timeout_seconds: Option<u32>,
    certificates: Vec<PathBuf>,
}

/// A shelf: its name, and where it is.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
struct ConfigShelf {
    name: String,
    summary: Option<String>,
    folder: Option<PathBuf>,
    git: Option<String>,
    index: Option<String>,
    token_env: Option<String>,
}

/// The location of a shelf.
#[derive(Clone, Debug)]
pub enum ShelfPlace {
    /// A folder on this machine.
    Folder(PathBuf),
    /// A repository, as git takes it.
    Git(String),
    /// An index over HTTP; the environment variable with the token for it.
    Index(String, Option<String>),
}

impl ShelfPlace {
    /// Returns the shelf of this name there.
    pub fn shelf(&self, name: &str, network: &Arc<Network>) -> Box<dyn Shelf> {
        match self {
            Self::Folder(folder) => Box::new(FolderShelf::new(name, folder, network.cache.clone())),
            Self::Git(url) => Box::new(GitShelf::new(name, url, Arc::clone(network))),
            Self::Index(url, token) => {
                Box::new(IndexShelf::new(name, url, token.clone(), Arc::clone(network)))
            }
        }
    }
}

impl ConfigShelf {
    /// Returns where the shelf is.
    fn place(&self) -> Result<ShelfPlace, ShelfEntryError> {
        let wrong = |kind| Err(ShelfEntryError { name: self.name.clone(), kind });
        if !is_shelf_name(&self.name) {
            return wrong(ShelfEntryProblem::BadName);
        }
        if self.git.iter().chain(&self.index).any(|url| refuse_secret(url).is_err()) {
            return wrong(ShelfEntryProblem::Secret);
        }
        match (&self.folder, &self.git, &self.index) {
            (_, _, None) if self.token_env.is_some() => wrong(ShelfEntryProblem::StrayToken),
            (Some(folder), None, None) => Ok(ShelfPlace::Folder(folder.clone())),
            (None, Some(url), None) => Ok(ShelfPlace::Git(url.clone())),
            (None, None, Some(url)) => Ok(ShelfPlace::Index(url.clone(), self.token_env.clone())),
            _ => wrong(ShelfEntryProblem::NotOnePlace),
        }
    }
}

/// A `[[shelf]]` of the settings that cannot be used.
#[derive(Debug)]
struct ShelfEntryError {
    name: String,
    kind: ShelfEntryProblem,
}

#[derive(Debug)]
enum ShelfEntryProblem {
    BadName,
    Secret,
    StrayToken,
    NotOnePlace,
}

impl std::fmt::Display for ShelfEntryError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let problem = match self.kind {
            ShelfEntryProblem::BadName => "cannot have that name: use letters, digits and -",
            ShelfEntryProblem::Secret => {
                "has a user or a password in its URL: use .netrc, git's credential store or token-env"
            }
            ShelfEntryProblem::StrayToken => "has a token-env, which only an index has",
            ShelfEntryProblem::NotOnePlace => "needs one of folder, git and index",
        };
        write!(f, "the shelf {:?} {problem}", self.name)
    }
}

/// Returns true if a shelf can have this name.
pub fn is_shelf_name(name: &str) -> bool {
    !name.is_empty()
        && name != BUILT_IN
        && name.len() <= 100
        && name.chars().all(|c| c.is_ascii_alphanumeric() || "-_".contains(c))
}

/// Returns the way to shelves elsewhere, as the configuration and the command line say.
fn network(config: &ConfigNetwork, global: GlobalOptions) -> Arc<Network> {
    let usual = NetworkSettings::default();
    let hours = |hours: u32| Duration::from_secs(u64::from(hours) * 3600);
    let settings = NetworkSettings {
        offline: global.offline || config.offline,
        fresh: config.fresh_hours.map_or(usual.fresh, hours),
        timeout: config
            .timeout_seconds
            .map_or(usual.timeout, |seconds| Duration::from_secs(seconds.max(1).into())),
        pause: usual.pause,
        certificates: config.certificates.clone(),
    };
    Arc::new(Network::new(settings, Settings::cache(), Box::new(Downloads::new(global.hides_progress()))))
}

impl Settings {
    /// Returns the cache of what was fetched.
    pub fn cache() -> Option<Cache> {
        Self::cache_folder().map(Cache::new)
    }

    /// Returns the directory of that cache.
    pub fn cache_folder() -> Option<PathBuf> {
        Xdg::new().ok().map(|places| places.cache_dir().join("tinmold"))
    }

    /// Returns the shelf in the program, and those that were added.
    pub fn shelves(&self, global: GlobalOptions) -> Shelves {
        let network = network(&self.network, global);
        // The value was validated when it was read.
        let places = self
            .shelf
            .iter()
            .map(toml::Spanned::get_ref)
            .filter_map(|shelf| Some((&shelf.name, shelf.place().ok()?)));
        let all = places.map(|(name, place)| place.shelf(name, &network)).collect();
        Shelves::with(all, network)
    }

    /// Returns a shelf that was not added yet.
    pub fn shelf(&self, name: &str, place: &ShelfPlace, global: GlobalOptions) -> Box<dyn Shelf> {
        place.shelf(name, &network(&self.network, global))
    }

    /// Returns true if a shelf of this name was added.
    pub fn has_shelf(&self, name: &str) -> bool {
        self.shelf.iter().any(|shelf| shelf.get_ref().name == name)
    }

    /// Reads the file; without one everything is as usual.
    pub fn read() -> Result<Self, Failure> {
        let Some(path) = Self::path() else { return Ok(Self::default()) };
        let text = stored(&path)?;
        Self::parse(&text, path)
    }

    /// Reads the text of the file at `path`.
    fn parse(text: &str, path: PathBuf) -> Result<Self, Failure> {
        let at = |offset: usize| Position::of(text, offset);
        let config: Self = toml::from_str(text).map_err(|error| {
            let place = at(error.span().map_or(0, |span| span.start));
            let message = error.message().lines().next().unwrap_or("");
            let reason =
                format!("line {}, column {}: {message}; {}", place.line, place.column, known_in_words());
            wrong(&path, &reason)
        })?;
        for (index, shelf) in config.shelf.iter().enumerate() {
            let line = at(shelf.span().start).line;
            let shelf = shelf.get_ref();
            shelf.place().map_err(|error| wrong(&path, &format!("line {line}: {error}")))?;
            if config.shelf[..index].iter().any(|other| other.get_ref().name == shelf.name) {
                return Err(wrong(&path, &format!("line {line}: there are two shelves {:?}", shelf.name)));
            }
        }
        Ok(Self { path, ..config })
    }

    /// By key, the user's own defaults that fit the mold's questions.
    pub fn answers(&self, mold: &Mold) -> Result<Vec<(String, Value)>, Failure> {
        // They are for many molds: what another mold asks, or asks in another way, is not for this one.
        let sheet = read_sheet(mold, &self.answers.to_string(), SheetFormat::Toml)
            .map_err(|error| wrong(&self.path, &error.to_string()))?;
        Ok(by_key(mold, sheet.answers))
    }

    /// Limits of a cast.
    pub fn limits(&self) -> Limits {
        let usual = Limits::default();
        Limits {
            files: self.limits.files.unwrap_or(usual.files),
            bytes: self.limits.bytes.unwrap_or(usual.bytes),
        }
    }
}

fn wrong(path: &Path, reason: &str) -> Failure {
    Failure::new(Exit::Failed, format!("{}: {reason}", path.display()))
        .help("correct the file, or move it away")
}
