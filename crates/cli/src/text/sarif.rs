//! Findings as a SARIF log (Static Analysis Results Interchange Format, version 2.1.0, OASIS Standard).

use super::checked_mold::CheckedMold;
use super::findings::{self, Sources};
use serde_json::{Value, json};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use tinmold_author::Reported;
use tinmold_mold::{Origin, Package, named_entry};
use tinmold_notation::Severity;
use tinmold_platform::paths::resolved;

/// One run with a result for every finding. Columns count characters, from 1. Paths are relative to the repository
/// that a mold is in, or to the mold if it is in none.
pub fn log(molds: &[CheckedMold]) -> Value {
    let all = || molds.iter().flat_map(|mold| &mold.findings);
    let codes: BTreeSet<&str> = all().map(|reported| reported.finding.code.as_str()).collect();
    let rules: Vec<Value> = codes.iter().map(|code| json!({ "id": code })).collect();
    let results: Vec<Value> = molds
        .iter()
        .flat_map(|mold| {
            let (mut sources, inside) = (Sources::new(&mold.package), in_repository(mold));
            mold.findings
                .iter()
                .map(|it| result(it, &inside, &mold.package, &mut sources))
                .collect::<Vec<_>>()
        })
        .collect();
    json!({
        "$schema": "https://json.schemastore.org/sarif-2.1.0.json",
        "version": "2.1.0",
        "runs": [{
            "tool": { "driver": {
                "name": "tinmold",
                "version": env!("CARGO_PKG_VERSION"),
                "rules": rules,
            }},
            "columnKind": "unicodeCodePoints",
            "results": results,
        }],
    })
}

/// Returns the path of a mold in its repository, with a slash at its end; empty if it is in none.
fn in_repository(mold: &CheckedMold) -> String {
    let Origin::Folder(folder) = &mold.package.origin else { return String::new() };
    let folder = resolved(folder);
    let is_root = |path: &&Path| path.join(".git").exists();
    let root: Option<PathBuf> = folder.ancestors().find(is_root).map(Path::to_owned);
    let inside = root.as_deref().and_then(|root| folder.strip_prefix(root).ok());
    let parts = inside.into_iter().flat_map(Path::components);
    parts.map(|part| format!("{}/", part.as_os_str().to_string_lossy())).collect()
}

fn result(reported: &Reported, inside: &str, package: &Package, sources: &mut Sources<'_>) -> Value {
    let finding = &reported.finding;
    let (start, end) = findings::positions(finding, sources.of(&finding.file));
    let mut text = match finding.help.as_str() {
        "" => finding.message.clone(),
        help => format!("{}; {help}", finding.message),
    };
    if let Some(set) = &reported.answers {
        text.push_str(&format!(" (with {set})"));
    }
    json!({
        "ruleId": finding.code.as_str(),
        "level": if finding.severity() == Severity::Error { "error" } else { "warning" },
        "message": { "text": text },
        "locations": [{ "physicalLocation": {
            "artifactLocation": { "uri": uri(&joined(inside, &package.shown(named_entry(&finding.file).unwrap_or(&finding.file)))) },
            "region": {
                "startLine": start.line,
                "startColumn": start.column,
                "endLine": end.line,
                "endColumn": end.column,
            },
        }}],
    })
}

/// Returns the path of a file in the repository, without the parts that lead up.
fn joined(inside: &str, path: &str) -> String {
    let mut parts: Vec<&str> = inside.split('/').filter(|part| !part.is_empty()).collect();
    for part in path.split('/') {
        match part {
            ".." if !parts.is_empty() => drop(parts.pop()),
            _ => parts.push(part),
        }
    }
    parts.join("/")
}

/// Returns the path as a relative URI reference (RFC 3986), percent-encoded.
fn uri(path: &str) -> String {
    let mut out = String::with_capacity(path.len());
    for byte in path.bytes() {
        if byte.is_ascii_alphanumeric() || b"-._~/!$&'()*+,;=@".contains(&byte) {
            out.push(char::from(byte));
        } else {
            out.push_str(&format!("%{byte:02X}"));
        }
    }
    out
}
