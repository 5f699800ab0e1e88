//! Packs every mold of the built-in shelf into an archive that the program holds.

use std::error::Error;
use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};

fn main() -> Result<(), Box<dyn Error>> {
    let out = PathBuf::from(std::env::var("OUT_DIR")?);
    let shelf = Path::new(&std::env::var("CARGO_MANIFEST_DIR")?).join("../../molds");
    println!("cargo::rerun-if-changed={}", shelf.display());
    let mut table = String::from("&[\n");
    for mold in sorted(&shelf)? {
        if !mold.is_dir() {
            continue;
        }
        let name = mold.file_name().and_then(|name| name.to_str()).ok_or("a mold's name is not UTF-8")?;
        let archive = out.join(format!("{name}.tar.gz"));
        let mut builder = tar::Builder::new(
            flate2::GzBuilder::new().mtime(0).write(fs::File::create(&archive)?, flate2::Compression::best()),
        );
        pack(&mut builder, &mold, "")?;
        builder.into_inner()?.finish()?.flush()?;
        table += &format!("    ({name:?}, include_bytes!({archive:?})),\n");
    }
    table.push_str("]\n");
    fs::write(out.join("built_in.rs"), table)?;
    Ok(())
}

fn sorted(folder: &Path) -> Result<Vec<PathBuf>, Box<dyn Error>> {
    let mut entries =
        fs::read_dir(folder)?.map(|entry| Ok(entry?.path())).collect::<Result<Vec<_>, Box<dyn Error>>>()?;
    entries.sort();
    Ok(entries)
}

/// Adds the folder's entries with mode bits, and nothing that differs from machine to machine.
fn pack<W: Write>(builder: &mut tar::Builder<W>, folder: &Path, inside: &str) -> Result<(), Box<dyn Error>> {
    for path in sorted(folder)? {
        let name = path.file_name().and_then(|name| name.to_str()).ok_or("a path is not UTF-8")?;
        let inside = if inside.is_empty() { name.to_owned() } else { format!("{inside}/{name}") };
        println!("cargo::rerun-if-changed={}", path.display());
        if path.is_dir() {
            pack(builder, &path, &inside)?;
            continue;
        }
        let mut header = tar::Header::new_gnu();
        header.set_mode(if is_executable(&path)? { 0o755 } else { 0o644 });
        header.set_size(fs::metadata(&path)?.len());
        header.set_entry_type(tar::EntryType::Regular);
        builder.append_data(&mut header, &inside, fs::File::open(&path)?)?;
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
