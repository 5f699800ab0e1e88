//! What a recast does, planned from the three sides. Nothing is written yet.

use super::base::Base;
use super::decision::{Decided, Decision, Note, PartProblem, PartTrouble, Undecided, Wishes};
use super::disk::own_files;
use super::error::RecastError;
use super::file::{Side, Unit, UnitResult};
use super::folders::{FolderMoves, folder_moves};
use super::history::{History, history};
use super::likeness;
use super::pairs::{Pair, pairs};
use super::recording::recording;
use super::replay::{LoadedPart, PartState, Replay, Replayed, Theirs};
use super::result::Recast;
use super::tree::{Node, Print, Tree};
use crate::answers::Answers;
use crate::plan::{Limits, Plan};
use crate::record::{Fitted, Recorded};
use crate::write::Change;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::OnceLock;
use tinmold_mold::{Mold, MoldDigest};
use tinmold_platform::digest::Digest;
use tinmold_platform::parallel;
use tinmold_platform::root_dir::RootDir;

/// The most files of the owner that are looked through for renamed ones.
const MOST_OWN: usize = 20_000;
/// The largest file that is compared with another, in bytes.
const LARGEST_ALIKE: u64 = 1 << 20;

/// The version of the mold that a project was cast from, as it can be rendered again.
#[derive(Debug)]
pub struct OldVersion<'m> {
    /// The mold.
    pub mold: &'m Mold,
    /// By recorded part: the part as it was.
    pub parts: &'m [LoadedPart],
    /// The recorded answers.
    pub answers: Answers,
}

/// A project and the version of its mold that it is brought to.
#[derive(Debug)]
pub struct Recasting<'m> {
    /// The project.
    pub recorded: &'m Recorded,
    /// The version that it was cast from; `None` if that cannot be had.
    pub old: Option<OldVersion<'m>>,
    /// The version that it is brought to.
    pub new: &'m Mold,
    /// The digest of that version.
    pub digest: MoldDigest,
    /// By recorded part: the part of the new version.
    pub parts: &'m [LoadedPart],
    /// The limits of what is rendered.
    pub limits: Limits,
    /// What the history of the project holds, once it was looked at.
    history: OnceLock<History>,
}

impl<'m> Recasting<'m> {
    /// Brings a project to a version of its mold.
    #[must_use]
    pub fn new(
        recorded: &'m Recorded,
        old: Option<OldVersion<'m>>,
        (new, digest): (&'m Mold, MoldDigest),
        parts: &'m [LoadedPart],
        limits: Limits,
    ) -> Self {
        Self { recorded, old, new, digest, parts, limits, history: OnceLock::new() }
    }

    /// Plans the recast with these answers to the new version, secrets masked, and what is decided so far.
    ///
    /// # Errors
    /// Mistakes of the new version, and what the system refuses.
    pub fn plan(&self, answers: &Answers, wishes: &Wishes) -> Result<Recast, RecastError> {
        let _span = tracing::debug_span!("recast", root = %self.recorded.root.display()).entered();
        let root = RootDir::open_through_links(&self.recorded.root)?;
        let plan = Plan::new(self.new, answers, &self.limits)?.verify()?;
        let mut parts = Parts { of: self, wishes, owners: BTreeSet::new(), decisions: Vec::new() };
        let (theirs, in_the_way) = parts.theirs(&plan, answers)?;
        let Sides { base, of_part, left } = parts.base(&theirs, in_the_way);
        let decisions = parts.decisions;
        let is_part_open = !decisions.is_empty();
        let left_out = self.left_out(&theirs);
        let as_made = |path: &str| base.as_made(path, &root);
        let pairs = pairs(&base, &theirs.tree, &left_out, &as_made);
        let side = Side::new(&root, &base, &theirs.tree, wishes, of_part);
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
        let side = side.with_moves(&moves);
        let contents = self.lost_bases(&side, &pairs)?;
        let results = parallel::map(&pairs, |_, pair| {
            let unit = Unit { side: &side, pair, renames: &renames, contents: &contents };
            unit.result()
        });
        let mut recast = Recast {
            files: Vec::new(),
            moves: moves.clone(),
            folders: Vec::new(),
            decisions,
            notes: Vec::new(),
            record: self.recorded.clone(),
            before: self.recorded.clone(),
        };
        let mut tracked = BTreeMap::new();
        for (pair, result) in pairs.iter().zip(results) {
            let UnitResult { files, decisions, notes, is_tracked, place } = result?;
            recast.files.extend(files);
            recast.decisions.extend(decisions);
            recast.notes.extend(notes);
            if let (Some(path), true) = (&pair.theirs, is_tracked) {
                tracked.insert(path.clone(), place);
            }
        }
        // Whether there is anything to decide about a file may depend on the parts that changed it.
        if is_part_open {
            recast.decisions.retain(|decision| {
                matches!(decision.what, Undecided::Part { .. })
                    || !left.iter().any(|(_, change)| change.path == decision.path)
            });
        }
        if self.old.is_none() {
            recast.notes.push(Note::NoOldVersion);
        }
        if self.history.get().is_some_and(|history| history.is_shallow) {
            recast.notes.push(Note::Shallow);
        }
        recast.notes.extend(behind.into_iter().map(|(from, to)| Note::StaysBehind(from, to)));
        let was_there = |folder: &String| base.rendered.folders.contains(folder);
        for folder in theirs.tree.folders.iter().filter(|folder| self.old.is_some() && !was_there(folder)) {
            if root.find(folder)?.is_none() {
                recast.folders.push(folder.clone());
            }
        }
        recast.files.sort_by(|a, b| a.path.cmp(&b.path));
        recast.record =
            recording((self.recorded, self.digest), &plan, (&theirs, &left), &tracked, &recast, &root)?;
        Ok(recast)
    }

    /// Returns what names a recorded part: its name and the first of its answers.
    pub(super) fn label(fitted: &Fitted) -> String {
        let first = fitted.answers.values().next().and_then(toml::Value::as_str);
        [Some(fitted.name.as_str()), first].into_iter().flatten().collect::<Vec<_>>().join(" ")
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
                missing.extend(text(was)?.map(|text| (base.as_str(), text)));
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

/// Returns the text of a node; `None` if it is none.
fn text(node: &Node<'_>) -> Result<Option<String>, RecastError> {
    Ok(node.content.bytes()?.and_then(|bytes| String::from_utf8(bytes.into_owned()).ok()))
}

/// The numbers of recorded parts, with a path where only one file of it is meant.
type Owners = BTreeSet<(usize, Option<String>)>;

/// What the mold of the record made.
struct Sides<'m> {
    base: Base<'m>,
    /// The files of parts that the new version has as its own.
    of_part: BTreeSet<String>,
    /// By number of the part: changes that are left to the owner.
    left: Vec<(usize, Change)>,
}

/// The parts of both sides, and what is to be decided about them.
struct Parts<'a, 'm> {
    of: &'a Recasting<'m>,
    wishes: &'a Wishes,
    /// The numbers of the parts that are left to the owner, with the path where only one file of it is.
    owners: Owners,
    decisions: Vec<Decision>,
}

impl<'m> Parts<'_, 'm> {
    /// Returns true if a part is left to the owner; decides so if nobody has decided yet.
    fn is_left(&mut self, nth: usize, file: Option<&str>, why: PartTrouble) -> bool {
        let name = Recasting::label(&self.of.recorded.casting.part[nth]);
        let key = match file {
            Some(file) => format!("part {name}: {file}"),
            None => format!("part {name}"),
        };
        let decided = self.wishes.of(&key);
        if decided.is_none() && !self.wishes.marks {
            let file = file.map(str::to_owned);
            let what = Undecided::Part { name: name.clone(), file, why };
            self.decisions.push(Decision { key, path: name, what });
        }
        let is_left = !matches!(decided, Some(Decided::Theirs));
        if is_left {
            self.owners.insert((nth, file.map(str::to_owned)));
        }
        is_left
    }

    /// Renders the new version. Returns it with the files of parts that are in the way of its own.
    fn theirs(
        &mut self,
        plan: &crate::verify::VerifiedPlan<'m>,
        answers: &Answers,
    ) -> Result<(Theirs<'m>, Vec<String>), RecastError> {
        let body = Tree::of(plan, None)?;
        if self.of.parts.is_empty() {
            return Ok((Theirs { tree: body, parts: Vec::new() }, Vec::new()));
        }
        let mut problems: BTreeMap<usize, bool> = BTreeMap::new();
        loop {
            let owners = self.owners.clone();
            let leaves_out =
                |nth: usize, path: Option<&str>| owners.contains(&(nth, path.map(str::to_owned)));
            let mut tree = Tree { nodes: body.nodes.clone(), folders: body.folders.clone() };
            let replay = Replay {
                recorded: self.of.recorded,
                parts: self.of.parts,
                answers,
                limits: &self.of.limits,
                leaves_out: &leaves_out,
            };
            let results = replay.run(&mut tree)?;
            let mut is_new = false;
            for (nth, result) in results.iter().enumerate() {
                if let Err(problem) = result
                    && !problems.contains_key(&nth)
                {
                    problems.insert(nth, self.is_left(nth, None, problem.clone().into()));
                    is_new = true;
                }
            }
            // What comes after a part that is missing may be another.
            if is_new && !owners.is_empty() {
                continue;
            }
            let in_the_way =
                results.iter().flatten().flat_map(|replayed| replayed.in_the_way.iter().cloned()).collect();
            let state = |(nth, result): (usize, Result<Replayed, PartProblem>)| match result {
                _ if self.owners.contains(&(nth, None)) => PartState::Owners,
                Ok(replayed) => PartState::Fitted(replayed),
                Err(_) => PartState::Gone,
            };
            let parts = results.into_iter().enumerate().map(state).collect();
            return Ok((Theirs { tree, parts }, in_the_way));
        }
    }

    /// Renders the old version, without what is left to the owner.
    fn base(&mut self, theirs: &Theirs<'m>, in_the_way: Vec<String>) -> Sides<'m> {
        let recorded = self.of.recorded;
        let nothing = || Sides {
            base: Base::new(recorded, Tree::default()),
            of_part: BTreeSet::new(),
            left: Vec::new(),
        };
        let Some((full, replayed)) = self.rendered(&BTreeSet::new()) else { return nothing() };
        for (nth, state) in theirs.parts.iter().enumerate() {
            let PartState::Fitted(now) = state else { continue };
            let was = replayed.get(nth).and_then(|result| result.as_ref().ok());
            for (path, why) in &now.unplaced {
                // What the owner placed by hand is theirs.
                let was_placed = was.is_some_and(|was| {
                    was.changes.iter().any(|change| change.path == *path)
                        && !was.unplaced.iter().any(|(other, _)| other == path)
                });
                if was_placed {
                    let trouble = PartTrouble::Unplaced { path: path.clone(), why: why.clone() };
                    self.is_left(nth, Some(path), trouble);
                }
            }
        }
        let was_in_the_way =
            |path: &String| replayed.iter().flatten().any(|replayed| replayed.in_the_way.contains(path));
        let of_part = in_the_way.into_iter().filter(|path| !was_in_the_way(path)).collect();
        let mut left = Vec::new();
        for (nth, replayed) in replayed.into_iter().enumerate() {
            let changes = replayed.map(|replayed| replayed.changes).unwrap_or_default();
            let is_left = |change: &Change| {
                let path = Some(change.path.clone());
                self.owners.contains(&(nth, None)) || self.owners.contains(&(nth, path))
            };
            left.extend(changes.into_iter().filter(is_left).map(|change| (nth, change)));
        }
        if self.owners.is_empty() {
            return Sides { base: Base::new(recorded, full), of_part, left };
        }
        let Some((mut tree, _)) = self.rendered(&self.owners) else { return nothing() };
        for (path, node) in &mut tree.nodes {
            // What was recorded had the lines that count as the owner's now.
            if let Some(whole) = full.nodes.get(path) {
                node.stages.extend(whole.stages.iter().chain([&whole.print]).cloned());
            }
        }
        Sides { base: Base::new(recorded, tree), of_part, left }
    }

    /// Renders the old version with its parts; `None` if it cannot be rendered any more.
    #[allow(clippy::type_complexity)]
    fn rendered(&self, owners: &Owners) -> Option<(Tree<'m>, Vec<Result<Replayed, PartProblem>>)> {
        let old = self.of.old.as_ref()?;
        let render = || -> Result<_, RecastError> {
            let plan = Plan::new(old.mold, &old.answers, &self.of.limits)?.verify()?;
            let mut tree = Tree::of(&plan, None)?;
            let leaves_out =
                |nth: usize, path: Option<&str>| owners.contains(&(nth, path.map(str::to_owned)));
            let replay = Replay {
                recorded: self.of.recorded,
                parts: old.parts,
                answers: &old.answers,
                limits: &self.of.limits,
                leaves_out: &leaves_out,
            };
            let replayed = replay.run(&mut tree)?;
            Ok((tree, replayed))
        };
        match render() {
            Ok(rendered) => Some(rendered),
            Err(error) => {
                tracing::warn!(%error, "the old version cannot be rendered any more");
                None
            }
        }
    }
}
