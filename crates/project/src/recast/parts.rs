//! The recorded parts on both sides, and what is to be decided about them.

use super::base::Base;
use super::decision::{Decided, Decision, PartProblem, PartTrouble, Undecided, Wishes};
use super::error::RecastError;
use super::replay::{PartState, Replay, Replayed, Theirs};
use super::tree::Tree;
use super::versions::Recasting;
use crate::answers::Answers;
use crate::plan::Plan;
use crate::verify::VerifiedPlan;
use crate::write::Change;
use std::collections::{BTreeMap, BTreeSet};

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
        let body = Tree::of(plan, None, None)?;
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
    pub(super) fn base(&mut self, theirs: &Theirs<'m>, in_the_way: Vec<String>) -> Sides<'m> {
        let recorded = self.of.recorded;
        let nothing = || Sides {
            base: Base::new(recorded, Tree::default()),
            of_part: BTreeSet::new(),
            left: Vec::new(),
        };
        let Some((full, replayed)) = self.rendered(&BTreeSet::new(), &theirs.tree) else { return nothing() };
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
        let Some((mut tree, _)) = self.rendered(&self.owners, &theirs.tree) else { return nothing() };
        for (path, node) in &mut tree.nodes {
            // What was recorded had the lines that count as the owner's now.
            if let Some(whole) = full.nodes.get(path) {
                node.stages.extend(whole.stages.iter().chain([&whole.print]).cloned());
            }
        }
        Sides { base: Base::new(recorded, tree), of_part, left }
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
