//! Many sources rendered with the same values.
//!
//! The files of a mold use the same few tags over and over. The output of a simple tag for the
//! current values is computed once, by compiling and running that tag alone; a source with only
//! such tags and plain `if`s is then assembled from them. Any other source, and one with a mistake,
//! is compiled.

use crate::budget::{Budget, Purse};
use crate::finding::Finding;
use crate::scope::Scope;
use crate::setting::Setting;
use crate::span::Span;
use crate::syntax::expression::ExprId;
use crate::syntax::parser::Parser;
use crate::syntax::piece::{Piece, PieceKind};
use crate::syntax::pieces::{cut_by, room};
use crate::syntax::tag::{self, Tag};
use crate::syntax::{Findings, MOST_BLOCK_DEPTH};
use crate::syntax_kind::Syntax;
use crate::values::Values;
use crate::{LARGEST, compile, run};
use rustc_hash::FxHashMap;
use smallvec::SmallVec;
use std::sync::Arc;

/// Below this number of sources nothing is remembered: docs/performance.md.
const WORTH_REMEMBERING: usize = 64;
/// The number of tags remembered for one kind of source; then the memory starts again empty.
const MOST_KNOWN: usize = 2000;
/// A longer text is not remembered.
const LONGEST_KNOWN: usize = 4096;

/// Compiles and renders sources with the same values, and remembers what it met.
///
/// ```
/// use tinmold_notation::{Budget, Renderer, Scope, Setting, Type, Value, Values};
/// let mut scope = Scope::new();
/// let pier = scope.add("pier", Type::Text).unwrap();
/// let mut values = Values::new(&scope);
/// values.set(&scope, pier, Value::Text("Tern Quay".into())).unwrap();
/// let budget = Budget::default();
/// let mut renderer = Renderer::new(&scope, &values, &budget, 1000);
/// let mut out = Vec::new();
/// for source in ["from {= pier =}", " to {= pier.upper =}"] {
///     renderer.render("sign.txt", source, &Setting::default(), &mut out).unwrap();
/// }
/// assert_eq!(out, b"from Tern Quay to TERN QUAY");
/// ```
#[derive(Debug)]
pub struct Renderer<'r> {
    scope: &'r Scope,
    values: &'r Values,
    budget: &'r Budget,
    /// Pays for what is put together.
    purse: Purse<'r>,
    remembers: bool,
    kinds: Vec<Kind>,
    /// Room for the pieces of a source.
    room: Vec<Piece<'static>>,
}

impl<'r> Renderer<'r> {
    /// Renders about this many `sources` with these values of `scope`, and takes the cost from
    /// `budget`.
    #[must_use]
    pub fn new(scope: &'r Scope, values: &'r Values, budget: &'r Budget, sources: usize) -> Self {
        Self {
            scope,
            values,
            budget,
            purse: budget.purse(),
            remembers: sources >= WORTH_REMEMBERING,
            kinds: Vec::new(),
            room: Vec::new(),
        }
    }

    /// Appends the output of `source` to `out`: the same as that of [`compile`] and
    /// [`crate::Program::render`].
    ///
    /// # Errors
    /// The errors of [`compile`], or the one of [`crate::Program::render`]. `out` is then as it was.
    pub fn render(
        &mut self,
        file: &str,
        source: &str,
        setting: &Setting<'_>,
        out: &mut Vec<u8>,
    ) -> Result<(), Vec<Finding>> {
        let start = out.len();
        if self.put_together(source, setting, out).is_some() {
            return Ok(());
        }
        out.truncate(start);
        let compiled = compile(file, source, self.scope, setting);
        match compiled.program {
            Some(program) => program.render(self.values, self.budget, out).map_err(|finding| vec![finding]),
            None => Err(compiled.findings.into_iter().filter(Finding::is_error).collect()),
        }
    }

    /// Appends the output of `source`; `None` if it has to be compiled, and `out` may then hold a
    /// part of it.
    fn put_together(&mut self, source: &str, setting: &Setting<'_>, out: &mut Vec<u8>) -> Option<()> {
        // A body of JSON loses trailing commas; names of files are checked when they are rendered.
        if setting.syntax == Syntax::Json || setting.name || source.len() > LARGEST {
            return None;
        }
        if setting.marks.find(source).is_none() {
            out.extend_from_slice(source.as_bytes());
            return self.purse.pay(source.len() as u64).then_some(());
        }
        if !self.remembers {
            return None;
        }
        let kind = self.kind(setting);
        let mut known = Known {
            kind: &mut self.kinds[kind],
            scope: self.scope,
            values: self.values,
            budget: self.budget,
        };
        let mut pieces = room(std::mem::take(&mut self.room));
        let read = |opening| known.read(source, opening, setting);
        let put = cut_by(source, setting.marks, setting.rules, read, &mut pieces)
            .and_then(|()| put(source, &pieces, &known.kind.tags, &mut self.purse, out));
        self.room = room(pieces);
        put
    }

    /// Returns the remembered tags of sources that are compiled like this.
    fn kind(&mut self, setting: &Setting<'_>) -> usize {
        let is_such = |kind: &Kind| {
            (kind.syntax, kind.local) == (setting.syntax, setting.local)
                && kind.open == setting.marks.open()
                && kind.close == setting.marks.close()
        };
        let at = self.kinds.iter().position(is_such).unwrap_or_else(|| {
            self.kinds.push(Kind {
                syntax: setting.syntax,
                local: setting.local,
                open: setting.marks.open().into(),
                close: setting.marks.close().into(),
                places: FxHashMap::default(),
                tags: Vec::new(),
            });
            self.kinds.len() - 1
        });
        let kind = &mut self.kinds[at];
        if kind.tags.len() >= MOST_KNOWN {
            kind.places.clear();
            kind.tags.clear();
        }
        at
    }
}

/// The remembered tags of sources that are compiled alike.
#[derive(Debug)]
struct Kind {
    syntax: Syntax,
    local: bool,
    open: String,
    close: String,
    /// By the text of a tag with its marks, its index in `tags`.
    places: FxHashMap<Box<str>, u32>,
    tags: Vec<Said>,
}

/// The output of a tag.
#[derive(Debug)]
enum Said {
    Value(Box<str>),
    If(bool),
    ElseIf(bool),
    Else,
    End,
    Note,
}

impl Said {
    /// Parses a remembered tag; its expression is an index into the remembered ones.
    fn tag<'s>(&self, at: u32) -> Tag<'s> {
        match self {
            Self::Value(_) => Tag::Value(ExprId(at)),
            Self::If(_) => Tag::If(ExprId(at)),
            Self::ElseIf(_) => Tag::ElseIf(ExprId(at)),
            Self::Else => Tag::Else,
            Self::End => Tag::End(None),
            Self::Note => Tag::Note,
        }
    }
}

struct Known<'k> {
    kind: &'k mut Kind,
    scope: &'k Scope,
    values: &'k Values,
    budget: &'k Budget,
}

impl Known<'_> {
    /// Returns the tag whose opening mark is at `opening`, and its end; `None` if it cannot be
    /// remembered.
    fn read<'s>(
        &mut self,
        source: &'s str,
        opening: Span,
        setting: &Setting<'_>,
    ) -> Option<(Tag<'s>, usize)> {
        let (start, inside) = (opening.start as usize, opening.end as usize);
        // A closing mark may be in a text of the tag; such a tag ends elsewhere, and is not
        // remembered.
        let end = inside + setting.marks.find_close(&source[inside..])? + self.kind.close.len();
        let whole = &source[start..end];
        let at = match self.kind.places.get(whole) {
            Some(at) => *at,
            None if self.kind.tags.len() >= MOST_KNOWN => return None,
            None => {
                let said = self.said(whole, inside - start, setting)?;
                let at = u32::try_from(self.kind.tags.len()).ok()?;
                self.kind.tags.push(said);
                self.kind.places.insert(whole.into(), at);
                at
            }
        };
        Some((self.kind.tags[at as usize].tag(at), end))
    }

    /// Returns the output of the tag `whole`, whose opening mark has this length.
    fn said(&self, whole: &str, mark: usize, setting: &Setting<'_>) -> Option<Said> {
        let mut parser = Parser::new(whole, setting.marks.close(), Findings::new(Arc::from("")));
        let tag = tag::read(&mut parser, Span::new(0, mark));
        if parser.lexer.at != whole.len() || !parser.findings.all.is_empty() {
            return None;
        }
        let condition = |id| {
            let (open, close) = (setting.marks.open(), setting.marks.close());
            let condition = parser.span(id).of(whole);
            let source = format!("{open} if {condition} {close}+{open} else {close}-{open} end {close}");
            match &*self.rendered(&source, setting)? {
                "+" => Some(true),
                "-" => Some(false),
                _ => None,
            }
        };
        match tag {
            Tag::Value(_) => self.rendered(whole, setting).map(Said::Value),
            Tag::If(id) => condition(id).map(Said::If),
            Tag::ElseIf(id) => condition(id).map(Said::ElseIf),
            Tag::Else => Some(Said::Else),
            // Only blocks of `if` are remembered.
            Tag::End(None | Some("if")) => Some(Said::End),
            Tag::Note => Some(Said::Note),
            _ => None,
        }
    }

    /// Returns the output of a source without a mistake, if it is short.
    fn rendered(&self, source: &str, setting: &Setting<'_>) -> Option<Box<str>> {
        let program = compile("", source, self.scope, setting).program?;
        let text = program.render_text(self.values, self.budget).ok()?;
        (text.len() <= LONGEST_KNOWN).then(|| text.into())
    }
}

/// An `if` that is open.
struct Open {
    /// True if the text around it is rendered.
    outer: bool,
    /// True if one of its branches was chosen.
    chosen: bool,
    has_else: bool,
}

/// Appends the output of the pieces; `None` if their blocks are not complete `if`s, or if the
/// budget is too small.
fn put(
    source: &str,
    pieces: &[Piece<'_>],
    tags: &[Said],
    purse: &mut Purse<'_>,
    out: &mut Vec<u8>,
) -> Option<()> {
    let mut open: SmallVec<[Open; 8]> = SmallVec::new();
    let mut comes_out = true;
    for piece in pieces {
        let (tag, indent) = match &piece.kind {
            PieceKind::Text if comes_out => {
                let text = piece.span.of(source);
                out.extend_from_slice(text.as_bytes());
                purse.pay(text.len() as u64).then_some(())?;
                continue;
            }
            PieceKind::Text => continue,
            PieceKind::Tag { tag, indent, .. } => (tag, indent),
        };
        match tag {
            Tag::Value(id) => {
                let Said::Value(text) = tags.get(id.0 as usize)? else { return None };
                if comes_out {
                    purse.pay(text.len() as u64 + 1).then_some(())?;
                    let start = out.len();
                    out.extend_from_slice(text.as_bytes());
                    let breaks = memchr::memchr_iter(b'\n', text.as_bytes()).count();
                    if breaks > 0 && !indent.is_empty() {
                        purse.pay((breaks * indent.len()) as u64).then_some(())?;
                        run::indent_since(out, start, indent);
                    }
                }
            }
            Tag::If(id) => {
                let Said::If(holds) = tags.get(id.0 as usize)? else { return None };
                open.push(Open { outer: comes_out, chosen: *holds, has_else: false });
                comes_out &= holds;
                (open.len() < MOST_BLOCK_DEPTH).then_some(())?;
            }
            Tag::ElseIf(id) => {
                let Said::ElseIf(holds) = tags.get(id.0 as usize)? else { return None };
                let branches = open.last_mut().filter(|open| !open.has_else)?;
                comes_out = branches.outer && !branches.chosen && *holds;
                branches.chosen |= holds;
            }
            Tag::Else => {
                let branches = open.last_mut().filter(|open| !open.has_else)?;
                comes_out = branches.outer && !branches.chosen;
                branches.has_else = true;
            }
            Tag::End(_) => comes_out = open.pop()?.outer,
            Tag::Note => {}
            _ => return None,
        }
    }
    open.is_empty().then_some(())
}
