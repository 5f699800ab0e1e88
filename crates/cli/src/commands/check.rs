//! `tinmold check`: the mistakes of a mold.

use crate::args::{CheckArgs, CheckFormat};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::flow::fetch::fetch;
use crate::global::GlobalOptions;
use crate::stop::Stop;
use crate::text::findings::{self, Sources};
use crate::text::sarif;
use crate::text::style::{BOLD, ERROR, GOOD, count, result_json, safe};
use serde_json::{Value, json};
use tinmold_mold::{Mold, MoldError, Package};
use tinmold_notation::{Finding, Severity};

pub fn run(check: &CheckArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let package = fetch(&check.mold, global)?;
    let (package, found, files) = match Mold::load(package) {
        Ok(mold) => {
            let usage = tinmold_author::check(&mold);
            (mold.package, usage.findings, Some(usage.files))
        }
        Err(MoldError::Faulty(faulty)) => (faulty.package, faulty.findings, None),
        Err(error) => return Err(Failure::from(error).into()),
    };
    let errors = found.iter().filter(|finding| finding.is_error()).count();
    let warnings = found.len() - errors;
    match check.format {
        CheckFormat::Json => result_json(&as_json(&found, &package)),
        CheckFormat::Sarif => result_json(&sarif::log(&found, &package)),
        CheckFormat::Text if global.quiet && errors == 0 && !(check.strict && warnings > 0) => {}
        CheckFormat::Text => {
            say_text!("{}", findings::rendered(&found, &package));
            summary(&check.mold, errors, warnings, files);
        }
    }
    let faulty = errors > 0 || (check.strict && warnings > 0);
    Ok(if faulty { Exit::Faulty } else { Exit::Done })
}

fn summary(mold: &str, errors: usize, warnings: usize, files: Option<usize>) {
    let mold = safe(mold);
    let looked = files.map_or_else(
        || "the body is checked once mold.toml can be read".to_owned(),
        |files| format!("{} of the body checked", count(files, "file")),
    );
    if errors + warnings == 0 {
        say!("{GOOD}{mold} is clean{GOOD:#}: {looked}.");
    } else {
        let (style, end) =
            if errors > 0 { (ERROR, ERROR.render_reset()) } else { (BOLD, BOLD.render_reset()) };
        say!("{style}{mold}: {}, {}{end}; {looked}.", count(errors, "error"), count(warnings, "warning"));
    }
}

fn as_json(found: &[Finding], package: &Package) -> Value {
    let mut sources = Sources::new(package);
    let findings: Vec<Value> = found
        .iter()
        .map(|finding| {
            let source = sources.of(&finding.file);
            let (start, end) = findings::positions(finding, source);
            json!({
                "file": &*finding.file,
                "line": start.line,
                "column": start.column,
                "end": { "line": end.line, "column": end.column },
                "bytes": [finding.span.start, finding.span.end],
                "severity": if finding.severity() == Severity::Error { "error" } else { "warning" },
                "code": finding.code.as_str(),
                "message": finding.message,
                "help": finding.help,
            })
        })
        .collect();
    let errors = found.iter().filter(|finding| finding.is_error()).count();
    json!({ "findings": findings, "errors": errors, "warnings": found.len() - errors })
}
