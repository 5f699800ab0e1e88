//! Steps in TOML.

use super::data::{Data, EditOp};
use super::error::EditError;
use super::lines::{behind_line, comment_start, into_braces, line_start, out_of_line, without_lines};
use std::ops::Range;
use toml_edit::{Array, Document, DocumentMut, InlineTable, Item, Key, Table, TableLike, Value};

pub(super) fn read(text: &str) -> Result<Data, EditError> {
    let table: toml::Table =
        text.parse().map_err(|error: toml::de::Error| EditError::Parser(error.message().to_owned()))?;
    Ok(data(toml::Value::Table(table)))
}

fn data(value: toml::Value) -> Data {
    match value {
        toml::Value::String(text) => Data::Text(text),
        toml::Value::Integer(number) => Data::Integer(number),
        toml::Value::Float(number) => Data::Float(number),
        toml::Value::Boolean(flag) => Data::Flag(flag),
        // Dates are never set here: that one is as it was is all there is to see.
        toml::Value::Datetime(date) => Data::Text(date.to_string()),
        toml::Value::Array(values) => Data::List(values.into_iter().map(data).collect()),
        toml::Value::Table(table) => {
            Data::Table(table.into_iter().map(|(key, value)| (key, data(value))).collect())
        }
    }
}

pub(super) fn apply(text: &str, step: &EditOp) -> Result<String, EditError> {
    if let Some(made) = by_lines(text, step)? {
        return Ok(made);
    }
    let mut document: DocumentMut =
        text.parse().map_err(|error: toml_edit::TomlError| EditError::Parser(error.message().to_owned()))?;
    let lost = || EditError::Lost;
    let root = document.as_item_mut();
    match step {
        EditOp::Insert(path, key, value) => {
            let is_root = path.is_empty();
            match item(root, path).ok_or_else(lost)? {
                Item::Table(table) => insert(table, key, value, is_root),
                Item::Value(Value::InlineTable(table)) => {
                    table.insert(key, plain(value));
                    table.fmt();
                }
                _ => return Err(EditError::Style),
            }
        }
        EditOp::Replace(path, value) => {
            let old = item(root, path).and_then(Item::as_value_mut).ok_or(EditError::Style)?;
            replace(old, value);
        }
        EditOp::Append(path, value) => match item(root, path).ok_or_else(lost)? {
            Item::Value(Value::Array(array)) => append(array, value),
            Item::ArrayOfTables(tables) => {
                let Data::Table(entries) = value else { return Err(EditError::Style) };
                let mut table = header_table(entries);
                table.decor_mut().set_prefix("\n");
                tables.push(table);
            }
            _ => return Err(lost()),
        },
        EditOp::ReplaceElement(path, at, value) => {
            let array = item(root, path).and_then(Item::as_array_mut).ok_or_else(lost)?;
            replace(array.get_mut(*at).ok_or_else(lost)?, value);
        }
        EditOp::RemoveKey(path, key) => {
            let table = item(root, path).and_then(Item::as_table_like_mut).ok_or_else(lost)?;
            table.remove(key);
        }
        EditOp::RemoveElement(path, at) => {
            let array = item(root, path).and_then(Item::as_array_mut).ok_or_else(lost)?;
            take_out(array, *at);
        }
    }
    Ok(document.to_string())
}

fn item<'a>(root: &'a mut Item, path: &[String]) -> Option<&'a mut Item> {
    path.iter().try_fold(root, |item, key| item.as_table_like_mut()?.get_mut(key))
}

fn plain(data: &Data) -> Value {
    match data {
        Data::Null => Value::from(""),
        Data::Flag(flag) => Value::from(*flag),
        Data::Integer(number) => Value::from(*number),
        Data::Float(number) => Value::from(*number),
        Data::Text(text) => Value::from(text.as_str()),
        Data::List(values) => Value::Array(values.iter().map(plain).collect::<Array>()),
        Data::Table(entries) => {
            let mut table = InlineTable::new();
            for (key, value) in entries {
                table.insert(key, plain(value));
            }
            Value::InlineTable(table)
        }
    }
}

/// Returns a table under a header of its own.
fn header_table(entries: &[(String, Data)]) -> Table {
    let mut table = Table::new();
    for (key, value) in entries {
        table.insert(key, Item::Value(plain(value)));
    }
    table
}

/// Puts a key into a table that has a header, or into the whole document.
fn insert(table: &mut Table, key: &str, value: &Data, is_root: bool) {
    if let Data::Table(entries) = value
        && (is_root || table.is_implicit())
    {
        // Below `tool`, each tool has a table of its own.
        let own_headers =
            is_root && key == "tool" && entries.iter().all(|(_, v)| matches!(v, Data::Table(_)));
        let is_first = is_root && table.is_empty();
        let mut new = if own_headers { Table::new() } else { header_table(entries) };
        if own_headers {
            new.set_implicit(true);
            entries.iter().for_each(|(key, value)| insert(&mut new, key, value, false));
        } else if !is_first {
            new.decor_mut().set_prefix("\n");
        }
        table.insert(key, Item::Table(new));
        return;
    }
    table.insert(key, Item::Value(plain(value)));
}

/// A key of a table with its value, as they are written.
struct Entry {
    /// The first part of the key.
    key: String,
    span: Range<usize>,
}

/// Makes a step by changing lines and nothing else, where the text allows it: keys of tables with a header or of
/// the whole document, and of inline tables.
fn by_lines(text: &str, step: &EditOp) -> Result<Option<String>, EditError> {
    let document: Document<&str> =
        Document::parse(text).map_err(|error| EditError::Parser(error.message().to_owned()))?;
    let (path, key) = match step {
        EditOp::Insert(path, key, _) | EditOp::RemoveKey(path, key) => (path, key),
        _ => return Ok(None),
    };
    let found = path.iter().try_fold(document.as_item(), |item, key| item.as_table_like()?.get(key));
    match (step, found) {
        (EditOp::Insert(_, _, value), Some(Item::Value(Value::InlineTable(table)))) => {
            let Some(span) = table.span() else { return Ok(None) };
            let new = format!("{} = {}", Key::new(key.as_str()).display_repr(), plain(value));
            Ok(Some(into_braces(text, &span, table.is_empty(), &new)))
        }
        (EditOp::Insert(_, _, value), Some(Item::Table(table))) => {
            let becomes_header = matches!(value, Data::Table(_)) && (path.is_empty() || table.is_implicit());
            if becomes_header || table.is_dotted() || (table.is_implicit() && !path.is_empty()) {
                return Ok(None);
            }
            let entries = entries(table);
            let new = format!("{} = {}", Key::new(key.as_str()).display_repr(), plain(value));
            Ok(insert_line(text, table, &entries, key, &new, path.is_empty()))
        }
        (EditOp::RemoveKey(..), Some(Item::Table(table))) => {
            let Some((own, item)) = table.get_key_value(key) else { return Ok(None) };
            let span = match item {
                Item::Value(value) => own.span().zip(value.span()).map(|(key, value)| key.start..value.end),
                _ => None,
            };
            Ok(match (span, item) {
                (Some(span), _) => Some(without_lines(text, &span, "#")),
                (None, Item::Table(_) | Item::ArrayOfTables(_)) => without_tables(text, &document, item),
                _ => None,
            })
        }
        (EditOp::RemoveKey(..), Some(Item::Value(Value::InlineTable(table)))) => {
            let Some(braces) = table.span() else { return Ok(None) };
            let spans: Vec<Range<usize>> = table
                .iter()
                .filter_map(|(name, _)| table.get_key_value(name))
                .filter_map(|(own, item)| Some(own.span()?.start..item.span()?.end))
                .collect();
            let at = table.iter().position(|(name, _)| name == key);
            let (Some(at), true) = (at, spans.len() == table.len()) else { return Ok(None) };
            Ok(Some(out_of_line(text, &spans, at, braces.start + 1..braces.end - 1)))
        }
        _ => Ok(None),
    }
}

/// Removes the tables of an item, each from the comment that touches its header to that of the next table.
fn without_tables(text: &str, document: &Document<&str>, removed: &Item) -> Option<String> {
    fn headers(item: &Item, all: &mut Vec<usize>) -> Option<()> {
        match item {
            Item::Table(table) => {
                if table.is_dotted() {
                    return None;
                }
                if !table.is_implicit() {
                    all.push(table.span()?.start);
                }
                table.iter().try_for_each(|(_, item)| headers(item, all))
            }
            Item::ArrayOfTables(tables) => tables.iter().try_for_each(|table| {
                all.push(table.span()?.start);
                table.iter().try_for_each(|(_, item)| headers(item, all))
            }),
            _ => Some(()),
        }
    }
    let (mut own, mut all) = (Vec::new(), Vec::new());
    headers(removed, &mut own)?;
    for (_, item) in document.iter() {
        // Dotted keys have no header, and end no table.
        if !matches!(item, Item::Table(table) if table.is_dotted()) {
            headers(item, &mut all)?;
        }
    }
    all.sort_unstable();
    let begin = |at: &usize| comment_start(text, line_start(text, *at), "#");
    let mut made = text.to_owned();
    for at in (0..all.len()).rev().filter(|at| own.contains(&all[*at])) {
        let start = begin(&all[at]);
        let end = all.get(at + 1).map_or(text.len(), begin);
        made.replace_range(start..end.min(made.len()), "");
        if start == made.len() {
            made.truncate(made.trim_end().len());
            made.push_str(if made.is_empty() { "" } else { "\n" });
        }
    }
    Some(made)
}

/// Returns the keys of a table that are written below its header, in the order of the text.
fn entries(table: &Table) -> Vec<Entry> {
    fn collect(table: &dyn TableLike, first: Option<&str>, all: &mut Vec<Entry>) {
        for (name, item) in table.iter() {
            let Some(own) = table.get_key_value(name).and_then(|(key, _)| key.span()) else { continue };
            let key = first.unwrap_or(name);
            match item {
                Item::Table(inner) if inner.is_dotted() => collect(inner, Some(key), all),
                Item::Value(value) => {
                    if let Some(value) = value.span() {
                        all.push(Entry { key: key.to_owned(), span: own.start..value.end });
                    }
                }
                _ => {}
            }
        }
    }
    let mut all = Vec::new();
    collect(table, None, &mut all);
    all.sort_by_key(|entry| entry.span.start);
    all
}

/// Inserts a line with a key: in order if all keys are in order, else after the last one.
fn insert_line(
    text: &str,
    table: &Table,
    entries: &[Entry],
    key: &str,
    new: &str,
    is_root: bool,
) -> Option<String> {
    let is_sorted = !is_root && entries.len() > 1 && entries.is_sorted_by(|a, b| a.key <= b.key);
    let before = match is_sorted {
        true => entries.iter().rposition(|entry| entry.key.as_str() <= key),
        false => entries.len().checked_sub(1),
    };
    if let Some(at) = before {
        let entry = &entries[at];
        let start = line_start(text, entry.span.start);
        let head = &text[start..entry.span.start];
        let indentation = &head[..head.len() - head.trim_start().len()];
        return Some(behind_line(text, entry.span.end, &format!("{indentation}{new}")));
    }
    if let Some(first) = entries.first().filter(|_| is_sorted) {
        // A comment directly above the first key belongs to it, or to its block.
        let above = comment_start(text, line_start(text, first.span.start), "#");
        let at =
            if text[..above].trim_end().ends_with(']') { above } else { line_start(text, first.span.start) };
        return Some(format!("{}{new}\n{}", &text[..at], &text[at..]));
    }
    match table.span() {
        Some(header) if !is_root => Some(behind_line(text, header.start, new)),
        // Only tables, or nothing: keys of the document come first, behind a comment that stands alone.
        _ => {
            let comment: usize =
                text.split_inclusive('\n').take_while(|line| line.starts_with('#')).map(str::len).sum();
            let alone = text[comment..].starts_with('\n') || text[comment..].is_empty();
            let at = if alone { (comment + 1).min(text.len()) } else { 0 };
            let gap = if text[at..].trim().is_empty() { "" } else { "\n" };
            Some(format!("{}{new}\n{gap}{}", &text[..at], &text[at..]))
        }
    }
}

/// The new value keeps the formatting around the old one.
fn replace(old: &mut Value, new: &Data) {
    let mut new = plain(new);
    *new.decor_mut() = old.decor().clone();
    *old = new;
}

fn raw(text: Option<&toml_edit::RawString>) -> String {
    text.and_then(|text| text.as_str()).unwrap_or("").to_owned()
}

/// Adds an element in the style of the others: on a line of its own if they are, with comments left
/// in place.
fn append(array: &mut Array, value: &Data) {
    let mut new = plain(value);
    let trailing = raw(Some(array.trailing()));
    let Some(last) = array.iter_mut().last() else {
        array.push(new);
        return;
    };
    let prefix = raw(last.decor().prefix());
    let suffix = raw(last.decor().suffix());
    if !prefix.contains('\n') {
        new.decor_mut().set_prefix(" ");
        array.push_formatted(new);
        return;
    }
    // A comment between the last element and the bracket stays after that element.
    last.decor_mut().set_suffix("");
    let between = format!("{suffix}{trailing}");
    let (kept, closing) = between.rsplit_once('\n').unwrap_or((between.as_str(), ""));
    let indentation = prefix.rsplit_once('\n').map_or("", |(_, indentation)| indentation);
    new.decor_mut().set_prefix(format!("{kept}\n{indentation}"));
    new.decor_mut().set_suffix("");
    array.push_formatted(new);
    array.set_trailing_comma(true);
    array.set_trailing(format!("\n{closing}"));
}

/// Removes an element, with the comment after it on its line.
fn take_out(array: &mut Array, at: usize) {
    let taken = array.remove(at);
    let (prefix, suffix) = (raw(taken.decor().prefix()), raw(taken.decor().suffix()));
    let following = match array.get(at) {
        Some(next) => raw(next.decor().prefix()),
        None => suffix + &raw(Some(array.trailing())),
    };
    // The line breaks of the element before it and of its own line are in the prefix of each.
    let joined = match (prefix.rsplit_once('\n'), following.split_once('\n')) {
        (Some((before, _)), Some((_, after))) => format!("{before}\n{after}"),
        _ if at == 0 => prefix,
        _ => following,
    };
    if let Some(next) = array.get_mut(at) {
        next.decor_mut().set_prefix(joined);
    } else if !array.is_empty() {
        array.set_trailing(joined);
    }
}
