//! The answers of a mold as a JSON Schema (draft 2020-12), for editors and for programs that write
//! answer sheets.

use super::sheet::as_toml;
use serde_json::{Map, Value as Json, json};
use tinmold_mold::Form;
use tinmold_mold::Mold;
use tinmold_mold::{Kind, Offered, Question};

/// Returns a schema of the mold's answer sheets. A `$comment` names what the schema cannot express:
/// conditions, requirements between options, and forms without a pattern.
#[must_use]
pub fn json_schema(mold: &Mold) -> Json {
    let asked = || mold.questions.iter().filter(|question| question.is_asked());
    let properties: Map<String, Json> =
        asked().map(|question| (question.key.clone(), property(mold, question))).collect();
    let required: Vec<&str> =
        asked().filter(|question| is_required(question)).map(|question| question.key.as_str()).collect();
    json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": format!("Answers to {} {}", mold.name(), mold.version()),
        "description": mold.header.summary,
        "type": "object",
        "properties": properties,
        "required": required,
        "additionalProperties": false,
    })
}

/// Returns true if an answer is required: the question always applies and has no default.
fn is_required(question: &Question) -> bool {
    let has_empty = match question.kind {
        Kind::Text => {
            question.rules.optional || (question.rules.form.is_none() && question.rules.pattern.is_none())
        }
        Kind::Texts | Kind::SomeOf(_) | Kind::Flag => true,
        _ => false,
    };
    question.when.is_none() && question.default.is_none() && !has_empty
}

fn property(mold: &Mold, question: &Question) -> Json {
    let rules = &question.rules;
    let mut comments: Vec<String> = Vec::new();
    let mut out = Map::new();
    out.insert("title".into(), json!(question.ask));
    if let Some(help) = &question.help {
        out.insert("description".into(), json!(help));
    }
    if let Some(Offered::Fixed(value)) = &question.default
        && let Ok(value) = serde_json::to_value(as_toml(mold, value))
    {
        out.insert("default".into(), value);
    }
    if let Some(when) = &question.when {
        comments.push(format!("It is asked when {}.", when.text()));
    }
    let text = |comments: &mut Vec<String>| {
        let mut text = Map::new();
        text.insert("type".into(), json!("string"));
        let mut patterns: Vec<String> = Vec::new();
        if let Some(form) = rules.form {
            patterns.extend(form_pattern(form).map(str::to_owned));
            comments.push(format!(
                "The form `{}` has further rules that this schema does not express.",
                form.name()
            ));
        }
        patterns.extend(rules.pattern.as_ref().map(|pattern| pattern.as_str().to_owned()));
        if rules.optional {
            patterns.iter_mut().for_each(|pattern| *pattern = format!("^$|{pattern}"));
        }
        if !rules.except.is_empty() {
            text.insert("not".into(), json!({ "enum": rules.except }));
        }
        match patterns.as_slice() {
            [] => {}
            [pattern] => drop(text.insert("pattern".into(), json!(pattern))),
            all => {
                let all: Vec<Json> = all.iter().map(|pattern| json!({ "pattern": pattern })).collect();
                text.insert("allOf".into(), json!(all));
            }
        }
        text
    };
    let bounds = |out: &mut Map<String, Json>, low: &str, high: &str| {
        if let Some(min) = rules.min.filter(|_| !rules.optional) {
            out.insert(low.into(), json!(min));
        }
        if let Some(max) = rules.max {
            out.insert(high.into(), json!(max));
        }
    };
    let values = || -> Json { question.options.iter().map(|option| json!(option.value)).collect() };
    if question.secret {
        out.insert("writeOnly".into(), json!(true));
    }
    match question.kind {
        Kind::Text | Kind::Minted { .. } => {
            out.extend(text(&mut comments));
            bounds(&mut out, "minLength", "maxLength");
        }
        Kind::Texts => {
            out.insert("type".into(), json!("array"));
            out.insert("items".into(), Json::Object(text(&mut comments)));
            bounds(&mut out, "minItems", "maxItems");
        }
        Kind::Flag => drop(out.insert("type".into(), json!("boolean"))),
        Kind::Integer => {
            out.insert("type".into(), json!("integer"));
            let (low, high) = if rules.form == Some(Form::Port) { (1, 65535) } else { (i64::MIN, i64::MAX) };
            out.insert("minimum".into(), json!(rules.min.map_or(low, |min| min.max(low))));
            out.insert("maximum".into(), json!(rules.max.map_or(high, |max| max.min(high))));
        }
        Kind::OneOf(_) => drop(out.insert("enum".into(), values())),
        Kind::SomeOf(_) => {
            out.insert("type".into(), json!("array"));
            out.insert("items".into(), json!({ "enum": values() }));
            out.insert("uniqueItems".into(), json!(true));
            bounds(&mut out, "minItems", "maxItems");
        }
    }
    let depends = |question: &Question| {
        question
            .options
            .iter()
            .any(|option| option.when.is_some() || !option.requires.is_empty() || !option.excludes.is_empty())
    };
    if depends(question) {
        comments.push("The combinations of options have rules that this schema does not express.".into());
    }
    if !comments.is_empty() {
        out.insert("$comment".into(), json!(comments.join(" ")));
    }
    Json::Object(out)
}

/// Returns a pattern that every text of the form matches, if a pattern says much about the form.
fn form_pattern(form: Form) -> Option<&'static str> {
    Some(match form {
        Form::Plain => r"^[^\n\r]*[^\s][^\n\r]*$",
        Form::Kebab => "^[a-z][a-z0-9]*(-[a-z0-9]+)*$",
        Form::Snake => "^[a-z][a-z0-9]*(_[a-z0-9]+)*$",
        Form::Identifier => "^[A-Za-z_][A-Za-z0-9_]*$",
        Form::CIdentifier => "^[A-Za-z][A-Za-z0-9_]*$",
        Form::ClassName => "^[A-Z][A-Za-z0-9]*$",
        Form::ReverseDomain => r"^[a-z][a-z0-9-]*(\.[a-z][a-z0-9-]*)+$",
        Form::Port => "^[1-9][0-9]{0,4}$",
        Form::Email => "^[^@]+@[^@]+$",
        Form::Url => "^[A-Za-z][A-Za-z0-9+.-]*://[^ ]+$",
        Form::RustCrate => "^[A-Za-z][A-Za-z0-9_-]*$",
        Form::PythonPackage => "^[A-Za-z0-9]([A-Za-z0-9._-]*[A-Za-z0-9])?$",
        Form::NpmPackage => r"^(@[a-z0-9][a-z0-9._-]*/)?[a-z0-9][a-z0-9._-]*$",
        Form::JavaArtifact => "^[a-z][a-z0-9.-]*$",
        Form::JavaCoordinates => r"^[a-z][a-z0-9-]*(\.[a-z][a-z0-9-]*)+:[a-z][a-z0-9.-]*$",
        Form::GoModule => "^[A-Za-z0-9._~/-]+$",
        Form::Path
        | Form::Semver
        | Form::SemverRange
        | Form::License
        | Form::PythonModule
        | Form::JavaPackage => {
            return None;
        }
    })
}
