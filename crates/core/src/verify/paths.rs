//! Paths: inside the destination, legal on every system, no two the same.

use crate::answers::form::words;
use crate::plan::{Entry, EntryKind, folder_of};
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
    const PLAIN: [bool; 256] = {
        let mut plain = [false; 256];
        let mut byte = 0;
        while byte < 256 {
            plain[byte] = matches!(byte as u8, b'a'..=b'z' | b'0'..=b'9' | b'.' | b'-' | b'_' | b'/');
            byte += 1;
        }
        plain
    };
    let mut end = 0;
    let mut is_name = |name: &[u8]| {
        let start = end;
        end = start + name.len() + 1;
        match name {
            [] | [b'.', ..] | [.., b'.'] => false,
            // What the names of devices begin with.
            [b'a' | b'c' | b'l' | b'n' | b'p', ..] if words::is_device(&path[start..end - 1]) => false,
            name => name.len() <= LONGEST_NAME,
        }
    };
    // All bytes are looked at, without a branch for each.
    path.len() <= LONGEST_PATH
        && path.bytes().fold(true, |plain, byte| plain & PLAIN[usize::from(byte)])
        && path.as_bytes().split(|byte| *byte == b'/').all(&mut is_name)
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

/// Pairs of entries, which are in the order of their paths, that are at the same path when paths are [`folded`], and of those that
/// need a folder where a file is. `plain`: whether folding changes no path.
pub(super) fn meeting<'e>(entries: &'e [Entry<'e>], plain: bool) -> Vec<(&'e Entry<'e>, &'e Entry<'e>)> {
    let mut order = Vec::new();
    if !plain {
        order.extend(entries.iter().map(|entry| (folded(&entry.path), entry)));
        // Folding seldom changes the order.
        order.sort_by(|(one, _), (other, _)| one.cmp(other));
    }
    let at = |at: usize| match order.get(at) {
        Some((path, entry)) => (&**path, *entry),
        None => (&*entries[at].path, &entries[at]),
    };
    let find = |path: &str| {
        if plain {
            entries.binary_search_by(|entry| (*entry.path).cmp(path)).map(|found| &entries[found])
        } else {
            order.binary_search_by(|(found, _)| (**found).cmp(path)).map(|found| order[found].1)
        }
    };
    let mut pairs = Vec::new();
    let mut before = "";
    let mut last = ("", None);
    for place in 0..entries.len() {
        let (path, entry) = at(place);
        if path == before {
            pairs.push((entry, at(place - 1).1));
        }
        before = path;
        let folder = folder_of(path);
        if folder != last.0 {
            last = (folder, file_at_or_above(folder, |path| find(path).ok()));
        }
        pairs.extend(last.1.map(|file| (entry, file)));
    }
    pairs
}

/// The nearest entry at a path or above it, if that is no folder.
fn file_at_or_above<'e>(
    mut path: &str,
    find: impl Fn(&str) -> Option<&'e Entry<'e>>,
) -> Option<&'e Entry<'e>> {
    while !path.is_empty() {
        if let Some(entry) = find(path) {
            return Some(entry).filter(|entry| entry.kind != EntryKind::Folder);
        }
        path = path.rsplit_once('/').map_or("", |(folder, _)| folder);
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every text of up to six of these pieces.
    fn texts() -> impl Iterator<Item = String> {
        let pieces = ["a", "con", "1", ".", "/", "_", "A", " "];
        (0..pieces.len().pow(6)).map(move |mut number| {
            let mut text = String::new();
            while number > 0 {
                text += pieces[number % pieces.len()];
                number /= pieces.len();
            }
            text
        })
    }

    #[test]
    fn what_is_seen_to_be_plain_is_legal_and_folds_to_itself() {
        let mut plain = 0;
        let long = ["x".repeat(255), "x".repeat(256), "ab/".repeat(341) + "c", "ab/".repeat(342) + "c"];
        for path in texts().chain(long) {
            if is_plain(&path) {
                plain += 1;
                assert_eq!(portable_path(&path), Ok(()), "{path:?}");
                assert_eq!(folded(&path), path);
            }
        }
        assert!(plain > 10_000, "{plain} paths are plain");
        assert!(is_plain("body/pier_1/gull-point.txt") && is_plain("console/lpt10/a.con"));
        assert!(!is_plain("src/aux.rs") && !is_plain("com1") && !is_plain(".git/x") && !is_plain("a//b"));
    }
}
