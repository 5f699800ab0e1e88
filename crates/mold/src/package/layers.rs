//! The layers that a mold in a folder takes in from outside of it.

use std::path::Path;

/// Returns the name of a layer: the last part of its path; `None` if the path cannot be that of a layer.
#[must_use]
pub fn layer_name(from: &str) -> Option<String> {
    let is_relative = Path::new(from).is_relative() && !from.contains(['\\', ':', '\0']);
    let name = from.trim_end_matches('/').rsplit('/').next()?;
    let is_name = !name.is_empty() && name.chars().all(|c| c.is_ascii_alphanumeric() || "-_".contains(c));
    (is_relative && is_name).then(|| name.to_owned())
}

/// Returns the paths of the layers that a manifest names, as far as it can be read.
pub(super) fn named_layers(manifest: &str) -> Vec<String> {
    if !manifest.contains("layer") {
        return Vec::new();
    }
    let (table, _) = toml::de::DeTable::parse_recoverable(manifest);
    let layers = table.get_ref().get("layer").and_then(|layers| layers.get_ref().as_array().cloned());
    let from = |layer: &toml::Spanned<toml::de::DeValue<'_>>| {
        let from = layer.get_ref().as_table()?.get("from")?;
        Some(from.get_ref().as_str()?.to_owned())
    };
    layers.iter().flatten().filter_map(from).collect()
}
