//! Digests of files, and the list of them that `sha256sum -c` reads.

#[cfg(target_arch = "x86_64")]
mod lanes;
#[cfg(target_arch = "x86_64")]
mod vector;

use ring::digest::{Context, SHA256, digest};
use std::collections::BTreeMap;
use std::fmt;
use std::io::{Read, Write};
use std::path::Path;

/// A digest of 256 bits, SHA-256 by FIPS 180-4 unless it says otherwise. It is shown as 64 hexadecimal digits.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Digest(pub [u8; 32]);

impl Digest {
    /// Its hexadecimal digits, put into `text`.
    pub(crate) fn digits<'t>(&self, text: &'t mut [u8; 64]) -> &'t str {
        for (byte, two) in self.0.iter().zip(text.chunks_exact_mut(2)) {
            two.copy_from_slice(&DIGITS[usize::from(*byte)]);
        }
        std::str::from_utf8(text).unwrap_or_default()
    }

    fn from_slice(bytes: &[u8]) -> Self {
        // Every digest of this algorithm has 32 bytes.
        Self(bytes.try_into().unwrap_or_default())
    }
}

/// The two hexadecimal digits of every byte.
const DIGITS: [[u8; 2]; 256] = {
    const ONE: &[u8; 16] = b"0123456789abcdef";
    let mut all = [[0; 2]; 256];
    let mut byte = 0;
    while byte < 256 {
        all[byte] = [ONE[byte >> 4], ONE[byte & 15]];
        byte += 1;
    }
    all
};

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
    Digest::from_slice(digest(&SHA256, bytes).as_ref())
}

/// The digest of what the file at `path` holds, read piece by piece.
///
/// # Errors
/// The file cannot be read.
pub fn digest_of_file(path: &Path) -> std::io::Result<Digest> {
    let mut hash = Context::new(&SHA256);
    pieces(path, |piece| hash.update(piece))?;
    Ok(Digest::from_slice(hash.finish().as_ref()))
}

/// The digest of a long list that comes line by line: that of the digests of its stretches, one after another. One text is hashed from
/// its beginning to its end; stretches of one length go side by side.
pub(crate) struct Digesting {
    hash: Context,
    /// What is not hashed yet.
    gathered: Vec<u8>,
}

impl Digesting {
    /// The length of a stretch, in bytes; the last one is shorter.
    const STRETCH: usize = 4096;

    pub(crate) fn new() -> Self {
        Self { hash: Context::new(&SHA256), gathered: Vec::new() }
    }

    pub(crate) fn push(&mut self, piece: &str) {
        self.gathered.extend_from_slice(piece.as_bytes());
        if self.gathered.len() >= Self::STRETCH * SIDE_BY_SIDE {
            self.take(Self::STRETCH * SIDE_BY_SIDE);
        }
    }

    /// Takes in so many of the bytes that were gathered.
    fn take(&mut self, length: usize) {
        let stretches: Vec<&[u8]> = self.gathered[..length].chunks(Self::STRETCH).collect();
        digests_of(&stretches).iter().for_each(|digest| self.hash.update(&digest.0));
        self.gathered.drain(..length);
    }

    pub(crate) fn finish(mut self) -> Digest {
        self.take(self.gathered.len());
        Digest::from_slice(self.hash.finish().as_ref())
    }
}

/// So many texts are hashed in the time of one where a processor has the widest vectors.
pub(crate) const SIDE_BY_SIDE: usize = 16;

/// The digests of several texts, in their order. Texts of about one length are the quickest, [`SIDE_BY_SIDE`] or a multiple of it.
#[must_use]
pub fn digests_of(texts: &[&[u8]]) -> Vec<Digest> {
    #[cfg(target_arch = "x86_64")]
    if let Some(digests) = lanes::digests_of(texts) {
        return digests;
    }
    texts.iter().map(|text| digest_of(text)).collect()
}

fn pieces(path: &Path, mut each: impl FnMut(&[u8])) -> std::io::Result<()> {
    let mut file = std::fs::File::open(path)?;
    let mut piece = vec![0; 64 * 1024];
    loop {
        match file.read(&mut piece)? {
            0 => return Ok(()),
            length => each(&piece[..length]),
        }
    }
}

/// Appends a line of that list.
pub(crate) fn digest_line(lines: &mut Vec<u8>, path: &str, digest: Digest) {
    for piece in [digest.digits(&mut [0; 64]), "  ", path, "\n"] {
        lines.extend_from_slice(piece.as_bytes());
    }
}

/// So many bytes of a list are written together.
const LINES_TOGETHER: usize = 64 * 1024;

/// Writes the list as `sha256sum` does, in the order of `digests`: digest, two spaces, path.
///
/// # Errors
/// It cannot be written.
pub fn write_digests<'d>(
    out: &mut impl Write,
    digests: impl IntoIterator<Item = (&'d str, Digest)>,
) -> std::io::Result<()> {
    let mut lines = Vec::new();
    for (path, digest) in digests {
        digest_line(&mut lines, path, digest);
        if lines.len() >= LINES_TOGETHER {
            out.write_all(&lines)?;
            lines.clear();
        }
    }
    out.write_all(&lines)
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn side_by_side_is_as_one_by_one() {
        let bytes: Vec<u8> = (0..70_000_u32).map(|n| (n.wrapping_mul(2_654_435_761) >> 13) as u8).collect();
        let lengths = (0..300).chain([1000, 1023, 1024, 4095, 65_536, 69_999]);
        let texts: Vec<&[u8]> =
            lengths.map(|length| &bytes[length / 30..length / 30 + length.min(60_000)]).collect();
        for take in [1, 3, 7, 8, 9, texts.len()] {
            for from in [0, 50, 110, 290] {
                let some = &texts[from.min(texts.len() - 1)..(from + take).min(texts.len())];
                let expected: Vec<Digest> = some.iter().map(|text| digest_of(text)).collect();
                assert_eq!(digests_of(some), expected);
                #[cfg(target_arch = "x86_64")]
                for widest in vector::all() {
                    assert_eq!(lanes::with(widest, some), expected);
                }
            }
        }
        // A list is hashed by its stretches, however its lines come.
        let list = "0123456789abcdef 644 body/pier.txt\n".repeat(2500);
        for length in [0, 1, 4095, 4096, 4097, 65_535, 65_536, 65_537, list.len()] {
            let stretches = list.as_bytes()[..length].chunks(4096);
            let digests: Vec<u8> = stretches.flat_map(|stretch| digest_of(stretch).0).collect();
            for line in [1, 35, 1000] {
                let mut digesting = Digesting::new();
                list.as_bytes()[..length].chunks(line).for_each(|line| {
                    digesting.push(std::str::from_utf8(line).unwrap_or_default());
                });
                assert_eq!(digesting.finish(), digest_of(&digests), "{length} bytes, {line} at a time");
            }
        }
        let empty = "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855";
        assert_eq!(digests_of(&[b"", b"", b"", b"", b""])[4].to_string(), empty);
        assert_eq!(empty.parse(), Ok(digest_of(b"")));
    }
}
