//! Steps in TOML.

use super::data::{Data, EditOp};
use super::error::EditError;
use super::insert_position;
use toml_edit::{Array, DocumentMut, InlineTable, Item, Table, Value};

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
    let keys: Vec<String> =
        table.iter().filter(|(_, item)| item.is_value()).map(|(key, _)| key.to_owned()).collect();
    let keys: Vec<&str> = keys.iter().map(String::as_str).collect();
    // The order of top-level tables has a meaning.
    let is_last = is_root || insert_position(&keys, key) == keys.len();
    table.insert(key, Item::Value(plain(value)));
    if !is_last {
        table.sort_values();
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
