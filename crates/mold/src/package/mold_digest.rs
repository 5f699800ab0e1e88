//! The digest that a mold is known and vouched for by.

use std::fmt;
use tinmold_platform::digest::{Digest, NotADigest};

/// What the digest begins with: the second way of computing it.
const PREFIX: &str = "2:";

/// The digest of a mold. Displayed as `2:` and 64 lower-case hexadecimal digits.
///
/// It is the SHA-256 (FIPS 180-4) of a line `SHA256 MODE PATH` for each entry, sorted by the bytes of the
/// path and ended by a line feed. SHA256 is that of the bytes, of a link that of its target, of an
/// empty folder that of nothing. MODE is `644` or `755`, `link`, or `folder`. PATH has slashes, is relative
/// to the folder of `mold.toml`, and holds no control character.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct MoldDigest(pub Digest);

impl fmt::Display for MoldDigest {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{PREFIX}{}", self.0)
    }
}

impl std::str::FromStr for MoldDigest {
    type Err = NotADigest;

    fn from_str(text: &str) -> Result<Self, NotADigest> {
        text.strip_prefix(PREFIX).ok_or(NotADigest)?.parse().map(Self)
    }
}
