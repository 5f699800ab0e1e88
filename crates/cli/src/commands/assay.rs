//! `tinmold assay`: an expression or a piece of a body, tried against a mold's answers.

use crate::args::{AssayArgs, Format};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::flow::answer_sources;
use crate::flow::fetch::fetch;
use crate::global::GlobalOptions;
use crate::stop::Stop;
use crate::text::findings;
use crate::text::style::{FAINT, NAME, result, result_document, safe, safe_lines};
use serde_json::json;
use std::collections::BTreeSet;
use tinmold_mold::Mold;
use tinmold_notation::{
    Budget, Compiled, Finding, Following, Scope, Setting, Value, Values, compile, compile_expression,
    following,
};
use tinmold_project::answers::{Offers, display_value};

/// The name of the command line's text in findings.
const FILE: &str = "expression";

pub fn run(assay: &AssayArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let mold = Mold::load(fetch(&assay.mold, global)?).map_err(Failure::from)?;
    let gathered = answer_sources::gather(&mold, &assay.answers)?;
    let offers = Offers { preset: assay.answers.preset.clone(), ..Offers::default() };
    let built_ins = answer_sources::built_ins(answer_sources::Person::asked(true));
    let session = gathered.into_session(&mold, &assay.answers, offers, built_ins)?;
    let scope = &mold.shown_scope;
    let values = session.values();
    let source = assay.expression.trim_end();
    match source.strip_suffix('.') {
        Some(before) if !source.contains("{=") => Ok(can_follow(assay, before, scope)?),
        _ if source.contains("{=") => Ok(text(assay, &mold, scope, values)?),
        _ => Ok(value(assay, source, &mold, scope, values)?),
    }
}

fn judged(compiled: &Compiled<'_>, source: &str) -> Result<(), Failure> {
    if compiled.findings.is_empty() {
        return Ok(());
    }
    let text = findings::rendered_in(&compiled.findings, source);
    if compiled.program.is_some() {
        say_text!("{text}");
        return Ok(());
    }
    Err(Failure::shown(Exit::Faulty, text))
}

fn failed(finding: Finding, source: &str) -> Failure {
    Failure::shown(Exit::Faulty, findings::rendered_in(&[finding], source))
}

fn value(
    assay: &AssayArgs,
    source: &str,
    mold: &Mold,
    scope: &Scope,
    values: &Values,
) -> Result<Exit, Failure> {
    let setting = Setting::default();
    let compiled = compile_expression(FILE, source, scope, &setting, None);
    judged(&compiled, source)?;
    let Some(program) = &compiled.program else { return Ok(Exit::Faulty) };
    let value = program.evaluate(values, &Budget::default()).map_err(|finding| failed(finding, source))?;
    let (shown, of) = (display_value(mold, &value), scope.describe(program.value_type()));
    match assay.format {
        Format::Json => result_document("value-1", json!({ "value": as_json(mold, &value), "type": of })),
        Format::Text => {
            result(format!("{}\n", safe_lines(&shown)));
            say!("{FAINT}{of}{FAINT:#}");
        }
    }
    Ok(Exit::Done)
}

fn text(assay: &AssayArgs, mold: &Mold, scope: &Scope, values: &Values) -> Result<Exit, Failure> {
    let source = assay.expression.as_str();
    let setting = Setting { fragments: &mold.fragments, ..Setting::default() };
    let compiled = compile(FILE, source, scope, &setting);
    judged(&compiled, source)?;
    let Some(program) = &compiled.program else { return Ok(Exit::Faulty) };
    let text = program.render_text(values, &Budget::default()).map_err(|finding| failed(finding, source))?;
    match assay.format {
        Format::Json => result_document("value-1", json!({ "value": text, "type": "a text" })),
        Format::Text => result(format!("{}\n", safe_lines(&text))),
    }
    Ok(Exit::Done)
}

fn can_follow(assay: &AssayArgs, before: &str, scope: &Scope) -> Result<Exit, Failure> {
    let all = match members(before.trim(), scope) {
        found if !found.is_empty() => found,
        _ => {
            let setting = Setting::default();
            let compiled = compile_expression(FILE, before, scope, &setting, None);
            judged(&compiled, before)?;
            compiled.program.map_or_else(Vec::new, |program| following(scope, program.value_type()))
        }
    };
    match assay.format {
        Format::Json => result_document("following-1", json!({ "following": all })),
        Format::Text => {
            let wide = all.iter().map(|following| following.name.chars().count()).max().unwrap_or(0);
            for Following { name, gives } in &all {
                result(format!("{NAME}{name:<wide$}{NAME:#}  {FAINT}{}{FAINT:#}\n", safe(gives)));
            }
        }
    }
    Ok(Exit::Done)
}

/// Returns the members of a group of built-in names such as `project`.
fn members(group: &str, scope: &Scope) -> Vec<Following> {
    let names = scope.names().iter().filter_map(|name| {
        let (first, member) = name.name.split_once('.')?;
        (first == group).then(|| (member.to_owned(), scope.describe(name.of)))
    });
    let sorted: BTreeSet<(String, String)> = names.collect();
    sorted.into_iter().map(|(name, gives)| Following { name, gives }).collect()
}

fn as_json(mold: &Mold, value: &Value) -> serde_json::Value {
    match value {
        Value::Text(text) => json!(text),
        Value::Integer(number) => json!(number),
        Value::Flag(flag) => json!(flag),
        Value::Option(_, None) => serde_json::Value::Null,
        Value::Option(..) => json!(display_value(mold, value)),
        Value::List(values) => values.iter().map(|value| as_json(mold, value)).collect(),
    }
}
