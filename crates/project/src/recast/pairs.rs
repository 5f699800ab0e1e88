//! Which file of the old version became which file of the new one.

use super::base::Base;
use super::likeness;
use super::tree::{Node, Print, Source, Tree};
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// A file of both versions, or of one.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Pair {
    /// Its path in the old version.
    pub(super) base: Option<String>,
    /// Its path in the new version.
    pub(super) theirs: Option<String>,
}

/// Pairs, as far as they are found.
struct Pairing<'p> {
    /// The paths of the old version that are in no pair.
    free: BTreeSet<&'p str>,
    /// By path of the new version: that of the old one.
    of: BTreeMap<&'p str, String>,
}

impl<'p> Pairing<'p> {
    /// Pairs a path of the new version with one of the old version, unless one of them is in a pair.
    fn take(&mut self, path: &'p str, was: Option<&str>) {
        if let Some(was) = was
            && !self.of.contains_key(path)
            && self.free.remove(was)
        {
            self.of.insert(path, was.to_owned());
        }
    }
}

/// Pairs the files of both versions: by what they are made from, by what the mold says they were, by their path, and at
/// last by likeness. `left_out` are paths of the old version that count as the owner's; `as_made` returns the text of a
/// file of the old version, as far as it is known.
pub(super) fn pairs(
    base: &Base<'_>,
    theirs: &Tree<'_>,
    left_out: &BTreeSet<String>,
    as_made: &dyn Fn(&str) -> Option<String>,
) -> Vec<Pair> {
    let free = base.paths().map(String::as_str).filter(|path| !left_out.contains(*path)).collect();
    let mut pairing = Pairing { free, of: BTreeMap::new() };
    let by_source: HashMap<&Source, &str> =
        base.rendered.nodes.iter().map(|(path, node)| (&node.source, path.as_str())).collect();
    let by_path = |path: &str| base.prints.get_key_value(path).map(|(path, _)| path.as_str());
    let named = |node: &Node<'_>, body: &String| Source { body: body.clone(), ..node.source.clone() };
    let earlier = |node: &Node<'_>| -> Option<&str> {
        node.earlier
            .iter()
            .find_map(|body| by_source.get(&named(node, body)).copied().or_else(|| by_path(body)))
    };
    let their_sources: HashMap<&Source, &Node<'_>> =
        theirs.nodes.values().map(|node| (&node.source, node)).collect();
    // A name that the old version has too is an earlier one only if it says so first: two files may change their names.
    let is_swapped = |node: &Node<'_>| {
        let was = by_source.get(&node.source).and_then(|path| base.rendered.nodes.get(*path));
        node.earlier.iter().any(|body| {
            let is_new = was.is_some_and(|was| !was.earlier.contains(body));
            let moves_on = |other: &&&Node<'_>| {
                other.earlier.iter().any(|body| by_source.contains_key(&named(other, body)))
            };
            is_new && their_sources.get(&named(node, body)).filter(moves_on).is_some()
        })
    };
    for (path, node) in theirs.nodes.iter().filter(|(_, node)| is_swapped(node)) {
        pairing.take(path, earlier(node));
    }
    for (path, node) in &theirs.nodes {
        pairing.take(path, by_source.get(&node.source).copied());
    }
    for (path, node) in &theirs.nodes {
        pairing.take(path, earlier(node));
        pairing.take(path, by_path(path));
    }
    let alone: Vec<(&String, &Node<'_>)> = theirs
        .nodes
        .iter()
        .filter(|(path, node)| !pairing.of.contains_key(path.as_str()) && !node.is_local)
        .collect();
    for (was, path) in alike(base, &pairing.free, &alone, as_made) {
        if let Some((path, _)) = theirs.nodes.get_key_value(&path) {
            pairing.take(path, Some(&was));
        }
    }
    let Pairing { free, of } = pairing;
    let with_theirs = theirs
        .nodes
        .keys()
        .map(|path| Pair { base: of.get(path.as_str()).cloned(), theirs: Some(path.clone()) });
    let gone = free.iter().map(|path| Pair { base: Some((*path).to_owned()), theirs: None });
    with_theirs.chain(gone).collect()
}

/// Pairs what has the same content, and then texts that are alike. `as_made` returns the text of a file of the old version.
fn alike(
    base: &Base<'_>,
    free: &BTreeSet<&str>,
    new: &[(&String, &Node<'_>)],
    as_made: &dyn Fn(&str) -> Option<String>,
) -> Vec<(String, String)> {
    let is_local = |path: &str| base.rendered.nodes.get(path).is_some_and(|node| node.is_local);
    let old: Vec<&str> = free.iter().copied().filter(|path| !is_local(path)).collect();
    let mut by_print: BTreeMap<String, Vec<&str>> = BTreeMap::new();
    let key = |print: &Print| format!("{print:?}");
    for path in &old {
        let print = base.verified(path).map(|node| &node.print).or_else(|| base.prints.get(*path));
        if let Some(print) = print {
            by_print.entry(key(print)).or_default().push(path);
        }
    }
    let (mut pairs, mut taken_old, mut taken_new) = (Vec::new(), BTreeSet::new(), BTreeSet::new());
    for (path, node) in new {
        // Of several files with one content nobody knows which is which.
        if let Some([was]) = by_print.get(&key(&node.print)).map(Vec::as_slice)
            && new.iter().filter(|(_, other)| other.print == node.print).count() == 1
        {
            taken_old.insert(*was);
            taken_new.insert(path.as_str());
            pairs.push(((*was).to_owned(), (*path).clone()));
        }
    }
    let old = old.into_iter().filter(|path| !taken_old.contains(path));
    let old: Vec<(&str, String)> = old.filter_map(|path| Some((path, as_made(path)?))).collect();
    let new = new.iter().filter(|(path, _)| !taken_new.contains(path.as_str()));
    let new: Vec<(&str, String)> =
        new.filter_map(|(path, node)| Some((path.as_str(), node.text(u64::MAX).ok()??))).collect();
    fn all<'t>(texts: &'t [(&str, String)]) -> Vec<&'t str> {
        texts.iter().map(|(_, text)| text.as_str()).collect()
    }
    let found = likeness::pair(&all(&old), &all(&new));
    let found =
        found.into_iter().map(|(old_at, new_at)| (old[old_at].0.to_owned(), new[new_at].0.to_owned()));
    pairs.extend(found);
    pairs
}
