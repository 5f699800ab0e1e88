//! `tinmold check`: the mistakes of molds.

use crate::args::{CheckArgs, CheckFormat};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::flow::fetch::fetch;
use crate::global::GlobalOptions;
use crate::settings::Settings;
use crate::stop::Stop;
use crate::text::checked_mold::CheckedMold;
use crate::text::findings::{self, Sources};
use crate::text::style::{BOLD, ERROR, FAINT, GOOD, count, raw, result_document, result_json, safe};
use crate::text::{junit, sarif};
use serde_json::{Value, json};
use std::sync::Arc;
use tinmold_author::{CheckOptions, Reported};
use tinmold_mold::{Mold, MoldError};
use tinmold_notation::Severity;

pub fn run(check: &CheckArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let mut molds = Vec::with_capacity(check.molds.len());
    for address in &check.molds {
        molds.push(checked(address, check, global)?);
    }
    let errors: usize = molds.iter().map(CheckedMold::errors).sum();
    let warnings: usize = molds.iter().map(CheckedMold::warnings).sum();
    let is_faulty = errors > 0 || (check.strict && warnings > 0);
    match check.format {
        CheckFormat::Json => result_document("check-1", as_json(&molds, check.coverage)),
        CheckFormat::Sarif => result_json(&sarif::log(&molds)),
        CheckFormat::Junit => raw(junit::of_check(&molds, check.strict).map_err(not_written)?.as_bytes()),
        CheckFormat::Text => {
            for mold in &molds {
                if !global.quiet || mold.errors() > 0 || (check.strict && mold.warnings() > 0) {
                    say_text!("{}", findings::reports(&mold.findings, &mold.package, &mold.address));
                    summary(mold);
                }
                if check.coverage {
                    say_text!("{}", uncovered(mold));
                }
            }
            if !tinmold_grammar::HAS_GRAMMARS && !global.quiet {
                let data = "JSON, TOML, YAML and XML";
                say!("{FAINT}This program has no grammars: of sources, only {data} were parsed.{FAINT:#}");
            }
            if molds.len() > 1 && !global.quiet {
                let all = count(molds.len(), "mold");
                say!("{all}: {}, {}.", count(errors, "error"), count(warnings, "warning"));
            }
        }
    }
    Ok(if is_faulty { Exit::Faulty } else { Exit::Done })
}

fn not_written(error: quick_junit::SerializeError) -> Failure {
    Failure::new(Exit::Failed, format!("cannot write JUnit XML: {error}"))
}

fn checked(address: &str, check: &CheckArgs, global: GlobalOptions) -> Result<CheckedMold, Stop> {
    let package = fetch(address, global)?;
    let address = address.to_owned();
    let options = CheckOptions { triples: check.triples, limits: Settings::read()?.limits() };
    match Mold::load(package) {
        Ok(mold) => {
            let checked = tinmold_author::check(&mold, options);
            let tried = Some((checked.files, checked.sets));
            let (findings, unrendered) = (checked.findings, checked.unrendered);
            Ok(CheckedMold { address, package: mold.package, findings, tried, unrendered })
        }
        Err(MoldError::Faulty(faulty)) => {
            let findings = faulty.findings.into_iter().map(Reported::from).collect();
            Ok(CheckedMold {
                address,
                package: faulty.package,
                findings,
                tried: None,
                unrendered: Vec::new(),
            })
        }
        Err(error) => Err(Failure::from(error).into()),
    }
}

fn summary(mold: &CheckedMold) {
    let (errors, warnings) = (mold.errors(), mold.warnings());
    let looked = match mold.tried {
        None => "the body is checked once mold.toml can be read".to_owned(),
        Some((files, 0)) => format!("{} of the body checked, nothing cast", count(files, "file")),
        Some((files, sets)) => {
            format!("{} of the body checked, {} of answers cast", count(files, "file"), count(sets, "set"))
        }
    };
    let address = safe(&mold.address);
    if errors + warnings == 0 {
        say!("{GOOD}{address} is clean{GOOD:#}: {looked}.");
    } else {
        let (style, end) =
            if errors > 0 { (ERROR, ERROR.render_reset()) } else { (BOLD, BOLD.render_reset()) };
        say!("{style}{address}: {}, {}{end}; {looked}.", count(errors, "error"), count(warnings, "warning"));
    }
}

/// Returns the lines that no set renders, each with its number.
fn uncovered(mold: &CheckedMold) -> String {
    let mut sources = Sources::new(&mold.package);
    let mut out = String::new();
    for (file, lines) in &mold.unrendered {
        let text: Vec<&str> = sources.of(file).lines().collect();
        out.push_str(&format!(
            "{BOLD}{}{BOLD:#}: {} never rendered\n",
            safe(file),
            count(lines.len(), "line")
        ));
        for number in lines {
            let line = text.get(number - 1).copied().unwrap_or("");
            out.push_str(&format!("{number:>5} | {}\n", safe(line)));
        }
    }
    match out.is_empty() {
        true => format!("{}: every line of the body is rendered by some answers.\n", safe(&mold.address)),
        false => out,
    }
}

fn as_json(molds: &[CheckedMold], coverage: bool) -> Value {
    let one = |mold: &CheckedMold| {
        let mut sources = Sources::new(&mold.package);
        let findings: Vec<Value> = mold.findings.iter().map(|it| finding_json(it, &mut sources)).collect();
        let mut value = json!({
            "mold": mold.address,
            "findings": findings,
            "errors": mold.errors(),
            "warnings": mold.warnings(),
            "files": mold.tried.map(|(files, _)| files),
            "sets": mold.tried.map(|(_, sets)| sets),
        });
        if coverage {
            let lines = |(file, lines): &(Arc<str>, Vec<usize>)| json!({ "file": &**file, "lines": lines });
            value["unrendered"] = mold.unrendered.iter().map(lines).collect();
        }
        value
    };
    let errors: usize = molds.iter().map(CheckedMold::errors).sum();
    let warnings: usize = molds.iter().map(CheckedMold::warnings).sum();
    json!({ "molds": molds.iter().map(one).collect::<Vec<_>>(), "errors": errors, "warnings": warnings })
}

fn finding_json(reported: &Reported, sources: &mut Sources<'_>) -> Value {
    let finding = &reported.finding;
    let (start, end) = findings::positions(finding, sources.of(&finding.file));
    let mut value = json!({
        "file": sources.shown(&finding.file),
        "line": start.line,
        "column": start.column,
        "end": { "line": end.line, "column": end.column },
        "bytes": [finding.span.start, finding.span.end],
        "severity": if finding.severity() == Severity::Error { "error" } else { "warning" },
        "code": finding.code.as_str(),
        "message": finding.message,
        "help": finding.help,
    });
    if let Some(set) = &reported.answers {
        value["answers"] = findings::set_json(set);
    }
    if let Some((part, set)) = &reported.part {
        value["part"] = json!({ "name": part, "answers": findings::set_json(set) });
    }
    value
}
