//! Exit codes.

/// Exit codes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[repr(u8)]
pub enum Exit {
    /// Everything was done.
    Done = 0,
    /// The work failed.
    Failed = 1,
    /// The command line is wrong.
    Usage = 2,
    /// Answers are missing and there is no terminal to ask for them.
    Missing = 3,
    /// Files are in the way, or a merge left conflicts.
    InTheWay = 4,
    /// The mold is faulty.
    Faulty = 5,
    /// Refused for safety.
    Refused = 6,
    /// The user pressed Ctrl-C.
    Interrupted = 130,
}

impl Exit {
    /// All exit codes.
    pub const ALL: [Self; 8] = [
        Self::Done,
        Self::Failed,
        Self::Usage,
        Self::Missing,
        Self::InTheWay,
        Self::Faulty,
        Self::Refused,
        Self::Interrupted,
    ];

    /// Returns what it means, in words.
    pub fn means(self) -> &'static str {
        match self {
            Self::Done => "done",
            Self::Failed => "the work failed",
            Self::Usage => "the command line is wrong",
            Self::Missing => "answers are missing, and there is no terminal to ask for them",
            Self::InTheWay => {
                "files are in the way, a merge left conflicts, or (`recast --check`) the project is behind its mold"
            }
            Self::Faulty => "the mold is faulty",
            Self::Refused => "refused for safety",
            Self::Interrupted => "interrupted",
        }
    }
}
