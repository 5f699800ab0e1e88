//! What all commands share: help, exit codes, every mistake at once, and filters.
#![allow(clippy::unwrap_used)]

mod common;
use common::Place;
use serde_json::Value as Json;
use std::fs;

const COMMANDS: &[&[&str]] = &[
    &["cast"],
    &["find"],
    &["show"],
    &["preflight"],
    &["demo"],
    &["fit"],
    &["finish"],
    &["status"],
    &["shelf"],
    &["shelf", "add"],
    &["shelf", "list"],
    &["shelf", "refresh"],
    &["shelf", "drop"],
    &["shelf", "index"],
    &["shelf", "serve"],
    &["check"],
    &["assay"],
    &["pack"],
];

#[test]
fn every_command_explains_itself_and_refuses_what_it_does_not_know() {
    let place = Place::new();
    place.run(&["--version"]).says(0, &[env!("CARGO_PKG_VERSION")]);
    let all = place.run(&["--help"]).says(0, &[]).out;
    for command in COMMANDS {
        if let [name] = command {
            assert!(all.contains(&format!("  {name} ")), "{name} is not in\n{all}");
        }
        let help = place.run(&[command, &["--help"][..]].concat()).says(0, &["--plain", "--log"]).out;
        assert!(help.lines().all(|line| line.chars().count() <= 100), "{help}");
        place.run(&[command, &["--no-such-option"][..]].concat()).says(2, &["--no-such-option"]);
    }
    place.run(&[]).says(2, &["cast"]);
    place.run(&["csat"]).says(2, &["cast"]);
    // None of them wrote anything.
    assert!(place.listing("").iter().all(|path| path.starts_with(".home")), "{:?}", place.listing(""));
}

#[test]
fn cast_and_fit_tell_every_wrong_answer_at_once() {
    let place = Place::new();
    let question = |key: &str, more: &str| format!("[[question]]\nkey = \"{key}\"\nask = \"?\"\n{more}\n");
    let three = question("pier", "kind = \"text\"\nform = \"kebab\"")
        + &question("berths", "kind = \"integer\"\nmax = 9")
        + &question("night", "kind = \"flag\"");
    let head = "[part]\nname = \"quay\"\nsummary = \"One more quay\"\nanywhere = true\n";
    let uses = "{= pier =}{= berths =}{= night =}";
    place.mold(&three, &[("body/a", uses)]);
    place.write("m/parts/quay/part.toml", format!("{head}{three}"));
    place.write("m/parts/quay/body/b", uses);
    place.write("plain/README.md", "a project without a record\n");
    let mold = place.path("m").display().to_string();
    let wrong = ["--set", "pier=Gull Point", "--set", "berths=12", "--set", "night=maybe", "--set", "peir=x"];
    for command in [
        vec!["cast", "./m", "new", "--unattended"],
        vec!["fit", "quay", "--mold", &mold, "--dir", "plain", "--unattended"],
    ] {
        let ran = place.run(&[&command[..], &wrong].concat()).says(2, &[]);
        for key in ["pier", "berths", "night", "peir"] {
            assert!(
                ran.err.contains(&format!("{key} ")) || ran.err.contains(&format!("{key}:")),
                "{key}: {}",
                ran.err
            );
        }
        // Without a terminal, all missing answers are reported at once, too.
        let missing = place.run(&command).says(3, &["--set pier=…"]);
        assert!(!missing.err.contains("Question"), "{}", missing.err);
    }
    assert!(!place.path("new").exists());
    assert_eq!(place.listing("plain"), ["README.md"]);
}

#[test]
fn molds_are_found_by_their_facets() {
    let place = Place::new();
    let mold = |name: &str, language: &str, tags: &str| {
        let head = format!(
            "[mold]\nname = \"{name}\"\nversion = \"1.0.0\"\nsummary = \"A board\"\nowner = \"example.saltmarsh\"\n\
             language = [\"{language}\"]\nkind = [\"service\"]\ntags = [{tags}]\n"
        );
        place.write(&format!("shelf/{name}/mold.toml"), head);
        fs::create_dir_all(place.path(&format!("shelf/{name}/body"))).unwrap();
    };
    mold("pier-board", "rust", "\"http\", \"tides\"");
    mold("tide-board", "rust", "\"http\"");
    mold("crew-board", "go", "\"tides\"");
    place.run(&["shelf", "add", "piers", "shelf"]).says(0, &[]);
    let found = |filters: &[&str]| -> Vec<String> {
        let mut args = vec!["find", "board", "--format", "json", "--only", "shelf=piers"];
        args.extend(filters.iter().flat_map(|filter| ["--only", *filter]));
        let ran = place.run(&args);
        let found: Json = serde_json::from_str(&ran.out).unwrap();
        let molds = found["molds"].as_array().unwrap();
        assert_eq!(ran.code, i32::from(molds.is_empty()));
        let mut names: Vec<_> = molds.iter().map(|mold| mold["name"].as_str().unwrap().to_owned()).collect();
        names.sort();
        names
    };
    let cases: &[(&[&str], &[&str])] = &[
        (&[], &["crew-board", "pier-board", "tide-board"]),
        (&["language=rust"], &["pier-board", "tide-board"]),
        (&["language=rust", "tag=tides"], &["pier-board"]),
        (&["tag=http", "tag=tides"], &["pier-board"]),
        (&["kind=service", "owner=example.salt"], &["crew-board", "pier-board", "tide-board"]),
        (&["language=GO"], &["crew-board"]),
        (&["language=ru"], &[]),
        (&["tag=none"], &[]),
    ];
    for (filters, names) in cases {
        assert_eq!(found(filters), *names, "{filters:?}");
    }
    for wrong in ["language", "language=", "colour=blue", "=rust", "shelf=pears"] {
        place.run(&["find", "board", "--only", wrong]).says(2, &[]);
    }
    place.run(&["find", "--only", "langauge=rust"]).says(2, &["language"]);
}
