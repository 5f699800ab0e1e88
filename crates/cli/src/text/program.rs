//! The program as the user can type it.

use super::style::quoted;
use std::path::Path;
use tinmold_platform::process::{programs, search_path};

const NAME: &str = "tinmold";

/// Returns `tinmold` if that is this program on the search path, else the path of this program, quoted for a
/// shell.
pub fn program() -> String {
    let Ok(own) = std::env::current_exe() else { return NAME.to_owned() };
    let folders = search_path(std::env::var_os("PATH").as_deref());
    let found = programs(NAME, &folders).next();
    if found.is_some_and(|found| same_file(&found, &own)) {
        NAME.to_owned()
    } else {
        quoted(&own.display().to_string())
    }
}

fn same_file(one: &Path, other: &Path) -> bool {
    matches!((one.canonicalize(), other.canonicalize()), (Ok(one), Ok(other)) if one == other)
}
