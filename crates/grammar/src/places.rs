//! Where a text stops to be of its language.
//!
//! A parser notices a mistake at the first word that cannot go on from there, which may be lines later: what was
//! left open stays open. People look for it where it was left out.

use crate::language::Language;
use crate::mistake::Mistake;
use crate::parsers::grammar_of;
use std::borrow::Cow;
use std::ops::ControlFlow;
use tree_sitter::{Node, ParseOptions, ParseState, Parser, Tree};

/// As [`crate::mistake`].
pub(crate) fn mistake(language: Language, text: &str) -> Option<Mistake> {
    let mut parser = Parser::new();
    parser.set_language(&grammar_of(language)).ok()?;
    let seen = if language == Language::C { seen_by_c(text) } else { Cow::Borrowed(text) };
    let text = &*seen;
    let tree = parsed(&mut parser, text)?;
    let root = tree.root_node();
    if root.has_error() {
        let found = first(text, root);
        return Some(match &found.missing {
            None => Mistake { at: repaired(&mut parser, text, root).unwrap_or(found.at), ..found },
            Some(_) => found,
        });
    }
    // These grammars read every indentation, and every end of an element.
    let at = match language {
        Language::Python => indentation(text, root),
        Language::Html => wrong_end(root),
        _ => None,
    };
    at.map(|at| Mistake { at, missing: None })
}

/// Returns a text of the same length with spaces for what is there for C++ alone, such as the brace of an `extern "C"`
/// that stands between two conditions.
fn seen_by_c(text: &str) -> Cow<'_, str> {
    const START: &str = "#ifdef __cplusplus";
    if !text.contains(START) {
        return Cow::Borrowed(text);
    }
    let mut seen = String::with_capacity(text.len());
    let mut is_hidden = false;
    for line in text.split_inclusive('\n') {
        is_hidden |= line.trim() == START;
        match is_hidden {
            true => seen.extend(line.bytes().map(|byte| if byte == b'\n' { '\n' } else { ' ' })),
            false => seen.push_str(line),
        }
        is_hidden &= line.trim() != "#endif";
    }
    Cow::Owned(seen)
}

/// The most lines whose repair is tried.
const MOST_REPAIRED: usize = 60;
/// The longest text whose repair is tried, in bytes.
const LONGEST_REPAIRED: usize = 64 * 1024;
/// The most looks at how far a parser is; it is asked every hundred steps.
const MOST_LOOKS: usize = 200_000;

/// Parses a text; `None` if that takes too many steps.
fn parsed(parser: &mut Parser, text: &str) -> Option<Tree> {
    let mut looks = 0;
    let mut look = |_: &ParseState| {
        looks += 1;
        if looks > MOST_LOOKS { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
    };
    let options = ParseOptions::new().progress_callback(&mut look);
    let bytes = text.as_bytes();
    let tree = parser.parse_with_options(&mut |at, _| bytes.get(at..).unwrap_or(&[]), None, Some(options));
    parser.reset();
    tree
}

/// Returns the end of the only line whose end, mended by one sign, makes the text one of its language.
fn repaired(parser: &mut Parser, text: &str, root: Node<'_>) -> Option<usize> {
    let (mut open, mut from) = (vec![root], None);
    while let Some(node) = open.pop() {
        if node.is_error() || node.is_missing() {
            from = Some((node.start_byte(), node.end_byte()));
            break;
        }
        open.extend(children(node).into_iter().rev().filter(|child| child.has_error() || child.is_missing()));
    }
    let (from, to) = from.filter(|_| text.len() <= LONGEST_REPAIRED)?;
    let mut end = from;
    for _ in 0..MOST_REPAIRED {
        end += text[end..].find('\n').unwrap_or(text.len() - end);
        for sign in [":", ";", ",", ")", "\""] {
            let mended = format!("{}{sign}{}", &text[..end], &text[end..]);
            if parsed(parser, &mended).is_some_and(|tree| !tree.root_node().has_error()) {
                return Some(before(text, end));
            }
        }
        if end >= to || end >= text.len() {
            return None;
        }
        end += 1;
    }
    None
}

/// Returns the first mistake below a node that has one.
fn first(text: &str, root: Node<'_>) -> Mistake {
    let mut node = root;
    loop {
        if node.is_missing() {
            let closes = matches!(node.kind(), "}" | ")" | "]");
            let open = if closes { odd_block(text, root) } else { None };
            let at = open.unwrap_or_else(|| before(text, node.start_byte()));
            return Mistake { at, missing: Some(node.kind().to_owned()) };
        }
        if node.is_error() {
            return Mistake { at: of_error(text, node), missing: None };
        }
        match children(node).into_iter().find(|child| child.has_error() || child.is_missing()) {
            Some(child) => node = child,
            None => return Mistake { at: node.start_byte(), missing: None },
        }
    }
}

/// How the kinds of nodes that are whole by themselves end.
const WHOLE: [&str; 7] = ["statement", "definition", "declaration", "item", "comment", "element", "rule_set"];

/// Returns where the words that the parser skipped do not go on any more.
fn of_error(text: &str, mut error: Node<'_>) -> usize {
    let goes_on = |node: &Node<'_>| {
        // What is complete by itself ends with its line.
        if node.is_named() && WHOLE.iter().any(|end| node.kind().ends_with(end)) {
            return true;
        }
        let text = text.get(node.byte_range()).unwrap_or("");
        text.ends_with([',', '(', '[', '{', ':', ';', '}', '=', '.', '\\'])
    };
    loop {
        let children = children(error);
        let breaks = children
            .windows(2)
            .find(|pair| pair[1].start_position().row > pair[0].end_position().row && !goes_on(&pair[0]));
        if let Some(pair) = breaks {
            return before(text, pair[0].end_byte());
        }
        match children.iter().find(|child| child.is_error() || child.has_error()) {
            Some(inner) => error = *inner,
            None if children.len() < 2 => return error.start_byte(),
            None => return children.last().map_or(0, |last| before(text, last.end_byte())),
        }
    }
}

/// Returns the place of the first block whose last line is not indented like its first one.
fn odd_block(text: &str, root: Node<'_>) -> Option<usize> {
    let indent = |at: usize| {
        let start = text[..at].rfind('\n').map_or(0, |at| at + 1);
        text[start..].bytes().take_while(|byte| matches!(byte, b' ' | b'\t')).count()
    };
    let mut open = vec![root];
    while let Some(node) = open.pop() {
        let children = children(node);
        if let [first, .., last] = children.as_slice()
            && matches!((first.kind(), last.kind()), ("{", "}") | ("(", ")") | ("[", "]"))
            && first.start_position().row < last.start_position().row
            && !last.is_missing()
            && indent(first.start_byte()) != indent(last.start_byte())
        {
            return Some(first.start_byte());
        }
        open.extend(children.into_iter().rev());
    }
    None
}

/// Returns the first statement of Python that is not indented like those beside it, or the place of a block that
/// is not there.
fn indentation(text: &str, root: Node<'_>) -> Option<usize> {
    let mut open = vec![root];
    while let Some(node) = open.pop() {
        let children = children(node);
        if node.kind() == "block" && node.start_byte() == node.end_byte() {
            return Some(before(text, node.start_byte()));
        }
        if matches!(node.kind(), "block" | "module") {
            let lines = children.windows(2).filter(|pair| {
                let starts_line = pair[1].start_position().row > pair[0].end_position().row;
                starts_line && pair.iter().all(|node| node.is_named() && !node.is_extra())
            });
            let first = children.iter().find(|node| node.is_named() && !node.is_extra());
            let column = first.map(|node| node.start_position().column);
            let mut odd = lines.filter(|pair| Some(pair[1].start_position().column) != column);
            if let Some(pair) = odd.next() {
                return Some(pair[1].start_byte());
            }
        }
        open.extend(children.into_iter().rev());
    }
    None
}

/// Returns the first end of an element that is not open.
fn wrong_end(root: Node<'_>) -> Option<usize> {
    let mut open = vec![root];
    while let Some(node) = open.pop() {
        if node.kind() == "erroneous_end_tag" {
            return Some(node.start_byte());
        }
        open.extend(children(node).into_iter().rev());
    }
    None
}

fn children(node: Node<'_>) -> Vec<Node<'_>> {
    let mut cursor = node.walk();
    node.children(&mut cursor).collect()
}

/// Returns the place behind the last sign before `at`.
fn before(text: &str, at: usize) -> usize {
    text.get(..at).map_or(at, |before| before.trim_end().len())
}
