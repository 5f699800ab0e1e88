//! Steps in JSON, with comments or without.

use super::data::{Data, EditOp};
use super::error::EditError;
use super::insert_position;
use super::lines::{into_braces, is_airy, line_end, line_start, out_of_line, without_lines};
use jsonc_parser::ast::Value;
use jsonc_parser::common::Ranged;
use jsonc_parser::cst::{CstInputValue, CstLeafNode, CstNode, CstObject, CstRootNode};
use jsonc_parser::{CollectOptions, ParseOptions, parse_to_ast};
use std::ops::Range;

fn parsed(text: &str) -> Result<CstRootNode, EditError> {
    CstRootNode::parse(text, &ParseOptions::default()).map_err(|error| EditError::Parser(error.to_string()))
}

pub(super) fn read(text: &str) -> Result<Data, EditError> {
    let value = parsed(text)?.to_serde_value().ok_or(EditError::Lost)?;
    Ok(value.into())
}

pub(super) fn apply(text: &str, step: &EditOp) -> Result<String, EditError> {
    if let Some(made) = by_lines(text, step) {
        return Ok(made);
    }
    let root = parsed(text)?;
    let lost = || EditError::Lost;
    match step {
        EditOp::Insert(path, key, value) => {
            let table = table(&root, path).ok_or_else(lost)?;
            let names: Vec<String> =
                table.properties().iter().filter_map(|property| property.decoded_name()).collect();
            let keys: Vec<&str> = names.iter().map(String::as_str).collect();
            // The order of top-level keys has a meaning.
            let place = if path.is_empty() { keys.len() } else { insert_position(&keys, key) };
            table.insert(place, key, input(value));
        }
        EditOp::Replace(path, value) => {
            let (key, above) = path.split_last().ok_or_else(lost)?;
            let property = table(&root, above).and_then(|table| table.get(key)).ok_or_else(lost)?;
            property.set_value(input(value));
        }
        EditOp::Append(path, value) => {
            node(&root, path).and_then(|node| node.as_array()).ok_or_else(lost)?.append(input(value));
        }
        EditOp::ReplaceElement(path, at, value) => {
            let array = node(&root, path).and_then(|node| node.as_array()).ok_or_else(lost)?;
            let element = array.elements().into_iter().nth(*at);
            match element.ok_or_else(lost)? {
                CstNode::Leaf(CstLeafNode::StringLit(text)) => {
                    text.replace_with(input(value));
                }
                _ => return Err(EditError::Style),
            }
        }
        EditOp::RemoveKey(path, key) => {
            table(&root, path).and_then(|table| table.get(key)).ok_or_else(lost)?.remove();
        }
        EditOp::RemoveElement(path, at) => {
            let array = node(&root, path).and_then(|node| node.as_array()).ok_or_else(lost)?;
            array.elements().into_iter().nth(*at).ok_or_else(lost)?.remove();
        }
    }
    Ok(root.to_string())
}

/// Makes a step in the text alone, where that keeps its style: what is on one line stays there, and what goes takes
/// its lines along.
fn by_lines(text: &str, step: &EditOp) -> Option<String> {
    let parsed = parse_to_ast(text, &CollectOptions::default(), &ParseOptions::default()).ok()?;
    let root = parsed.value?;
    let find = |path: &[String]| {
        path.iter().try_fold(&root, |value, key| match value {
            Value::Array(array) => array.elements.get(key.parse::<usize>().ok()?),
            _ => {
                let properties = &value.as_object()?.properties;
                properties
                    .iter()
                    .find(|property| property.name.as_str() == key)
                    .map(|property| &property.value)
            }
        })
    };
    let range = |value: &Value<'_>| value.range().start..value.range().end;
    let is_line = |span: &Range<usize>| !text[span.clone()].contains('\n');
    let properties = |value: &Value<'_>| -> Option<Vec<Range<usize>>> {
        let all = value.as_object()?.properties.iter();
        Some(all.map(|property| property.range.start..property.range.end).collect())
    };
    // A new entry on the line of the others.
    let added = |span: Range<usize>, is_empty: bool, new: &dyn Fn(bool) -> String| {
        let applies = is_line(&span) && (!is_empty || is_line(&(0..text.trim_end().len())));
        let airy = is_airy(if is_empty { text } else { &text[span.clone()] });
        applies.then(|| into_braces(text, &span, is_empty, &new(airy)))
    };
    match step {
        EditOp::Insert(path, key, value) => {
            let object = find(path)?;
            added(range(object), properties(object)?.is_empty(), &|airy| pair(key, value, airy))
        }
        EditOp::Append(path, value) => {
            let list = find(path)?;
            added(range(list), list.as_array()?.elements.is_empty(), &|airy| flat(value, airy))
        }
        EditOp::Replace(path, value) => {
            let (_, above) = path.split_last()?;
            let (object, span) = (range(find(above)?), range(find(path)?));
            let new = flat(value, is_airy(&text[object.clone()]));
            is_line(&object).then(|| format!("{}{new}{}", &text[..span.start], &text[span.end..]))
        }
        EditOp::RemoveKey(path, key) => {
            let object = find(path)?;
            let at = object.as_object()?.properties.iter().position(|own| own.name.as_str() == key)?;
            without(text, &range(object), &properties(object)?, at)
        }
        EditOp::RemoveElement(path, at) => {
            let list = find(path)?;
            let spans: Vec<Range<usize>> = list.as_array()?.elements.iter().map(range).collect();
            without(text, &range(list), &spans, *at)
        }
        EditOp::ReplaceElement(path, at, value) => {
            let list = find(path)?;
            let span = range(list.as_array()?.elements.get(*at)?);
            let new = flat(value, is_airy(&text[range(list)]));
            is_line(&span).then(|| format!("{}{new}{}", &text[..span.start], &text[span.end..]))
        }
    }
}

/// Removes an entry: from its line, or with its lines and the comment that touches them.
fn without(text: &str, braces: &Range<usize>, spans: &[Range<usize>], at: usize) -> Option<String> {
    let span = spans.get(at)?;
    if !text[braces.clone()].contains('\n') {
        return Some(out_of_line(text, spans, at, braces.start + 1..braces.end - 1));
    }
    let start = line_start(text, span.start);
    let rest = &text[span.end..line_end(text, span.end)];
    let behind = rest.trim_start().trim_start_matches(',').trim_start();
    if !text[start..span.start].trim().is_empty() || !(behind.is_empty() || behind.starts_with("//")) {
        return None;
    }
    let has_comma = rest.trim_start().starts_with(',');
    let made = without_lines(text, span, "//");
    let before = at.checked_sub(1).and_then(|before| spans.get(before));
    let made = match before {
        // The one before is the last one now.
        Some(before) if at + 1 == spans.len() && !has_comma => {
            let comma = before.end + made[before.end..].find(',')?;
            format!("{}{}", &made[..comma], &made[comma + 1..])
        }
        _ => made,
    };
    // An object with nothing in it is on one line.
    let open = braces.start + 1;
    let inner = made[open..].len() - made[open..].trim_start().len();
    let is_empty = spans.len() == 1 && made[open + inner..].starts_with(['}', ']']);
    Some(if is_empty { format!("{}{}", &made[..open], &made[open + inner..]) } else { made })
}

/// Returns a value on one line, with spaces or without.
fn flat(data: &Data, airy: bool) -> String {
    let comma = if airy { ", " } else { "," };
    match data {
        Data::List(values) => {
            format!("[{}]", values.iter().map(|value| flat(value, airy)).collect::<Vec<_>>().join(comma))
        }
        Data::Table(entries) => {
            let entries = entries.iter().map(|(key, value)| pair(key, value, airy));
            let inner = entries.collect::<Vec<_>>().join(comma);
            if airy && !inner.is_empty() { format!("{{ {inner} }}") } else { format!("{{{inner}}}") }
        }
        other => other.to_string(),
    }
}

/// Returns a key and its value on one line.
fn pair(key: &str, value: &Data, airy: bool) -> String {
    let colon = if airy { ": " } else { ":" };
    format!("{}{colon}{}", Data::Text(key.to_owned()), flat(value, airy))
}

fn node(root: &CstRootNode, path: &[String]) -> Option<CstNode> {
    path.iter().try_fold(root.value()?, |node, key| match node.as_array() {
        Some(array) => array.elements().into_iter().nth(key.parse().ok()?),
        None => node.as_object()?.get(key)?.value(),
    })
}

fn table(root: &CstRootNode, path: &[String]) -> Option<CstObject> {
    node(root, path)?.as_object()
}

fn input(data: &Data) -> CstInputValue {
    match data {
        Data::Null => CstInputValue::Null,
        Data::Flag(flag) => CstInputValue::Bool(*flag),
        Data::Integer(_) | Data::Float(_) => CstInputValue::Number(data.to_string()),
        Data::Text(text) => CstInputValue::String(text.clone()),
        Data::List(values) => CstInputValue::Array(values.iter().map(input).collect()),
        Data::Table(entries) => {
            CstInputValue::Object(entries.iter().map(|(key, value)| (key.clone(), input(value))).collect())
        }
    }
}
