//! The implementation of the views.

use super::{lists, quote, shape, words};
use crate::finding::Code;
use crate::item::Item;
use crate::scope::Scope;
use crate::trouble::{Trouble, trouble};
use crate::view::View;
use std::rc::Rc;

/// Applies a view. `may_make` is asked, with a number of bytes, before something that large is made.
///
/// # Errors
/// Arguments that the view cannot use, elements outside a list, and what `may_make` refuses.
pub(crate) fn apply<'r>(
    view: View,
    on: &Item<'r>,
    arguments: &[Item<'r>],
    scope: &Scope,
    may_make: &mut dyn FnMut(usize) -> Result<(), Box<Trouble>>,
) -> Result<Item<'r>, Box<Trouble>> {
    if matches!(on, Item::Answers(_) | Item::List(_)) {
        may_make(joined_length(view, on, arguments, scope))?;
        return lists::of_list(view, on, arguments, scope);
    }
    let text = on.text(scope);
    let first = || arguments.first().map_or("", |argument| argument.text(scope));
    let length = |size: usize| Item::Integer(i64::try_from(size).unwrap_or(i64::MAX));
    let mut listed = |parts: &mut dyn Iterator<Item = &str>| {
        let mut all: Vec<Item<'r>> = Vec::new();
        for part in parts {
            if all.len().is_power_of_two() {
                may_make(all.len() * 2 * size_of::<Item<'_>>() + text.len())?;
            }
            all.push(Item::Made(part.into()));
        }
        Ok(Item::List(all.into()))
    };
    match view {
        View::Lines => return listed(&mut text.lines()),
        View::Words => return listed(&mut text.split_whitespace()),
        View::Split => {
            let at = not_empty(first(), "split")?;
            return listed(&mut text.split(at));
        }
        _ => {}
    }
    may_make(largest(view, on, arguments, scope)?)?;
    Ok(match view {
        View::Title
        | View::Sentence
        | View::Snake
        | View::Kebab
        | View::Camel
        | View::Pascal
        | View::Constant
        | View::Lower
        | View::Upper
        | View::Flat => Item::made(words::cased(view, text)),
        View::Dirs => Item::made(text.replace('.', "/")),
        View::Dotted => Item::made(text.replace('/', ".")),
        View::Trim => Item::made(text.trim().to_owned()),
        View::Indent => Item::made(shape::prefixed(text, &" ".repeat(width(arguments)?))),
        View::Comment => Item::made(shape::prefixed(text, first())),
        View::Wrap => Item::made(shape::wrapped(text, width(arguments)?)),
        View::TextPad => Item::made(shape::padded(text, width(arguments)?)),
        View::Replace => {
            let by = arguments.get(1).map_or("", |argument| argument.text(scope));
            Item::made(text.replace(not_empty(first(), "replace")?, by))
        }
        View::TextLen => length(text.chars().count()),
        View::TextEmpty => Item::Flag(text.is_empty()),
        View::TextHas => Item::Flag(text.contains(first())),
        View::Starts => Item::Flag(text.starts_with(first())),
        View::Ends => Item::Flag(text.ends_with(first())),
        View::Date => Item::made(format_date(text, first())?),
        View::IntegerText | View::IntegerJson | View::IntegerToml | View::IntegerYaml => {
            Item::made(on.integer().to_string())
        }
        View::IntegerPad => Item::made(shape::zero_padded(on.integer(), width(arguments)?)),
        View::FlagText | View::FlagJson | View::FlagToml | View::FlagYaml => {
            Item::Made(Rc::from(if on.is_true() { "true" } else { "false" }))
        }
        _ => Item::made(quote::quoted(view, text)),
    })
}

fn not_empty<'a>(text: &'a str, view: &str) -> Result<&'a str, Box<Trouble>> {
    if text.is_empty() {
        return Err(trouble(Code::BadArgument, format!("`{view}` looks for a text, and this one is empty")));
    }
    Ok(text)
}

/// The widest that a text may be asked to be; a number with more zeros is a mistake.
const WIDEST: i64 = 10_000;

fn width(arguments: &[Item<'_>]) -> Result<usize, Box<Trouble>> {
    let asked = arguments.first().map_or(0, Item::integer);
    usize::try_from(asked).ok().filter(|_| asked <= WIDEST).ok_or_else(|| {
        trouble(Code::BadArgument, format!("a width is between 0 and {WIDEST}, and this one is {asked}"))
    })
}

/// Returns the date (ISO 8601) in another shape; the pattern is that of strftime.
pub(crate) fn format_date(date: &str, pattern: &str) -> Result<String, Box<Trouble>> {
    let unusable = |message: &str| trouble(Code::BadDatePattern, message);
    let date: jiff::civil::Date =
        date.parse().map_err(|_| unusable("the date is not of the form 2026-11-23"))?;
    jiff::fmt::strtime::format(pattern, date).map_err(|_| unusable("the date pattern means nothing"))
}

/// Returns a bound on the bytes that the view makes.
fn largest(view: View, on: &Item<'_>, arguments: &[Item<'_>], scope: &Scope) -> Result<usize, Box<Trouble>> {
    let text = on.text(scope);
    let lines = || memchr::memchr_iter(b'\n', text.as_bytes()).count() + 1;
    let size = |at: usize| arguments.get(at).map_or(0, |argument| argument.text(scope).len());
    Ok(match view {
        View::Comment => lines().saturating_mul(size(0)) + text.len(),
        View::Indent => lines().saturating_mul(width(arguments)?) + text.len(),
        View::TextPad => text.len() + width(arguments)?,
        View::Replace if size(0) > 0 => (text.len() / size(0)).saturating_mul(size(1)) + text.len(),
        View::TextLen | View::TextEmpty | View::TextHas | View::Starts | View::Ends => 0,
        // No case mapping and no escape makes more than ten bytes of one.
        _ => text.len().saturating_mul(10),
    })
}

fn joined_length(view: View, list: &Item<'_>, arguments: &[Item<'_>], scope: &Scope) -> usize {
    match view {
        View::Join => {
            let between = arguments.first().map_or(0, |text| text.text(scope).len());
            list.elements().map(|element| element.text(scope).len().max(20) + between).sum()
        }
        View::ListLen | View::ListEmpty | View::ListHas | View::First | View::Last | View::At => 0,
        _ => list.len() * size_of::<Item<'_>>(),
    }
}
