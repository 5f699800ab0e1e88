//! An output with where each byte of it comes from, and on whose account.

use crate::check::Compiler;
use crate::run::Origin;
use crate::syntax::expression::{Expr, ExprId, ExprKind};
use crate::syntax::tree::{Block, Node};
use crate::syntax::{Findings, pieces, tree};
use crate::{NameId, Program, Scope, Setting, Span, Type, Values, too_large};
use std::ops::Range;
use std::sync::Arc;

/// The output of a body file, with the origin of every byte.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Trace {
    /// The output.
    pub text: Vec<u8>,
    /// Where it comes from, in the order of the bytes.
    pub runs: Vec<Run>,
}

/// Bytes of an output that come from one text or tag of the body.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Run {
    /// The bytes of the output.
    pub bytes: Range<usize>,
    /// The text or the tag in the body.
    pub span: Span,
    /// True for text of the body, whose bytes are those of the span.
    pub is_text: bool,
    /// The names whose values it is made of.
    pub values: Vec<NameId>,
    /// The names that decide that it comes out: of the conditions, choices and lists around it.
    pub conditions: Vec<NameId>,
}

/// Renders a body file and tells where its output comes from.
///
/// Takes the arguments of [`crate::compile`], and the values to render with. Output of a fragment comes from
/// the tag that places it, and from all names that the fragment uses. `None` if the source has errors, or if the
/// output is of more than a million pieces.
///
/// ```
/// use tinmold_notation::{Scope, Setting, Type, Value, Values, trace};
/// let mut scope = Scope::new();
/// let pier = scope.add("pier", Type::Text).unwrap();
/// let late = scope.add("late", Type::Flag).unwrap();
/// let mut values = Values::new(&scope);
/// values.set(&scope, pier, Value::Text("Tern Quay".into())).unwrap();
/// values.set(&scope, late, Value::Flag(true)).unwrap();
/// let source = "from {= pier =}{= if late =}, late{= end =}";
/// let trace = trace("sign.txt", source, &scope, &Setting::default(), &values).unwrap();
/// assert_eq!(trace.text, b"from Tern Quay, late");
/// assert_eq!((trace.runs[1].bytes.clone(), &trace.runs[1].values[..]), (5..14, &[pier][..]));
/// assert_eq!(trace.runs[2].conditions, [late]);
/// ```
#[must_use]
pub fn trace(
    file: &str,
    source: &str,
    scope: &Scope,
    setting: &Setting<'_>,
    values: &Values,
) -> Option<Trace> {
    let traced = |program: Program<'_>| program.origins(values);
    let (text, origins) = compiled(file, source, scope, setting, traced)?;
    let cut = pieces::cut(source, setting.marks, Findings::new(Arc::from(file)), setting.rules);
    let tree = tree::nest(source, cut);
    let mut accounts = Accounts {
        source,
        scope,
        setting,
        expressions: &tree.expressions,
        locals: Vec::new(),
        conditions: Vec::new(),
        regions: Vec::new(),
    };
    accounts.block(&tree.root);
    let mut regions = accounts.regions;
    regions.sort_by_key(|region| region.span.start);
    let runs = origins.into_iter().map(|Origin { bytes, span, is_text }| {
        let before = regions.partition_point(|region| region.span.start <= span.start);
        let region = before.checked_sub(1).map(|at| &regions[at]);
        let (values, conditions) =
            region.map_or_else(Default::default, |region| (region.values.clone(), region.conditions.clone()));
        Run { bytes, span, is_text, values, conditions }
    });
    Some(Trace { text, runs: runs.collect() })
}

/// Returns the origin in a body file of the byte `at` of its output: text of the body, or the tag
/// that rendered it.
///
/// Takes the arguments of [`crate::compile`], and the values that the output was rendered with. Output of
/// a fragment comes from the tag that places it. `None` if the source has errors or renders
/// nothing.
///
/// ```
/// use tinmold_notation::{Scope, Setting, Type, Value, Values, origin};
/// let mut scope = Scope::new();
/// let pier = scope.add("pier", Type::Text).unwrap();
/// let mut values = Values::new(&scope);
/// values.set(&scope, pier, Value::Text("Tern Quay".into())).unwrap();
/// let source = "from {= pier =} to sea";
/// let of = |at| origin("sign.txt", source, &scope, &Setting::default(), &values, at).unwrap().of(source);
/// // The output is: from Tern Quay to sea
/// assert_eq!((of(0), of(6), of(18)), ("f", "pier", "s"));
/// ```
#[must_use]
pub fn origin(
    file: &str,
    source: &str,
    scope: &Scope,
    setting: &Setting<'_>,
    values: &Values,
    at: usize,
) -> Option<Span> {
    let at = |program: Program<'_>| program.origin_at(values, at);
    let (found, within) = compiled(file, source, scope, setting, at)?;
    let (mut start, mut end) = (found.span.start as usize, found.span.end as usize);
    if found.is_text {
        start = (start + within).min(end.saturating_sub(1));
        end = start + 1;
    }
    // A byte within a character comes from the whole character.
    while !source.is_char_boundary(start) {
        start -= 1;
    }
    while !source.is_char_boundary(end) {
        end += 1;
    }
    Some(Span::new(start, end))
}

/// Compiles a source for tracing, and looks at the program.
fn compiled<T>(
    file: &str,
    source: &str,
    scope: &Scope,
    setting: &Setting<'_>,
    look: impl FnOnce(Program<'_>) -> Option<T>,
) -> Option<T> {
    let mut compiler = Compiler::new(scope, setting);
    if too_large(file, source, &mut compiler) {
        return None;
    }
    compiler.traced = Some(source);
    compiler.body(Arc::from(file), source);
    look(compiler.finish(Type::Text).program?)
}

/// A text or tag of the body, and the names it depends on.
struct Region {
    span: Span,
    values: Vec<NameId>,
    conditions: Vec<NameId>,
}

/// Finds the names that each text and tag depends on.
struct Accounts<'a, 's> {
    source: &'s str,
    scope: &'a Scope,
    setting: &'a Setting<'a>,
    expressions: &'a [Expr<'s>],
    /// The names that the source gives, each with those that it is made of.
    locals: Vec<(&'s str, Vec<NameId>)>,
    conditions: Vec<NameId>,
    regions: Vec<Region>,
}

impl<'s> Accounts<'_, 's> {
    fn enter(&mut self, span: Span, mut values: Vec<NameId>) {
        values.sort_unstable();
        values.dedup();
        let mut conditions = self.conditions.clone();
        conditions.sort_unstable();
        conditions.dedup();
        self.regions.push(Region { span, values, conditions });
    }

    fn text(&mut self, text: &str) {
        let start = text.as_ptr().addr().saturating_sub(self.source.as_ptr().addr());
        self.enter(Span::new(start, start + text.len()), Vec::new());
    }

    /// Walks a block that comes out only if these names say so.
    fn under(&mut self, names: &[NameId], block: &Block<'s>) {
        let outer = self.conditions.len();
        self.conditions.extend_from_slice(names);
        self.block(block);
        self.conditions.truncate(outer);
    }

    fn block(&mut self, block: &Block<'s>) {
        let outer = self.locals.len();
        for node in block {
            self.node(node);
        }
        self.locals.truncate(outer);
    }

    fn node(&mut self, node: &Node<'s>) {
        match node {
            Node::Text(text) => self.text(text),
            Node::Value(value, _) => {
                let names = self.names(*value);
                self.enter(self.expressions[value.0 as usize].span, names);
            }
            Node::If { branches, otherwise, .. } => {
                let mut names = Vec::new();
                for branch in branches {
                    names.extend(self.names(branch.condition));
                    self.under(&names, &branch.block);
                }
                if let Some((_, block)) = otherwise {
                    self.under(&names, block);
                }
            }
            Node::Match { subject, cases, otherwise, .. } => {
                let names = self.names(*subject);
                let otherwise = otherwise.iter().map(|(_, block)| block);
                for block in cases.iter().map(|case| &case.block).chain(otherwise) {
                    self.under(&names, block);
                }
            }
            Node::For { head, body, between, .. } => {
                let list = self.names(head.list);
                let outer = self.locals.len();
                let given = [Some(head.element.0), head.counter.map(|(name, _)| name)];
                self.locals.extend(given.into_iter().flatten().map(|name| (name, list.clone())));
                let mut names = list;
                names.extend(head.filter.map(|filter| self.names(filter)).unwrap_or_default());
                self.under(&names, body);
                if let Some((_, between)) = between {
                    self.under(&names, between);
                }
                self.locals.truncate(outer);
            }
            Node::BetweenText(..) => {}
            Node::Let(named) => {
                let names = self.names(named.value);
                self.locals.push((named.name, names));
            }
            Node::Place { head, span, .. } => {
                let mut names: Vec<NameId> =
                    head.given.iter().flat_map(|named| self.names(named.value)).collect();
                names.extend(self.of_fragment(&head.fragment, 0));
                self.enter(*span, names);
            }
        }
    }

    /// Returns the names of the scope that a fragment uses.
    fn of_fragment(&self, fragment: &str, depth: usize) -> Vec<NameId> {
        const DEEPEST: usize = 30;
        let Some((name, source)) = self.setting.fragments.get(fragment).filter(|_| depth < DEEPEST) else {
            return Vec::new();
        };
        let cut = pieces::cut(source, self.setting.marks, Findings::new(Arc::from(name)), true);
        let tree = tree::nest(source, cut);
        let inner = Accounts {
            source,
            scope: self.scope,
            setting: self.setting,
            expressions: &tree.expressions,
            locals: Vec::new(),
            conditions: Vec::new(),
            regions: Vec::new(),
        };
        let mut names: Vec<NameId> =
            (0..tree.expressions.len()).flat_map(|at| inner.names(ExprId(at as u32))).collect();
        let mut open: Vec<&Block<'_>> = vec![&tree.root];
        while let Some(block) = open.pop() {
            for node in block {
                match node {
                    Node::Place { head, .. } => names.extend(self.of_fragment(&head.fragment, depth + 1)),
                    other => open.extend(blocks(other)),
                }
            }
        }
        names.sort_unstable();
        names.dedup();
        names
    }

    /// Returns the names of the scope that an expression uses, also through names that the source gives.
    fn names(&self, id: ExprId) -> Vec<NameId> {
        let mut names = Vec::new();
        let mut open = vec![id];
        while let Some(id) = open.pop() {
            let kind = &self.expressions[id.0 as usize].kind;
            match kind {
                ExprKind::Name(name) => match self.locals.iter().rev().find(|(local, _)| local == name) {
                    Some((_, of)) => names.extend_from_slice(of),
                    None => names.extend(self.scope.find(name)),
                },
                ExprKind::Dotted(of, dotted) => {
                    if let ExprKind::Name(group) = &self.expressions[of.0 as usize].kind {
                        names.extend(self.scope.find(&format!("{group}.{}", dotted.name)));
                    }
                }
                _ => {}
            }
            open.extend(kind.parts());
        }
        names
    }
}

/// Returns the blocks in a node.
fn blocks<'n, 's>(node: &'n Node<'s>) -> Vec<&'n Block<'s>> {
    match node {
        Node::If { branches, otherwise, .. } => {
            let otherwise = otherwise.iter().map(|(_, block)| block);
            branches.iter().map(|branch| &branch.block).chain(otherwise).collect()
        }
        Node::Match { cases, otherwise, .. } => {
            let otherwise = otherwise.iter().map(|(_, block)| block);
            cases.iter().map(|case| &case.block).chain(otherwise).collect()
        }
        Node::For { body, between, .. } => {
            [Some(body), between.as_ref().map(|(_, block)| block)].into_iter().flatten().collect()
        }
        _ => Vec::new(),
    }
}
