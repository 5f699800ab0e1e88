//! Portable paths: legal on every system, and inside the directory that they are relative to.
//!
//! The rules are those of "Naming Files, Paths, and Namespaces" in Microsoft's documentation, which
//! are the strictest.

use std::borrow::Cow;
use std::path::{Path, PathBuf};
use unicode_normalization::UnicodeNormalization;

/// The longest name that every common file system takes, in bytes.
const LONGEST_NAME: usize = 255;
/// The longest path, in bytes; a destination of some length still fits what systems take.
const LONGEST_PATH: usize = 1024;

/// Why a name or path is not portable. Displayed as a clause that follows the name.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PathError {
    /// The name is empty.
    #[error("is empty")]
    Empty,
    /// The name is `.` or `..`.
    #[error("leads to another directory")]
    Dots,
    /// A character that Windows allows in no name.
    #[error("holds `{}`, which is not allowed on Windows", .0.escape_debug())]
    BadCharacter(char),
    /// Windows drops a space or dot at the end of a name.
    #[error("ends with a space or a dot, which Windows drops")]
    BadEnd,
    /// The name is longer than file systems take.
    #[error("has more than {LONGEST_NAME} bytes")]
    NameTooLong,
    /// The path is longer than systems take.
    #[error("has more than {LONGEST_PATH} bytes")]
    PathTooLong,
    /// Windows reserves the name for a device.
    #[error("is a device on Windows")]
    Device,
    /// The name belongs to git or to this program.
    #[error("belongs to git or to Tin Mold")]
    Protected,
    /// The path begins at a root or a drive.
    #[error("leads out of the destination: it begins at a root")]
    Absolute,
    /// The path holds `..`.
    #[error("leads out of the destination")]
    Outside,
    /// A part of the path is not portable.
    #[error("has a part that {reason}: {part:?}")]
    Part {
        /// The part.
        part: String,
        /// Why.
        reason: Box<Self>,
    },
}

/// Checks that the name of a file or directory is legal on every system.
///
/// # Errors
/// Why it is not.
pub fn portable_name(name: &str) -> Result<(), PathError> {
    if name.is_empty() {
        return Err(PathError::Empty);
    }
    if name == "." || name == ".." {
        return Err(PathError::Dots);
    }
    let is_usual = |b: u8| b.is_ascii_alphanumeric() || matches!(b, b'.' | b'-' | b'_' | b' ');
    if !name.bytes().all(is_usual)
        && let Some(c) = name.chars().find(|c| c.is_control() || "<>:\"|?*\\/".contains(*c))
    {
        return Err(PathError::BadCharacter(c));
    }
    if name.ends_with([' ', '.']) {
        return Err(PathError::BadEnd);
    }
    if name.len() > LONGEST_NAME {
        return Err(PathError::NameTooLong);
    }
    if is_device(name) {
        return Err(PathError::Device);
    }
    let protected = |name: &str| {
        [".git", ".tinmold", "git~1", "tinmol~1"].iter().any(|own| name.eq_ignore_ascii_case(own))
    };
    let is_protected = if name.is_ascii() { protected(name) } else { protected(&folded(name)) };
    if is_protected { Err(PathError::Protected) } else { Ok(()) }
}

/// Characters that some file systems ignore when they compare names: the property
/// Default_Ignorable_Code_Point of the Unicode Character Database 16.0.
fn is_ignored(c: char) -> bool {
    matches!(c,
        '\u{ad}' | '\u{34f}' | '\u{61c}' | '\u{115f}'..='\u{1160}' | '\u{17b4}'..='\u{17b5}'
        | '\u{180b}'..='\u{180f}' | '\u{200b}'..='\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2060}'..='\u{206f}'
        | '\u{3164}' | '\u{fe00}'..='\u{fe0f}' | '\u{feff}' | '\u{ffa0}' | '\u{fff0}'..='\u{fff8}'
        | '\u{1bca0}'..='\u{1bca3}' | '\u{1d173}'..='\u{1d17a}' | '\u{e0000}'..='\u{e0fff}')
}

/// Checks that a relative path with `/` stays inside its directory and is legal on every system.
///
/// # Errors
/// Why it is not.
pub fn portable_path(path: &str) -> Result<(), PathError> {
    if path.starts_with(['/', '\\']) || has_drive(path) {
        return Err(PathError::Absolute);
    }
    if path.split(['/', '\\']).any(|part| part == "..") {
        return Err(PathError::Outside);
    }
    if path.len() > LONGEST_PATH {
        return Err(PathError::PathTooLong);
    }
    path.split('/').try_for_each(|part| {
        portable_name(part)
            .map_err(|reason| PathError::Part { part: part.to_owned(), reason: Box::new(reason) })
    })
}

/// Returns true for a name that is a Windows device, with or without an extension, in any case.
#[must_use]
pub fn is_device(name: &str) -> bool {
    let stem = name.split('.').next().unwrap_or(name).trim_end_matches(' ');
    let is = |device: &&str| stem.eq_ignore_ascii_case(device);
    let is_port = |device: &&str| {
        stem.get(..device.len()).is_some_and(|start| start.eq_ignore_ascii_case(device))
            && matches!(
                &stem[device.len()..],
                "0" | "1" | "2" | "3" | "4" | "5" | "6" | "7" | "8" | "9" | "¹" | "²" | "³"
            )
    };
    ["con", "prn", "aux", "nul", "conin$", "conout$"].iter().any(is) || ["com", "lpt"].iter().any(is_port)
}

/// Returns true for a path that begins with a drive letter.
#[must_use]
pub fn has_drive(path: &str) -> bool {
    let bytes = path.as_bytes();
    bytes.len() >= 2 && bytes[0].is_ascii_alphabetic() && bytes[1] == b':'
}

/// Folds a path so that paths which some system takes for one (by case or Unicode form) are equal: full case
/// folding and normal form KC without ignorable characters, as toNFKC_Casefold of the Unicode Standard (3.13).
#[must_use]
pub fn folded(path: &str) -> Cow<'_, str> {
    if !path.is_ascii() {
        let plain: String = path.nfd().filter(|c| !is_ignored(*c)).collect();
        let once: String = unicase::UniCase::unicode(plain.as_str()).to_folded_case().nfkc().collect();
        // A compatibility form can bring capital letters.
        Cow::Owned(unicase::UniCase::unicode(once.as_str()).to_folded_case().nfkc().collect())
    } else if path.bytes().any(|b| b.is_ascii_uppercase()) {
        Cow::Owned(path.to_ascii_lowercase())
    } else {
        Cow::Borrowed(path)
    }
}

/// Returns the directory of a path with `/`; empty for a path without one.
#[must_use]
pub fn parent_of(path: &str) -> &str {
    path.rsplit_once('/').map_or("", |(parent, _)| parent)
}

/// Returns true if a path with `/` is in a folder, at any depth.
#[must_use]
pub fn is_beneath(path: &str, folder: &str) -> bool {
    path.strip_prefix(folder).is_some_and(|rest| rest.starts_with('/'))
}

/// Returns the path that something has once these paths, with all that is beneath them, became others: each from where and
/// to where.
#[must_use]
pub fn moved<'m>(path: &str, moves: impl IntoIterator<Item = (&'m str, &'m str)>) -> String {
    let mut moves = moves.into_iter();
    let found = moves.find(|(from, _)| path == *from || is_beneath(path, from));
    found.map_or_else(|| path.to_owned(), |(from, to)| format!("{to}{}", &path[from.len()..]))
}

/// Joins a directory, empty for the root, and a path in it, both with `/`.
#[must_use]
pub fn joined(directory: &str, inside: &str) -> String {
    if directory.is_empty() { inside.to_owned() } else { format!("{directory}/{inside}") }
}

/// Returns the absolute path that `path` leads to through links. It may not be there yet.
#[must_use]
pub fn resolved(path: &Path) -> PathBuf {
    let whole = std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
    let there = whole.ancestors().find(|path| path.exists());
    let Some((there, resolved)) = there.and_then(|there| Some((there, there.canonicalize().ok()?))) else {
        return whole;
    };
    match whole.strip_prefix(there) {
        Ok(rest) if !rest.as_os_str().is_empty() => resolved.join(rest),
        _ => resolved,
    }
}
