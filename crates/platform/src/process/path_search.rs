//! Finding programs on PATH, never in a directory that depends on where the user is.

use std::ffi::OsStr;
use std::fs;
use std::path::{Path, PathBuf};

/// Returns the absolute directories of a PATH, each once, in order.
#[must_use]
pub fn search_path(path: Option<&OsStr>) -> Vec<PathBuf> {
    let directories = path.map(|path| std::env::split_paths(path).collect::<Vec<_>>()).unwrap_or_default();
    let mut seen = Vec::new();
    for directory in directories.into_iter().filter(|directory| directory.is_absolute()) {
        if !seen.contains(&directory) {
            seen.push(directory);
        }
    }
    seen
}

/// Returns the directories where tools lie that were installed and not put on PATH.
#[must_use]
pub fn usual_directories() -> Vec<PathBuf> {
    let home = std::env::var_os("HOME").map(PathBuf::from).filter(|home| home.is_absolute());
    let at_home = [".local/bin", ".cargo/bin", "bin", "go/bin", ".dotnet", ".bun/bin", ".deno/bin"];
    let system = [
        "/usr/local/bin",
        "/usr/bin",
        "/opt/homebrew/bin",
        "/usr/local/go/bin",
        "/snap/bin",
        "/opt/local/bin",
    ];
    let home = home.iter().flat_map(|home| at_home.iter().map(|inside| home.join(inside)));
    home.chain(system.iter().map(PathBuf::from)).collect()
}

/// Finds every program called `tool` in `directories`, in their order.
pub fn programs<'f>(tool: &'f str, directories: &'f [PathBuf]) -> impl Iterator<Item = PathBuf> + 'f {
    let endings: &[&str] = if cfg!(windows) { &[".exe", ".cmd", ".bat"] } else { &[""] };
    directories
        .iter()
        .flat_map(move |directory| {
            endings.iter().map(move |ending| directory.join(format!("{tool}{ending}")))
        })
        .filter(|path| is_program(path))
}

#[cfg(unix)]
fn is_program(path: &Path) -> bool {
    use std::os::unix::fs::PermissionsExt;
    fs::metadata(path).is_ok_and(|metadata| metadata.is_file() && metadata.permissions().mode() & 0o111 != 0)
}

#[cfg(not(unix))]
fn is_program(path: &Path) -> bool {
    fs::metadata(path).is_ok_and(|metadata| metadata.is_file())
}
