//! What is kept between runs: the answers of the last cast of each mold, the molds that were used last, whom one vouches for, what is done.

use crate::text::style::safe;
use etcetera::BaseStrategy;
use etcetera::base_strategy::Xdg;
use std::collections::BTreeMap;
use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};
use tinmold_mold::Mold;
use tinmold_notation::Value;
use tinmold_platform::digest::digest_of;
use tinmold_project::answers::{Answers, SheetFormat, read_sheet, sheet_of};

/// By key, what a sheet says by number.
pub fn by_key(mold: &Mold, answers: Vec<(usize, Value)>) -> Vec<(String, Value)> {
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
pub fn store_answers(mold: &Mold, answers: &Answers) {
    let sheet =
        sheet_of(mold, answers, |question, settled| settled.source.is_given() && !question.from_folder);
    let Some(path) = last_path(mold) else { return };
    let Some(folder) = path.parent() else { return };
    forgive(&path, fs::create_dir_all(folder).and_then(|()| fs::write(&path, sheet)));
}

/// How many molds are remembered as used.
const RECENT: usize = 20;

fn recent_path() -> Option<PathBuf> {
    Some(Xdg::new().ok()?.state_dir()?.join("tinmold/recent"))
}

/// The molds that were cast last, as `shelf/name`, the last one first.
pub fn recent() -> Vec<String> {
    let text = recent_path().and_then(|path| fs::read_to_string(path).ok()).unwrap_or_default();
    text.lines().take(RECENT).map(str::to_owned).collect()
}

/// Remembers that a mold was cast; `address` is `shelf/name@version`. Molds that are on no shelf are not remembered.
pub fn store_recent(address: &str) {
    let Some(path) = recent_path() else { return };
    let name = address.split('@').next().unwrap_or_default();
    if name.split('/').count() != 2 || name.contains(':') {
        return;
    }
    let mut all = recent();
    if all.first().is_some_and(|first| first == name) {
        return;
    }
    all.retain(|other| other != name);
    all.insert(0, name.to_owned());
    all.truncate(RECENT);
    let folder = path.parent().map_or(Ok(()), fs::create_dir_all);
    forgive(&path, folder.and_then(|()| fs::write(&path, all.join("\n") + "\n")));
}

/// Where what is known of a casting on this machine is kept: never in the casting, which others share.
fn of_casting(root: &Path) -> Option<PathBuf> {
    let folder = Xdg::new().ok()?.state_dir()?.join("tinmold/castings");
    let root = root.canonicalize().ok()?;
    let digest = digest_of(root.as_os_str().as_encoded_bytes()).to_string();
    Some(folder.join(&digest[..24]))
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
pub fn store_done_steps(root: &Path, done: &BTreeMap<String, String>) {
    let Some(folder) = of_casting(root) else { return };
    if done.is_empty() && !folder.exists() {
        return;
    }
    let text = toml::to_string(done).unwrap_or_default();
    forgive(&folder, fs::create_dir_all(&folder).and_then(|()| fs::write(folder.join("done.toml"), text)));
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
pub fn store_vouched(digest: &str, origin: &str) {
    let Some(path) = vouched_path() else { return };
    let line = format!("{digest}  {}\n", safe(origin));
    let appended = path.parent().map(fs::create_dir_all).and_then(|_| {
        let mut file = fs::File::options().create(true).append(true).open(&path).ok()?;
        file.write_all(line.as_bytes()).ok()
    });
    if appended.is_none() {
        anstream::eprintln!("This could not be remembered: {} cannot be written.", path.display());
    }
}

/// Logs that the state could not be stored: only a convenience is lost.
fn forgive(path: &Path, stored: std::io::Result<()>) {
    if let Err(error) = stored {
        tracing::warn!(path = %path.display(), %error, "cannot store the state");
    }
}
