//! An earlier version of a mold, for its author.

use super::fetch::{fetch, is_version};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::global::GlobalOptions;
use crate::text::style::safe;
use std::io::Write;
use std::path::{Component, Path, PathBuf};
use std::sync::Arc;
use std::time::Duration;
use tempfile::TempDir;
use tinmold_mold::package::open_folder;
use tinmold_mold::{Mold, Origin, Package};
use tinmold_platform::paths::resolved;
use tinmold_platform::process::{git, printed, printed_text};
use tinmold_platform::repository;
use tinmold_platform::root_dir::{Cursor, RootDir};

/// The longest that one call of git is waited for.
const LIMIT: Duration = Duration::from_secs(60);

/// An earlier version of a mold, with the folder that it is in while it is used.
pub struct EarlierVersion {
    pub mold: Arc<Mold>,
    _place: Option<TempDir>,
}

/// Fetches the version of a mold that `from` names: a version, on the shelves or in the history of the mold's repository;
/// or an address.
pub fn earlier_version(mold: &Mold, from: &str, global: GlobalOptions) -> Result<EarlierVersion, Failure> {
    let is_version = is_version(from);
    let of_history = match &mold.package.origin {
        Origin::Folder(folder) if is_version => of_history(mold, folder, from)?,
        _ => None,
    };
    let (package, place) = match (of_history, is_version) {
        (Some((package, place)), _) => (package, Some(place)),
        (None, true) => {
            let found = fetch(&format!("{}@{from}", mold.name()), global);
            let failed = |error: Failure| match error.exit {
                Exit::Usage => {
                    let (name, version) = (safe(mold.name()), safe(from));
                    let message =
                        format!("version {version} of {name} is neither on a shelf nor in its repository");
                    Failure::new(Exit::Usage, message).help("name its address: --from ADDRESS")
                }
                _ => error,
            };
            (found.map_err(failed)?, None)
        }
        (None, false) => (fetch(from, global)?, None),
    };
    let earlier = Mold::load(package)?;
    if earlier.name() != mold.name() {
        let message = format!("{} is another mold than {}", safe(earlier.name()), safe(mold.name()));
        return Err(Failure::new(Exit::Usage, message));
    }
    Ok(EarlierVersion { mold: Arc::new(earlier), _place: place })
}

/// Takes the newest commit that has this version in the mold's manifest; `None` if there is none.
fn of_history(mold: &Mold, folder: &Path, version: &str) -> Result<Option<(Package, TempDir)>, Failure> {
    let folder = resolved(folder);
    let Some(top) = repository::around(&folder) else { return Ok(None) };
    let Some(inside) = folder.strip_prefix(top).ok().and_then(Path::to_str) else { return Ok(None) };
    let manifest = if inside.is_empty() { "mold.toml".to_owned() } else { format!("{inside}/mold.toml") };
    let commits = text(top, &["log", "--format=%H", "--", &manifest]).unwrap_or_default();
    let found = commits.lines().find_map(|commit| {
        let source = text(top, &["show", "--no-textconv", &format!("{commit}:{manifest}")])?;
        let table: toml::Table = source.parse().ok()?;
        let header = table.get("mold").and_then(toml::Value::as_table);
        let text = |key: &str| header.and_then(|header| header.get(key)).and_then(toml::Value::as_str);
        let is_it = text("version") == Some(version) && text("name") == Some(mold.name());
        is_it.then_some((commit, table))
    });
    let Some((commit, table)) = found else { return Ok(None) };
    let failed = |error: std::io::Error| {
        Failure::new(Exit::Failed, format!("cannot take version {} out of git: {error}", safe(version)))
            .help("take it out by hand, and name its folder: --from FOLDER")
    };
    let place = tempfile::Builder::new().prefix("tinmold-version-").tempdir().map_err(failed)?;
    let root = RootDir::open_through_links(place.path()).map_err(failed)?;
    for part in std::iter::once(inside.to_owned()).chain(layers(&table, inside)) {
        take_out(top, commit, &part, &root).map_err(failed)?;
    }
    let package = open_folder(&place.path().join(inside))?;
    Ok(Some((package, place)))
}

/// Returns the folders of the layers of a manifest, relative to the top of the repository.
fn layers(table: &toml::Table, inside: &str) -> Vec<String> {
    let layers = table.get("layer").and_then(toml::Value::as_array).into_iter().flatten();
    let from = layers.filter_map(|layer| layer.get("from")?.as_str());
    from.filter_map(|from| {
        let mut path = PathBuf::from(inside);
        for part in Path::new(from).components() {
            match part {
                Component::ParentDir => drop(path.pop()),
                Component::Normal(name) => path.push(name),
                Component::CurDir => {}
                _ => return None,
            }
        }
        path.to_str().map(str::to_owned)
    })
    .collect()
}

/// Writes a folder of a commit into `place`, without a filter of the repository and never out of it: the paths of a tree are
/// a stranger's.
fn take_out(top: &Path, commit: &str, folder: &str, place: &RootDir) -> std::io::Result<()> {
    let tree = if folder.is_empty() {
        text(top, &["ls-tree", "-r", "-z", commit])
    } else {
        text(top, &["ls-tree", "-r", "-z", commit, "--", &format!("{folder}/")])
    };
    let mut cursor = Cursor::new(place);
    for line in tree.unwrap_or_default().split('\0') {
        let Some((entry, path)) = line.split_once('\t') else { continue };
        let mut entry = entry.split(' ');
        let (Some(mode), Some("blob"), Some(object)) = (entry.next(), entry.next(), entry.next()) else {
            continue;
        };
        put(top, &mut cursor, (mode, object), path)
            .map_err(|error| std::io::Error::new(error.kind(), format!("{path:?}: {error}")))?;
    }
    Ok(())
}

/// Writes a file or link of a commit.
fn put(top: &Path, cursor: &mut Cursor<'_>, (mode, object): (&str, &str), path: &str) -> std::io::Result<()> {
    // Names with tags are no portable ones yet, but lead nowhere.
    if Path::new(path).components().any(|part| !matches!(part, Component::Normal(_))) {
        return Err(std::io::Error::other("it leads out of its folder"));
    }
    let bytes = printed(git(top).args(["cat-file", "blob", object]), LIMIT);
    let bytes = bytes.ok_or_else(|| std::io::Error::other("git does not give it"))?;
    match mode {
        "120000" => cursor.make_link(&String::from_utf8_lossy(&bytes), path),
        _ => cursor.create(path, if mode == "100755" { 0o755 } else { 0o644 })?.write_all(&bytes),
    }
}

/// Returns what git prints as text; `None` if it fails.
fn text(top: &Path, args: &[&str]) -> Option<String> {
    printed_text(git(top).args(args), LIMIT)
}
