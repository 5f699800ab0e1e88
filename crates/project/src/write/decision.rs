//! Files that are in the way, and what becomes of them.

/// A file that exists and differs from what the mold would write.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Conflict {
    /// The path in the destination.
    pub path: String,
    /// The index of its entry in the plan.
    pub entry: usize,
}

/// The choice for a file that is in the way.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Choice {
    /// The file stays, and the new one is not written.
    Keep,
    /// The new file replaces it.
    Replace,
    /// The file stays, and the new one is written beside it under another name.
    Aside,
}

/// The result of a write.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct WriteSummary {
    /// The project's folder, or the archive.
    pub path: std::path::PathBuf,
    /// Number of files and links written.
    pub files: usize,
    /// Number of bytes in them.
    pub bytes: u64,
    /// Number of files that were there and are as the mold has them.
    pub same: usize,
    /// Files in the way that stayed.
    pub kept: Vec<String>,
    /// Files in the way that were replaced.
    pub replaced: Vec<String>,
    /// Files in the way that stayed, with the path of the new file beside each.
    pub aside: Vec<(String, String)>,
    /// Files for this machine only that were not written.
    pub local: Vec<String>,
}
