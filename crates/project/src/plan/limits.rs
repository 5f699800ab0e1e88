//! Limits of a cast.

/// Limits of a cast. A plan beyond them is a mistake of the mold or an attack, and is refused
/// before anything is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Limits {
    /// The most files, links and empty folders.
    pub files: usize,
    /// The most bytes that are rendered or copied, and steps that rendering takes.
    pub bytes: u64,
}

impl Default for Limits {
    /// 100,000 files and 1 GiB.
    fn default() -> Self {
        Self { files: 100_000, bytes: tinmold_notation::Budget::USUAL }
    }
}
