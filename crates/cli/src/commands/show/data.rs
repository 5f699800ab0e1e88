//! A mold as data.

use super::read_parts;
use crate::commands::find::versions as versions_as_json;
use serde_json::{Value as Json, json};
use tinmold_mold::{Form, Mold, Offered, Part, Question, Snippet};
use tinmold_project::answers::display_value;
use tinmold_shelf::Entry;

/// Returns what a mold asks, offers, writes and needs.
pub(super) fn as_json(mold: &Mold, entry: Option<&Entry>) -> Json {
    // What the mold answers for a layer is no question.
    let asked = mold.questions.iter().filter(|question| !question.settled);
    let questions: Vec<Json> = asked.map(|question| question_as_json(mold, question)).collect();
    let presets: Vec<Json> = mold
        .presets
        .iter()
        .map(|(name, preset)| json!({ "name": name, "summary": preset.summary }))
        .collect();
    let needs: Vec<Json> = mold
        .needs
        .iter()
        .map(|need| {
            json!({
                "tool": need.tool,
                "version": need.version.as_ref().map(ToString::to_string),
                "why": need.why,
                "when": need.when.as_ref().map(Snippet::text),
                "get": need.get,
            })
        })
        .collect();
    let steps: Vec<Json> = mold
        .finish
        .iter()
        .map(|step| {
            json!({
                "name": step.name,
                "label": step.label,
                "when": step.when.as_ref().map(Snippet::text),
                "proof": step.proof,
                "offered": step.offered,
            })
        })
        .collect();
    let parts: Vec<Json> = read_parts(mold).iter().map(part_as_json).collect();
    let files: Vec<Json> = mold
        .body
        .iter()
        .map(|file| json!({ "path": mold.path_in_body(file), "bytes": mold.package.files[file.file].len(), "local": file.local }))
        .collect();
    json!({
        "name": mold.name(),
        "version": mold.version(),
        "versions": entry.map(versions_as_json).unwrap_or_default(),
        "origin": mold.package.origin.to_string(),
        "summary": mold.header.summary.get_ref(),
        "language": mold.header.language,
        "kind": mold.header.kind,
        "tags": mold.header.tags,
        "questions": questions,
        "presets": presets,
        "digest": mold.package.digest().ok().map(|digest| digest.to_string()),
        "needs": needs,
        "steps": steps,
        "parts": parts,
        "files": files,
    })
}

fn part_as_json(part: &Part) -> Json {
    let questions: Vec<Json> =
        part.own_questions().map(|at| question_as_json(&part.mold, &part.mold.questions[at])).collect();
    json!({
        "name": part.name,
        "summary": part.summary,
        "when": part.when.as_ref().map(Snippet::text),
        "fits": part.fits,
        "anywhere": part.anywhere,
        "questions": questions,
    })
}

fn question_as_json(mold: &Mold, question: &Question) -> Json {
    let options: Vec<Json> = question
                .options
                .iter()
                .map(|option| {
                    json!({ "value": option.value, "label": option.label, "note": option.note, "more": option.more })
                })
                .collect();
    let default = match &question.default {
        Some(Offered::Fixed(value)) => Some(display_value(mold, value)),
        Some(Offered::Text(text)) => Some(text.text().to_owned()),
        _ => None,
    };
    json!({
        "key": question.key,
        "ask": question.ask,
        "help": question.help,
        "group": question.group,
        "kind": question.kind.as_str(),
        "form": question.rules.form.map(Form::name),
        "when": question.when.as_ref().map(Snippet::text),
        "detail": question.detail,
        "default": default,
        "options": options,
    })
}
