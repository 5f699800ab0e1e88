//! The notation of Tin Mold's molds: a small, typed template language that always ends.
//!
//! A source is text with tags between marks. It is compiled against a [`Scope`], which knows the
//! type of every name, and every mistake in it is reported as a [`Finding`] with its position. The
//! result is a [`Program`] that renders [`Values`] as often as wanted, from several threads. It can
//! neither read nor write, and always ends.
//!
//! ```
//! use tinmold_notation::{Budget, Scope, Setting, Type, Value, Values, Element, compile};
//!
//! let mut scope = Scope::new();
//! let piers = scope.add("piers", Type::List(Element::Text)).unwrap();
//! let setting = Setting::default();
//! let source = "Calls at {= for pier in piers =}{= pier.title =}{= between \", \" =}{= end =}.";
//! let compiled = compile("timetable.txt", source, &scope, &setting);
//! let program = compiled.program.expect("no findings");
//!
//! let mut values = Values::new(&scope);
//! let calls = ["gull point", "osier island"].map(|pier| Value::Text(pier.into())).to_vec();
//! values.set(&scope, piers, Value::List(calls)).unwrap();
//! let text = program.render_text(&values, &Budget::default()).unwrap();
//! assert_eq!(text, "Calls at Gull Point, Osier Island.");
//! ```
//!
//! A mistake is found before anything is rendered:
//!
//! ```
//! use tinmold_notation::{Scope, Setting, Type, compile};
//! let mut scope = Scope::new();
//! scope.add("departure", Type::Text).unwrap();
//! let setting = Setting::default();
//! let source = "Leaves at {= departue =}";
//! let found = &compile("sign.txt", source, &scope, &setting).findings[0];
//! assert_eq!(found.code.as_str(), "unknown-name");
//! assert_eq!(found.help, "did you mean `departure`?");
//! assert_eq!(found.position(source).column, 14);
//! ```
//!
//! The modules, in the order of the data: `syntax` (tokens, then a tree with spans) → `check`
//! (names resolved to slots, types, findings) → `program` (flat) → `run` (text). No code here reads
//! a file, a clock or randomness.

mod audit;
mod budget;
mod check;
mod choices;
mod coverage;
mod finding;
mod following;
mod item;
mod marks;
mod names;
mod nearest;
mod observed;
mod program;
mod quoting;
mod renderer;
mod run;
mod scope;
mod setting;
mod span;
mod syntax;
mod syntax_kind;
mod trace;
mod trouble;
mod types;
mod value;
mod values;
mod view;
mod views;
mod words;

pub use audit::{audit, audit_expression};
pub use budget::Budget;
pub use choices::{Choice, Choices, FieldError, FieldValue};
pub use coverage::coverage;
pub use finding::{Code, Finding, Severity, sort_findings};
pub use following::{Following, following};
pub use marks::{Marks, MarksError};
pub use nearest::{did_you_mean, nearest};
pub use observed::{Audit, Deciding, Else, Place, PlaceKind};
pub use program::Program;
pub use quoting::Quoting;
pub use renderer::Renderer;
pub use scope::{Name, NameError, NameId, RESERVED, Scope, Traits};
pub use setting::{Fragments, Setting};
pub use span::{Position, Span};
pub use syntax_kind::Syntax;
pub use trace::{Run, Trace, origin, trace};
pub use types::{ChoicesId, Element, Type};
pub use value::Value;
pub use values::{TypeMismatch, Values};
pub use words::{Naming, in_words};

use check::Compiler;
use std::sync::Arc;
use syntax::Findings;
use syntax::expression::{Expr, ExprKind};
use syntax::piece::PieceKind;
use syntax::pieces;
use syntax::tag::Tag;

/// The result of compiling.
#[derive(Debug)]
pub struct Compiled<'s> {
    /// The program; none if there is an error among the findings.
    pub program: Option<Program<'s>>,
    /// All findings, sorted by file and position.
    pub findings: Vec<Finding>,
    /// The names of the scope that the source uses.
    pub used: Vec<NameId>,
    /// The traits of the rendered text or of the value.
    pub traits: Traits,
    /// The fragments that it places, directly or through others.
    pub placed: Vec<&'s str>,
}

/// Compiles a body file.
///
/// `file` is what findings call it, `source` its text without limits on what it holds.
#[must_use]
pub fn compile<'s>(file: &str, source: &'s str, scope: &'s Scope, setting: &'s Setting<'s>) -> Compiled<'s> {
    let mut compiler = Compiler::new(scope, setting);
    if too_large(file, source, &mut compiler) {
        return compiler.finish(Type::Text);
    }
    compiler.body(Arc::from(file), source);
    compiler.finish(Type::Text)
}

/// Compiles an expression without marks, as in `when`. [`Program::evaluate`] returns its value.
///
/// ```
/// use tinmold_notation::{Budget, Scope, Setting, Type, Value, Values, compile_expression};
/// let scope = Scope::new();
/// let setting = Setting::default();
/// let program = compile_expression("when", "2 + 3 > 4", &scope, &setting, Some(Type::Flag)).program.unwrap();
/// assert_eq!(program.evaluate(&Values::new(&scope), &Budget::default()), Ok(Value::Flag(true)));
/// ```
#[must_use]
pub fn compile_expression<'s>(
    file: &str,
    source: &'s str,
    scope: &'s Scope,
    setting: &'s Setting<'s>,
    wanted: Option<Type>,
) -> Compiled<'s> {
    let mut compiler = Compiler::new(scope, setting);
    if too_large(file, source, &mut compiler) {
        return compiler.finish(Type::Unknown);
    }
    let of = compiler.expression(Arc::from(file), source, wanted);
    compiler.finish(of)
}

/// Returns what decides about the value of an expression. One with mistakes tells what was understood of it.
#[must_use]
pub fn deciding(source: &str, scope: &Scope) -> Deciding {
    let mut deciding = Deciding::default();
    if source.len() <= LARGEST {
        let (expressions, whole, _) = check::parsed(source, Findings::new(Arc::from("")));
        deciding.add(&expressions, whole, scope);
    }
    deciding
}

/// Returns the first name in an expression that is not in the scope.
///
/// Returns `None` if all are in the scope, and if `source` cannot be parsed; compiling then reports
/// more.
///
/// ```
/// use tinmold_notation::{Scope, Type, unknown_name};
/// let mut scope = Scope::new();
/// scope.add("pier", Type::Text).unwrap();
/// assert_eq!(unknown_name("pier.len > 3 and ferries", &scope), Some("ferries"));
/// assert_eq!(unknown_name("pier == 'ferries'", &scope), None);
/// ```
#[must_use]
pub fn unknown_name<'s>(source: &'s str, scope: &Scope) -> Option<&'s str> {
    if source.len() > LARGEST {
        return None;
    }
    let (expressions, _, _) = check::parsed(source, Findings::new(Arc::from("")));
    unknown_among(&expressions, scope)
}

/// Returns the same for a text with the usual marks; `None` also if it defines names of its own.
///
/// ```
/// use tinmold_notation::{Scope, unknown_name_in_text};
/// let scope = Scope::new();
/// assert_eq!(unknown_name_in_text("to {= pier.upper =}", &scope), Some("pier"));
/// assert_eq!(unknown_name_in_text("{= let pier = 1 =}{= pier =}", &scope), None);
/// ```
#[must_use]
pub fn unknown_name_in_text<'s>(source: &'s str, scope: &Scope) -> Option<&'s str> {
    if source.len() > LARGEST {
        return None;
    }
    let marks = Setting::for_text().marks;
    let cut = pieces::cut(source, marks, Findings::new(Arc::from("")), false);
    let own = cut.pieces.iter().any(|piece| match &piece.kind {
        PieceKind::Tag { tag, .. } => matches!(tag, Tag::Let(_) | Tag::For(_) | Tag::Place(_)),
        PieceKind::Text => false,
    });
    if own { None } else { unknown_among(&cut.expressions, scope) }
}

fn unknown_among<'s>(expressions: &[Expr<'s>], scope: &Scope) -> Option<&'s str> {
    expressions.iter().find_map(|expression| match expression.kind {
        ExprKind::Name(name) if scope.find(name).is_none() && !scope.is_group(name) => Some(name),
        _ => None,
    })
}

/// Compiles the name of one file or folder, tags in it included.
///
/// The program renders the name. An empty result means that an `if` in the name chose nothing: the
/// entry is left out with everything below it. An empty value is an error when it is rendered, and
/// so is a slash in a value unless it comes from `dirs` or from a name with [`Traits::path`].
///
/// ```
/// use tinmold_notation::{Budget, Scope, Setting, Type, Value, Values, compile_name};
/// let mut scope = Scope::new();
/// let package = scope.add("package", Type::Text).unwrap();
/// let setting = Setting::for_name();
/// let program = compile_name("body", "{= package.dirs =}", &scope, &setting).program.unwrap();
/// let mut values = Values::new(&scope);
/// values.set(&scope, package, Value::Text("example.saltmarsh.tides".into())).unwrap();
/// assert_eq!(program.render_text(&values, &Budget::default()).unwrap(), "example/saltmarsh/tides");
/// ```
#[must_use]
pub fn compile_name<'s>(
    file: &str,
    source: &'s str,
    scope: &'s Scope,
    setting: &'s Setting<'s>,
) -> Compiled<'s> {
    let mut compiler = Compiler::new(scope, setting);
    if !too_large(file, source, &mut compiler) {
        compiler.name(Arc::from(file), source);
    }
    compiler.finish(Type::Text)
}

/// The largest source in bytes: more than anyone writes, and few enough for spans of 32 bits.
const LARGEST: usize = 64 << 20;

fn too_large(file: &str, source: &str, compiler: &mut Compiler<'_>) -> bool {
    let large = source.len() > LARGEST;
    if large {
        let mut findings = Findings::new(Arc::from(file));
        findings.add(
            Code::TooLarge,
            Span::default(),
            "this file is larger than 64 MiB",
            "mark it with `copy = true`, so that it is copied unrendered",
        );
        compiler.findings.extend(findings.all);
    }
    large
}
