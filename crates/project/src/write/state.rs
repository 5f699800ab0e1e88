//! The state of the file at an entry's path.

/// The state of the file at an entry's path.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum FileState {
    /// Nothing.
    Absent,
    /// Exactly what would be written.
    Same,
    /// Another file or link.
    Different,
    /// A file for this machine only, which is never overwritten.
    Local,
    /// Something that cannot be overwritten.
    Blocked(BlockReason),
    /// A folder on the way is a link that leads elsewhere.
    BehindLink,
}

/// Why an entry cannot be written. Displayed as a clause that follows the path.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum BlockReason {
    /// A folder on the way is a file.
    #[error("needs the folder {0}, which is a file in the destination")]
    ParentIsFile(String),
    /// The mold has a folder where a file is.
    #[error("is a folder in the mold, and a file in the destination")]
    FileForFolder,
    /// The mold has a file where a folder is.
    #[error("is a file in the mold, and a folder in the destination")]
    FolderForFile,
    /// The program's own folder or file is something else.
    #[error("belongs to Tin Mold, and is something else there")]
    OwnPath,
}
