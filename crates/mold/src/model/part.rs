//! A part: a small mold inside a mold.

use super::mold::Mold;
use crate::snippet::Snippet;
use regex::Regex;

/// A part that can be asked, rendered and fitted.
#[derive(Debug)]
pub struct Part {
    /// Its name.
    pub name: String,
    /// What it gives, in a line.
    pub summary: String,
    /// When it goes with a casting.
    pub when: Option<Snippet>,
    /// The names of the molds whose castings it goes with. A part that names some, or goes anywhere, sees the answers to its
    /// own questions only.
    pub fits: Vec<String>,
    /// Whether it goes with a project that is no casting.
    pub anywhere: bool,
    /// What it puts at joints.
    pub joints: Vec<PartJoint>,
    /// What it changes in files of settings.
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
    /// The lines; rendered, and each may come out as several.
    pub lines: Vec<Snippet>,
    /// When they are put in.
    pub when: Option<Snippet>,
    /// Whether they are put among the lines above the joint in order.
    pub sorted: bool,
}

/// What a part changes in a JSON, TOML or YAML file.
#[derive(Clone, Debug)]
pub struct PartEdit {
    /// The file; rendered.
    pub file: Snippet,
    /// When it is changed.
    pub when: Option<Snippet>,
    /// What is set, table by table.
    pub set: Option<Piece>,
    /// What is added to lists, table by table.
    pub add: Option<Piece>,
    /// What is taken out of tables and lists, table by table.
    pub remove: Option<Piece>,
    /// What two texts of a list have in common if they are about the same thing.
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
    /// Its own questions: their places among those of its mold.
    pub fn own_questions(&self) -> impl Iterator<Item = usize> + '_ {
        (0..self.mold.questions.len()).filter(|at| !self.mold.questions[*at].from_casting)
    }

    /// Whether it sees the answers to its own questions only.
    #[must_use]
    pub fn stands_alone(&self) -> bool {
        self.anywhere || !self.fits.is_empty()
    }

    /// Every text and expression of its manifest beside those of its mold; true for expressions.
    pub fn snippets(&self) -> Vec<(&Snippet, bool)> {
        let mut all: Vec<(&Snippet, bool)> = self.when.iter().map(|when| (when, true)).collect();
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
