//! Lists every file of the built-in shelf, with its digest, for the program to hold.

use sha2::{Digest, Sha256};
use std::error::Error;
use std::fs;
use std::path::{Path, PathBuf};

fn main() -> Result<(), Box<dyn Error>> {
    let out = PathBuf::from(std::env::var("OUT_DIR")?);
    let shelf = Path::new(&std::env::var("CARGO_MANIFEST_DIR")?).join("../../molds").canonicalize()?;
    println!("cargo::rerun-if-changed={}", shelf.display());
    let mut table = String::from("&[\n");
    for mold in entries(&shelf)? {
        if !mold.is_dir() {
            continue;
        }
        let mut files = Vec::new();
        list(&mold, "", &mut files)?;
        files.sort();
        let lines: String = files.into_iter().map(|(_, line)| line).collect();
        table += &format!("    ({:?}, &[\n{lines}    ]),\n", name(&mold)?);
    }
    table.push_str("]\n");
    fs::write(out.join("built_in.rs"), table)?;
    Ok(())
}

/// What is in a folder, sorted.
fn entries(folder: &Path) -> Result<Vec<PathBuf>, Box<dyn Error>> {
    let mut entries =
        fs::read_dir(folder)?.map(|entry| Ok(entry?.path())).collect::<Result<Vec<_>, Box<dyn Error>>>()?;
    entries.sort();
    Ok(entries)
}

fn name(path: &Path) -> Result<&str, Box<dyn Error>> {
    Ok(path.file_name().and_then(|name| name.to_str()).ok_or("a path is not UTF-8")?)
}

/// Adds, for each file below `folder`, its path in the mold and its line of the table.
fn list(folder: &Path, inside: &str, files: &mut Vec<(String, String)>) -> Result<(), Box<dyn Error>> {
    println!("cargo::rerun-if-changed={}", folder.display());
    for path in entries(folder)? {
        let name = name(&path)?;
        let inside = if inside.is_empty() { name.to_owned() } else { format!("{inside}/{name}") };
        if path.is_dir() {
            list(&path, &inside, files)?;
            continue;
        }
        println!("cargo::rerun-if-changed={}", path.display());
        let mode = if is_executable(&path)? { 0o755 } else { 0o644 };
        let digest: [u8; 32] = Sha256::digest(fs::read(&path)?).into();
        let line = format!("        ({inside:?}, {mode:#o}, {digest:?}, include_bytes!({path:?})),\n");
        files.push((inside, line));
    }
    Ok(())
}

#[cfg(unix)]
fn is_executable(path: &Path) -> Result<bool, Box<dyn Error>> {
    use std::os::unix::fs::PermissionsExt;
    Ok(fs::metadata(path)?.permissions().mode() & 0o111 != 0)
}

#[cfg(not(unix))]
fn is_executable(path: &Path) -> Result<bool, Box<dyn Error>> {
    Ok(path.extension().is_some_and(|extension| extension == "sh"))
}
