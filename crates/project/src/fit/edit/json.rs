//! Steps in JSON, with comments or without.

use super::data::{Data, EditOp};
use super::error::EditError;
use super::insert_position;
use jsonc_parser::ParseOptions;
use jsonc_parser::cst::{CstInputValue, CstLeafNode, CstNode, CstObject, CstRootNode};

fn parsed(text: &str) -> Result<CstRootNode, EditError> {
    CstRootNode::parse(text, &ParseOptions::default()).map_err(|error| EditError::Parser(error.to_string()))
}

pub(super) fn read(text: &str) -> Result<Data, EditError> {
    let value = parsed(text)?.to_serde_value().ok_or(EditError::Lost)?;
    Ok(value.into())
}

pub(super) fn apply(text: &str, step: &EditOp) -> Result<String, EditError> {
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

fn node(root: &CstRootNode, path: &[String]) -> Option<CstNode> {
    path.iter().try_fold(root.value()?, |node, key| node.as_object()?.get(key)?.value())
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
