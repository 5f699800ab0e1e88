//! The JSON Schema of a mold's answers, held against what the answers' own rules say, both ways.
#![allow(clippy::unwrap_used)]

mod common;
use common::mold;
use proptest::prelude::*;
use serde_json::{Value as Json, json};
use tinmold_mold::Mold;
use tinmold_project::answers::{
    AnswerSource, BuiltIns, Given, Offers, Session, SheetFormat, json_schema, read_sheet,
};

const BOARD: &str = r#"
[[question]]
key = "pier"
ask = "Pier"
help = "Where the ferry calls."
kind = "text"
pattern = "[A-Z][a-z]*( [A-Z][a-z]*)*"
max = 20
[[question]]
key = "nick"
ask = "Short name"
kind = "text"
optional = true
pattern = "[a-z]{2,5}"
[[question]]
key = "berths"
ask = "Berths"
kind = "integer"
default = 4
min = 2
max = 9
[[question]]
key = "port"
ask = "Port"
kind = "integer"
form = "port"
default = 8000
[[question]]
key = "night"
ask = "At night?"
kind = "flag"
[[question]]
key = "web"
ask = "Web layer"
kind = "one-of"
default = "stdlib"
option = [{ value = "stdlib" }, { value = "flask" }]
[[question]]
key = "extras"
ask = "Extras"
kind = "some-of"
max = 2
option = [{ value = "ci" }, { value = "image" }, { value = "lint" }]
[[question]]
key = "calls"
ask = "Calls"
kind = "texts"
pattern = "[a-z]+"
max = 2
[[question]]
key = "key"
kind = "minted"
"#;

fn board() -> Mold {
    mold(BOARD, &[])
}

/// Returns true if a cast accepts the sheet.
fn is_accepted(mold: &Mold, sheet: &Json) -> bool {
    let Ok(read) = read_sheet(mold, &sheet.to_string(), SheetFormat::Json) else { return false };
    let mut given = vec![None; mold.questions.len()];
    for (at, value) in read.answers {
        given[at] = Some(Given { value, source: AnswerSource::Sheet("s".into()) });
    }
    let session = Session::new(mold, given, Offers::default(), BuiltIns::default()).unwrap();
    read.wrong.is_empty() && session.problems().is_empty()
}

#[test]
fn the_schema_says_what_is_asked() {
    let mold = board();
    let schema = json_schema(&mold);
    assert!(jsonschema::draft202012::meta::is_valid(&schema));
    let property = |key: &str| schema["properties"][key].clone();
    assert_eq!(property("pier")["description"], "Where the ferry calls.");
    assert_eq!(property("berths")["default"], 4);
    assert_eq!(property("port")["maximum"], 65535);
    assert_eq!(property("web")["enum"], json!(["stdlib", "flask"]));
    assert_eq!(property("key"), Json::Null);
    assert_eq!(schema["required"], json!(["pier"]));
    let conditional = mold_with_conditions();
    let schema = json_schema(&conditional);
    assert!(schema["properties"]["b"]["$comment"].is_string());
    assert!(schema["properties"]["c"]["$comment"].is_string());
    assert!(schema["properties"]["d"]["$comment"].as_str().unwrap().contains("`python-module`"));
}

fn mold_with_conditions() -> Mold {
    mold(
        r#"
[[question]]
key = "a"
ask = "?"
kind = "flag"
[[question]]
key = "b"
ask = "?"
kind = "flag"
when = "a"
[[question]]
key = "c"
ask = "?"
kind = "some-of"
option = [{ value = "x", requires = ["y"] }, { value = "y" }]
[[question]]
key = "d"
ask = "?"
kind = "text"
form = "python-module"
"#,
        &[],
    )
}

fn answer() -> impl Strategy<Value = Json> {
    let texts = [
        "Gull",
        "Gull Point",
        "gull",
        "",
        "ab",
        "abcdefg",
        "stdlib",
        "flask",
        "ci",
        "x\ny",
        "A very long name of a pier",
    ];
    let text = prop::sample::select(texts.to_vec()).prop_map(|text| json!(text));
    let element = prop_oneof![
        4 => prop::sample::select(vec!["ci", "image", "lint", "abc", "Abc"]).prop_map(|text| json!(text)),
        1 => Just(json!(1)),
    ];
    prop_oneof![
        6 => text,
        3 => (-2i64..12).prop_map(|number| json!(number)),
        1 => prop::sample::select(vec![65535i64, 65536, i64::MAX]).prop_map(|number| json!(number)),
        2 => any::<bool>().prop_map(|flag| json!(flag)),
        1 => Just(json!(1.5)),
        1 => Just(json!({})),
        4 => prop::collection::vec(element, 0..4).prop_map(Json::Array),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 2000, ..ProptestConfig::default() })]

    #[test]
    fn schema_and_cast_agree(sheet in prop::collection::btree_map(
        prop::sample::select(vec!["pier", "nick", "berths", "port", "night", "web", "extras", "calls", "key", "nope"]),
        answer(),
        0..6,
    )) {
        let mold = board();
        let mut sheet = json!(sheet);
        // Without it most sheets would be refused for one reason.
        if sheet.get("pier").is_none() {
            sheet["pier"] = json!("Tern Quay");
        }
        let valid = jsonschema::validator_for(&json_schema(&mold)).unwrap().is_valid(&sheet);
        // A sheet may name an option twice; a schema that lists sets may not.
        let twice = sheet["extras"].as_array().is_some_and(|all| (1..all.len()).any(|at| all[..at].contains(&all[at])));
        prop_assume!(!twice);
        prop_assert_eq!(valid, is_accepted(&mold, &sheet), "{}", sheet);
    }
}
