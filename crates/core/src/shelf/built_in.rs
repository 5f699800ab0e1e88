//! The shelf in the program: its files as they are, with their digests, so that reading one costs nothing.

use super::document::{Node, Value};
use super::package::{Content, File, Origin, Package, PackageError};
use crate::digest::Digest;
use std::borrow::Cow;
use tinmold_notation::did_you_mean;
use toml::Spanned;
use toml::de::{DeTable, DeValue};

/// Path, permission bits, digest and bytes of a file, as the build script found them.
type BuiltInFile = (&'static str, u32, [u8; 32], &'static [u8]);

/// Path of a manifest, and what stands in it.
pub(super) type Document = (&'static str, &'static [u8]);

/// A mold's name, its digest, its files, sorted by path, and its manifests.
type BuiltInMold = (&'static str, [u8; 32], &'static [BuiltInFile], &'static [Document]);

/// The molds by name.
static MOLDS: &[BuiltInMold] = include!(concat!(env!("OUT_DIR"), "/built_in.rs"));

/// The names of the molds in the program, sorted.
pub fn built_in_names() -> impl Iterator<Item = &'static str> {
    MOLDS.iter().map(|(name, ..)| *name)
}

/// The built-in mold of this name.
///
/// # Errors
/// There is none; the message names the nearest one.
pub fn built_in(name: &str) -> Result<Package, PackageError> {
    let Some((name, digest, files, documents)) = MOLDS.iter().find(|(known, ..)| *known == name) else {
        let all = built_in_names().collect::<Vec<_>>().join(", ");
        let advice = did_you_mean(name, built_in_names(), format!("there are {all}"));
        let stop = if advice.ends_with('?') { "" } else { "." };
        let hint = format!("; {advice}{stop} A path to a mold's folder has a slash: ./{name}");
        return Err(PackageError::Unknown { name: name.to_owned(), hint });
    };
    let files = files.iter().map(|(path, mode, digest, bytes)| {
        let file = File::new((*path).to_owned(), Content::Held(Cow::Borrowed(bytes)), *mode);
        file.set_digest(Digest(*digest));
        file
    });
    let package = Package::new(Origin::BuiltIn((*name).to_owned()), files.collect());
    Ok(package.of_digest(Digest(*digest)).of_documents(documents))
}

/// What reading a manifest again would give; none if it cannot be said.
pub(super) fn document(bytes: &'static [u8]) -> Option<Spanned<DeTable<'static>>> {
    let read = value(postcard::from_bytes(bytes).ok()?)?;
    match (read.span(), read.into_inner()) {
        (span, DeValue::Table(table)) => Some(Spanned::new(span, table)),
        _ => None,
    }
}

fn value(node: Node<'static>) -> Option<Spanned<DeValue<'static>>> {
    let here = match node.value {
        Value::Text(text) => DeValue::String(Cow::Borrowed(text)),
        Value::Flag(flag) => DeValue::Boolean(flag),
        Value::Other(text) => DeValue::parse(text).ok()?.into_inner(),
        Value::List(list) => DeValue::Array(list.into_iter().map(value).collect::<Option<_>>()?),
        Value::Table(pairs) => {
            let mut table = DeTable::with_capacity(pairs.len());
            for (key, below) in pairs {
                let Value::Text(text) = key.value else { return None };
                table.insert(placed(key.start, key.end, Cow::Borrowed(text)), value(below)?);
            }
            DeValue::Table(table)
        }
    };
    Some(placed(node.start, node.end, here))
}

fn placed<T>(start: u32, end: u32, value: T) -> Spanned<T> {
    Spanned::new(start as usize..end as usize, value)
}
