//! A line of text that is edited in place.

use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthStr;

/// A text and the caret in it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Field {
    text: String,
    /// The byte before which the caret stands.
    caret: usize,
    /// True if the next letter replaces the text, which the user did not write.
    fresh: bool,
}

impl Field {
    /// Edits a text, with the caret at its end. What a `fresh` one holds goes with the first letter.
    pub fn new(text: String, fresh: bool) -> Self {
        Self { caret: text.len(), fresh: fresh && !text.is_empty(), text }
    }

    pub fn text(&self) -> &str {
        &self.text
    }

    /// Returns the number of letters before the caret.
    pub fn letters(&self) -> usize {
        self.text[..self.caret].graphemes(true).count()
    }

    /// Returns the column of the caret.
    pub fn column(&self) -> usize {
        self.text[..self.caret].width()
    }

    pub fn insert(&mut self, what: &str) {
        if std::mem::take(&mut self.fresh) {
            self.text.clear();
            self.caret = 0;
        }
        self.text.insert_str(self.caret, what);
        self.caret += what.len();
    }

    pub fn clear(&mut self) {
        *self = Self::default();
    }

    /// Takes the letter before the caret away, or the one after it.
    pub fn delete(&mut self, before: bool) {
        self.fresh = false;
        let at = if before { self.previous() } else { self.caret };
        let end = if before { self.caret } else { self.next() };
        self.text.replace_range(at..end, "");
        self.caret = at;
    }

    pub fn left(&mut self) {
        self.fresh = false;
        self.caret = self.previous();
    }

    pub fn right(&mut self) {
        self.fresh = false;
        self.caret = self.next();
    }

    pub fn home(&mut self) {
        self.fresh = false;
        self.caret = 0;
    }

    pub fn end(&mut self) {
        self.fresh = false;
        self.caret = self.text.len();
    }

    fn previous(&self) -> usize {
        self.text[..self.caret].grapheme_indices(true).next_back().map_or(0, |(at, _)| at)
    }

    fn next(&self) -> usize {
        let rest = &self.text[self.caret..];
        rest.graphemes(true).next().map_or(self.text.len(), |letter| self.caret + letter.len())
    }
}

/// A text of several lines that is edited in a pane of its own.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Lines {
    /// At least one.
    pub lines: Vec<Field>,
    /// The line with the caret.
    pub at: usize,
}

impl Lines {
    pub fn new(text: &str) -> Self {
        let mut lines: Vec<Field> = text.split('\n').map(|line| Field::new(line.to_owned(), false)).collect();
        if lines.len() > 1 && lines.last().is_some_and(|line| line.text.is_empty()) {
            lines.pop();
        }
        Self { at: lines.len() - 1, lines }
    }

    pub fn text(&self) -> String {
        self.lines.iter().map(Field::text).collect::<Vec<_>>().join("\n")
    }

    pub fn line(&mut self) -> &mut Field {
        let last = self.lines.len() - 1;
        &mut self.lines[self.at.min(last)]
    }

    /// Inserts a text, which may have several lines.
    pub fn insert(&mut self, text: &str) {
        for (number, line) in text.replace("\r\n", "\n").replace('\r', "\n").split('\n').enumerate() {
            if number > 0 {
                self.split();
            }
            self.line().insert(line);
        }
    }

    /// Breaks the line at the caret.
    pub fn split(&mut self) {
        let line = self.line();
        let rest = line.text.split_off(line.caret);
        let mut next = Field::new(rest, false);
        next.home();
        self.lines.insert(self.at + 1, next);
        self.at += 1;
    }

    /// Takes the letter before the caret away, or the break before the line.
    pub fn backspace(&mut self) {
        if self.line().caret > 0 {
            self.line().delete(true);
        } else if self.at > 0 {
            let rest = self.lines.remove(self.at);
            self.at -= 1;
            let line = self.line();
            line.end();
            line.text.push_str(&rest.text);
        }
    }

    /// Moves the caret by so many lines.
    pub fn step(&mut self, by: isize) {
        let column = self.line().column();
        self.at = self.at.saturating_add_signed(by).min(self.lines.len() - 1);
        let line = self.line();
        line.end();
        while line.column() > column {
            line.left();
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letters_are_what_people_see_as_one() {
        let mut field = Field::new("tides".into(), true);
        field.insert("e\u{301}");
        field.insert("潮");
        assert_eq!((field.text(), field.column()), ("e\u{301}潮", 3));
        field.left();
        field.delete(true);
        assert_eq!((field.text(), field.column()), ("潮", 0));
        field.delete(false);
        field.delete(false);
        assert_eq!(field.text(), "");
        let mut kept = Field::new("tides".into(), true);
        kept.left();
        kept.insert("x");
        assert_eq!(kept.text(), "tidexs");
    }

    #[test]
    fn lines_break_and_join() {
        let mut lines = Lines::new("Gull Point\n");
        lines.insert("\r\nTern\nQuay");
        assert_eq!((lines.text().as_str(), lines.at), ("Gull Point\nTern\nQuay", 2));
        lines.line().home();
        lines.backspace();
        assert_eq!(lines.text(), "Gull Point\nTernQuay");
        lines.step(-9);
        lines.line().home();
        lines.backspace();
        lines.split();
        assert_eq!((lines.text().as_str(), lines.at), ("\nGull Point\nTernQuay", 1));
    }
}
