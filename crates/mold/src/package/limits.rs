//! Limits of an archive of a mold.

/// The most bytes that an archive may unpack to; it is unpacked in memory.
pub const MOST_BYTES: u64 = 256 << 20;
/// The most entries that an archive may hold.
pub(super) const MOST_ENTRIES: usize = 100_000;
