//! What becomes of one file.

use super::decision::{FileProblem, Note};
use super::disk::{Look, look, print_of};
use super::error::RecastError;
use super::result::{FileChange, FileRecast};
use super::side::{Before, Mine, Unit, UnitResult, text_of, written};
use super::tree::{Node, Print};
use similar::{ChangeTag, TextDiff};

impl Unit<'_, '_> {
    /// Decides what becomes of it.
    pub(super) fn result(&self) -> Result<UnitResult, RecastError> {
        let side = self.side;
        let theirs = self.pair.theirs.as_ref().and_then(|path| Some((path, side.theirs.nodes.get(path)?)));
        let was = self.pair.base.as_ref().and_then(|path| side.base.rendered.nodes.get(path));
        let mut result = UnitResult::default();
        if was.is_some_and(|node| node.is_local) || theirs.is_some_and(|(_, node)| node.is_local) {
            result.notes.extend(self.local(was, theirs)?);
            return Ok(result);
        }
        let recorded = self.pair.base.as_ref().and_then(|path| Some((path, side.base.prints.get(path)?)));
        match (recorded, theirs) {
            (Some((base, print)), Some((path, node))) => self.both(base, print, path, node, &mut result)?,
            (Some((base, print)), None) => self.dropped(base, print, was, &mut result)?,
            (None, Some((path, node))) => self.unrecorded(was, path, node, &mut result)?,
            (None, None) => {}
        }
        Ok(result)
    }

    /// Says what the newer form of a file of this machine only has.
    fn local(
        &self,
        was: Option<&Node<'_>>,
        theirs: Option<(&String, &Node<'_>)>,
    ) -> Result<Option<Note>, RecastError> {
        let Some((path, node)) = theirs else { return Ok(None) };
        let now = text_of(node)?.unwrap_or_default();
        let before = match was {
            Some(was) => text_of(was)?.unwrap_or_default(),
            // Nobody knows what it had.
            None if !self.side.knows_old => return Ok(None),
            None => String::new(),
        };
        let diff = TextDiff::from_lines(&before, &now);
        let lines = diff.iter_all_changes().filter_map(|change| {
            let sign = match change.tag() {
                ChangeTag::Insert => '+',
                ChangeTag::Delete => '-',
                ChangeTag::Equal => return None,
            };
            Some(format!("{sign}{}", change.value().trim_end()))
        });
        let lines: Vec<String> = lines.collect();
        Ok((!lines.is_empty()).then(|| Note::Local { path: path.clone(), lines }))
    }

    /// A file that both versions make.
    fn both(
        &self,
        base: &str,
        print: &Print,
        path: &str,
        node: &Node<'_>,
        result: &mut UnitResult,
    ) -> Result<(), RecastError> {
        let side = self.side;
        result.is_tracked = true;
        result.place = path.to_owned();
        let verified = side.base.verified(base);
        // The last stage is what the version renders with all its parts.
        let made = verified.map_or(print, |node| &node.print);
        let is_executable = verified.map(Node::is_executable);
        if node.is_yours {
            if node.print != *made {
                result.notes.push(Note::Yours(path.to_owned()));
            }
            let stays = side.moved(base);
            result.place = if base == path { stays } else { self.move_yours(base, path, result)? };
            return Ok(());
        }
        let same_mode = is_executable.is_none_or(|was| was == node.is_executable());
        if node.print == *made && base == path && same_mode {
            result.place = self.renames.get(base).cloned().unwrap_or_else(|| path.to_owned());
            return Ok(());
        }
        let Some(mine) = self.mine(base, path)? else {
            if node.print != *made {
                result.notes.push(Note::Deleted(path.to_owned()));
            }
            return Ok(());
        };
        if let Look::Blocked(by) = mine.look {
            if node.print != *made {
                result.notes.push(Note::Blocked(mine.path, by));
            }
            return Ok(());
        }
        let bytes = match verified {
            Some(node) => node.content.bytes()?.map(std::borrow::Cow::into_owned),
            None => self.as_recorded(&mine, print)?.or_else(|| self.contents.get(base).cloned()),
        };
        let before = Before { print: made.clone(), bytes, is_executable };
        self.merged(&before, &mine, path, node, result)
    }

    /// A file that is the owner's, in a folder that gets another name.
    fn move_yours(&self, base: &str, path: &str, result: &mut UnitResult) -> Result<String, RecastError> {
        let side = self.side;
        let Some(mine) = self.mine(base, path)? else { return Ok(path.to_owned()) };
        if matches!(mine.look, Look::Blocked(_)) || mine.path != base {
            return Ok(mine.path);
        }
        if look(side.root, path)? != Look::Absent {
            result.notes.push(Note::StaysBehind(base.to_owned(), path.to_owned()));
            return Ok(base.to_owned());
        }
        let after = self.content_of(&mine)?;
        result.files.push(self.changed(&mine, path, FileChange::Moved, after)?);
        Ok(path.to_owned())
    }

    /// A file that the mold makes no more.
    fn dropped(
        &self,
        base: &str,
        print: &Print,
        was: Option<&Node<'_>>,
        result: &mut UnitResult,
    ) -> Result<(), RecastError> {
        let side = self.side;
        let found = look(side.root, base)?;
        let made = side.base.verified(base).map_or(print, |node| &node.print);
        match print_of(side.root, base, &found) {
            // What cannot be read was changed, or is none of ours.
            Err(_) | Ok(None) => {}
            Ok(Some(now)) => {
                let mine = Mine { path: base.to_owned(), look: found, print: now };
                let is_as_made = mine.print == *made || self.as_recorded(&mine, made)?.is_some();
                let is_as_recorded = is_as_made || self.as_recorded(&mine, print)?.is_some();
                if !is_as_recorded || was.is_some_and(|node| node.is_yours) {
                    result.notes.push(Note::Dropped(base.to_owned()));
                    return Ok(());
                }
                result.files.push(self.changed(&mine, base, FileChange::Removed, None)?);
            }
        }
        Ok(())
    }

    /// A file that is not recorded.
    fn unrecorded(
        &self,
        was: Option<&Node<'_>>,
        path: &str,
        node: &Node<'_>,
        result: &mut UnitResult,
    ) -> Result<(), RecastError> {
        let side = self.side;
        result.place = path.to_owned();
        let found = look(side.root, path)?;
        if let Look::Blocked(by) = found {
            result.notes.push(Note::Blocked(path.to_owned(), by));
            return Ok(());
        }
        // The owner kept a file of their own when the project was cast, and the mold's is as it was.
        if was.is_some_and(|was| was.print == node.print) {
            return Ok(());
        }
        let Some(print) = print_of(side.root, path, &found)? else {
            if was.is_some() {
                result.notes.push(Note::Deleted(path.to_owned()));
                return Ok(());
            }
            result.is_tracked = true;
            result.files.push(FileRecast::new(path.to_owned(), written(&node.content, node.mode)?));
            return Ok(());
        };
        if node.is_yours {
            result.notes.push(Note::Yours(path.to_owned()));
            return Ok(());
        }
        result.is_tracked = true;
        if print == node.print {
            return Ok(());
        }
        let mine = Mine { path: path.to_owned(), look: found, print };
        // The record has lost it, and nobody changed it.
        let decided = if was.is_some_and(|was| was.print == mine.print) {
            Some((FileChange::Replaced, Some(written(&node.content, node.mode)?)))
        } else {
            let texts = [None, self.text(&mine)?, text_of(node)?];
            self.whole(path, FileProblem::BothNew, texts, node, result)?
        };
        if let Some((kind, after @ Some(_))) = decided {
            result.files.push(self.changed(&mine, path, kind, after)?);
        }
        Ok(())
    }
}
