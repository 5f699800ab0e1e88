//! A part: a small mold inside a mold.

use super::mold::Mold;
use crate::snippet::Snippet;
use regex::Regex;

/// A part that can be asked, rendered and fitted.
#[derive(Debug)]
pub struct Part {
    /// Its name.
    pub name: String,
    /// Its summary, in a line.
    pub summary: String,
    /// The condition under which it goes into a project.
    pub when: Option<Snippet>,
    /// The names of the molds into whose projects it goes. A part that names some, or goes
    /// anywhere, sees the answers to its own questions only.
    pub fits: Vec<String>,
    /// True if it goes into a directory without a record.
    pub anywhere: bool,
    /// Its names in earlier versions.
    pub was: Vec<String>,
    /// The condition under which a project with it needs a network to be proven.
    pub network: Option<Snippet>,
    /// The lines that it adds at joints.
    pub joints: Vec<PartJoint>,
    /// Its edits of structured files.
    pub edits: Vec<PartEdit>,
    /// Its questions behind those of its mold, and its own body.
    pub mold: Mold,
}

/// Lines that a part puts at a joint.
#[derive(Clone, Debug)]
pub struct PartJoint {
    /// The file; rendered.
    pub file: Snippet,
    /// The joint's name.
    pub name: String,
    /// The lines; rendered, and each may become several.
    pub lines: Vec<Snippet>,
    /// When they are put in.
    pub when: Option<Snippet>,
    /// True if they are sorted into the lines above the joint.
    pub sorted: bool,
    /// What a block is about: another block of the file with the same match is in the way of it.
    pub same: Option<Regex>,
}

/// An edit of a JSON, TOML or YAML file.
#[derive(Clone, Debug)]
pub struct PartEdit {
    /// The file; rendered.
    pub file: Snippet,
    /// When it is changed.
    pub when: Option<Snippet>,
    /// Keys and values to set, table by table.
    pub set: Option<Piece>,
    /// Elements to add to lists, table by table.
    pub add: Option<Piece>,
    /// Keys and elements to remove, table by table.
    pub remove: Option<Piece>,
    /// The part that two texts of a list share if they mean the same thing.
    pub same: Option<Regex>,
}

/// A value of a `part.toml` whose texts are rendered.
#[derive(Clone, Debug)]
pub enum Piece {
    /// Keys and what they hold, in their order.
    Table(Vec<(Snippet, Self)>),
    /// A list.
    List(Vec<Self>),
    /// A text.
    Text(Snippet),
    /// Yes or no.
    Flag(bool),
    /// A whole number.
    Integer(i64),
    /// Another number.
    Float(f64),
}

impl Part {
    /// Returns its own questions: their indices among those of its mold.
    pub fn own_questions(&self) -> impl Iterator<Item = usize> + '_ {
        (0..self.mold.questions.len()).filter(|at| !self.mold.questions[*at].from_casting)
    }

    /// True if it sees the answers to its own questions only.
    #[must_use]
    pub fn stands_alone(&self) -> bool {
        self.anywhere || !self.fits.is_empty()
    }

    /// Returns every text and expression of its manifest beside those of its mold; true for expressions.
    pub fn snippets(&self) -> Vec<(&Snippet, bool)> {
        let conditions = self.when.iter().chain(&self.network);
        let mut all: Vec<(&Snippet, bool)> = conditions.map(|when| (when, true)).collect();
        for joint in &self.joints {
            all.push((&joint.file, false));
            all.extend(joint.lines.iter().map(|line| (line, false)));
            all.extend(joint.when.iter().map(|when| (when, true)));
        }
        for edit in &self.edits {
            all.push((&edit.file, false));
            all.extend(edit.when.iter().map(|when| (when, true)));
            for piece in [&edit.set, &edit.add, &edit.remove].into_iter().flatten() {
                piece.snippets(&mut all);
            }
        }
        all
    }
}

impl Piece {
    fn snippets<'a>(&'a self, all: &mut Vec<(&'a Snippet, bool)>) {
        match self {
            Self::Text(text) => all.push((text, false)),
            Self::List(pieces) => pieces.iter().for_each(|piece| piece.snippets(all)),
            Self::Table(entries) => entries.iter().for_each(|(key, piece)| {
                all.push((key, false));
                piece.snippets(all);
            }),
            Self::Flag(_) | Self::Integer(_) | Self::Float(_) => {}
        }
    }
}
