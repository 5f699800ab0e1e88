//! Names that are others now, in the owner's own files.

use super::decision::Note;
use super::disk::own_files;
use super::result::{FileChange, Recast, Written};
use crate::answers::Answers;
use std::collections::BTreeSet;
use tinmold_mold::{Kind, Mold};
use tinmold_notation::{NameId, Value};
use tinmold_platform::root_dir::RootDir;

/// The most places that are listed.
const MOST: usize = 100;
/// The most files that are looked through, and the largest, in bytes.
const MOST_FILES: usize = 10_000;
const LARGEST: u64 = 256 << 10;
/// The shortest name that is looked for, in characters.
const SHORTEST: usize = 3;

/// Returns the texts that are others with the new answers: each old one, of answers and of what is computed from them.
#[must_use]
pub fn old_names(old: (&Mold, &Answers), new: (&Mold, &Answers)) -> BTreeSet<String> {
    let ids = |mold: &Mold| -> Vec<NameId> {
        let asked =
            mold.questions.iter().filter(|question| question.kind == Kind::Text && !question.is_secret());
        asked.map(|question| question.id).chain(mold.derived.iter().map(|derived| derived.id)).collect()
    };
    let texts = |(mold, answers): (&Mold, &Answers)| -> BTreeSet<String> {
        let values = ids(mold).into_iter().filter_map(|id| match answers.values.get(id) {
            Some(Value::Text(text)) => Some(text.clone()),
            _ => None,
        });
        values.filter(|text| text.chars().count() >= SHORTEST && !text.contains('\n')).collect()
    };
    let now = texts(new);
    let gone: BTreeSet<String> = texts(old).into_iter().filter(|text| !now.contains(text)).collect();
    // The same name as code writes it.
    let variants =
        gone.iter().flat_map(|name| [name.clone(), name.replace('-', "_"), name.replace('_', "-")]);
    variants.filter(|name| !now.contains(name)).collect()
}

impl Recast {
    /// Lists where the owner's own files, and files with changes of theirs, hold one of these names.
    pub fn list_old_names(&mut self, names: &BTreeSet<String>) {
        if names.is_empty() {
            return;
        }
        let Ok(root) = RootDir::open_through_links(&self.before.root) else { return };
        let mut found = Vec::new();
        for file in &self.files {
            if let (FileChange::Merged, Some(Written::File(bytes, _))) = (file.kind, &file.after) {
                found.extend(
                    std::str::from_utf8(bytes).iter().flat_map(|text| places(&file.path, text, names)),
                );
            }
        }
        let files = self.files.iter().map(|file| &file.path);
        let known: BTreeSet<&String> = self.before.digests.keys().chain(files).collect();
        for path in own_files(&root, MOST_FILES).into_iter().filter(|path| !known.contains(path)) {
            let text = root.read(&path, LARGEST).ok().and_then(|bytes| String::from_utf8(bytes).ok());
            found.extend(text.iter().flat_map(|text| places(&self.moved(&path), text, names)));
            if found.len() >= MOST {
                break;
            }
        }
        found.truncate(MOST);
        self.notes.extend(found);
    }
}

/// Returns the lines of a text that hold a name as a word.
fn places(path: &str, text: &str, names: &BTreeSet<String>) -> Vec<Note> {
    let is_word = |c: Option<char>| c.is_some_and(|c| c.is_alphanumeric() || c == '_');
    let holds = |line: &str, name: &str| {
        line.match_indices(name).any(|(at, _)| {
            !is_word(line[..at].chars().next_back()) && !is_word(line[at + name.len()..].chars().next())
        })
    };
    let mut found = Vec::new();
    for (at, line) in text.lines().enumerate() {
        if let Some(name) = names.iter().find(|name| holds(line, name)) {
            found.push(Note::OldName(path.to_owned(), at + 1, name.clone()));
        }
    }
    found
}
