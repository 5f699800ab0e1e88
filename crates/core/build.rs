//! Lists every file of the built-in shelf, with its digest, for the program to hold, and reads the manifests beforehand: a cast of a
//! small mold would spend a tenth of its time on that.

#[path = "src/shelf/document.rs"]
mod document;

use document::{Node, Value};
use sha2::{Digest, Sha256};
use std::borrow::Cow;
use std::error::Error;
use std::fs;
use std::ops::Range;
use std::path::{Path, PathBuf};
use toml::Spanned;
use toml::de::{DeTable, DeValue};

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
        files.sort_by(|a, b| a.inside.cmp(&b.inside));
        let listed: String = files.iter().map(|file| file.listed()).collect();
        let digest = digest_of_list(&listed);
        let lines: String = files.iter().map(|file| file.line()).collect();
        let documents = files.iter().filter(|file| file.is_manifest()).map(File::document);
        let documents = documents.collect::<Result<String, _>>()?;
        table += &format!("    ({:?}, {digest:?}, &[\n{lines}    ], &[\n{documents}    ]),\n", name(&mold)?);
    }
    table.push_str("]\n");
    fs::write(out.join("built_in.rs"), table)?;
    Ok(())
}

/// The digest of a list of files, as the shelf's packages compute it: that of the digests of its stretches.
fn digest_of_list(listed: &str) -> [u8; 32] {
    let mut hash = Sha256::new();
    listed.as_bytes().chunks(4096).for_each(|stretch| hash.update(Sha256::digest(stretch)));
    hash.finalize().into()
}

/// A file of a mold.
struct File {
    /// Its path in the mold.
    inside: String,
    path: PathBuf,
    mode: u32,
    digest: [u8; 32],
}

impl File {
    /// Its line of the table.
    fn line(&self) -> String {
        let Self { inside, path, mode, digest } = self;
        format!("        ({inside:?}, {mode:#o}, {digest:?}, include_bytes!({path:?})),\n")
    }

    /// Whether a mold, or a part of one, is described in it.
    fn is_manifest(&self) -> bool {
        let parts: Vec<&str> = self.inside.split('/').collect();
        matches!(parts[..], ["mold.toml"] | ["parts", _, "part.toml"])
    }

    /// Its line of the table of documents.
    fn document(&self) -> Result<String, Box<dyn Error>> {
        let text = fs::read_to_string(&self.path)?;
        let read = DeTable::parse(&text).map_err(|error| format!("{}: {error}", self.path.display()))?;
        let span = read.span();
        let bytes = postcard::to_allocvec(&node(&text, span, &DeValue::Table(read.into_inner()))?)?;
        Ok(format!("        ({:?}, &{bytes:?}),\n", self.inside))
    }

    /// Its line of what the mold's digest is computed of, as the shelf's packages say it.
    fn listed(&self) -> String {
        let digits: String = self.digest.iter().map(|byte| format!("{byte:02x}")).collect();
        format!("{digits} {:o} {}\n", self.mode, self.inside)
    }
}

/// What stands at `span` of a document.
fn node<'d>(
    document: &'d str,
    span: Range<usize>,
    value: &'d DeValue<'_>,
) -> Result<Node<'d>, Box<dyn Error>> {
    let below = |value: &'d Spanned<DeValue<'_>>| node(document, value.span(), value.get_ref());
    let value = match value {
        DeValue::String(text) => Value::Text(text),
        DeValue::Boolean(flag) => Value::Flag(*flag),
        DeValue::Integer(_) | DeValue::Float(_) | DeValue::Datetime(_) => {
            Value::Other(&document[span.clone()])
        }
        DeValue::Array(list) => Value::List(list.iter().map(below).collect::<Result<_, _>>()?),
        DeValue::Table(table) => {
            let pair = |(key, value): (&'d Spanned<Cow<'_, str>>, _)| {
                let span = key.span();
                let key = Node {
                    start: u32::try_from(span.start)?,
                    end: u32::try_from(span.end)?,
                    value: Value::Text(key.get_ref()),
                };
                Ok((key, below(value)?))
            };
            Value::Table(table.iter().map(pair).collect::<Result<_, Box<dyn Error>>>()?)
        }
    };
    Ok(Node { start: u32::try_from(span.start)?, end: u32::try_from(span.end)?, value })
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

/// Adds each file below `folder`, whose path in the mold is `inside`.
fn list(folder: &Path, inside: &str, files: &mut Vec<File>) -> Result<(), Box<dyn Error>> {
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
        files.push(File { inside, path, mode, digest });
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
