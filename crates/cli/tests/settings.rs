//! `tinmold settings` shows, changes and forgets.
#![allow(clippy::unwrap_used)]

mod common;
use common::Place;
use serde_json::Value as Json;

const FILE: &str = ".home/config/tinmold/config.toml";

fn setting(place: &Place, args: &[&str], name: &str) -> (String, String) {
    let ran = place.run(&[args, &["settings", "--format", "json"]].concat()).says(0, &[]);
    let all: Json = serde_json::from_str(&ran.out).unwrap();
    let one = all["settings"].as_array().unwrap().iter().find(|one| one["setting"] == name).unwrap().clone();
    let line = one["line"].as_u64().map_or_else(String::new, |line| format!(" {line}"));
    (one["value"].as_str().unwrap().to_owned(), format!("{}{line}", one["source"].as_str().unwrap()))
}

fn both(value: &str, source: &str) -> (String, String) {
    (value.to_owned(), source.to_owned())
}

#[test]
fn a_setting_is_shown_with_its_source_and_changed_alone() {
    let place = Place::new();
    place.run(&["settings"]).says(0, &["network.offline", "config.toml", "cache"]);
    assert_eq!(setting(&place, &[], "network.offline"), both("false", "default"));
    assert_eq!(setting(&place, &["--offline"], "network.offline"), both("true", "command-line"));
    place.run(&["settings", "network.offline", "true"]).says(0, &["true"]);
    assert_eq!(setting(&place, &[], "network.offline"), both("true", "file 2"));
    let text = "# ours\n[network]\noffline = true # at sea\n\n[[shelf]]\nname = \"crews\"\nfolder = \"/x\"\n";
    place.write(FILE, text);
    for (name, value, stored) in [
        ("network.offline", "false", "offline = false # at sea"),
        ("network.timeout-seconds", "9", "timeout-seconds = 9"),
        ("network.certificates", "a.pem, b.pem", "certificates = [\"a.pem\", \"b.pem\"]"),
        ("limits.files", "12", "files = 12"),
        ("answers.licence", "MIT", "licence = \"MIT\""),
        ("answers.extras", "[\"ci\"]", "extras = [\"ci\"]"),
        ("answers.note", "a \"b\" \\ {= x =}", "note = 'a \"b\" \\ {= x =}'"),
    ] {
        place.run(&["settings", name, value]).says(0, &[]);
        assert!(place.read(FILE).contains(stored), "{stored}\n{}", place.read(FILE));
    }
    place.run(&["settings", "network.offline", "--reset"]).says(0, &["default"]);
    for name in ["network.timeout-seconds", "network.certificates", "limits.files", "answers.licence"] {
        place.run(&["settings", name, "--reset"]).says(0, &[]);
    }
    let left = place.read(FILE);
    assert!(left.starts_with("# ours\n") && left.contains("name = \"crews\""), "{left}");
    // An answer that is set is a default of every mold that asks for it.
    place.run(&["settings", "answers.port", "8417"]).says(0, &[]);
    place.run(&["cast", "python-service", "out", "--unattended"]).says(0, &[]);
    assert!(place.read("out/.tinmold/casting.toml").contains("port = 8417"));
}

#[test]
fn what_cannot_be_is_refused_and_changes_nothing() {
    let place = Place::new();
    let text = "[limits]\nfiles = 3\n";
    place.write(FILE, text);
    for (name, value, says) in [
        ("network.ofline", "true", "network.offline"),
        ("network.offline", "maybe", "true or false"),
        ("limits.files", "-1", "whole number"),
        ("limits.files", "4294967296", "whole number"),
        ("network.timeout-seconds", "", "whole number"),
        ("shelf", "x", "shelf add"),
        ("answers.", "x", "answers.KEY"),
        ("answers.a b", "x", "answers.KEY"),
    ] {
        place.run(&["settings", name, value]).says(2, &[says]);
        assert_eq!(place.read(FILE), text);
    }
    for (text, says) in [
        ("[limits]\n\nfiels = 3\n", "line 3"),
        ("[network]\noffline = 1\n", "line 2"),
        ("x\n", "line 1"),
        ("\n[[shelf]]\nname = \"a/b\"\nfolder = \"x\"\n", "line 2"),
        ("[[shelf]]\nname = \"a\"\nfolder = \"x\"\n\n[[shelf]]\nname = \"a\"\nfolder = \"y\"\n", "line 5"),
        ("[[shelf]]\nname = \"a\"\n", "line 1"),
    ] {
        place.write(FILE, text);
        for args in [&["settings"][..], &["settings", "network.offline", "true"], &["find"]] {
            place.run(args).says(1, &[says, "config.toml"]);
        }
        assert_eq!(place.read(FILE), text);
    }
}

#[test]
fn remembered_answers_are_forgotten() {
    let place = Place::new();
    place.write(".home/state/tinmold/answers/built-in+python-service.toml", "port = 1\n");
    place.write(".home/state/tinmold/drafts/x.toml", "a = 1\n");
    place.write(".home/state/tinmold/recent", "built-in/mold\n");
    place.write(".home/state/tinmold/molds/kept", "");
    place.run(&["settings", "--forget"]).says(0, &["3 files"]);
    let left = place.listing(".home/state/tinmold");
    assert_eq!(left, ["answers/", "drafts/", "molds/", "molds/kept"]);
    place.run(&["settings", "--forget"]).says(0, &["0 files"]);
}
