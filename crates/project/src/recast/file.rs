//! What becomes of one file.

use super::base::Base;
use super::decision::{BlockedBy, Decided, Decision, FileProblem, Note, Undecided, Wishes};
use super::disk::{LARGEST, Look, look, print_of};
use super::error::RecastError;
use super::pairs::Pair;
use super::result::{FileChange, FileRecast, Written};
use super::tree::{Content, Node, Print, Tree};
use crate::merge::{self, Merge, Merged};
use similar::{ChangeTag, TextDiff};
use std::collections::{BTreeMap, BTreeSet};
use tinmold_mold::Holds;
use tinmold_platform::root_dir::RootDir;

/// The three sides.
pub(super) struct Side<'a, 'm> {
    pub(super) root: &'a RootDir,
    pub(super) base: &'a Base<'m>,
    pub(super) theirs: &'a Tree<'m>,
    wishes: &'a Wishes,
    /// Files that were those of a part, and are the mold's own now.
    of_part: BTreeSet<String>,
    /// What moves with a folder.
    moves: Vec<(String, String)>,
}

impl<'a, 'm> Side<'a, 'm> {
    pub(super) fn new(
        root: &'a RootDir,
        base: &'a Base<'m>,
        theirs: &'a Tree<'m>,
        wishes: &'a Wishes,
        of_part: BTreeSet<String>,
    ) -> Self {
        Self { root, base, theirs, wishes, of_part, moves: Vec::new() }
    }

    pub(super) fn with_moves(self, moves: &[(String, String)]) -> Self {
        Self { moves: moves.to_vec(), ..self }
    }

    /// Returns the path that something has once folders have moved.
    fn moved(&self, path: &str) -> String {
        let found = self.moves.iter().find_map(|(from, to)| {
            let rest = path.strip_prefix(from.as_str())?;
            (rest.is_empty() || rest.starts_with('/')).then(|| format!("{to}{rest}"))
        });
        found.unwrap_or_else(|| path.to_owned())
    }
}

/// What becomes of a file.
#[derive(Debug, Default)]
pub(super) struct UnitResult {
    pub(super) files: Vec<FileRecast>,
    pub(super) decisions: Vec<Decision>,
    pub(super) notes: Vec<Note>,
    /// True if the record has the file of the new version afterwards.
    pub(super) is_tracked: bool,
    /// Its path afterwards, which may be another than that of the mold.
    pub(super) place: String,
}

/// A file of both versions, or of one.
pub(super) struct Unit<'a, 'm> {
    pub(super) side: &'a Side<'a, 'm>,
    pub(super) pair: &'a Pair,
    /// What the owner renamed: from where, and to where.
    pub(super) renames: &'a BTreeMap<String, String>,
    /// By path: what was made, from the history of the project.
    pub(super) contents: &'a BTreeMap<String, Vec<u8>>,
}

/// The owner's side of a file.
struct Mine {
    /// The path that it has.
    path: String,
    look: Look,
    print: Print,
}

impl Mine {
    fn mode(&self) -> u32 {
        match self.look {
            Look::File(mode, _) => mode,
            _ => 0o644,
        }
    }
}

/// What is known of what was made.
struct Before {
    print: Print,
    /// The bytes, if they are known.
    bytes: Option<Vec<u8>>,
    is_executable: Option<bool>,
}

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
            None if self.side.base.rendered.nodes.is_empty() => return Ok(None),
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
            None if mine.print == *print => self.read(&mine)?,
            None => self.contents.get(base).cloned(),
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
        result.files.push(FileRecast {
            path: path.to_owned(),
            from: Some(mine.path.clone()),
            kind: FileChange::Moved,
            was: Some((mine.print.clone(), mine.mode())),
            before: None,
            after,
        });
        Ok(path.to_owned())
    }

    /// Merges the three sides of a file.
    fn merged(
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
        let take = |content: &Content<'_>| -> Result<Option<Written>, RecastError> { written(content, mode) };
        let forced = side.of_part.contains(path) && node.print != before.print && node.print != mine.print;
        let (kind, after) = if node.print == before.print || mine.print == node.print {
            (FileChange::Moved, None)
        } else if mine.print == before.print && !forced {
            (FileChange::Replaced, take(&node.content)?)
        } else if forced {
            let texts = [None, self.text(mine)?, text_of(node)?];
            match self.decided(&place, FileProblem::OfPart, texts, result) {
                Some(Decided::Theirs) => (FileChange::Replaced, take(&node.content)?),
                Some(Decided::Aside) => {
                    self.aside(&place, node, result)?;
                    (FileChange::Moved, None)
                }
                Some(_) => (FileChange::Moved, None),
                None => return Ok(()),
            }
        } else {
            match self.texts(before, mine, node, &place, result)? {
                None => return Ok(()),
                Some((_, None)) => (FileChange::Moved, None),
                Some((kind, after)) => (kind, after.map(|after| with_mode(after, mode))),
            }
        };
        let is_same_place = here == place;
        let is_same_mode = mode == mine.mode() || !matches!(mine.look, Look::File(..));
        if after.is_none() && is_same_place && is_same_mode {
            return Ok(());
        }
        let after = match after {
            Some(after) => Some(after),
            None => self.content_of(mine)?.map(|content| with_mode(content, mode)),
        };
        result.files.push(FileRecast {
            path: place.clone(),
            from: (mine.path != place).then(|| mine.path.clone()),
            kind,
            was: Some((mine.print.clone(), mine.mode())),
            before: self.text(mine)?,
            after,
        });
        Ok(())
    }

    /// Returns true if what is at a path goes away in this recast.
    fn is_leaving(&self, path: &str) -> bool {
        let (base, theirs) = (&self.side.base, &self.side.theirs);
        let is_as_made = || {
            let found = look(self.side.root, path).ok()?;
            Some(print_of(self.side.root, path, &found).ok()? == base.prints.get(path).cloned())
        };
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
    ) -> Result<Option<(FileChange, Option<Written>)>, RecastError> {
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
        Ok(match self.decided(place, why, texts, result) {
            Some(Decided::Theirs) => Some((FileChange::Replaced, written(&node.content, node.mode)?)),
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
        result.files.push(FileRecast {
            path: beside,
            from: None,
            kind: FileChange::New,
            was: None,
            before: None,
            after: written(&node.content, node.mode)?,
        });
        Ok(())
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
            Ok(Some(now)) if (now == *made || now == *print) && !was.is_some_and(|node| node.is_yours) => {
                let mine = Mine { path: base.to_owned(), look: found, print: now };
                result.files.push(FileRecast {
                    path: base.to_owned(),
                    from: None,
                    kind: FileChange::Removed,
                    before: self.text(&mine)?,
                    was: Some((mine.print.clone(), mine.mode())),
                    after: None,
                });
            }
            Ok(Some(_)) => result.notes.push(Note::Dropped(base.to_owned())),
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
            result.files.push(FileRecast {
                path: path.to_owned(),
                from: None,
                kind: FileChange::New,
                was: None,
                before: None,
                after: written(&node.content, node.mode)?,
            });
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
        let texts = [None, self.text(&mine)?, text_of(node)?];
        match self.decided(path, FileProblem::BothNew, texts, result) {
            Some(Decided::Theirs) => result.files.push(FileRecast {
                path: path.to_owned(),
                from: None,
                kind: FileChange::Replaced,
                before: self.text(&mine)?,
                was: Some((mine.print.clone(), mine.mode())),
                after: written(&node.content, node.mode)?,
            }),
            Some(Decided::Text(text)) => result.files.push(FileRecast {
                path: path.to_owned(),
                from: None,
                kind: FileChange::Merged,
                before: self.text(&mine)?,
                was: Some((mine.print.clone(), mine.mode())),
                after: Some(Written::File(text.into_bytes(), mine.mode())),
            }),
            Some(Decided::Aside) => self.aside(path, node, result)?,
            Some(_) | None => {}
        }
        Ok(())
    }

    /// Finds the owner's file: where it was made, where the owner moved it, or where it would be now.
    fn mine(&self, base: &str, path: &str) -> Result<Option<Mine>, RecastError> {
        let root = self.side.root;
        let renamed = self.renames.get(base).map(String::as_str);
        for place in [Some(base), renamed, (base != path).then_some(path)].into_iter().flatten() {
            let look = look(root, place)?;
            let path = place.to_owned();
            if let Look::Blocked(BlockedBy::Folder | BlockedBy::File | BlockedBy::Link) = look {
                return Ok(Some(Mine { path, look, print: Print::Link(String::new()) }));
            }
            if let Some(print) = print_of(root, place, &look)? {
                return Ok(Some(Mine { path, look, print }));
            }
        }
        Ok(None)
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

    fn read(&self, mine: &Mine) -> Result<Option<Vec<u8>>, RecastError> {
        match mine.look {
            Look::File(_, length) if length <= LARGEST => {
                Ok(Some(self.side.root.read(&mine.path, LARGEST).map_err(std::io::Error::from)?))
            }
            _ => Ok(None),
        }
    }

    fn text(&self, mine: &Mine) -> Result<Option<String>, RecastError> {
        Ok(self.read(mine)?.and_then(|bytes| String::from_utf8(bytes).ok()))
    }

    fn text_at(&self, path: &str) -> Option<String> {
        String::from_utf8(self.side.root.read(path, LARGEST).ok()?).ok()
    }

    /// Returns what the owner has, to be written elsewhere.
    fn content_of(&self, mine: &Mine) -> Result<Option<Written>, RecastError> {
        Ok(match &mine.look {
            Look::Link(target) => Some(Written::Link(target.clone())),
            Look::File(mode, length) => {
                let bytes = self.side.root.read(&mine.path, (*length).max(LARGEST));
                Some(Written::File(bytes.map_err(std::io::Error::from)?, *mode))
            }
            Look::Absent | Look::Blocked(_) => None,
        })
    }
}

/// Returns a text as a file, with permissions that are set later.
fn file_of(text: String) -> Written {
    Written::File(text.into_bytes(), 0o644)
}

/// Returns the same with these permission bits.
fn with_mode(written: Written, mode: u32) -> Written {
    match written {
        Written::File(bytes, _) => Written::File(bytes, mode),
        link @ Written::Link(_) => link,
    }
}

/// Returns the text of a node; `None` if it is none, or too large to be merged.
fn text_of(node: &Node<'_>) -> Result<Option<String>, RecastError> {
    let bytes = node.content.bytes()?.filter(|bytes| bytes.len() as u64 <= LARGEST);
    Ok(bytes.and_then(|bytes| String::from_utf8(bytes.into_owned()).ok()))
}

/// Returns what is written of a mold's file.
fn written(content: &Content<'_>, mode: u32) -> Result<Option<Written>, RecastError> {
    Ok(Some(match content {
        Content::Link(target) => Written::Link(target.clone()),
        other => Written::File(other.bytes()?.map(std::borrow::Cow::into_owned).unwrap_or_default(), mode),
    }))
}
