//! A recast as data.

use super::recast_words::{kind_word, question, unified};
use serde_json::{Value as Json, json};
use tinmold_project::fit::edit::Data;
use tinmold_project::merge::Disagreement;
use tinmold_project::recast::{Decision, FileRecast, Note, Undecided, Written};

pub fn file_as_json(file: &FileRecast) -> Json {
    let mode = match &file.after {
        Some(Written::File(_, mode)) => Some(format!("{mode:o}")),
        _ => None,
    };
    json!({
        "path": file.path,
        "from": file.from,
        "change": kind_word(file.kind),
        "mode": mode,
        "diff": unified(file),
    })
}

pub fn decision_as_json(decision: &Decision) -> Json {
    let mut all = json!({
        "key": decision.key,
        "path": decision.path,
        "question": question(decision),
    });
    let more = match &decision.what {
        Undecided::Place { conflict, values, .. } => json!({
            "kind": "place",
            "line": conflict.line,
            "before": conflict.base,
            "mine": conflict.mine,
            "theirs": conflict.theirs,
            "values": values.iter().map(value_as_json).collect::<Vec<_>>(),
        }),
        Undecided::File { texts, .. } => {
            let [before, mine, theirs] = &**texts;
            json!({ "kind": "file", "before": before, "mine": mine, "theirs": theirs })
        }
        Undecided::Part { name, file, .. } => json!({ "kind": "part", "part": name, "file": file }),
    };
    if let (Json::Object(all), Json::Object(more)) = (&mut all, more) {
        all.extend(more);
    }
    all
}

fn value_as_json(value: &Disagreement) -> Json {
    let text = |data: &Option<Data>| data.as_ref().map(ToString::to_string);
    json!({
        "key": value.path,
        "before": text(&value.base),
        "mine": text(&value.mine),
        "theirs": text(&value.theirs),
    })
}

pub fn note_as_json(note: &Note) -> Json {
    let (kind, path, more) = match note {
        Note::Deleted(path) => ("deleted", path, json!({})),
        Note::Dropped(path) => ("dropped", path, json!({})),
        Note::Yours(path) => ("yours", path, json!({})),
        Note::Local { path, lines } => ("local", path, json!({ "lines": lines })),
        Note::OwnRename(path, to) => ("renamed", path, json!({ "to": to })),
        Note::Blocked(path, by) => ("blocked", path, json!({ "why": by.to_string() })),
        Note::Default { key, value } => return json!({ "kind": "default", "key": key, "value": value }),
        Note::KeyGone(key) => return json!({ "kind": "question-gone", "key": key }),
        Note::OldName(path, line, name) => ("old-name", path, json!({ "line": line, "name": name })),
        Note::StaysBehind(path, to) => ("stays-behind", path, json!({ "to": to })),
        Note::Aside(path, beside) => ("aside", path, json!({ "beside": beside })),
        Note::NoOldVersion => return json!({ "kind": "no-old-version" }),
        Note::Shallow => return json!({ "kind": "shallow" }),
    };
    let mut all = json!({ "kind": kind, "path": path });
    if let (Json::Object(all), Json::Object(more)) = (&mut all, more) {
        all.extend(more);
    }
    all
}
