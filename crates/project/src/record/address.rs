//! The address of a mold in a record, which travels with its project: it names no path of this machine.

use std::path::{Path, PathBuf};
use tinmold_mold::Origin;
use tinmold_platform::paths::resolved;
use tinmold_platform::repository;

/// Returns the address of a mold for the record of the project at `root`. For a mold on this machine it is the
/// path between the two if they are in one repository, else empty.
pub(super) fn address(origin: &Origin, version: &str, root: &Path) -> String {
    let path = match origin {
        Origin::Folder(path) | Origin::Archive(path) => path,
        // A repository of this machine.
        Origin::Shelf(address) if address.starts_with('/') || address.starts_with("file:") => {
            return String::new();
        }
        other => return other.address(version),
    };
    relative(path, root).unwrap_or_default()
}

/// Returns the path from a project to a mold in the same repository.
fn relative(mold: &Path, root: &Path) -> Option<String> {
    let mold = mold.canonicalize().ok()?;
    let root = resolved(root);
    if !mold.starts_with(repository::around(&root)?) {
        return None;
    }
    let common = root.ancestors().find(|path| mold.starts_with(path))?;
    let up = root.strip_prefix(common).ok()?.components().map(|_| "..");
    let down = mold.strip_prefix(common).ok()?.components().map(|part| part.as_os_str().to_str());
    let down: Option<Vec<&str>> = down.collect();
    let parts: Vec<&str> = up.chain(down?).collect();
    Some(match parts.first() {
        Some(&"..") => parts.join("/"),
        _ => format!("./{}", parts.join("/")),
    })
}

/// Returns the path of the mold at a relative `address` of the record of the project at `root`; `None` if it is not
/// there, or not in the project's repository: a record is untrusted.
#[must_use]
pub fn mold_in_repository(root: &Path, address: &str) -> Option<PathBuf> {
    let root = root.canonicalize().ok()?;
    let path = root.join(address).canonicalize().ok()?;
    path.starts_with(repository::around(&root)?).then_some(path)
}
