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
