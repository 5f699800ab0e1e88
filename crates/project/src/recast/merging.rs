//! One file that both sides changed, and what is decided of it.

use super::decision::{Decided, Decision, FileProblem, Note, Undecided};
use super::disk::{Look, look, print_of};
use super::error::RecastError;
use super::result::{FileChange, FileRecast, Written};
use super::side::{Before, Mine, Unit, UnitResult, file_of, text_of, with_mode, written};
use super::tree::{Node, Print};
use crate::merge::{self, Merge, Merged};
use tinmold_mold::Holds;

/// What happens to a file, and what is written; nothing if its content stays.
type Outcome = (FileChange, Option<Written>);

impl Unit<'_, '_> {
    /// Merges the three sides of a file.
    pub(super) fn merged(
        &self,
        before: &Before,
        mine: &Mine,
        path: &str,
        node: &Node<'_>,
        result: &mut UnitResult,
    ) -> Result<(), RecastError> {
        let side = self.side;
        let is_renamed = self.renames.values().any(|renamed| *renamed == mine.path);
        let mut place = if is_renamed { side.moved(&mine.path) } else { path.to_owned() };
        if is_renamed && node.print != before.print {
            result.notes.push(Note::OwnRename(path.to_owned(), mine.path.clone()));
        }
        // Something else may be where it goes.
        let here = side.moved(&mine.path);
        if place != here
            && place != mine.path
            && !matches!(look(side.root, &place)?, Look::Absent)
            && !self.is_leaving(&place)
        {
            let why = FileProblem::Occupied(mine.path.clone());
            let texts = [None, self.text_at(&place), text_of(node)?];
            match self.decided(&place, why, texts, result) {
                Some(Decided::Theirs) => {}
                Some(_) => place = here.clone(),
                None => return Ok(()),
            }
        }
        result.place.clone_from(&place);
        let mode = self.mode(before, mine, node);
        let forced = side.of_part.contains(path) && node.print != before.print && node.print != mine.print;
        let decided = if node.print == before.print || mine.print == node.print {
            Some((FileChange::Moved, None))
        } else if forced {
            let texts = [None, self.text(mine)?, text_of(node)?];
            self.whole(&place, FileProblem::OfPart, texts, node, result)?
        } else if mine.print == before.print {
            Some((FileChange::Replaced, Some(written(&node.content, mode)?)))
        } else {
            self.texts(before, mine, node, &place, result)?
        };
        let Some((kind, after)) = decided else { return Ok(()) };
        let is_same_place = here == place;
        let is_same_mode = mode == mine.mode() || !matches!(mine.look, Look::File(..));
        if after.is_none() && is_same_place && is_same_mode {
            return Ok(());
        }
        let after = if after.is_some() { after } else { self.content_of(mine)? };
        let after = after.map(|after| with_mode(after, mode));
        result.files.push(self.changed(mine, &place, kind, after)?);
        Ok(())
    }

    /// Returns true if what is at a path goes away in this recast.
    fn is_leaving(&self, path: &str) -> bool {
        let (base, theirs) = (&self.side.base, &self.side.theirs);
        let is_as_made = || {
            let found = look(self.side.root, path).ok()?;
            Some(print_of(self.side.root, path, &found).ok()? == base.prints.get(path).cloned())
        };
        if self.side.renamed.contains(path) {
            return true;
        }
        base.prints.contains_key(path) && !theirs.nodes.contains_key(path) && is_as_made() == Some(true)
    }

    /// Merges the contents. Returns what is written, or nothing if the owner's stays; `None` if nobody has decided.
    fn texts(
        &self,
        before: &Before,
        mine: &Mine,
        node: &Node<'_>,
        place: &str,
        result: &mut UnitResult,
    ) -> Result<Option<Outcome>, RecastError> {
        let is_link = |print: &Print| matches!(print, Print::Link(_));
        let (mine_text, theirs_text) = (self.text(mine)?, text_of(node)?);
        let base_text = before.bytes.clone().and_then(|bytes| String::from_utf8(bytes).ok());
        let why = if is_link(&mine.print) || is_link(&node.print) || is_link(&before.print) {
            FileProblem::Kind
        } else if before.bytes.is_none() {
            FileProblem::NoBase
        } else if let (Some(base), Some(mine), Some(theirs)) = (&base_text, &mine_text, &theirs_text) {
            return Ok(match merge::texts(Holds::of_path(place), base, mine, theirs) {
                Merged::Clean(text) if text == *mine => Some((FileChange::Moved, None)),
                Merged::Clean(text) => Some((FileChange::Merged, Some(file_of(text)))),
                Merged::Conflicts(merge, values) => {
                    let text = self.places(place, &merge, &values, node, result)?;
                    text.map(|text| (FileChange::Merged, (text != *mine).then(|| file_of(text))))
                }
            });
        } else {
            FileProblem::NotText
        };
        let shown = |text: Option<String>, print: &Print| match print {
            Print::Link(target) => Some(format!("a link to {target}\n")),
            Print::File(_) => text,
        };
        let texts =
            [shown(base_text, &before.print), shown(mine_text, &mine.print), shown(theirs_text, &node.print)];
        self.whole(place, why, texts, node, result)
    }

    /// Returns what is written of a file that is decided as a whole, or nothing if the owner's stays; `None` if nobody has
    /// decided.
    pub(super) fn whole(
        &self,
        place: &str,
        why: FileProblem,
        texts: [Option<String>; 3],
        node: &Node<'_>,
        result: &mut UnitResult,
    ) -> Result<Option<Outcome>, RecastError> {
        Ok(match self.decided(place, why, texts, result) {
            Some(Decided::Theirs) => Some((FileChange::Replaced, Some(written(&node.content, node.mode)?))),
            Some(Decided::Text(text)) => Some((FileChange::Merged, Some(file_of(text)))),
            Some(Decided::Aside) => {
                self.aside(place, node, result)?;
                Some((FileChange::Moved, None))
            }
            Some(_) => Some((FileChange::Moved, None)),
            None => None,
        })
    }

    /// Decides each place of a text; `None` if nobody has decided.
    fn places(
        &self,
        place: &str,
        merge: &Merge,
        values: &[merge::Disagreement],
        node: &Node<'_>,
        result: &mut UnitResult,
    ) -> Result<Option<String>, RecastError> {
        let of = merge.conflicts().count();
        let mut choices = Vec::with_capacity(of);
        let (mut is_aside, mut open) = (false, Vec::new());
        for (at, conflict) in merge.conflicts().enumerate() {
            let key = if of == 1 { place.to_owned() } else { format!("{place}#{}", at + 1) };
            choices.push(match self.side.wishes.of(&key) {
                Some(Decided::Mine) => merge::Choice::Mine,
                Some(Decided::Theirs) => merge::Choice::Theirs,
                Some(Decided::Both) => merge::Choice::Both,
                Some(Decided::Text(text)) => merge::Choice::Text(text.clone()),
                Some(Decided::Aside) => {
                    is_aside = true;
                    merge::Choice::Mine
                }
                None => {
                    let (conflict, values) = (conflict.clone(), values.to_vec());
                    let what = Undecided::Place { number: at + 1, of, conflict, values };
                    open.push(Decision { key, path: place.to_owned(), what });
                    merge::Choice::Mine
                }
            });
        }
        if !open.is_empty() {
            if self.side.wishes.marks {
                return Ok(Some(merge.marked()));
            }
            result.decisions.extend(open);
            return Ok(None);
        }
        if is_aside {
            self.aside(place, node, result)?;
        }
        Ok(merge.decided(&choices))
    }

    /// Returns what is decided of a file as a whole; notes that nobody has if so.
    fn decided(
        &self,
        place: &str,
        why: FileProblem,
        texts: [Option<String>; 3],
        result: &mut UnitResult,
    ) -> Option<Decided> {
        match self.side.wishes.of(place) {
            Some(decided) => Some(decided.clone()),
            None if self.side.wishes.marks => Some(Decided::Aside),
            None => {
                let what = Undecided::File { why, texts: Box::new(texts) };
                result.decisions.push(Decision { key: place.to_owned(), path: place.to_owned(), what });
                None
            }
        }
    }

    /// Writes the mold's file beside the owner's.
    fn aside(&self, place: &str, node: &Node<'_>, result: &mut UnitResult) -> Result<(), RecastError> {
        let beside = crate::write::free_name(self.side.root.path(), place);
        result.notes.push(Note::Aside(place.to_owned(), beside.clone()));
        result.files.push(FileRecast::new(beside, written(&node.content, node.mode)?));
        Ok(())
    }

    /// Returns the permission bits afterwards: content and the bit for execution change apart.
    fn mode(&self, before: &Before, mine: &Mine, node: &Node<'_>) -> u32 {
        let mode = match mine.look {
            Look::File(mode, _) => mode,
            _ => return node.mode,
        };
        let is_executable = mode & 0o100 != 0;
        let wanted = match before.is_executable {
            Some(was) if was == is_executable => node.is_executable(),
            _ => is_executable,
        };
        if wanted == is_executable {
            mode
        } else if wanted {
            mode | ((mode & 0o444) >> 2)
        } else {
            mode & !0o111
        }
    }
}
