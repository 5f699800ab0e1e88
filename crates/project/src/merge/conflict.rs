//! A place that both sides changed, and what is decided of it.

/// A piece of a merge, in order.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Hunk {
    /// This text, as it is to be written.
    Clean(String),
    /// Two texts, and no rule for which one.
    Conflict(Conflict),
}

/// A place that both sides changed, each in its own way.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Conflict {
    /// The line of the owner's text where it begins, counted from 1.
    pub line: usize,
    /// What stood there before; it may be empty.
    pub base: String,
    /// What the owner has there.
    pub mine: String,
    /// What the mold writes there now.
    pub theirs: String,
}

/// What is decided of a conflict.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Choice {
    /// The owner's text.
    Mine,
    /// The mold's text.
    Theirs,
    /// The owner's text, and the mold's behind it.
    Both,
    /// A text of their own, of whole lines.
    Text(String),
}

impl Conflict {
    /// Returns the text of a choice.
    #[must_use]
    pub fn decided(&self, choice: &Choice) -> String {
        match choice {
            Choice::Mine => self.mine.clone(),
            Choice::Theirs => self.theirs.clone(),
            Choice::Both => {
                let mut both = self.mine.clone();
                if !both.is_empty() && !both.ends_with('\n') && !self.theirs.is_empty() {
                    both.push('\n');
                }
                both + &self.theirs
            }
            Choice::Text(text) => text.clone(),
        }
    }
}
