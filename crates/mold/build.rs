//! Embeds the built-in shelf: a table of every file of every mold, with its digest.

use sha2::{Digest, Sha256};
use std::error::Error;
use std::fs;
use std::path::{Path, PathBuf};

fn main() -> Result<(), Box<dyn Error>> {
    let out = PathBuf::from(std::env::var("OUT_DIR")?);
    let shelf = Path::new(&std::env::var("CARGO_MANIFEST_DIR")?).join("../../molds").canonicalize()?;
    println!("cargo::rerun-if-changed={}", shelf.display());
    let mut table = String::from("&[\n");
    for mold in entries(&shelf)?.iter().filter(|mold| mold.is_dir()) {
        let mut files = Vec::new();
        list(mold, "", &mut files)?;
        // A mold on a shelf stands alone: its layers come with it.
        for from in layers(&fs::read_to_string(mold.join("mold.toml"))?) {
            let layer = mold.join(from).canonicalize()?;
            list(&layer, &format!("layers/{}", name(&layer)?), &mut files)?;
        }
        files.sort();
        table += &format!("    ({:?}, &[\n", name(mold)?);
        for (inside, mode, path) in files {
            // A small cast would take a tenth longer if it computed them.
            let digest: [u8; 32] = Sha256::digest(fs::read(&path)?).into();
            table += &format!("        ({inside:?}, {mode:#o}, include_bytes!({path:?}), {digest:?}),\n");
        }
        table += "    ]),\n";
    }
    table.push_str("]\n");
    fs::write(out.join("built_in.rs"), table)?;
    Ok(())
}

/// Returns the paths of the layers that a manifest names.
fn layers(manifest: &str) -> Vec<&str> {
    let tables = manifest.split("[[layer]]").skip(1);
    let from = |table: &'_ str| -> Option<(usize, usize)> {
        let table = table.split("\n[").next().unwrap_or("");
        let at = table.find("from")?;
        let open = at + table[at..].find('"')? + 1;
        Some((open, open + table[open..].find('"')?))
    };
    tables.filter_map(|table| from(table).map(|(start, end)| &table[start..end])).collect()
}

/// Lists a directory, sorted.
fn entries(directory: &Path) -> Result<Vec<PathBuf>, Box<dyn Error>> {
    let mut entries = fs::read_dir(directory)?
        .map(|entry| Ok(entry?.path()))
        .collect::<Result<Vec<_>, Box<dyn Error>>>()?;
    entries.sort();
    Ok(entries)
}

fn name(path: &Path) -> Result<&str, Box<dyn Error>> {
    Ok(path.file_name().and_then(|name| name.to_str()).ok_or("a path is not UTF-8")?)
}

/// Collects each file below `directory`: path in the mold, mode, path on disk.
fn list(
    directory: &Path,
    inside: &str,
    files: &mut Vec<(String, u32, PathBuf)>,
) -> Result<(), Box<dyn Error>> {
    println!("cargo::rerun-if-changed={}", directory.display());
    for path in entries(directory)? {
        let name = name(&path)?;
        let inside = if inside.is_empty() { name.to_owned() } else { format!("{inside}/{name}") };
        if path.is_dir() {
            list(&path, &inside, files)?;
            continue;
        }
        println!("cargo::rerun-if-changed={}", path.display());
        let mode = if is_executable(&path)? { 0o755 } else { 0o644 };
        files.push((inside, mode, path));
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
