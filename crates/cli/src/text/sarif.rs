//! Findings as a SARIF log (Static Analysis Results Interchange Format, version 2.1.0, OASIS Standard).

use super::findings::{self, Sources};
use serde_json::{Value, json};
use std::collections::BTreeSet;
use tinmold_mold::{Package, named_entry};
use tinmold_notation::{Finding, Severity};

/// One run with a result for every finding. Columns count characters, from 1.
pub fn log(found: &[Finding], package: &Package) -> Value {
    let mut sources = Sources::new(package);
    let codes: BTreeSet<&str> = found.iter().map(|finding| finding.code.as_str()).collect();
    let rules: Vec<Value> = codes.iter().map(|code| json!({ "id": code })).collect();
    let results: Vec<Value> = found.iter().map(|finding| result(finding, &mut sources)).collect();
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

fn result(finding: &Finding, sources: &mut Sources<'_>) -> Value {
    let (start, end) = findings::positions(finding, sources.of(&finding.file));
    let text = match finding.help.as_str() {
        "" => finding.message.clone(),
        help => format!("{}; {help}", finding.message),
    };
    json!({
        "ruleId": finding.code.as_str(),
        "level": if finding.severity() == Severity::Error { "error" } else { "warning" },
        "message": { "text": text },
        "locations": [{ "physicalLocation": {
            "artifactLocation": { "uri": uri(named_entry(&finding.file).unwrap_or(&finding.file)) },
            "region": {
                "startLine": start.line,
                "startColumn": start.column,
                "endLine": end.line,
                "endColumn": end.column,
            },
        }}],
    })
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
