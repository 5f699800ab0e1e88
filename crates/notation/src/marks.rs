//! The marks that open and close a tag.

/// The marks that open and close a tag.
#[derive(Clone, Debug)]
pub struct Marks {
    open: String,
    close: String,
}

/// Why two runs cannot be marks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MarksError {
    /// A run is not 2 to 4 characters long.
    Length,
    /// A mark holds another character than ASCII punctuation, or a quote, `#`, parenthesis or
    /// square bracket.
    Character,
    /// Both runs are the same.
    Same,
}

impl std::fmt::Display for MarksError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(match self {
            Self::Length => "a mark has 2 to 4 characters",
            Self::Character => {
                "a mark is made of ASCII punctuation, without quotes, `#`, parentheses and square brackets"
            }
            Self::Same => "the opening and the closing mark must differ",
        })
    }
}

impl std::error::Error for MarksError {}

impl Marks {
    /// Other marks than the usual ones.
    ///
    /// # Errors
    /// Each is 2 to 4 ASCII punctuation characters without quotes, `#`, parentheses and square
    /// brackets, and they differ.
    pub fn new(open: &str, close: &str) -> Result<Self, MarksError> {
        for mark in [open, close] {
            if !mark.bytes().all(|b| b.is_ascii_punctuation() && !b"'\"`#()[]".contains(&b)) {
                return Err(MarksError::Character);
            }
            if !(2..=4).contains(&mark.len()) {
                return Err(MarksError::Length);
            }
        }
        if open == close {
            return Err(MarksError::Same);
        }
        Ok(Self::made(open, close))
    }

    fn made(open: &str, close: &str) -> Self {
        Self { open: open.into(), close: close.into() }
    }

    /// Returns the opening mark.
    #[must_use]
    pub fn open(&self) -> &str {
        &self.open
    }

    /// Returns the closing mark.
    #[must_use]
    pub fn close(&self) -> &str {
        &self.close
    }

    /// Returns the first opening mark in `text`, in bytes.
    #[must_use]
    pub fn find(&self, text: &str) -> Option<usize> {
        find(&self.open, text)
    }

    /// Returns the first closing mark in `text`, in bytes.
    pub(crate) fn find_close(&self, text: &str) -> Option<usize> {
        find(&self.close, text)
    }
}

fn find(mark: &str, text: &str) -> Option<usize> {
    let (mark, bytes) = (mark.as_bytes(), text.as_bytes());
    let mut from = 0;
    // A mark is short and its first character is rare: searching for one byte is faster.
    while let Some(at) = memchr::memchr(mark[0], &bytes[from..]) {
        // A mark is shorter than what a call takes that compares any two texts.
        let here = &bytes[from + at..];
        if here.len() >= mark.len() && std::iter::zip(here, mark).all(|(byte, of_mark)| byte == of_mark) {
            return Some(from + at);
        }
        from += at + 1;
    }
    None
}

impl Default for Marks {
    fn default() -> Self {
        Self::made("{=", "=}")
    }
}

impl PartialEq for Marks {
    fn eq(&self, other: &Self) -> bool {
        self.open == other.open && self.close == other.close
    }
}
