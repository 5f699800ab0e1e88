//! Merging by line.

use super::changes::{Change, Line, changes, lines_of};
use super::conflict::{Choice, Conflict, Hunk};
use crate::fit::Text;
use std::ops::Range;

/// What comes of three texts.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Merge {
    /// The pieces, in order.
    pub hunks: Vec<Hunk>,
    ending: &'static str,
}

/// The label of a side, for markers.
const LABELS: [&str; 3] = ["mine", "before", "theirs"];

impl Merge {
    /// Merges by line: `base` is what both came from, `mine` the owner's text, `theirs` the mold's.
    ///
    /// Line endings do not count as changes. Lines of the owner keep theirs, and lines that come from the mold get the
    /// one that most of the owner's have.
    #[must_use]
    pub fn of(base: &str, mine: &str, theirs: &str) -> Self {
        let ending = Text::new(mine).ending();
        let texts = Texts {
            base: lines_of(base),
            mine: lines_of(mine),
            theirs: lines_of(theirs),
            raw: mine.split_inclusive('\n').collect(),
            ending,
        };
        let mut merge = Self { hunks: Vec::new(), ending };
        let mut done = 0;
        for change in changes(&texts.base, &texts.mine, &texts.theirs) {
            merge.push(texts.mine_of(done..change.mine.start));
            done = change.mine.end;
            merge.take(&texts, change);
        }
        merge.push(texts.mine_of(done..texts.mine.len()));
        merge
    }

    /// Takes what one side changed, or both alike; the rest is a conflict.
    fn take(&mut self, texts: &Texts<'_>, mut change: Change) {
        let (base, mine, theirs) = texts.sides(&change);
        if base == theirs || mine == theirs {
            return self.push(texts.mine_of(change.mine));
        }
        if base == mine {
            return self.push(texts.theirs_of(change.theirs));
        }
        // What both have at the start and at the end is no conflict.
        let first = mine.iter().zip(theirs).take_while(|(mine, theirs)| mine == theirs).count();
        let (mine, theirs) = (&mine[first..], &theirs[first..]);
        let last = mine.iter().rev().zip(theirs.iter().rev()).take_while(|(a, b)| a == b).count();
        self.push(texts.mine_of(change.mine.start..change.mine.start + first));
        change.mine = change.mine.start + first..change.mine.end - last;
        change.theirs = change.theirs.start + first..change.theirs.end - last;
        let conflict = Conflict {
            line: change.mine.start + 1,
            base: texts.base_of(change.base),
            mine: texts.mine_of(change.mine.clone()),
            theirs: texts.theirs_of(change.theirs),
        };
        self.hunks.push(Hunk::Conflict(conflict));
        self.push(texts.mine_of(change.mine.end..change.mine.end + last));
    }

    fn push(&mut self, text: String) {
        match self.hunks.last_mut() {
            _ if text.is_empty() => {}
            Some(Hunk::Clean(clean)) => clean.push_str(&text),
            _ => self.hunks.push(Hunk::Clean(text)),
        }
    }

    /// Returns the conflicts, in order.
    pub fn conflicts(&self) -> impl Iterator<Item = &Conflict> {
        self.hunks.iter().filter_map(|hunk| match hunk {
            Hunk::Conflict(conflict) => Some(conflict),
            Hunk::Clean(_) => None,
        })
    }

    /// Returns the merged text; none if there are conflicts.
    #[must_use]
    pub fn text(&self) -> Option<String> {
        self.decided(&[])
    }

    /// Returns the text with a choice for each conflict, in order; none if there are too few.
    #[must_use]
    pub fn decided(&self, choices: &[Choice]) -> Option<String> {
        let mut choices = choices.iter();
        let mut text = String::new();
        for hunk in &self.hunks {
            match hunk {
                Hunk::Clean(clean) => text.push_str(clean),
                Hunk::Conflict(conflict) => text.push_str(&conflict.decided(choices.next()?)),
            }
        }
        Some(text)
    }

    /// Returns the text with markers around both sides of each conflict, and what was there before between them.
    #[must_use]
    pub fn marked(&self) -> String {
        let mut text = String::new();
        for hunk in &self.hunks {
            match hunk {
                Hunk::Clean(clean) => text.push_str(clean),
                Hunk::Conflict(conflict) => {
                    let sides = [&conflict.mine, &conflict.base, &conflict.theirs];
                    for ((sign, label), side) in
                        ["<<<<<<<", "|||||||", "======="].iter().zip(LABELS).zip(sides)
                    {
                        text.push_str(&format!("{sign} {label}{}{side}", self.ending));
                        if !side.is_empty() && !side.ends_with('\n') {
                            text.push_str(self.ending);
                        }
                    }
                    text.push_str(&format!(">>>>>>>{}", self.ending));
                }
            }
        }
        text
    }
}

/// The three texts by line.
struct Texts<'a> {
    base: Vec<Line<'a>>,
    mine: Vec<Line<'a>>,
    theirs: Vec<Line<'a>>,
    /// The owner's lines with the endings that they have.
    raw: Vec<&'a str>,
    ending: &'static str,
}

impl<'a> Texts<'a> {
    fn sides(&self, change: &Change) -> (&[Line<'a>], &[Line<'a>], &[Line<'a>]) {
        let Change { base, mine, theirs } = change;
        (&self.base[base.clone()], &self.mine[mine.clone()], &self.theirs[theirs.clone()])
    }

    fn mine_of(&self, range: Range<usize>) -> String {
        self.raw[range].concat()
    }

    fn base_of(&self, range: Range<usize>) -> String {
        self.ended(&self.base[range])
    }

    fn theirs_of(&self, range: Range<usize>) -> String {
        self.ended(&self.theirs[range])
    }

    fn ended(&self, lines: &[Line<'_>]) -> String {
        lines.iter().flat_map(|(text, is_ended)| [*text, if *is_ended { self.ending } else { "" }]).collect()
    }
}
