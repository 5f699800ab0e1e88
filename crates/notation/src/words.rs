//! Conditions in words, for people who do not know the notation.

use crate::check;
use crate::syntax::Findings;
use crate::syntax::expression::{Binary, Expr, ExprId, ExprKind, MatchExpr};
use crate::syntax::tag::Literal;
use std::cell::Cell;
use std::sync::Arc;

/// What people call the names of a mold.
pub trait Naming {
    /// Returns what people call a name, such as `Licence`; `None` for one that they do not know.
    fn name(&self, name: &str) -> Option<String>;

    /// Returns what people call a value of the name, such as `Flask`.
    fn value(&self, name: &str, value: &str) -> Option<String>;

    /// Returns the expression that a name stands for.
    fn definition(&self, name: &str) -> Option<String>;
}

/// Definitions within definitions that are followed.
const DEEPEST: usize = 12;
/// The longest condition that is put into words, in bytes.
const LONGEST: usize = 10_000;
/// The most phrases that one condition is made of: more than that, no one reads.
const MOST_PHRASES: usize = 200;

/// Returns a condition in words; what has none stands in the notation, between backticks.
///
/// ```
/// use tinmold_notation::{Naming, in_words};
/// struct Plain;
/// impl Naming for Plain {
///     fn name(&self, name: &str) -> Option<String> { Some(name.to_owned()) }
///     fn value(&self, _: &str, value: &str) -> Option<String> { Some(value.to_uppercase()) }
///     fn definition(&self, name: &str) -> Option<String> { (name == "stored").then(|| "not (database == 'none')".into()) }
/// }
/// assert_eq!(in_words("stored and 'ci' in extras", &Plain), "database is not NONE, and extras has CI");
/// ```
#[must_use]
pub fn in_words(source: &str, naming: &dyn Naming) -> String {
    let reading = Reading { naming, left: Cell::new(MOST_PHRASES) };
    match reading.phrase(source, false, 0) {
        Some(phrase) => phrase.text,
        None => format!("`{}`", source.split_whitespace().collect::<Vec<_>>().join(" ")),
    }
}

/// The way in which the pieces of a phrase are joined.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Joined {
    Single,
    And,
    Or,
}

struct Phrase {
    text: String,
    joined: Joined,
}

fn single(text: impl Into<String>) -> Option<Phrase> {
    Some(Phrase { text: text.into(), joined: Joined::Single })
}

/// One condition with all that it is defined by.
struct Reading<'a> {
    naming: &'a dyn Naming,
    /// The number of phrases that may still be made.
    left: Cell<usize>,
}

impl Reading<'_> {
    /// Returns the phrase of a source; `None` if it has no words.
    fn phrase(&self, source: &str, is_negated: bool, depth: usize) -> Option<Phrase> {
        if depth > DEEPEST || source.len() > LONGEST {
            return None;
        }
        let (expressions, whole, findings) = check::parsed(source, Findings::new(Arc::from("")));
        if !findings.all.is_empty() {
            return None;
        }
        Writer { expressions: &expressions, reading: self, naming: self.naming, depth }
            .phrase(whole, is_negated)
    }
}

struct Writer<'a, 's> {
    expressions: &'a [Expr<'s>],
    reading: &'a Reading<'a>,
    naming: &'a dyn Naming,
    depth: usize,
}

impl Writer<'_, '_> {
    fn kind(&self, id: ExprId) -> &ExprKind<'_> {
        &self.expressions[id.0 as usize].kind
    }

    fn phrase(&self, id: ExprId, is_negated: bool) -> Option<Phrase> {
        self.reading.left.set(self.reading.left.get().checked_sub(1)?);
        match self.kind(id) {
            ExprKind::Not(of) => self.phrase(*of, !is_negated),
            ExprKind::Flag(flag) => single(if *flag == is_negated { "never" } else { "always" }),
            ExprKind::Binary(binary @ (Binary::And | Binary::Or), left, right) => {
                let is_and = (*binary == Binary::And) != is_negated;
                self.join(*left, *right, is_and, is_negated)
            }
            ExprKind::Binary(binary, left, right) => self.comparison(*binary, *left, *right, is_negated),
            ExprKind::Name(name) => self.flag(name, is_negated),
            ExprKind::Dotted(of, dotted) if dotted.name == "empty" => {
                let name = self.subject(*of)?;
                single(format!("{name} is {}", if is_negated { "given" } else { "empty" }))
            }
            ExprKind::Match(choice) => self.choice(choice, is_negated),
            _ => None,
        }
    }

    fn join(&self, left: ExprId, right: ExprId, is_and: bool, is_negated: bool) -> Option<Phrase> {
        let (left, right) = (self.phrase(left, is_negated)?, self.phrase(right, is_negated)?);
        let joined = if is_and { Joined::And } else { Joined::Or };
        // Two words for one thing need no comma; of mixed ones each side is held together.
        let side = |phrase: &Phrase| match phrase.joined {
            Joined::Single => phrase.text.clone(),
            other if other == joined => phrase.text.clone(),
            _ => format!("({})", phrase.text),
        };
        if left.text == right.text {
            return Some(left);
        }
        let word = if is_and { "and" } else { "or" };
        Some(Phrase { text: format!("{}, {word} {}", side(&left), side(&right)), joined })
    }

    /// Returns what people call the name that an expression is.
    fn subject(&self, id: ExprId) -> Option<String> {
        match self.kind(id) {
            ExprKind::Name(name) => self.naming.name(name).or_else(|| {
                // A name for a name.
                let definition = self.naming.definition(name)?;
                let (expressions, whole, _) = check::parsed(&definition, Findings::new(Arc::from("")));
                match &expressions[whole.0 as usize].kind {
                    ExprKind::Name(other) if other != name => self.naming.name(other),
                    _ => None,
                }
            }),
            _ => None,
        }
    }

    fn value(&self, of: ExprId, value: ExprId) -> Option<String> {
        match (self.kind(of), self.kind(value)) {
            (ExprKind::Name(name), ExprKind::Text(text)) => {
                Some(self.naming.value(name, text).unwrap_or_else(|| text.to_string()))
            }
            (_, ExprKind::Integer(number)) => Some(number.to_string()),
            _ => None,
        }
    }

    fn comparison(&self, binary: Binary, left: ExprId, right: ExprId, is_negated: bool) -> Option<Phrase> {
        if matches!(binary, Binary::In | Binary::NotIn) {
            let (name, value) = (self.subject(right)?, self.value(right, left)?);
            let has = if (binary == Binary::In) == is_negated { "does not have" } else { "has" };
            return single(format!("{name} {has} {value}"));
        }
        let (subject, unit) = match self.kind(left) {
            ExprKind::Dotted(of, dotted) if dotted.name == "len" => (self.subject(*of)?, "the length of "),
            _ => (self.subject(left)?, ""),
        };
        let value = self.value(left, right)?;
        let is = match (binary, is_negated) {
            (Binary::Equal, false) | (Binary::NotEqual, true) => "is",
            (Binary::Equal, true) | (Binary::NotEqual, false) => "is not",
            (Binary::Less, false) | (Binary::GreaterEqual, true) => "is less than",
            (Binary::LessEqual, false) | (Binary::Greater, true) => "is at most",
            (Binary::Greater, false) | (Binary::LessEqual, true) => "is more than",
            (Binary::GreaterEqual, false) | (Binary::Less, true) => "is at least",
            _ => return None,
        };
        single(format!("{unit}{subject} {is} {value}"))
    }

    fn flag(&self, name: &str, is_negated: bool) -> Option<Phrase> {
        if let Some(definition) = self.naming.definition(name) {
            return self.reading.phrase(&definition, is_negated, self.depth + 1);
        }
        let called = self.naming.name(name)?;
        single(format!("{called} is {}", if is_negated { "no" } else { "yes" }))
    }

    /// Writes a `match` whose outcomes are flags: the values that lead to what is wanted.
    fn choice(&self, choice: &MatchExpr<'_>, is_negated: bool) -> Option<Phrase> {
        let subject = self.subject(choice.subject)?;
        let flag = |id: ExprId| match self.kind(id) {
            ExprKind::Flag(flag) => Some(*flag != is_negated),
            _ => None,
        };
        let of = |wanted: bool| -> Option<Vec<String>> {
            let mut values = Vec::new();
            for case in &choice.cases {
                if flag(case.then)? == wanted {
                    values.extend(case.values.iter().map(|value| self.case(choice.subject, &value.literal)));
                }
            }
            Some(values)
        };
        let (yes, no) = (of(true)?, of(false)?);
        // What is left without a case counts as the `else` says.
        let otherwise = choice.otherwise.map(flag).unwrap_or(Some(false))?;
        if otherwise || (no.len() < yes.len() && choice.otherwise.is_none()) {
            return single(format!("{subject} is not {}", no.join(" or ")));
        }
        single(format!("{subject} is {}", yes.join(" or ")))
    }

    fn case(&self, subject: ExprId, value: &Literal<'_>) -> String {
        match (self.kind(subject), value) {
            (ExprKind::Name(name), Literal::Text(text)) => {
                self.naming.value(name, text).unwrap_or_else(|| text.to_string())
            }
            (_, Literal::Text(text)) => text.to_string(),
            (_, Literal::Integer(number)) => number.to_string(),
        }
    }
}
