//! SHA-256 digests, and the list of them that `sha256sum -c` reads.

use ring::digest::{Context, SHA256, digest};
use std::collections::BTreeMap;
use std::fmt;
use std::fs::File;
use std::io::{Read, Result, Write};
use std::path::Path;

/// A SHA-256 digest (FIPS 180-4). Displayed as 64 lower-case hexadecimal digits.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Digest(pub [u8; 32]);

impl Digest {
    /// Writes the hexadecimal digits into `text` and returns them.
    pub fn digits<'t>(&self, text: &'t mut [u8; 64]) -> &'t str {
        const HEX: &[u8; 16] = b"0123456789abcdef";
        for (byte, two) in self.0.iter().zip(text.chunks_exact_mut(2)) {
            two.copy_from_slice(&[HEX[usize::from(byte >> 4)], HEX[usize::from(byte & 15)]]);
        }
        std::str::from_utf8(text).unwrap_or_default()
    }

    fn from_slice(bytes: &[u8]) -> Self {
        // SHA-256 always yields 32 bytes.
        Self(bytes.try_into().unwrap_or_default())
    }
}

impl fmt::Display for Digest {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.digits(&mut [0; 64]))
    }
}

impl fmt::Debug for Digest {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{self}")
    }
}

/// A text that is not 64 hexadecimal digits.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("a SHA-256 digest has 64 hexadecimal digits")]
pub struct NotADigest;

impl std::str::FromStr for Digest {
    type Err = NotADigest;

    fn from_str(text: &str) -> std::result::Result<Self, NotADigest> {
        let mut digest = [0; 32];
        if text.len() != 64 || !text.bytes().all(|byte| byte.is_ascii_hexdigit()) {
            return Err(NotADigest);
        }
        for (byte, at) in digest.iter_mut().zip((0..64).step_by(2)) {
            *byte = u8::from_str_radix(&text[at..at + 2], 16).map_err(|_| NotADigest)?;
        }
        Ok(Self(digest))
    }
}

/// Computes the digest of `bytes`.
#[must_use]
pub fn digest_of(bytes: &[u8]) -> Digest {
    Digest::from_slice(digest(&SHA256, bytes).as_ref())
}

/// Computes the digest of the file at `path` without holding it in memory.
///
/// # Errors
/// The file cannot be read.
pub fn digest_of_file(path: &Path) -> Result<Digest> {
    digest_of_reader(File::open(path)?)
}

/// Computes the digest of all that can be read.
///
/// # Errors
/// It cannot be read.
pub fn digest_of_reader(mut file: impl Read) -> Result<Digest> {
    let mut hash = Hasher::new();
    let mut buffer = vec![0; 64 * 1024];
    loop {
        match file.read(&mut buffer)? {
            0 => return Ok(hash.finish()),
            length => hash.update(&buffer[..length]),
        }
    }
}

/// Computes a digest of bytes that arrive in pieces.
pub struct Hasher(Context);

impl Hasher {
    /// Starts with no bytes.
    #[must_use]
    pub fn new() -> Self {
        Self(Context::new(&SHA256))
    }

    /// Adds the next bytes.
    pub fn update(&mut self, bytes: &[u8]) {
        self.0.update(bytes);
    }

    /// Returns the digest of all bytes.
    #[must_use]
    pub fn finish(self) -> Digest {
        Digest::from_slice(self.0.finish().as_ref())
    }
}

impl Default for Hasher {
    fn default() -> Self {
        Self::new()
    }
}

/// Writes lines as `sha256sum` does: digest, two spaces, path; in the order of `digests`.
///
/// # Errors
/// `out` cannot be written.
pub fn write_digests<'d>(
    out: &mut impl Write,
    digests: impl IntoIterator<Item = (&'d str, Digest)>,
) -> Result<()> {
    let mut out = std::io::BufWriter::new(out);
    for (path, digest) in digests {
        for piece in [digest.digits(&mut [0; 64]), "  ", path, "\n"] {
            out.write_all(piece.as_bytes())?;
        }
    }
    out.flush()
}

/// Line `line` (from 1) of a list is not a digest, two spaces and a path.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("line {line} is not a digest, two spaces and a path")]
pub struct BadDigestLine {
    /// Number of the line, from 1.
    pub line: usize,
}

/// Reads a list that `sha256sum` wrote, by path.
///
/// # Errors
/// The first line that has another form.
pub fn read_digests(text: &str) -> std::result::Result<BTreeMap<String, Digest>, BadDigestLine> {
    let mut digests = BTreeMap::new();
    for (at, line) in text.lines().enumerate() {
        let pair = line.split_once(' ').and_then(|(digest, path)| {
            // The second separator is a space, or a star for a file read in binary mode.
            let path = path.strip_prefix([' ', '*'])?;
            (!path.is_empty()).then_some((digest.parse().ok()?, path))
        });
        let (digest, path) = pair.ok_or(BadDigestLine { line: at + 1 })?;
        digests.insert(path.to_owned(), digest);
    }
    Ok(digests)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn digests_read_back_what_they_write() {
        let empty = "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855";
        assert_eq!(empty.parse(), Ok(digest_of(b"")));
        assert_eq!(empty.to_uppercase().parse(), Ok(digest_of(b"")));
        for bad in ["", "e3", &empty[1..], &format!("+{}", &empty[1..]), &"é".repeat(32)] {
            assert_eq!(bad.parse::<Digest>(), Err(NotADigest), "{bad}");
        }
        let mut list = Vec::new();
        write_digests(&mut list, [("a b", digest_of(b"1")), ("c", digest_of(b"2"))]).unwrap();
        let read = read_digests(std::str::from_utf8(&list).unwrap()).unwrap();
        assert_eq!(read["a b"], digest_of(b"1"));
        assert_eq!(read_digests(&format!("{empty}  x\nno")), Err(BadDigestLine { line: 2 }));
    }
}
