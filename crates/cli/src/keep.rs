//! What is kept between runs: the user's configuration, and the answers of the last cast of each mold.

use crate::exit::Exit;
use crate::failure::Failure;
use etcetera::BaseStrategy;
use etcetera::base_strategy::Xdg;
use serde::Deserialize;
use std::collections::BTreeMap;
use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};
use tinmold_core::answers::{Answers, SheetFormat, read_sheet, written_sheet_of};
use tinmold_core::mold::Mold;
use tinmold_core::plan::Limits;
use tinmold_core::record::digest_of;
use tinmold_core::shelf::{FolderShelf, Shelf, Shelves};
use tinmold_notation::{Position, Value};

/// What `tinmold/config.toml` among the configuration files says.
#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Config {
    /// The user's own defaults, by key.
    answers: toml::Table,
    limits: ConfigLimits,
    shelf: Vec<ConfigShelf>,
    #[serde(skip)]
    path: PathBuf,
}

/// How much a cast may write; what is not said is as usual.
#[derive(Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
struct ConfigLimits {
    files: Option<usize>,
    bytes: Option<u64>,
}

/// A shelf: its name, and the folder that it is.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct ConfigShelf {
    name: String,
    folder: PathBuf,
}

impl Config {
    /// The shelf in the program, and those that were added.
    pub fn shelves(&self) -> Shelves {
        let shelf =
            |shelf: &ConfigShelf| Box::new(FolderShelf::new(&shelf.name, &shelf.folder)) as Box<dyn Shelf>;
        Shelves::with(self.shelf.iter().map(shelf).collect())
    }

    /// The shelves that were added: name and folder.
    pub fn shelf_folders(&self) -> impl Iterator<Item = (&str, &Path)> {
        self.shelf.iter().map(|shelf| (shelf.name.as_str(), shelf.folder.as_path()))
    }

    /// Adds a shelf to the file, and leaves the rest of the file as it is.
    pub fn add_shelf(name: &str, folder: &Path) -> Result<(), Failure> {
        let config = Self::read()?;
        if config.shelf.iter().any(|shelf| shelf.name == name) {
            let message = format!("there is a shelf {name:?} already");
            return Err(Failure::new(Exit::Usage, message)
                .help(format!("choose another name, or: tinmold shelf drop {name}")));
        }
        Self::edit(|document| {
            let mut entry = toml_edit::Table::new();
            entry.insert("name", toml_edit::value(name));
            entry.insert("folder", toml_edit::value(folder.display().to_string()));
            let shelves = document
                .entry("shelf")
                .or_insert(toml_edit::Item::ArrayOfTables(toml_edit::ArrayOfTables::new()));
            if let Some(shelves) = shelves.as_array_of_tables_mut() {
                shelves.push(entry);
            }
        })
    }

    /// Takes a shelf out of the file.
    pub fn drop_shelf(name: &str) -> Result<(), Failure> {
        let config = Self::read()?;
        if !config.shelf.iter().any(|shelf| shelf.name == name) {
            let names = || config.shelf.iter().map(|shelf| shelf.name.as_str());
            let all = names().collect::<Vec<_>>().join(", ");
            let none = if all.is_empty() { "none was added".to_owned() } else { format!("there are {all}") };
            let advice = tinmold_notation::did_you_mean(name, names(), none);
            return Err(Failure::new(
                Exit::Usage,
                format!("no shelf that was added is called {name:?}; {advice}"),
            ));
        }
        Self::edit(|document| {
            if let Some(shelves) = document.get_mut("shelf").and_then(toml_edit::Item::as_array_of_tables_mut)
            {
                shelves.retain(|shelf| shelf.get("name").and_then(toml_edit::Item::as_str) != Some(name));
            }
        })
    }

    fn edit(change: impl FnOnce(&mut toml_edit::DocumentMut)) -> Result<(), Failure> {
        let failed = |reason: String| {
            Failure::new(Exit::Failed, format!("the configuration cannot be changed: {reason}"))
        };
        let places = Xdg::new().map_err(|error| failed(error.to_string()))?;
        let path = places.config_dir().join("tinmold/config.toml");
        let text = fs::read_to_string(&path).unwrap_or_default();
        let mut document: toml_edit::DocumentMut =
            text.parse().map_err(|error: toml_edit::TomlError| failed(error.message().to_owned()))?;
        change(&mut document);
        let folder = path.parent().map(Path::to_owned).unwrap_or_default();
        let written = fs::create_dir_all(&folder).and_then(|()| {
            let mut staged = tempfile::NamedTempFile::new_in(&folder)?;
            staged.write_all(document.to_string().as_bytes())?;
            staged.persist(&path).map(drop).map_err(|error| error.error)
        });
        written.map_err(|error| failed(format!("{}: {error}", path.display())))
    }

    /// Reads the file; without one everything is as usual.
    pub fn read() -> Result<Self, Failure> {
        let Ok(places) = Xdg::new() else { return Ok(Self::default()) };
        let path = places.config_dir().join("tinmold/config.toml");
        let text = match fs::read_to_string(&path) {
            Ok(text) => text,
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => return Ok(Self::default()),
            Err(error) => {
                return Err(Failure::new(Exit::Failed, format!("cannot read {}: {error}", path.display())));
            }
        };
        let config: Self = toml::from_str(&text).map_err(|error| {
            let place = Position::of(&text, error.span().map_or(0, |span| span.start));
            let message = error.message().lines().next().unwrap_or("").to_owned();
            let known =
                "known are [answers], [limits] with files and bytes, and [[shelf]] with name and folder";
            wrong(&path, &format!("line {}, column {}: {message}; {known}", place.line, place.column))
        })?;
        Ok(Self { path, ..config })
    }

    /// By key, the user's own defaults that fit the mold's questions.
    pub fn answers(&self, mold: &Mold) -> Result<Vec<(String, Value)>, Failure> {
        // They are for many molds: what another mold asks, or asks in another way, is not for this one.
        let sheet = read_sheet(mold, &self.answers.to_string(), SheetFormat::Toml)
            .map_err(|error| wrong(&self.path, &error.to_string()))?;
        Ok(by_key(mold, sheet.answers))
    }

    /// How much a cast may write.
    pub fn limits(&self) -> Limits {
        let usual = Limits::default();
        Limits {
            files: self.limits.files.unwrap_or(usual.files),
            bytes: self.limits.bytes.unwrap_or(usual.bytes),
        }
    }
}

fn wrong(path: &Path, reason: &str) -> Failure {
    Failure::new(Exit::Failed, format!("{}: {reason}", path.display())).help("mend the file or move it away")
}

fn by_key(mold: &Mold, answers: Vec<(usize, Value)>) -> Vec<(String, Value)> {
    answers.into_iter().map(|(at, value)| (mold.questions[at].key.clone(), value)).collect()
}

/// Where the last answers to a mold are kept.
fn last_path(mold: &Mold) -> Option<PathBuf> {
    let owner = mold.header.owner.as_ref().map_or("", |owner| owner.get_ref());
    let places = Xdg::new().ok()?;
    Some(places.state_dir()?.join("tinmold/answers").join(format!("{owner}+{}.toml", mold.name())))
}

/// By key, what was answered in the last cast of the same mold. A file that cannot be read offers nothing.
pub fn last_answers(mold: &Mold) -> Vec<(String, Value)> {
    let text = last_path(mold).and_then(|path| fs::read_to_string(path).ok());
    let sheet = text.and_then(|text| read_sheet(mold, &text, SheetFormat::Toml).ok());
    sheet.map_or_else(Vec::new, |sheet| by_key(mold, sheet.answers))
}

/// Keeps what somebody answered, to be offered next time: not what was a default, nor what names the project.
pub fn keep_answers(mold: &Mold, answers: &Answers) {
    let sheet = written_sheet_of(mold, answers, |question, settled| {
        settled.source.is_given() && !question.from_folder
    });
    let Some(path) = last_path(mold) else { return };
    let Some(folder) = path.parent() else { return };
    // Only a convenience is lost when it cannot be kept.
    let _ = fs::create_dir_all(folder).and_then(|()| fs::write(&path, sheet));
}

/// Where what is known of a casting on this machine is kept: never in the casting, which others share.
fn of_casting(root: &Path) -> Option<PathBuf> {
    let root = root.canonicalize().ok()?;
    let digest = digest_of(root.as_os_str().as_encoded_bytes()).to_string();
    Some(Xdg::new().ok()?.state_dir()?.join("tinmold/castings").join(&digest[..24]))
}

/// Where the logs of a casting's finishing steps go.
pub fn log_folder(root: &Path) -> Option<PathBuf> {
    of_casting(root)
}

/// By name, which finishing steps of a casting are done, and what tells them from others of the same name.
pub fn done_steps(root: &Path) -> BTreeMap<String, String> {
    let text = of_casting(root).and_then(|folder| fs::read_to_string(folder.join("done.toml")).ok());
    text.and_then(|text| toml::from_str(&text).ok()).unwrap_or_default()
}

/// Keeps which are done.
pub fn keep_done_steps(root: &Path, done: &BTreeMap<String, String>) {
    let Some(folder) = of_casting(root) else { return };
    if done.is_empty() && !folder.exists() {
        return;
    }
    // A step that is forgotten is offered again.
    let text = toml::to_string(done).unwrap_or_default();
    let _ = fs::create_dir_all(&folder).and_then(|()| fs::write(folder.join("done.toml"), text));
}

fn vouched_path() -> Option<PathBuf> {
    Some(Xdg::new().ok()?.config_dir().join("tinmold/vouched"))
}

/// Whether somebody vouched for a mold of this digest, for good.
pub fn is_vouched(digest: &str) -> bool {
    let text = vouched_path().and_then(|path| fs::read_to_string(path).ok()).unwrap_or_default();
    text.lines().any(|line| line.split_whitespace().next() == Some(digest))
}

/// Remembers that somebody did. Each line is a digest and where the mold came from.
pub fn keep_vouched(digest: &str, origin: &str) {
    let Some(path) = vouched_path() else { return };
    let line = format!("{digest}  {}\n", crate::show::safe(origin));
    let appended = path.parent().map(fs::create_dir_all).and_then(|_| {
        let mut file = fs::File::options().create(true).append(true).open(&path).ok()?;
        file.write_all(line.as_bytes()).ok()
    });
    if appended.is_none() {
        anstream::eprintln!("This could not be remembered: {} cannot be written.", path.display());
    }
}
