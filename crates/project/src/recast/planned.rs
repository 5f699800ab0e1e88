//! What a recast does, planned from the three sides. Nothing is written yet.

use super::decision::{Note, Undecided, Wishes};
use super::disk::own_files;
use super::error::RecastError;
use super::folders::{FolderMoves, folder_moves};
use super::history::history;
use super::likeness;
use super::pairs::{Pair, pairs};
use super::parts::{Parts, Sides};
use super::recording::recording;
use super::replay::{PartState, Theirs};
use super::result::Recast;
use super::side::{Side, Unit, UnitResult};
use super::tree::Print;
use super::versions::Recasting;
use crate::answers::Answers;
use crate::plan::Plan;
use std::collections::{BTreeMap, BTreeSet};
use tinmold_platform::digest::Digest;
use tinmold_platform::parallel;
use tinmold_platform::root_dir::RootDir;

/// The most files of the owner that are looked through for renamed ones.
const MOST_OWN: usize = 20_000;
/// The largest file that is compared with another, in bytes.
const LARGEST_ALIKE: u64 = 1 << 20;

impl<'m> Recasting<'m> {
    /// Plans the recast with these answers to the new version, secrets masked, and what is decided so far.
    ///
    /// # Errors
    /// Mistakes of the new version, and what the system refuses.
    pub fn plan(&self, answers: &Answers, wishes: &Wishes) -> Result<Recast, RecastError> {
        let _span = tracing::debug_span!("recast", root = %self.recorded.root.display()).entered();
        let root = RootDir::open_through_links(&self.recorded.root)?;
        let plan = Plan::new(self.new, answers, &self.limits)?.verify()?;
        let mut parts = Parts::new(self, wishes);
        let (theirs, in_the_way) = parts.theirs(&plan, answers)?;
        let Sides { base, of_part, left } = parts.base(&theirs, in_the_way, &root);
        let left_out = self.left_out(&theirs);
        let as_made = |path: &str| base.as_made(path, &root);
        let pairs = pairs(&base, &theirs.tree, &left_out, &as_made);
        let side = Side::new(&root, &base, &theirs.tree, wishes, of_part, self.old.is_some());
        let renames = self.own_renames(&side, &pairs)?;
        let known: BTreeSet<&str> = base.prints.keys().map(String::as_str).collect();
        let moved: Vec<(&str, &str)> =
            pairs.iter().filter_map(|pair| Some((pair.base.as_deref()?, pair.theirs.as_deref()?))).collect();
        let their_paths: BTreeSet<&str> = theirs.tree.nodes.keys().map(String::as_str).collect();
        let has_renames = moved.iter().any(|(from, to)| from != to);
        let FolderMoves { moves, behind } = match has_renames {
            true => folder_moves(&root, &moved, &their_paths, &known)?,
            false => FolderMoves::default(),
        };
        let renamed =
            moved.iter().filter(|(from, to)| from != to).map(|(from, _)| (*from).to_owned()).collect();
        let side = side.with_moves(&moves, renamed);
        let contents = self.lost_bases(&side, &pairs)?;
        let results = parallel::map(&pairs, |_, pair| {
            let unit = Unit { side: &side, pair, renames: &renames, contents: &contents };
            unit.result()
        });
        let mut decisions = parts.decisions;
        let is_part_open = !decisions.is_empty();
        let (mut files, mut notes, mut tracked) = (Vec::new(), Vec::new(), BTreeMap::new());
        for (pair, result) in pairs.iter().zip(results) {
            let UnitResult { files: of_pair, decisions: open, notes: said, is_tracked, place } = result?;
            files.extend(of_pair);
            decisions.extend(open);
            notes.extend(said);
            if let (Some(path), true) = (&pair.theirs, is_tracked) {
                tracked.insert(path.clone(), place);
            }
        }
        // Whether there is anything to decide about a file may depend on the parts that changed it.
        if is_part_open {
            decisions.retain(|decision| {
                matches!(decision.what, Undecided::Part { .. })
                    || !left.iter().any(|(_, change)| change.path == decision.path)
            });
        }
        if self.old.is_none() {
            notes.push(Note::NoOldVersion);
        }
        if self.history.get().is_some_and(|history| history.is_shallow) {
            notes.push(Note::Shallow);
        }
        notes.extend(behind.into_iter().map(|(from, to)| Note::StaysBehind(from, to)));
        let was_there = |folder: &String| base.rendered.folders.contains(folder);
        let mut folders = Vec::new();
        for folder in theirs.tree.folders.iter().filter(|folder| self.old.is_some() && !was_there(folder)) {
            if root.find(folder)?.is_none() {
                folders.push(folder.clone());
            }
        }
        files.sort_by(|a, b| a.path.cmp(&b.path));
        let record =
            recording((self.recorded, self.digest), &plan, (&theirs, &left), &tracked, &files, &root)?;
        Ok(Recast { files, moves, folders, decisions, notes, record, before: self.recorded.clone() })
    }

    /// Returns the recorded files of parts that are left to the owner.
    fn left_out(&self, theirs: &Theirs<'_>) -> BTreeSet<String> {
        let parts = self.recorded.casting.part.iter().zip(&theirs.parts);
        let owners = parts.filter(|(_, state)| matches!(state, PartState::Owners));
        owners.flat_map(|(fitted, _)| fitted.files.keys().cloned()).collect()
    }

    /// Finds the files that the owner renamed: of those that are missing and that the mold changed, by likeness.
    fn own_renames(
        &self,
        side: &Side<'_, '_>,
        pairs: &[Pair],
    ) -> Result<BTreeMap<String, String>, RecastError> {
        let mut missing: Vec<(&str, String)> = Vec::new();
        for pair in pairs {
            let (Some(base), Some(theirs)) = (&pair.base, &pair.theirs) else { continue };
            let (Some(was), Some(now)) = (side.base.verified(base), side.theirs.nodes.get(theirs)) else {
                continue;
            };
            if was.print != now.print && side.root.find(base).is_ok_and(|found| found.is_none()) {
                missing.extend(was.text(u64::MAX)?.map(|text| (base.as_str(), text)));
            }
        }
        if missing.is_empty() {
            return Ok(BTreeMap::new());
        }
        let is_own =
            |path: &String| !side.base.prints.contains_key(path) && !side.theirs.nodes.contains_key(path);
        let ending =
            |path: &str| path.rsplit('/').next().and_then(|name| Some(name.rsplit_once('.')?.1.to_owned()));
        let endings: BTreeSet<Option<String>> = missing.iter().map(|(path, _)| ending(path)).collect();
        let own = own_files(side.root, MOST_OWN).into_iter().filter(is_own);
        let own = own.filter(|path| endings.contains(&ending(path)));
        let own: Vec<(String, String)> = own
            .filter_map(|path| {
                let bytes = side.root.read(&path, LARGEST_ALIKE).ok()?;
                Some((path, String::from_utf8(bytes).ok()?))
            })
            .collect();
        let left: Vec<&str> = missing.iter().map(|(_, text)| text.as_str()).collect();
        let right: Vec<&str> = own.iter().map(|(_, text)| text.as_str()).collect();
        let found = likeness::pair(&left, &right);
        Ok(found
            .into_iter()
            .map(|(left, right)| (missing[left].0.to_owned(), own[right].0.clone()))
            .collect())
    }

    /// Returns what files were that the recorded mold does not render as recorded, from the history of the project.
    fn lost_bases(
        &self,
        side: &Side<'_, '_>,
        pairs: &[Pair],
    ) -> Result<BTreeMap<String, Vec<u8>>, RecastError> {
        let mut wanted: Vec<(String, Digest)> = Vec::new();
        for pair in pairs {
            let (Some(base), Some(theirs)) = (&pair.base, &pair.theirs) else { continue };
            let (Some(Print::File(digest)), Some(node)) =
                (side.base.prints.get(base), side.theirs.nodes.get(theirs))
            else {
                continue;
            };
            let is_known = side.base.verified(base).is_some();
            if is_known || node.print == Print::File(*digest) || node.is_local || node.is_yours {
                continue;
            }
            let as_recorded = side.root.digest(base).is_ok_and(|found| found == *digest);
            if !as_recorded && side.root.find(base).is_ok_and(|found| found.is_some()) {
                wanted.push((base.clone(), *digest));
            }
        }
        if wanted.is_empty() {
            return Ok(BTreeMap::new());
        }
        Ok(self.history.get_or_init(|| history(&self.recorded.root, &wanted)).found.clone())
    }
}
