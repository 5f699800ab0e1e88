//! The recorded parts on both sides, and what is to be decided about them.

use super::base::Base;
use super::decision::{Decided, Decision, PartProblem, PartTrouble, Undecided, Wishes};
use super::disk::LARGEST;
use super::error::RecastError;
use super::replay::{PartState, Replay, Replayed, Theirs};
use super::tree::{Content, Node, Print, Source, Tree};
use super::versions::Recasting;
use crate::answers::Answers;
use crate::fit::made;
use crate::plan::Plan;
use crate::record::Recorded;
use crate::verify::VerifiedPlan;
use crate::write::Change;
use std::collections::BTreeSet;
use tinmold_platform::digest::digest_of;
use tinmold_platform::paths::portable_path;
use tinmold_platform::root_dir::RootDir;

/// The numbers of recorded parts, with a path where only one file of it is meant.
type Owners = BTreeSet<(usize, Option<String>)>;

/// A version with its parts, and what came of each.
type Rendered<'m> = (Tree<'m>, Vec<Result<Replayed, PartProblem>>);

/// What the mold of the record made.
pub(super) struct Sides<'m> {
    pub(super) base: Base<'m>,
    /// The files of parts that the new version has as its own.
    pub(super) of_part: BTreeSet<String>,
    /// By number of the part: changes that are left to the owner.
    pub(super) left: Vec<(usize, Change)>,
}

/// The parts of both sides, and what is to be decided about them.
pub(super) struct Parts<'a, 'm> {
    of: &'a Recasting<'m>,
    wishes: &'a Wishes,
    /// The numbers of the parts that are left to the owner, with the path where only one file of it is.
    owners: Owners,
    pub(super) decisions: Vec<Decision>,
}

impl<'a, 'm> Parts<'a, 'm> {
    pub(super) fn new(of: &'a Recasting<'m>, wishes: &'a Wishes) -> Self {
        Self { of, wishes, owners: Owners::new(), decisions: Vec::new() }
    }

    /// Returns true if a part is left to the owner; decides so if nobody has decided yet.
    fn is_left(&mut self, nth: usize, file: Option<&str>, why: PartTrouble) -> bool {
        let name = Recasting::label(&self.of.recorded.casting.part[nth]);
        let key = match file {
            Some(file) => format!("part {name}: {file}"),
            None => format!("part {name}"),
        };
        // Where the mold of a part cannot be had, nothing of it is to be had on either side.
        if matches!(why, PartTrouble::Problem(PartProblem::NoMold(_))) {
            return self.owners.insert((nth, None));
        }
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
    pub(super) fn theirs(
        &mut self,
        plan: &VerifiedPlan<'m>,
        answers: &Answers,
    ) -> Result<(Theirs<'m>, Vec<String>), RecastError> {
        let mut tree = Tree::of(plan, None, None)?;
        let replay = Replay {
            recorded: self.of.recorded,
            parts: self.of.parts,
            answers,
            limits: &self.of.limits,
            leaves_out: &|_, _| false,
        };
        let results = replay.run(&mut tree)?;
        let in_the_way =
            results.iter().flatten().flat_map(|replayed| replayed.in_the_way.iter().cloned()).collect();
        let state = |(nth, result): (usize, Result<Replayed, PartProblem>)| match result {
            Ok(replayed) => PartState::Fitted(replayed),
            Err(problem) => match self.is_left(nth, None, problem.into()) {
                true => PartState::Owners,
                false => PartState::Gone,
            },
        };
        let parts = results.into_iter().enumerate().map(state).collect();
        Ok((Theirs { tree, parts }, in_the_way))
    }

    /// Renders the old version, without what is left to the owner.
    pub(super) fn base(&mut self, theirs: &Theirs<'m>, in_the_way: Vec<String>, root: &RootDir) -> Sides<'m> {
        let recorded = self.of.recorded;
        let nothing = |owners: &Owners| Sides {
            base: base_of(recorded, Tree::default(), owners, root),
            of_part: BTreeSet::new(),
            left: Vec::new(),
        };
        let Some((full, replayed)) = self.rendered(&BTreeSet::new(), &theirs.tree) else {
            return nothing(&self.owners);
        };
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
        let Some((mut tree, _)) = self.rendered(&self.owners, &theirs.tree) else {
            return nothing(&self.owners);
        };
        for (path, node) in &mut tree.nodes {
            // What was recorded had the lines that count as the owner's now.
            if let Some(whole) = full.nodes.get(path) {
                node.stages.extend(whole.stages.iter().chain([&whole.print]).cloned());
            }
        }
        // Of a part that cannot be had, the record says what it made of a file.
        for change in recorded.casting.part.iter().flat_map(|part| &part.change) {
            let (Ok(was), Ok(now)) = (change.was.parse(), change.now.parse()) else { continue };
            if let Some(node) = tree.nodes.get_mut(&change.path)
                && node.was(&Print::File(was))
            {
                node.stages.push(Print::File(now));
            }
        }
        Sides { base: base_of(recorded, tree, &self.owners, root), of_part, left }
    }

    /// Renders the old version with its parts; `None` if it cannot be rendered any more. `theirs` is the new one.
    fn rendered(&self, owners: &Owners, theirs: &Tree<'m>) -> Option<Rendered<'m>> {
        let old = self.of.old.as_ref()?;
        let render = || -> Result<_, RecastError> {
            let plan = Plan::new(old.mold, &old.answers, &self.of.limits)?.verify()?;
            let mut tree = Tree::of(&plan, None, Some(theirs))?;
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

/// Returns the base of what is rendered. Where that is not what was recorded, as the old version cannot be had, the record
/// says what a file was before the parts that are left to the owner.
fn base_of<'m>(recorded: &Recorded, rendered: Tree<'m>, owners: &Owners, root: &RootDir) -> Base<'m> {
    let mut base = Base::new(recorded, rendered);
    for (path, node) in without_parts(recorded, owners, root).nodes {
        if base.verified(&path).is_none() {
            let there = base.rendered.nodes.get(&path).map(|there| there.source.clone());
            let source = there.unwrap_or(node.source);
            base.rendered.nodes.insert(path, Node { source, ..node });
        }
    }
    base
}

/// Returns files that nobody changed since a fit as they were before the parts that are left to the owner: the record says
/// what takes their lines out.
fn without_parts<'m>(recorded: &Recorded, owners: &Owners, root: &RootDir) -> Tree<'m> {
    let mut tree = Tree::default();
    let mut seen: BTreeSet<&str> = BTreeSet::new();
    for (nth, part) in recorded.casting.part.iter().enumerate().rev() {
        for change in part.change.iter().rev() {
            let path = change.path.as_str();
            let is_first = seen.insert(path);
            let is_left = owners.contains(&(nth, None)) && portable_path(path).is_ok();
            // What is behind the lines of a part that is fitted again is not taken apart.
            let text = match tree.nodes.remove(path) {
                _ if !is_left => continue,
                Some(Node { content: Content::Bytes(bytes), stages, .. }) => {
                    String::from_utf8(bytes.to_vec()).ok().map(|text| (text, stages))
                }
                _ if is_first => {
                    let bytes = root.read(path, LARGEST).ok();
                    bytes.and_then(|bytes| String::from_utf8(bytes).ok()).map(|text| (text, Vec::new()))
                }
                _ => None,
            };
            let digest = |text: &String| digest_of(text.as_bytes()).to_string();
            let Some((now, mut stages)) = text.filter(|(text, _)| digest(text) == change.now) else {
                continue;
            };
            let before = made(&now, &change.back).filter(|before| digest(before) == change.was);
            let Some(before) = before else { continue };
            stages.push(Print::File(digest_of(now.as_bytes())));
            let node = Node {
                print: Print::File(digest_of(before.as_bytes())),
                content: Content::Bytes(before.into_bytes().into()),
                mode: root.find(path).ok().flatten().map_or(0o644, |found| found.mode),
                is_local: false,
                is_yours: false,
                source: Source { part: None, body: path.to_owned(), element: None },
                earlier: Vec::new(),
                stages,
            };
            tree.nodes.insert(path.to_owned(), node);
        }
    }
    tree
}
