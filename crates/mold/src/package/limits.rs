//! Limits of a mold.

/// The most bytes that an archive may unpack to; it is unpacked in memory.
pub const MOST_BYTES: u64 = 256 << 20;
/// The largest file that is rendered, in bytes.
pub(super) const LARGEST_TEXT: u64 = 64 << 20;
/// The largest manifest, in bytes.
pub(crate) const LARGEST_MANIFEST: u64 = 2 << 20;
/// The most entries that an archive may hold.
pub(super) const MOST_ENTRIES: usize = 100_000;
