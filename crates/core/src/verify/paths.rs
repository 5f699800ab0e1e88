//! Paths: inside the destination, legal on every system, no two the same.

use crate::answers::form::words;
use crate::plan::{Entry, EntryKind};
use std::borrow::Cow;
use unicode_normalization::UnicodeNormalization;

/// The longest name that every common file system takes, in bytes.
const LONGEST_NAME: usize = 255;
/// The longest path, so that a destination of some length still fits what systems take.
const LONGEST_PATH: usize = 1024;

/// Whether a name of a file or folder is legal on every system.
///
/// # Errors
/// Why not, in a clause that goes on from the name. The rules are those of "Naming Files, Paths, and Namespaces" in
/// Microsoft's documentation, which are the strictest.
pub fn portable_name(name: &str) -> Result<(), String> {
    if name.is_empty() {
        return Err("is empty".into());
    }
    if name == "." || name == ".." {
        return Err("leads to another folder".into());
    }
    let is_usual = |b: u8| b.is_ascii_alphanumeric() || matches!(b, b'.' | b'-' | b'_' | b' ');
    if !name.bytes().all(is_usual)
        && let Some(c) = name.chars().find(|c| c.is_control() || "<>:\"|?*\\/".contains(*c))
    {
        return Err(format!("holds `{}`, which no name on Windows may", c.escape_debug()));
    }
    if name.ends_with([' ', '.']) {
        return Err("ends with a space or a dot, which Windows drops".into());
    }
    if name.len() > LONGEST_NAME {
        return Err(format!("has more than {LONGEST_NAME} bytes"));
    }
    if words::is_device(name) {
        return Err("is a device on Windows".into());
    }
    let ours = |name: &str| {
        [".git", ".tinmold", "git~1", "tinmol~1"].iter().any(|own| name.eq_ignore_ascii_case(own))
    };
    let is_ours = if name.is_ascii() {
        ours(name)
    } else {
        ours(&name.to_lowercase().nfkc().filter(|c| !is_ignored(*c)).collect::<String>())
    };
    if is_ours {
        return Err("belongs to git or to Tin Mold".into());
    }
    Ok(())
}

/// Characters that some file systems leave out of account when they compare names.
fn is_ignored(c: char) -> bool {
    matches!(c, '\u{200b}'..='\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{feff}' | '\u{ad}')
}

/// Whether a path stays inside the folder that it is relative to, and is legal on every system.
///
/// # Errors
/// Why not, in a clause that goes on from the path.
pub fn portable_path(path: &str) -> Result<(), String> {
    if path.starts_with(['/', '\\']) || words::has_drive(path) {
        return Err("leads out of the destination: it begins at a root".into());
    }
    if path.split(['/', '\\']).any(|part| part == "..") {
        return Err("leads out of the destination".into());
    }
    if path.len() > LONGEST_PATH {
        return Err(format!("has more than {LONGEST_PATH} bytes"));
    }
    path.split('/').try_for_each(|part| {
        portable_name(part).map_err(|reason| format!("has a part that {reason}: {part:?}"))
    })
}

/// Whether a link at `path` points to something inside the casting.
pub(super) fn link_stays(path: &str, target: &str) -> Result<(), String> {
    let out = || Err(format!("is a link to {target:?}, which leads out of the destination"));
    if target.is_empty()
        || target.starts_with(['/', '\\'])
        || target.contains('\\')
        || words::has_drive(target)
    {
        return out();
    }
    let mut depth = path.split('/').count() - 1;
    for part in target.split('/') {
        match part {
            "" | "." => {}
            ".." if depth == 0 => return out(),
            ".." => depth -= 1,
            ".git" | ".tinmold" => {
                return Err(format!("is a link to {target:?}, which belongs to git or to Tin Mold"));
            }
            _ => depth += 1,
        }
    }
    Ok(())
}

/// Whether a path is legal on every system and the same as it is [`folded`], which most paths show at a glance.
pub(super) fn is_plain(path: &str) -> bool {
    let is_plain = |b: u8| matches!(b, b'a'..=b'z' | b'0'..=b'9' | b'.' | b'-' | b'_' | b'/');
    let is_name = |name: &str| match name.as_bytes() {
        [] | [b'.', ..] | [.., b'.'] => false,
        // What the names of devices begin with.
        [b'a' | b'c' | b'l' | b'n' | b'p', ..] if words::is_device(name) => false,
        bytes => bytes.len() <= LONGEST_NAME,
    };
    path.len() <= LONGEST_PATH && path.bytes().all(is_plain) && path.split('/').all(is_name)
}

/// The same text for paths that some system takes for one, by case or Unicode form.
pub(super) fn folded(path: &str) -> Cow<'_, str> {
    if !path.is_ascii() {
        Cow::Owned(path.nfkc().collect::<String>().to_lowercase().nfc().collect())
    } else if path.bytes().any(|b| b.is_ascii_uppercase()) {
        Cow::Owned(path.to_ascii_lowercase())
    } else {
        Cow::Borrowed(path)
    }
}

/// Pairs of entries whose paths, given as they are [`folded`], are the same, and files that stand where another entry needs a
/// folder.
pub(super) fn meeting<'e>(entries: &'e [Entry], paths: &[Cow<'_, str>]) -> Vec<(&'e Entry, &'e Entry)> {
    let mut order: Vec<(&str, &Entry)> = paths.iter().map(AsRef::as_ref).zip(entries).collect();
    // Entries are in the order of their paths, which folding seldom changes.
    order.sort_by_key(|(path, _)| *path);
    let mut pairs = Vec::new();
    for two in order.windows(2) {
        if two[0].0 == two[1].0 {
            pairs.push((two[1].1, two[0].1));
        }
    }
    let mut last = ("", None);
    for (path, entry) in &order {
        let folder = path.rsplit_once('/').map_or("", |(folder, _)| folder);
        if folder != last.0 {
            last = (folder, file_at_or_above(folder, &order));
        }
        pairs.extend(last.1.map(|file| (*entry, file)));
    }
    pairs
}

/// The nearest entry at a path or above it, if that is no folder.
fn file_at_or_above<'e>(mut path: &str, order: &[(&str, &'e Entry)]) -> Option<&'e Entry> {
    while !path.is_empty() {
        if let Ok(at) = order.binary_search_by_key(&path, |(path, _)| *path) {
            return Some(order[at].1).filter(|entry| entry.kind != EntryKind::Folder);
        }
        path = path.rsplit_once('/').map_or("", |(folder, _)| folder);
    }
    None
}
