//! What there is to find: the kinds and languages of molds, and what the built-in shelf offers.

use super::Row;
use crate::args::Format;
use crate::failure::Failure;
use crate::text::style::{BOLD, FAINT, NAME, result, result_document, safe};
use serde_json::{Value as Json, json};
use std::collections::BTreeMap;
use std::fmt::Write;
use tinmold_shelf::{BUILT_IN, Catalogue, Field, Hit, Search, Shelves, search, tally};
use unicode_width::UnicodeWidthStr;

/// Prints the kinds, languages and shelves of the hits, with their numbers of molds.
pub fn print(format: Format, catalogues: &[&Catalogue], hits: &[Hit]) {
    let of_shelf = |at: usize| hits.iter().filter(|hit| hit.catalogue == at).count();
    let shelves = catalogues.iter().enumerate().map(|(at, shelf)| (shelf.shelf.clone(), of_shelf(at)));
    let all = [
        ("kind", tally(catalogues, hits, Field::Kind)),
        ("language", tally(catalogues, hits, Field::Language)),
        ("shelf", shelves.filter(|(_, molds)| *molds > 0).collect()),
    ];
    if format == Format::Json {
        let values = |values: &[(String, usize)]| -> Vec<Json> {
            values.iter().map(|(value, molds)| json!({ "value": value, "molds": molds })).collect()
        };
        let all: Vec<Json> =
            all.iter().map(|(facet, of)| json!({ "facet": facet, "values": values(of) })).collect();
        return result_document("categories-1", json!({ "found": hits.len(), "categories": all }));
    }
    let mut out = String::new();
    for (facet, values) in &all {
        let _ = writeln!(out, "{BOLD}{facet}{BOLD:#}");
        let width = values.iter().map(|(value, _)| safe(value).width()).max().unwrap_or(0);
        for (value, molds) in values {
            let value = safe(value);
            let pad = " ".repeat(width - value.width());
            let _ = writeln!(out, "  {NAME}{value}{NAME:#}{pad}  {molds:>4}");
        }
    }
    out += "\nThe molds of one: tinmold find --only kind=service\n";
    result(out);
}

/// Returns what to say where nothing matches: the molds of the built-in shelf, by kind.
pub fn offered(shelves: &Shelves) -> Result<String, Failure> {
    let (catalogues, _) = shelves.list(Some(BUILT_IN));
    let catalogues: Vec<&Catalogue> = catalogues.iter().collect();
    let mut kinds: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for hit in search(&catalogues, &Search::default()) {
        let Row { entry, .. } = Row::of(&catalogues, &hit)?;
        for kind in &entry.kind {
            kinds.entry(kind.clone()).or_default().push(entry.name.clone());
        }
    }
    let width = kinds.keys().map(String::len).max().unwrap_or(0);
    let mut out = format!("No mold matches. {BOLD}The built-in shelf offers{BOLD:#}\n");
    for (kind, molds) in &kinds {
        let _ = writeln!(out, "  {NAME}{kind:width$}{NAME:#}  {}", molds.join(", "));
    }
    let _ = writeln!(out, "{FAINT}Fewer words find more; `tinmold find` alone shows all.{FAINT:#}");
    Ok(out)
}
