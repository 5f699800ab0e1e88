//! SHA-256 digests of files, and the list of them that `sha256sum -c` reads.

use sha2::{Digest as _, Sha256};
use std::collections::BTreeMap;
use std::fmt;
use std::fmt::Write as _;
use std::io::Read;
use std::path::Path;

/// A SHA-256 digest, by FIPS 180-4. It is shown as 64 hexadecimal digits.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Digest(pub [u8; 32]);

impl fmt::Display for Digest {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        const DIGITS: &[u8; 16] = b"0123456789abcdef";
        let mut text = [0; 64];
        for (byte, two) in self.0.iter().zip(text.chunks_exact_mut(2)) {
            two[0] = DIGITS[usize::from(byte >> 4)];
            two[1] = DIGITS[usize::from(byte & 15)];
        }
        f.write_str(std::str::from_utf8(&text).unwrap_or_default())
    }
}

impl fmt::Debug for Digest {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{self}")
    }
}

impl std::str::FromStr for Digest {
    type Err = ();

    /// Reads 64 hexadecimal digits.
    fn from_str(text: &str) -> Result<Self, ()> {
        let mut digest = [0; 32];
        if text.len() != 64 || !text.is_ascii() {
            return Err(());
        }
        for (at, byte) in digest.iter_mut().enumerate() {
            *byte = text.get(at * 2..at * 2 + 2).and_then(|two| u8::from_str_radix(two, 16).ok()).ok_or(())?;
        }
        Ok(Self(digest))
    }
}

/// The digest of `bytes`.
#[must_use]
pub fn digest_of(bytes: &[u8]) -> Digest {
    Digest(Sha256::digest(bytes).into())
}

/// The digest of what the file at `path` holds, read piece by piece.
///
/// # Errors
/// The file cannot be read.
pub fn digest_of_file(path: &Path) -> std::io::Result<Digest> {
    let mut file = std::fs::File::open(path)?;
    let mut hash = Sha256::new();
    let mut piece = vec![0; 64 * 1024];
    loop {
        match file.read(&mut piece)? {
            0 => return Ok(Digest(hash.finalize().into())),
            length => hash.update(&piece[..length]),
        }
    }
}

/// The list as `sha256sum` writes it: digest, two spaces, path; by path.
#[must_use]
pub fn written_digests(digests: &BTreeMap<String, Digest>) -> String {
    let mut out = String::with_capacity(digests.len() * 100);
    for (path, digest) in digests {
        let _ = writeln!(out, "{digest}  {path}");
    }
    out
}

/// Reads such a list.
///
/// # Errors
/// The number of the first line that is not of this form, from 1.
pub fn read_digests(text: &str) -> Result<BTreeMap<String, Digest>, usize> {
    let mut digests = BTreeMap::new();
    for (at, line) in text.lines().enumerate() {
        let pair = line.split_once(' ').and_then(|(digest, path)| {
            // Behind the space stands a second one, or the star of a file that was read as bytes.
            let path = path.strip_prefix([' ', '*'])?;
            (!path.is_empty()).then_some((digest.parse().ok()?, path))
        });
        let (digest, path) = pair.ok_or(at + 1)?;
        digests.insert(path.to_owned(), digest);
    }
    Ok(digests)
}
