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
const SHOWN: Files = &[(
    "body/a.json",
    "{ \"a\": {= if web == 'stdlib' =}{= else if web == 'flask' =}1{= end =}, \"b\": {= pier.json =}, \"c\": {= extras.len =} }",
)];
const WARNED: Files = &[("body/Makefile", "PIER = {= pier =}\n"), ("body/b", "{= web =}{= extras.len =}")];
const BROKEN: Files = &[
    ("body/a.json", "{\n  \"\u{5d0}\": {= peir =}, \"b\": \"{= pier =}\"\n}"),
    ("body/{= web.packag =}", "{= place 'x' =}{= web =}{= extras.len =}"),
];

#[test]
fn a_check_ends_as_the_findings_say() {
    let cases: &[(Files, &[&str], i32, &[&str])] = &[
        (CLEAN, &[], 0, &[]),
        (CLEAN, &["--strict"], 0, &["sets of answers cast"]),
        (
            SHOWN,
            &[],
            5,
            &["with web=stdlib", "show it: tinmold cast ./m --dry-run --unattended --set web=stdlib"],
        ),
        (CLEAN, &["--triples"], 0, &[]),
        (SHOWN, &["--coverage"], 5, &[]),
        (WARNED, &[], 0, &["warning[unquoted-text]", "body/Makefile:1:11"]),
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
    assert_eq!(
        (&found["molds"][0]["mold"], &found["molds"][0]["errors"]),
        (&Value::from("./m"), &Value::from(2))
    );
    let findings = &found["molds"][0]["findings"];
    let mut first = findings[0].clone();
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
    assert_eq!(findings[2]["code"], "unknown-fragment");
    let place = Place::new();
    place.mold(PIER, SHOWN);
    let ran = place.run(&["check", "./m", "c-tool", "--format", "json", "--coverage"]).says(5, &[]);
    let found: Value = serde_json::from_str(&ran.out).unwrap();
    let expected = serde_json::json!({ "preset": null, "set": { "web": "stdlib" } });
    assert_eq!(found["molds"][0]["findings"][0]["answers"], expected);
    assert_eq!((&found["molds"][1]["findings"], &found["errors"]), (&serde_json::json!([]), &Value::from(1)));
    // The text for no licence is there for the `match` only: the file comes with a licence.
    let lines = &found["molds"][1]["unrendered"][0];
    assert_eq!(*lines, serde_json::json!({ "file": "layers/licence/body/LICENSE", "lines": [66] }));
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
            // Paths are those in the repository.
            std::fs::create_dir(place.path(".git")).unwrap();
            let again = place.run(&["check", "./m", "--format", "sarif"]);
            let log: Value = serde_json::from_str(&again.out).unwrap();
            let location = &log["runs"][0]["results"][0]["locations"][0]["physicalLocation"];
            assert_eq!(location["artifactLocation"]["uri"], "m/body/%7B=%20web.packag%20=%7D");
            let location = &results[0]["locations"][0]["physicalLocation"];
            assert_eq!(location["artifactLocation"]["uri"], "body/%7B=%20web.packag%20=%7D");
            assert_eq!(results[0]["level"], "error");
        }
    }
}

#[test]
fn findings_come_as_junit() {
    let place = Place::new();
    place.mold(PIER, WARNED);
    for (options, failures) in [(&[][..], 0), (&["--strict"], 1)] {
        let ran = place.run(&[&["check", "./m", "c-tool", "--format", "junit"], options].concat());
        let text = roxmltree::Document::parse(&ran.out).unwrap();
        let named = |name: &str| text.descendants().filter(|node| node.has_tag_name(name)).count();
        assert_eq!(
            (named("testsuite"), named("testcase"), named("failure")),
            (2, 2, failures),
            "{}",
            ran.out
        );
        let first = text.descendants().find(|node| node.has_tag_name("testcase")).unwrap();
        assert_eq!(first.attribute("name"), Some("unquoted-text body/Makefile:1:11"));
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
        (&["pier.len", "--format", "json"], 0, &["\"type\": \"an integer\"", "\"value\": 10"]),
        (&["extras", "--set", "extras=ci", "--format", "json"], 0, &["\"value\": [\n    \"ci\"\n  ]"]),
        (&["web.", "--format", "json"], 0, &["\"gives\": \"a text\",\n      \"name\": \"label\""]),
    ];
    let place = Place::new();
    place.mold(PIER, CLEAN);
    for (args, code, words) in cases {
        place.run(&[&["assay", "--mold", "./m"], *args].concat()).says(*code, words);
    }
}
