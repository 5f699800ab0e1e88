//! Fragments: compiled once for each set of given types.

use super::{Compiler, Known, Lower};
use crate::finding::Code;
use crate::nearest::did_you_mean;
use crate::program::{Op, Placing};
use crate::scope::Traits;
use crate::span::Span;
use crate::syntax::tag::PlaceHead;
use crate::syntax::{Findings, pieces, tree};
use crate::types::Type;
use std::sync::Arc;

/// A fragment with the types of what it is given.
#[derive(PartialEq, Eq, Hash)]
pub(super) struct Instance<'s> {
    fragment: &'s str,
    given: Vec<(&'s str, Type, Traits)>,
}

/// Maximum depth of nested fragments.
const MOST_PLACE_DEPTH: usize = 30;
/// Maximum number of instances of fragments in a body.
const MOST_INSTANCES: usize = 2000;

impl<'s> Compiler<'s> {
    pub(super) fn in_body(&self) -> bool {
        self.active.is_empty()
    }

    /// Compiles a fragment for these types, unless that was done already.
    fn instance(
        &mut self,
        fragment: &'s str,
        source: &'s str,
        given: &[(&'s str, Span, Known)],
    ) -> Option<u32> {
        let signature =
            given.iter().map(|(name, _, known)| (*name, known.of, known.traits)).collect::<Vec<_>>();
        let instance = Instance { fragment, given: signature };
        if let Some(routine) = self.instances.get(&instance) {
            return Some(*routine);
        }
        if self.instances.len() >= MOST_INSTANCES {
            return None;
        }
        self.active.push(fragment);
        if !self.placed.contains(&fragment) {
            self.placed.push(fragment);
        }
        let file: Arc<str> = self.setting.fragments.file(fragment).unwrap_or(fragment).into();
        let cut = pieces::cut(source, self.setting.marks, Findings::new(file), true);
        let tree = tree::nest(source, cut);
        let routine = self.routine(source, tree, |lower, root| {
            for (name, _, known) in given {
                let known = Known { constant: None, ..*known };
                lower.add_local(name, Span::default(), known);
            }
            lower.block(root);
        });
        self.active.pop();
        self.instances.insert(instance, routine);
        Some(routine)
    }
}

impl<'s> Lower<'_, 's> {
    pub(super) fn place(&mut self, head: &PlaceHead<'s>, span: Span, indent: &str, alone: Option<&'s str>) {
        let mut given: Vec<(&'s str, Span, Known)> = Vec::new();
        let before = self.findings.all.len();
        for named in &head.given {
            let known = self.value(named.value);
            if given.iter().any(|(name, ..)| *name == named.name) {
                let message = format!("`{}` is given twice", named.name);
                self.findings.add(Code::HiddenName, named.span, message, "give it once");
            } else if self.compiler.scope.find(named.name).is_some() {
                let message = format!(
                    "`{}` is a name that every fragment sees, and no name may hide another",
                    named.name
                );
                self.findings.add(Code::HiddenName, named.span, message, "give it under another name");
            } else if crate::scope::RESERVED.contains(&named.name) {
                let message = format!("`{}` is a word of the language", named.name);
                self.findings.add(Code::ReservedWord, named.span, message, "choose another name");
            }
            given.push((named.name, named.span, known));
        }
        if self.findings.all.len() > before {
            return;
        }
        let fragments = self.compiler.fragments;
        let Some((name, source)) = fragments.get(&head.fragment) else {
            let names = || fragments.names();
            let help = did_you_mean(
                &head.fragment,
                names(),
                "fragments are the files in the mold's folder `fragments`",
            );
            let message = format!("there is no fragment {:?}", head.fragment);
            return self.findings.add(Code::UnknownFragment, head.span, message, help);
        };
        if let Some(at) = self.compiler.active.iter().position(|active| *active == name) {
            let mut circle = self.compiler.active[at..].to_vec();
            circle.push(name);
            let message = format!("fragments place each other in a circle: {}", circle.join(" → "));
            return self.findings.add(Code::FragmentCircle, head.span, message, "leave one of them out");
        }
        if self.compiler.active.len() >= MOST_PLACE_DEPTH {
            let message = format!("fragments are placed more than {MOST_PLACE_DEPTH} deep");
            return self.findings.add(Code::TooDeep, head.span, message, "place fewer within each other");
        }
        let Some(routine) = self.compiler.instance(name, source, &given) else {
            let message = format!("fragments are placed in more than {MOST_INSTANCES} ways");
            return self.findings.add(Code::TooDeep, head.span, message, "give fewer different types");
        };
        let placing = Placing { routine, arguments: given.len() as u16, indent: indent.into(), alone };
        self.placings.push(placing);
        self.emit_at(Op::Place(self.placings.len() as u32 - 1), span);
    }
}
