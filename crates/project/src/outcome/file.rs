//! The files that come out.

use std::sync::Arc;

/// A file, link or empty folder that comes out.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct OutcomeFile {
    /// Its path in the project.
    pub path: String,
    /// Its kind.
    pub kind: FileKind,
    /// Its length in bytes.
    pub bytes: u64,
    /// The number of its lines; `None` if it is not text, or was not rendered.
    pub lines: Option<usize>,
    /// The hash of its content and mode: equal for equal files of one forecast.
    pub print: u64,
}

/// The kind of a file that comes out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FileKind {
    /// A folder with nothing in it.
    Folder,
    /// A file that was not there.
    File,
    /// A symbolic link.
    Link,
    /// A file of the project that changes.
    Edited,
}

/// Everything that comes out for given answers.
#[derive(Clone, Debug, Default)]
pub struct Outcome {
    /// By file of the body; the same allocation where an answer changed nothing in it.
    pub(crate) groups: Vec<Arc<[OutcomeFile]>>,
}

/// The content of a file that comes out.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Preview {
    /// Its text; `None` for bytes that are not UTF-8 text, for links and folders.
    pub text: Option<String>,
    /// Its text before the change, for a file of the project that changes.
    pub before: Option<String>,
}

impl Outcome {
    /// Makes an outcome of files that were found together.
    #[must_use]
    pub fn new(files: Vec<OutcomeFile>) -> Self {
        Self { groups: vec![files.into()] }
    }

    /// Returns the files, sorted by path.
    #[must_use]
    pub fn files(&self) -> Vec<&OutcomeFile> {
        let mut files: Vec<&OutcomeFile> = self.groups.iter().flat_map(|group| group.iter()).collect();
        files.sort_by(|a, b| a.path.cmp(&b.path));
        files
    }

    /// Returns how many files come out, without folders.
    #[must_use]
    pub fn count(&self) -> usize {
        self.groups.iter().flat_map(|group| group.iter()).filter(|file| file.kind != FileKind::Folder).count()
    }

    /// Returns the number of bytes of all files together.
    #[must_use]
    pub fn bytes(&self) -> u64 {
        self.groups.iter().flat_map(|group| group.iter()).map(|file| file.bytes).sum()
    }
}
