//! Operations on YAML: the parser gives the spans of what exists, and the text is changed at those
//! only.

use super::data::{Data, EditOp};
use super::error::EditError;
use super::lines::{line_end, line_start, out_of_line, without_lines};
use granit_parser::{Event, Parser};
use std::borrow::Cow;
use std::ops::Range;

pub(super) fn read(text: &str) -> Result<Data, EditError> {
    if text.lines().all(|line| line.trim().is_empty() || line.trim_start().starts_with('#')) {
        return Ok(Data::Table(Vec::new()));
    }
    // The parser ends a block scalar with a line break even where the file has none.
    let text = &*with_closed_scalar(text);
    let value: serde_json::Value = serde_saphyr::from_str(text)
        .map_err(|error| EditError::Parser(error.to_string().lines().next().unwrap_or("").to_owned()))?;
    Ok(match Data::from(value) {
        Data::Null => Data::Table(Vec::new()),
        data => data,
    })
}

/// A value with its span in the text.
#[derive(Debug)]
struct Node {
    /// The span from its first byte to the end; a value closed by indentation ends with its last
    /// element.
    span: Range<usize>,
    kind: NodeKind,
}

#[derive(Debug)]
enum NodeKind {
    Scalar,
    /// True if it is written in braces; keys with their spans; values.
    Map(bool, Vec<(String, Range<usize>, Node)>),
    /// Written in brackets?, elements.
    List(bool, Vec<Node>),
    Alias,
}

struct Tree<'t> {
    text: &'t str,
    events: std::vec::IntoIter<(Event<'t>, Range<usize>)>,
}

impl<'t> Tree<'t> {
    fn of(text: &'t str) -> Result<Option<Node>, EditError> {
        // The parser counts characters.
        let bytes: Vec<usize> = text.char_indices().map(|(at, _)| at).chain([text.len()]).collect();
        let byte = |index: usize| bytes.get(index).copied().unwrap_or(text.len());
        let mut events = Vec::new();
        for event in Parser::new_from_str(text) {
            let (event, span) = event.map_err(|error| EditError::Parser(error.info()))?;
            events.push((event, byte(span.start.index())..byte(span.end.index())));
        }
        let documents = events.iter().filter(|(event, _)| matches!(event, Event::DocumentStart(..))).count();
        if documents > 1 {
            return Err(EditError::SeveralDocuments);
        }
        let inner = events.into_iter().filter(|(event, _)| {
            !matches!(
                event,
                Event::StreamStart
                    | Event::StreamEnd
                    | Event::DocumentStart(..)
                    | Event::DocumentEnd
                    | Event::Comment(..)
            )
        });
        let mut tree = Self { text, events: inner.collect::<Vec<_>>().into_iter() };
        match tree.events.len() {
            0 => Ok(None),
            _ => tree.node().map(Some),
        }
    }

    fn node(&mut self) -> Result<Node, EditError> {
        let (event, span) = self.events.next().ok_or(EditError::Style)?;
        self.rest(event, span)
    }

    /// Returns the node that this event begins.
    fn rest(&mut self, event: Event<'t>, span: Range<usize>) -> Result<Node, EditError> {
        let is_flow = |open: char| self.text[span.start..].starts_with(open);
        Ok(match event {
            Event::Alias(_) => Node { span, kind: NodeKind::Alias },
            Event::Scalar(..) => {
                let text = &self.text[span.clone()];
                let end = span.start + text.trim_end().len();
                Node { span: span.start..end, kind: NodeKind::Scalar }
            }
            Event::MappingStart(..) => {
                let flow = is_flow('{');
                let (mut entries, mut end) = (Vec::new(), span.end);
                loop {
                    let (event, place) = self.events.next().ok_or(EditError::Style)?;
                    match event {
                        Event::MappingEnd => {
                            end = if flow { place.end } else { end };
                            break;
                        }
                        Event::Scalar(ref key, ..) => {
                            let key = key.to_string();
                            let value = self.node()?;
                            end = value.span.end.max(place.end);
                            entries.push((key, place, value));
                        }
                        _ => return Err(EditError::Style),
                    }
                }
                let start = entries
                    .first()
                    .map_or(span.start, |(_, key, _)| if flow { span.start } else { key.start });
                Node { span: start..end, kind: NodeKind::Map(flow, entries) }
            }
            Event::SequenceStart(..) => {
                let flow = is_flow('[');
                let (mut elements, mut end): (Vec<Node>, _) = (Vec::new(), span.end);
                loop {
                    let (event, place) = self.events.next().ok_or(EditError::Style)?;
                    if let Event::SequenceEnd = event {
                        end = if flow { place.end } else { end };
                        break;
                    }
                    let element = self.rest(event, place)?;
                    end = element.span.end;
                    elements.push(element);
                }
                Node { span: span.start..end, kind: NodeKind::List(flow, elements) }
            }
            _ => return Err(EditError::Style),
        })
    }
}

fn column(text: &str, at: usize) -> usize {
    at - line_start(text, at)
}

/// Returns true if only blanks come before it on its line.
fn begins_line(text: &str, at: usize) -> bool {
    text[line_start(text, at)..at].trim().is_empty()
}

fn spliced(text: &str, place: Range<usize>, new: &str) -> String {
    format!("{}{new}{}", &text[..place.start], &text[place.end..])
}

/// Inserts whole lines after the one that ends at `end`.
fn behind(text: &str, end: usize, lines: &str) -> String {
    let end = line_end(text, end);
    spliced(text, end..end, &format!("\n{}", lines.trim_end_matches('\n')))
}

/// Returns the text with its last value kept as it is if lines follow: a block scalar that ends the file without a
/// line break has none in its value (YAML 1.2.2, 8.1.1.2).
fn with_closed_scalar(text: &str) -> Cow<'_, str> {
    if text.ends_with('\n') || text.is_empty() {
        return Cow::Borrowed(text);
    }
    let depth = |line: &str| line.len() - line.trim_start().len();
    let mut least = usize::MAX;
    for (start, line) in text
        .split_inclusive('\n')
        .scan(0, |at, line| {
            *at += line.len();
            Some((*at - line.len(), line.trim_end()))
        })
        .collect::<Vec<_>>()
        .into_iter()
        .rev()
    {
        let head = line.split(" #").next().unwrap_or(line).trim_end();
        let marks =
            head.len() - head.trim_end_matches(|c: char| c.is_ascii_digit() || "+-".contains(c)).len();
        let (head, marks) = head.split_at(head.len() - marks);
        let opens = [": |", ": >", "- |", "- >"].iter().any(|end| head.ends_with(end));
        if opens && least > depth(line) {
            let at = start + head.len();
            let digits: String = marks.chars().filter(char::is_ascii_digit).collect();
            return Cow::Owned(format!("{}{digits}-{}", &text[..at], &text[at + marks.len()..]));
        }
        if !line.trim().is_empty() {
            least = least.min(depth(line));
        }
        if least == 0 {
            break;
        }
    }
    Cow::Borrowed(text)
}

pub(super) fn apply(text: &str, step: &EditOp) -> Result<String, EditError> {
    let closed = match step {
        EditOp::Insert(..) | EditOp::Append(..) => with_closed_scalar(text),
        _ => Cow::Borrowed(text),
    };
    let text = &*closed;
    let style = Style::of(text);
    let Some(root) = Tree::of(text)? else {
        return match step {
            EditOp::Insert(path, key, value) if path.is_empty() => {
                let gap = if text.is_empty() || text.ends_with('\n') { "" } else { "\n" };
                Ok(format!("{text}{gap}{}", style.entry(key, value, 0)))
            }
            _ => Err(EditError::Style),
        };
    };
    let find = |path: &[String]| {
        path.iter().try_fold(&root, |node, key| match &node.kind {
            NodeKind::Map(_, entries) => entries.iter().find(|(own, ..)| own == key).map(|(.., node)| node),
            NodeKind::List(_, elements) => elements.get(key.parse::<usize>().ok()?),
            _ => None,
        })
    };
    match step {
        EditOp::Insert(path, key, value) => {
            insert(text, &style, find(path).ok_or(EditError::Style)?, key, value)
        }
        EditOp::Append(path, value) => append(text, &style, find(path).ok_or(EditError::Style)?, value),
        EditOp::Replace(path, value) => replace(text, &style, find(path).ok_or(EditError::Style)?, value),
        EditOp::ReplaceElement(path, at, value) => match &find(path).ok_or(EditError::Style)?.kind {
            NodeKind::List(_, elements) => {
                replace(text, &style, elements.get(*at).ok_or(EditError::Style)?, value)
            }
            _ => Err(EditError::Style),
        },
        EditOp::RemoveKey(path, key) => match &find(path).ok_or(EditError::Style)?.kind {
            NodeKind::Map(flow, entries) => {
                let at = entries.iter().position(|(own, ..)| own == key).ok_or(EditError::Style)?;
                let spans: Vec<_> =
                    entries.iter().map(|(_, key, node)| key.start..node.span.end.max(key.end)).collect();
                if !*flow && spans.len() == 1 {
                    return emptied(text, &root, path, &spans[0], "{}");
                }
                take_out(text, *flow, &spans, at)
            }
            _ => Err(EditError::Style),
        },
        EditOp::RemoveElement(path, at) => match &find(path).ok_or(EditError::Style)?.kind {
            NodeKind::List(flow, elements) => {
                let begin = |node: &Node| if *flow { node.span.start } else { dash(text, node) };
                let spans: Vec<_> = elements.iter().map(|node| begin(node)..node.span.end).collect();
                if !*flow && spans.len() == 1 {
                    return emptied(text, &root, path, &spans[0], "[]");
                }
                take_out(text, *flow, &spans, *at)
            }
            _ => Err(EditError::Style),
        },
    }
}

/// Returns the position of the dash before an element.
fn dash(text: &str, element: &Node) -> usize {
    // The indicator of a block scalar may hold a dash too.
    let is_free = |at: usize| {
        let (before, after) = (text[..at].chars().next_back(), text[at + 1..].chars().next());
        before.is_none_or(char::is_whitespace) && after.is_none_or(char::is_whitespace)
    };
    let mut dashes = text[..element.span.start].rmatch_indices('-').map(|(at, _)| at);
    dashes.find(|at| is_free(*at)).unwrap_or(element.span.start)
}

fn insert(text: &str, style: &Style, table: &Node, key: &str, value: &Data) -> Result<String, EditError> {
    let NodeKind::Map(flow, entries) = &table.kind else { return Err(EditError::Style) };
    if *flow {
        let new = format!("{}: {}", scalar(key), flowing(value));
        let last = entries.last().map(|(_, key, node)| node.span.end.max(key.end));
        return Ok(into_flow(text, &table.span, last, &new));
    }
    let first = entries.first().ok_or(EditError::Style)?;
    let new = style.entry(key, value, column(text, first.1.start));
    Ok(behind(text, table.span.end, &new))
}

fn append(text: &str, style: &Style, list: &Node, value: &Data) -> Result<String, EditError> {
    let NodeKind::List(flow, elements) = &list.kind else { return Err(EditError::Style) };
    let last = elements.last();
    if *flow {
        return Ok(into_flow(text, &list.span, last.map(|node| node.span.end), &flowing(value)));
    }
    let column = column(text, dash(text, last.ok_or(EditError::Style)?));
    Ok(behind(text, list.span.end, &style.element(value, column)))
}

/// Inserts after the last entry in braces or brackets: on a line of its own if the last entry is on
/// one.
fn into_flow(text: &str, span: &Range<usize>, last: Option<usize>, new: &str) -> String {
    let Some(last) = last else {
        return spliced(
            text,
            span.start + 1..span.end - 1,
            &if text[span.start..].starts_with('{') { format!(" {new} ") } else { new.to_owned() },
        );
    };
    let start = line_start(text, last);
    let gap = if start > span.start {
        let line = &text[start..];
        format!("\n{}", &line[..line.len() - line.trim_start_matches(' ').len()])
    } else {
        " ".to_owned()
    };
    let comma = text[last..].trim_start().starts_with(',');
    if comma {
        let at = last + text[last..].find(',').unwrap_or(0) + 1;
        spliced(text, at..at, &format!("{gap}{new},"))
    } else {
        spliced(text, last..last, &format!(",{gap}{new}"))
    }
}

fn replace(text: &str, style: &Style, old: &Node, new: &Data) -> Result<String, EditError> {
    let is_line = !text[old.span.clone()].contains('\n');
    match (&old.kind, new) {
        // Nothing follows the colon.
        (NodeKind::Scalar, _) if old.span.is_empty() => {
            // The parser has it before the colon or behind it.
            let rest = &text[old.span.start..line_end(text, old.span.start)];
            let at = match rest.trim_start().starts_with(':') {
                true => old.span.start + rest.find(':').unwrap_or(0) + 1,
                false => text[..old.span.start].trim_end().len(),
            };
            if let Data::List(elements) = new
                && !elements.is_empty()
            {
                let line = &text[line_start(text, at)..];
                let column = line.len() - line.trim_start().len() + style.list_indent;
                let lines: String = elements.iter().map(|value| style.element(value, column)).collect();
                return Ok(behind(text, at, &lines));
            }
            Ok(spliced(text, at..at, &format!(" {}", flowing(new))))
        }
        (NodeKind::Scalar, _) if is_line => Ok(spliced(text, old.span.clone(), &flowing(new))),
        _ => Err(EditError::Style),
    }
}

fn take_out(text: &str, flow: bool, spans: &[Range<usize>], at: usize) -> Result<String, EditError> {
    let span = spans.get(at).ok_or(EditError::Style)?.clone();
    if flow {
        return Ok(out_of_line(text, spans, at, span));
    }
    if !begins_line(text, span.start) {
        return Err(EditError::Style);
    }
    Ok(without_lines(text, &span, "#"))
}

/// Removes the only entry of a block: what holds it is an empty table or list then.
fn emptied(
    text: &str,
    root: &Node,
    path: &[String],
    span: &Range<usize>,
    empty: &str,
) -> Result<String, EditError> {
    if !begins_line(text, span.start) {
        return Err(EditError::Style);
    }
    let made = without_lines(text, span, "#");
    let Some((key, above)) = path.split_last() else { return Ok(made) };
    let holder = above.iter().try_fold(root, |node, key| match &node.kind {
        NodeKind::Map(_, entries) => entries.iter().find(|(own, ..)| own == key).map(|(.., node)| node),
        _ => None,
    });
    let Some(NodeKind::Map(false, entries)) = holder.map(|node| &node.kind) else {
        return Err(EditError::Style);
    };
    let (_, place, _) = entries.iter().find(|(own, ..)| own == key).ok_or(EditError::Style)?;
    let colon = place.end + made[place.end..].find(':').ok_or(EditError::Style)? + 1;
    Ok(spliced(&made, colon..colon, &format!(" {empty}")))
}

/// The formatting of a file.
struct Style {
    indent: usize,
    /// The indentation of a list, beyond that of its key.
    list_indent: usize,
}

impl Style {
    fn of(text: &str) -> Self {
        let depth = |line: &str| line.len() - line.trim_start().len();
        let filled: Vec<&str> = text
            .lines()
            .filter(|line| !line.trim().is_empty() && !line.trim_start().starts_with('#'))
            .collect();
        let deeper = |dash: bool| {
            filled.windows(2).find_map(|pair| {
                let opens = pair[0].trim_end().ends_with(':') && !pair[0].trim_start().starts_with('-');
                let is_dash = pair[1].trim_start().starts_with("- ");
                let step = depth(pair[1]).checked_sub(depth(pair[0]))?;
                (opens && is_dash == dash && (dash || step > 0)).then_some(step)
            })
        };
        let indent = deeper(false).unwrap_or(2);
        Self { indent, list_indent: deeper(true).unwrap_or(indent) }
    }

    /// Returns a key and its value as lines.
    fn entry(&self, key: &str, value: &Data, column: usize) -> String {
        let (key, blank) = (scalar(key), " ".repeat(column));
        match value {
            Data::Table(entries) if !entries.is_empty() => {
                let inner: String =
                    entries.iter().map(|(key, value)| self.entry(key, value, column + self.indent)).collect();
                format!("{blank}{key}:\n{inner}")
            }
            Data::List(elements) if !elements.is_empty() => {
                let inner: String =
                    elements.iter().map(|value| self.element(value, column + self.list_indent)).collect();
                format!("{blank}{key}:\n{inner}")
            }
            value => format!("{blank}{key}: {}\n", flowing(value)),
        }
    }

    /// Returns an element with its dash, as lines.
    fn element(&self, value: &Data, column: usize) -> String {
        let blank = " ".repeat(column);
        match value {
            Data::Table(entries) if !entries.is_empty() => {
                let inner: String =
                    entries.iter().map(|(key, value)| self.entry(key, value, column + 2)).collect();
                format!("{blank}- {}", &inner[column + 2..])
            }
            value => format!("{blank}- {}\n", flowing(value)),
        }
    }
}

/// Returns a text without quotes where it is that text in any reading.
fn scalar(text: &str) -> String {
    let plain = |c: char| c.is_ascii_alphanumeric() || "_-./@+".contains(c);
    let begins = text.starts_with(|c: char| c.is_ascii_alphabetic() || c == '_' || c == '/');
    let word = text.to_ascii_lowercase();
    let other = ["true", "false", "yes", "no", "on", "off", "null", "y", "n"];
    if begins && text.chars().all(plain) && !other.contains(&word.as_str()) {
        text.to_owned()
    } else {
        Data::Text(text.to_owned()).to_string()
    }
}

/// Returns a value on one line.
fn flowing(data: &Data) -> String {
    match data {
        Data::Text(text) => scalar(text),
        other => other.to_string(),
    }
}
