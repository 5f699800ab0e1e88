//! `tinmold check` and `tinmold assay`: what authors see.
#![allow(clippy::unwrap_used)]

mod common;
use common::Place;
use serde_json::Value;

const PIER: &str = r#"
[[question]]
key = "pier"
ask = "Pier"
kind = "text"
default = "gull point"
[[question]]
key = "web"
ask = "Web layer"
kind = "one-of"
default = "flask"
option = [{ value = "stdlib", label = "None" }, { value = "flask", with = { package = "flask" } }]
[[question]]
key = "extras"
ask = "Extras"
kind = "some-of"
option = [{ value = "ci" }, { value = "image" }]
"#;

type Files = &'static [(&'static str, &'static str)];

const CLEAN: Files = &[("body/a.txt", "{= pier =} {= web =} {= extras.len =}")];
const WARNED: Files =
    &[("body/a.json", "{\"pier\": \"{= pier =}\"}"), ("body/b", "{= web =}{= extras.len =}")];
const BROKEN: Files = &[
    ("body/a.json", "{\n  \"\u{5d0}\": {= peir =}, \"b\": \"{= pier =}\"\n}"),
    ("body/{= web.packag =}", "{= place 'x' =}{= web =}{= extras.len =}"),
];

#[test]
fn a_check_ends_as_the_findings_say() {
    let cases: &[(Files, &[&str], i32, &[&str])] = &[
        (CLEAN, &[], 0, &[]),
        (CLEAN, &["--strict"], 0, &[]),
        (WARNED, &[], 0, &["warning[unquoted-text]", "body/a.json:1:14"]),
        (WARNED, &["--strict"], 5, &[]),
        (BROKEN, &[], 5, &["error[unknown-field]", "{= web.packag =} (name):1:8"]),
    ];
    for (files, options, code, words) in cases {
        let place = Place::new();
        place.mold(PIER, files);
        place.run(&[&["check", "./m"], *options].concat()).says(*code, words);
    }
    let place = Place::new();
    place.run(&["check", "python-service", "--strict"]).says(0, &[]);
    let quiet = place.run(&["check", "python-service", "--quiet"]).says(0, &[]);
    assert_eq!((quiet.out, quiet.err), (String::new(), String::new()));
    place.run(&["check", "./nowhere"]).says(2, &[]);
    place.mold(PIER, &[("body/b.txt", "{= peir =}{= pier.uper =}"), ("fragments/f", "{= end =}"), CLEAN[0]]);
    place.run(&["check", "./m"]).says(5, &[]);
}

#[test]
fn findings_come_as_json() {
    let place = Place::new();
    // A faulty directory name hides the files below it; all others are checked.
    place.mold(PIER, &[BROKEN[0], ("body/b", "{= place 'x' =}{= web =}{= extras.len =}")]);
    let ran = place.run(&["check", "./m", "--format", "json"]).says(5, &[]);
    assert_eq!(ran.err, "");
    let found: Value = serde_json::from_str(&ran.out).unwrap();
    assert_eq!((&found["errors"], &found["warnings"]), (&Value::from(2), &Value::from(1)));
    let mut first = found["findings"][0].clone();
    let texts = ["message", "help"].map(|key| first.as_object_mut().unwrap().remove(key).unwrap());
    assert!(texts[0].as_str().unwrap().contains("`peir`") && texts[1].as_str().unwrap().contains("`pier`"));
    let expected = serde_json::json!({
        "file": "body/a.json",
        "line": 2,
        "column": 11,
        "end": { "line": 2, "column": 15 },
        "bytes": [13, 17],
        "severity": "error",
        "code": "unknown-name",
    });
    assert_eq!(first, expected);
    assert_eq!(found["findings"][2]["code"], "unknown-fragment");
}

#[test]
fn findings_come_as_sarif() {
    let mut schema: Value = serde_json::from_str(include_str!("data/sarif-2.1.0.json")).unwrap();
    // The published pattern of a language's name has a bracket too many and is not a regular
    // expression; no log here names a language.
    for holder in ["run", "toolComponent"] {
        schema["definitions"][holder]["properties"]["language"].as_object_mut().unwrap().remove("pattern");
    }
    let validator = jsonschema::validator_for(&schema).unwrap();
    for files in [CLEAN, WARNED, BROKEN] {
        let place = Place::new();
        place.mold(PIER, files);
        let ran = place.run(&["check", "./m", "--format", "sarif"]);
        let log: Value = serde_json::from_str(&ran.out).unwrap();
        let errors: Vec<_> = validator.iter_errors(&log).map(|error| error.to_string()).collect();
        assert!(errors.is_empty(), "{errors:?}");
        let results = log["runs"][0]["results"].as_array().unwrap();
        assert_eq!(results.is_empty(), ran.code == 0 && files == CLEAN);
        if files == BROKEN {
            let location = &results[0]["locations"][0]["physicalLocation"];
            assert_eq!(location["artifactLocation"]["uri"], "body/%7B=%20web.packag%20=%7D");
            assert_eq!(results[0]["level"], "error");
        }
    }
}

#[test]
fn expressions_are_tried() {
    let cases: &[(&[&str], i32, &[&str])] = &[
        (&["pier.title"], 0, &["Gull Point", "a text"]),
        (&["pier.title", "--set", "pier=tern quay"], 0, &["Tern Quay"]),
        (&["extras + ['ci']"], 5, &["error[wrong-type]", "expression:1:1", "^^^^"]),
        (&["'ci' in extras", "--set", "extras=ci"], 0, &["true", "a flag"]),
        (&["web"], 0, &["flask", "an option of `web`"]),
        (&["{= web.label =}: {= pier.len + 1 =}"], 0, &["flask: 11"]),
        (&["{= if x =}"], 5, &["error[unknown-name]", "error[unclosed-block]"]),
        (&["pier."], 0, &["replace(text, text)  a text", "lines                a list of texts"]),
        (&["web."], 0, &["label    a text", "package  a text", "value    a text"]),
        (&["pier.words.first."], 0, &["snake"]),
        (&["extras."], 0, &["has(option of `extras`)", "first", "a list of options of `extras`"]),
        (&["project."], 0, &["dir  a text"]),
        (&["system"], 0, &["a text"]),
        (&["peir."], 5, &["`pier`"]),
        (&["1 / 0"], 5, &["error[division-by-zero]"]),
        (&["pier", "--set", "peir=x"], 2, &["`pier`"]),
        (&["pier.len", "--format", "json"], 0, &["{\"type\":\"an integer\",\"value\":10}"]),
        (&["extras", "--set", "extras=ci", "--format", "json"], 0, &["\"value\":[\"ci\"]"]),
        (&["web.", "--format", "json"], 0, &["{\"gives\":\"a text\",\"name\":\"label\"}"]),
    ];
    let place = Place::new();
    place.mold(PIER, CLEAN);
    for (args, code, words) in cases {
        place.run(&[&["assay", "--mold", "./m"], *args].concat()).says(*code, words);
    }
}
