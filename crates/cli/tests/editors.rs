//! What editors read: the schemas of manifests, and the grammar that colours the notation.
#![allow(clippy::unwrap_used)]

mod common;
use common::Place;
use globset::Glob;
use serde_json::Value as Json;
use std::fs;
use std::path::{Path, PathBuf};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

fn docs(path: &str) -> Json {
    serde_json::from_str(&fs::read_to_string(root().join("docs").join(path)).unwrap()).unwrap()
}

/// Every file of the repository's molds and layers that matches.
fn manifests(pattern: &str) -> Vec<PathBuf> {
    fn list(folder: &Path, all: &mut Vec<PathBuf>) {
        for entry in fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() { list(&path, all) } else { all.push(path) }
        }
    }
    let matcher = Glob::new(pattern).unwrap().compile_matcher();
    let mut all = Vec::new();
    list(&root().join("molds"), &mut all);
    list(&root().join("layers"), &mut all);
    all.retain(|path| matcher.is_match(path) && !path.components().any(|part| part.as_os_str() == "body"));
    all
}

/// A TOML text as JSON; days become texts.
fn as_json(text: &str) -> Json {
    fn plain(value: toml::Value) -> Json {
        match value {
            toml::Value::Datetime(day) => Json::String(day.to_string()),
            toml::Value::Array(all) => all.into_iter().map(plain).collect(),
            toml::Value::Table(all) => all.into_iter().map(|(key, value)| (key, plain(value))).collect(),
            toml::Value::String(text) => Json::String(text),
            toml::Value::Integer(number) => number.into(),
            toml::Value::Float(number) => number.into(),
            toml::Value::Boolean(flag) => flag.into(),
        }
    }
    plain(toml::Value::Table(text.parse().unwrap()))
}

#[test]
fn the_schemas_of_manifests_take_what_the_program_takes() {
    for (schema, pattern) in [
        ("mold-manifest", "**/mold.toml"),
        ("part-manifest", "**/part.toml"),
        ("layer-manifest", "**/layer.toml"),
    ] {
        let validator = jsonschema::validator_for(&docs(&format!("schemas/{schema}.json"))).unwrap();
        let all = manifests(pattern);
        assert!(all.len() >= 10, "{pattern}: {}", all.len());
        for path in all {
            let json = as_json(&fs::read_to_string(&path).unwrap());
            let errors: Vec<String> = validator
                .iter_errors(&json)
                .map(|error| format!("{}: {error}", error.instance_path()))
                .collect();
            assert!(errors.is_empty(), "{}: {errors:#?}", path.display());
        }
    }
}

/// Every key of every table that a schema describes, with the path of the table.
fn keys(schema: &Json, at: &str, all: &mut Vec<(String, String)>) {
    let tables = [&schema["properties"], &schema["items"]["properties"]];
    for (key, inner) in tables.into_iter().filter_map(Json::as_object).flatten() {
        all.push((at.to_owned(), key.clone()));
        keys(inner, format!("{at}.{key}").trim_start_matches('.'), all);
    }
}

#[test]
fn the_program_takes_what_the_schema_of_a_mold_names() {
    let schema = docs("schemas/mold-manifest.json");
    let mut all = Vec::new();
    keys(&schema, "", &mut all);
    assert!(all.len() > 80, "{}", all.len());
    // A key with a value of no kind: the program complains of the value, not of the key.
    for (table, key) in all {
        let place = Place::new();
        let value = "1979-05-27T07:32:00Z";
        let line = match table.as_str() {
            "" => format!("{key} = {value}\n"),
            "question.option" => format!("[[question]]\n[[question.option]]\n{key} = {value}\n"),
            "mold" | "notation" | "next" => format!("[{table}]\n{key} = {value}\n"),
            table => format!("[[{table}]]\n{key} = {value}\n"),
        };
        place.write("m/mold.toml", line);
        let found = place.run(&["check", "./m", "--format", "json"]);
        let found: Json = serde_json::from_str(&found.out).unwrap();
        let unknown = found["molds"][0]["findings"].as_array().unwrap().iter().any(|finding| {
            finding["code"] == "unknown-key"
                && finding["message"].as_str().unwrap().contains(&format!("`{key}`"))
        });
        assert!(!unknown, "{table}.{key}: {found:#}");
    }
}

/// The scopes that a pattern of the grammar gives to the pieces of a tag, by trying its patterns in order.
fn scopes(grammar: &Json, inside: &str) -> Vec<(String, String)> {
    let patterns: Vec<(fancy_regex::Regex, &Json)> = grammar["repository"]["expression"]["patterns"]
        .as_array()
        .unwrap()
        .iter()
        .map(|pattern| {
            let whole = match (pattern["match"].as_str(), pattern["begin"].as_str(), pattern["end"].as_str())
            {
                (Some(text), ..) => text.to_owned(),
                (None, Some(begin), Some(end)) => format!(r"{begin}(?:\\.|[^\\])*?{end}"),
                _ => unreachable!("a pattern has match, or begin and end"),
            };
            (fancy_regex::Regex::new(&whole).unwrap(), pattern)
        })
        .collect();
    let mut all = Vec::new();
    let mut at = 0;
    while at < inside.len() {
        let found = patterns.iter().filter_map(|(regex, pattern)| {
            let found = regex.captures_from_pos(inside, at).unwrap()?;
            let whole = found.get(0).unwrap();
            let (piece, scope) = match pattern["captures"]["2"]["name"].as_str() {
                Some(scope) => (found.get(2).unwrap(), scope),
                None => (whole, pattern["name"].as_str().unwrap()),
            };
            Some((whole.start(), whole.end(), piece.as_str().to_owned(), scope.to_owned()))
        });
        let Some((_, end, piece, scope)) = found.min_by_key(|(start, ..)| *start) else { break };
        all.push((piece, scope.split('.').take(2).collect::<Vec<_>>().join(".")));
        at = end;
    }
    all
}

#[test]
fn the_grammar_colours_every_word_of_the_notation() {
    let grammar = docs("editors/tinmold-notation.tmLanguage.json");
    let cases: &[(&str, &[(&str, &str)])] = &[
        (
            "if name.snake == \"a\\\"b\" ",
            &[
                ("if", "keyword.control"),
                ("name", "variable.other"),
                ("snake", "support.function"),
                ("==", "keyword.operator"),
                ("\"a\\\"b\"", "string.quoted"),
            ],
        ),
        (
            "for p, i in piers if not (p in 'x' + y)",
            &[
                ("for", "keyword.control"),
                ("p", "variable.other"),
                ("i", "variable.other"),
                ("in", "keyword.operator"),
                ("piers", "variable.other"),
                ("if", "keyword.control"),
                ("not", "keyword.operator"),
                ("p", "variable.other"),
                ("in", "keyword.operator"),
                ("'x'", "string.quoted"),
                ("+", "keyword.operator"),
                ("y", "variable.other"),
            ],
        ),
        (
            "place \"head\" given n = 12",
            &[
                ("place", "keyword.control"),
                ("\"head\"", "string.quoted"),
                ("given", "keyword.control"),
                ("n", "variable.other"),
                ("=", "keyword.operator"),
                ("12", "constant.numeric"),
            ],
        ),
        (
            "let ending = true",
            &[
                ("let", "keyword.control"),
                ("ending", "variable.other"),
                ("=", "keyword.operator"),
                ("true", "constant.language"),
            ],
        ),
    ];
    for (inside, expected) in cases {
        let found = scopes(&grammar, inside);
        let found: Vec<(&str, &str)> = found.iter().map(|(piece, scope)| (&**piece, &**scope)).collect();
        assert_eq!(found, *expected, "{inside}");
    }
    // Each word that a mold cannot use as a name has a colour of its own.
    for word in tinmold_notation::RESERVED {
        let begins = format!("{{= {word} =}}");
        let is_block = ["note", "as-is"].iter().any(|block| {
            let begin = grammar["repository"][block]["begin"].as_str().unwrap();
            fancy_regex::Regex::new(begin).unwrap().is_match(&begins).unwrap()
        });
        let scope = scopes(&grammar, word).first().map(|(_, scope)| scope.clone()).unwrap_or_default();
        assert!(is_block || (!scope.is_empty() && scope != "variable.other"), "{word}: {scope}");
    }
}
