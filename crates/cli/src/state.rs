//! The state between runs: the last answers for each mold, recently used molds, vouched digests,
//! finished steps.

use crate::text::style::safe;
use etcetera::BaseStrategy;
use etcetera::base_strategy::Xdg;
use std::collections::BTreeMap;
use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};
use tinmold_mold::{Mold, Origin, Package, Question};
use tinmold_notation::Value;
use tinmold_platform::digest::digest_of;
use tinmold_platform::files::write_whole;
use tinmold_platform::root_dir::RootDir;
use tinmold_project::answers::{Answers, ResolvedAnswer, SheetFormat, display_value, read_sheet, sheet_of};
use tinmold_project::recast::UndoStore;
use tinmold_project::write::Journals;
use tinmold_shelf::{BUILT_IN, KeepError, KeptMolds};

/// Returns the path of a file or directory of the state.
fn in_state(name: &str) -> Option<PathBuf> {
    Some(Xdg::new().ok()?.state_dir()?.join("tinmold").join(name))
}

/// Returns the directory of the state.
pub fn folder() -> Option<PathBuf> {
    in_state("").map(|folder| folder.components().collect())
}

/// Removes the remembered answers, the drafts and the list of used molds; returns the number of files.
pub fn forget_answers() -> usize {
    let mut removed = 0;
    let mut remove = |path: &Path| match fs::remove_file(path) {
        Ok(()) => removed += 1,
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => {}
        Err(error) => say!("cannot remove {}: {error}", safe(&path.display().to_string())),
    };
    for folder in ["answers", "drafts"].into_iter().filter_map(in_state) {
        let Ok(entries) = fs::read_dir(&folder) else { continue };
        entries.filter_map(Result::ok).for_each(|entry| remove(&entry.path()));
    }
    if let Some(recent) = recent_path() {
        remove(&recent);
    }
    removed
}

/// By key, as an answer sheet holds it.
pub fn by_key(mold: &Mold, answers: Vec<(usize, Value)>) -> Vec<(String, Value)> {
    answers.into_iter().map(|(at, value)| (mold.questions[at].key.clone(), value)).collect()
}

/// Returns the folder where it is remembered what was proven.
pub fn proven_folder() -> Option<PathBuf> {
    Some(Xdg::new().ok()?.cache_dir().join("tinmold/proven"))
}

/// Returns whose a mold is, as the names of files say it.
fn owner_of(mold: &Mold) -> &str {
    if mold.package.origin.is_built_in() {
        return BUILT_IN;
    }
    mold.header.owner.as_ref().map_or("", |owner| owner.get_ref())
}

/// Returns the file with the last answers for a mold.
fn last_path(mold: &Mold) -> Option<PathBuf> {
    let owner = owner_of(mold);
    Some(in_state("answers")?.join(format!("{owner}+{}.toml", mold.name())))
}

/// Reads the answers of the last cast of the same mold, by key. An unreadable file offers nothing.
pub fn last_answers(mold: &Mold) -> Vec<(String, Value)> {
    let text = last_path(mold).map(|path| stored_text(&path)).unwrap_or_default();
    let sheet = read_sheet(mold, &text, SheetFormat::Toml).ok();
    sheet.map_or_else(Vec::new, |sheet| by_key(mold, sheet.answers))
}

/// Stores the user's answers, to offer them next time; not defaults, and not those that name the
/// project.
pub fn store_answers(mold: &Mold, answers: &Answers) {
    let names_only = |question: &Question, settled: &ResolvedAnswer| {
        question.from_folder && question.reading(&display_value(mold, &settled.value)).is_none()
    };
    let sheet = sheet_of(mold, answers, |question, settled| {
        settled.source.is_given() && !names_only(question, settled)
    });
    let Some(path) = last_path(mold) else { return };
    let Some(folder) = path.parent() else { return };
    forgive(&path, fs::create_dir_all(folder).and_then(|()| fs::write(&path, sheet)));
}

/// Returns the file with what the user gave for a mold, or for a part of one, and did not write.
fn draft_path(mold: &Mold, part: &str) -> Option<PathBuf> {
    let owner = owner_of(mold);
    Some(in_state("drafts")?.join(format!("{owner}+{}+{part}.toml", mold.name())))
}

/// Returns what the user gave last time and did not write.
pub fn draft(mold: &Mold, part: &str) -> Option<String> {
    Some(stored_text(&draft_path(mold, part)?)).filter(|draft| !draft.is_empty())
}

/// Stores what the user gave and did not write, for the user alone; removes it for `None`.
pub fn store_draft(mold: &Mold, part: &str, draft: Option<&str>) {
    let Some(path) = draft_path(mold, part) else { return };
    let stored = match draft {
        None => fs::remove_file(&path).or_else(|error| match error.kind() {
            std::io::ErrorKind::NotFound => Ok(()),
            _ => Err(error),
        }),
        Some(draft) => write_whole(&path, draft.as_bytes()),
    };
    forgive(&path, stored);
}

/// The number of recently used molds.
const RECENT: usize = 20;

fn recent_path() -> Option<PathBuf> {
    in_state("recent")
}

/// Returns the molds that were cast last, as `shelf/name`, the last one first.
pub fn recent() -> Vec<String> {
    let text = recent_path().map(|path| stored_text(&path)).unwrap_or_default();
    text.lines().take(RECENT).map(str::to_owned).collect()
}

/// Stores that a mold was cast; `address` is `shelf/name@version`. Molds without a shelf are not
/// stored.
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

/// Returns the directory for the local state of a project, which is never in the project: others
/// share that.
fn of_casting(root: &Path) -> Option<PathBuf> {
    let root = root.canonicalize().ok()?;
    let digest = digest_of(root.as_os_str().as_encoded_bytes()).to_string();
    Some(in_state("castings")?.join(&digest[..24]))
}

/// Returns the journals of writes, which a later run recovers from.
pub fn journals() -> Journals {
    Journals::new(in_state("journals"))
}

/// Returns what identifies a project on this machine: a directory that takes its place is another.
fn identity_of(root: &Path) -> Option<String> {
    let itself = RootDir::open_through_links(root).ok()?.itself().ok()?;
    Some(format!("{}:{}\n", itself.identity.device, itself.identity.inode))
}

/// Stores that the user cast the project at `root` here, and where its mold is on this machine.
pub fn store_own(root: &Path, origin: &Origin) {
    let (Some(folder), Some(identity)) = (of_casting(root), identity_of(root)) else { return };
    let place = match origin {
        Origin::Folder(path) | Origin::Archive(path) => path.canonicalize().ok(),
        _ => None,
    };
    let place = place.map_or_else(String::new, |place| place.display().to_string());
    let path = folder.join("own");
    let text = format!("{identity}{place}\n");
    forgive(&path, fs::create_dir_all(&folder).and_then(|()| fs::write(&path, text)));
}

/// Returns what is stored of the project at `root` if the user cast it here, and it was not brought along: the
/// path of its mold if that lies on this machine, else an empty text.
fn own(root: &Path) -> Option<String> {
    let stored = stored_text(&of_casting(root)?.join("own"));
    Some(stored.strip_prefix(&identity_of(root)?)?.trim_end_matches('\n').to_owned())
}

/// Returns the path of the mold that the project at `root` was cast from here, if it lies on this machine.
pub fn mold_of(root: &Path) -> Option<String> {
    own(root).filter(|place| !place.is_empty())
}

/// Returns true if the user cast the project at `root` here, and it was not brought along.
pub fn is_own(root: &Path) -> bool {
    own(root).is_some()
}

/// Returns the molds that projects were cast from.
pub fn kept_molds() -> Option<KeptMolds> {
    in_state("molds").map(KeptMolds::new)
}

/// Keeps the mold of a cast, for when it has moved on.
pub fn keep_mold(package: &Package) {
    let Some(kept) = kept_molds() else { return };
    let stored = package.digest().map_err(KeepError::from).and_then(|digest| kept.keep(package, &digest));
    if let Err(error) = stored {
        tracing::warn!(%error, "cannot keep the mold");
    }
}

/// Returns where what was there before the last recast of a project is kept.
pub fn undo_store(root: &Path) -> Option<UndoStore> {
    Some(UndoStore::new(of_casting(root)?.join("recast")))
}

/// Returns the directory for the logs of a project's finishing steps.
pub fn log_folder(root: &Path) -> Option<PathBuf> {
    of_casting(root)
}

/// Reads the finished steps of a project, by name, with what identifies each.
pub fn done_steps(root: &Path) -> BTreeMap<String, String> {
    let Some(path) = of_casting(root).map(|folder| folder.join("done.toml")) else { return BTreeMap::new() };
    toml::from_str(&stored_text(&path)).unwrap_or_else(|error| {
        tracing::warn!(path = %path.display(), %error, "cannot read the finished steps");
        BTreeMap::new()
    })
}

/// Keeps which are done.
pub fn store_done_steps(root: &Path, done: &BTreeMap<String, String>) {
    let Some(folder) = of_casting(root) else { return };
    if done.is_empty() && !folder.exists() {
        return;
    }
    let stored = toml::to_string(done).map_err(std::io::Error::other).and_then(|text| {
        fs::create_dir_all(&folder)?;
        fs::write(folder.join("done.toml"), text)
    });
    forgive(&folder, stored);
}

/// Returns the file with the digests that the user vouches for.
pub fn vouched_path() -> Option<PathBuf> {
    Some(Xdg::new().ok()?.config_dir().join("tinmold/vouched"))
}

/// Returns true if the user vouches for molds of this digest permanently.
pub fn is_vouched(digest: &str) -> bool {
    let text = vouched_path().map(|path| stored_text(&path)).unwrap_or_default();
    text.lines().any(|line| line.split_whitespace().next() == Some(digest))
}

/// Stores that the user does. Each line is a digest and the mold's address.
pub fn store_vouched(digest: &str, origin: &str) {
    let Some(path) = vouched_path() else { return };
    let line = format!("{digest}  {}\n", safe(origin));
    let appended = path.parent().map_or(Ok(()), fs::create_dir_all).and_then(|()| {
        let mut file = fs::File::options().create(true).append(true).open(&path)?;
        file.write_all(line.as_bytes())
    });
    if let Err(error) = appended {
        say!("cannot store that you vouch for it: {}: {error}", path.display());
    }
}

/// Reads a file of the state; an unreadable one counts as empty, and is logged.
fn stored_text(path: &Path) -> String {
    tracing::debug!(path = %path.display(), "read");
    fs::read_to_string(path).unwrap_or_else(|error| {
        if error.kind() != std::io::ErrorKind::NotFound {
            tracing::warn!(path = %path.display(), %error, "cannot read the state");
        }
        String::new()
    })
}

/// Logs that the state was stored, or could not be: only a convenience is lost.
fn forgive(path: &Path, stored: std::io::Result<()>) {
    match stored {
        Ok(()) => tracing::debug!(path = %path.display(), "stored"),
        Err(error) => tracing::warn!(path = %path.display(), %error, "cannot store the state"),
    }
}
