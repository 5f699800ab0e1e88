//! Layers: what several molds share, as if it stood in each of them.
#![allow(clippy::unwrap_used)]

mod common;
use common::Place;
use serde_json::Value;

const HEAD: &str =
    "[mold]\nname = \"ferry-board\"\nversion = \"1.0.0\"\nsummary = \"A board\"\nfolder = \"out\"\n";

const QUESTIONS: &str = r#"
[[question]]
key = "name"
ask = "Name"
kind = "text"
form = "kebab"
default = "gull"
[[question]]
key = "night"
ask = "At night too?"
kind = "flag"
"#;

const LICENCE: &str = r#"
[layer]
summary = "A licence"
[[question]]
key = "licence"
ask = "Licence"
kind = "one-of"
default = "MIT"
option = [{ value = "none" }, { value = "MIT" }]
[[question]]
key = "holder"
ask = "Holder"
kind = "text"
form = "plain"
default = "The crew of {= name =}"
when = "licence != 'none'"
[derive]
line = "(c) {= holder =}"
[[files]]
match = "LICENSE"
when = "licence == 'MIT'"
[[tour]]
path = "{= if licence != 'none' =}LICENSE{= end =}"
says = "the licence of {= name =}"
"#;

/// A place with the mold `molds/m` and the layer `layers/licence`.
fn place(layers: &str, more: &[(&str, &str)]) -> Place {
    let place = Place::new();
    place.write("molds/m/mold.toml", format!("{HEAD}{QUESTIONS}{layers}"));
    place.write("molds/m/body/a.txt", "{= name =} {= night =}\n");
    place.write("layers/licence/layer.toml", LICENCE);
    place.write("layers/licence/body/LICENSE", "{= place 'years' =}\n{= line =}\n");
    place.write("layers/licence/fragments/years", "{= licence =} {= year =}");
    for (path, text) in more {
        place.write(path, text);
    }
    place
}

const TAKEN: &str = "[[layer]]\nfrom = \"../../layers/licence\"\n";

fn findings(place: &Place, code: i32) -> Vec<String> {
    let ran = place.run(&["check", "molds/m", "--format", "json"]).says(code, &[]);
    let value: Value = serde_json::from_str(&ran.out).unwrap();
    let all = value["molds"][0]["findings"].as_array().unwrap();
    all.iter()
        .map(|it| format!("{} {}:{}", it["code"].as_str().unwrap(), it["file"].as_str().unwrap(), it["line"]))
        .collect()
}

#[test]
fn a_layer_behaves_as_if_it_stood_in_the_mold() {
    // The layer's entry, the questions that are asked, and the licence that comes out.
    let cases: &[(&str, &[&str], &str)] = &[
        ("", &["name", "night", "licence", "holder"], "MIT 2026\n(c) The crew of gull\n"),
        ("after = 'name'\n", &["name", "licence", "holder", "night"], "MIT 2026\n(c) The crew of gull\n"),
        (
            "answers = { licence = 'MIT', holder = '{= name.upper =} Ltd' }\n",
            &["name", "night"],
            "MIT 2026\n(c) GULL Ltd\n",
        ),
        ("answers = { licence = 'none' }\n", &["name", "night", "holder"], ""),
    ];
    for (entry, asked, licence) in cases {
        let place = place(&format!("{TAKEN}{entry}"), &[]);
        assert!(findings(&place, 0).iter().all(|it| it.starts_with("never-")), "{entry}");
        let shown: Value =
            serde_json::from_str(&place.run(&["show", "./molds/m", "--format", "json"]).says(0, &[]).out)
                .unwrap();
        let keys = shown["questions"].as_array().unwrap().iter().map(|it| it["key"].as_str().unwrap());
        assert_eq!(keys.collect::<Vec<_>>(), *asked, "{entry}");
        let mut cast = place.command();
        cast.args(["cast", "./molds/m", "--unattended"]).env("SOURCE_DATE_EPOCH", "1795392000");
        place.finish(&mut cast).says(0, &[]);
        let written =
            if place.path("out/LICENSE").exists() { place.read("out/LICENSE") } else { String::new() };
        assert_eq!(written, *licence, "{entry}");
    }
    // What a mold settles is an answer of nobody.
    let place = place(&format!("{TAKEN}answers = {{ licence = 'MIT' }}\n"), &[]);
    place.run(&["cast", "./molds/m", "--unattended", "--set", "licence=none"]).says(2, &[]);
}

#[test]
fn mistakes_are_in_the_layers_own_files() {
    let place = place(
        TAKEN,
        &[
            ("layers/licence/body/LICENSE", "{= place 'years' =}\n{= lien =}\n"),
            ("layers/licence/fragments/years", "{= licence.valeu =}"),
            ("layers/licence/body/{= nam =}.txt", ""),
        ],
    );
    assert_eq!(findings(&place, 5), ["unknown-name ../../layers/licence/body/{= nam =}.txt (name):1"]);
    std::fs::remove_file(place.path("layers/licence/body/{= nam =}.txt")).unwrap();
    let expected = [
        "unknown-name ../../layers/licence/body/LICENSE:2",
        "unknown-field ../../layers/licence/fragments/years:1",
    ];
    assert_eq!(findings(&place, 5), expected);
    place.run(&["check", "molds/m"]).says(5, &["--> ../../layers/licence/body/LICENSE:2:4", "{= lien =}"]);
    place.run(&["cast", "./molds/m", "--unattended"]).says(5, &["../../layers/licence/body/LICENSE:2:4"]);
    std::fs::create_dir(place.path(".git")).unwrap();
    let ran = place.run(&["check", "molds/m", "--format", "sarif"]).says(5, &[]);
    assert!(
        ran.out.contains("\"uri\": \"layers/licence/body/LICENSE\"")
            || ran.out.contains("\"uri\":\"layers/licence/body/LICENSE\""),
        "{}",
        ran.out
    );
    for (broken, code) in [
        ("[[question]]\nkee = 'a'\n", "unknown-key"),
        ("x = [\n", "unreadable-manifest"),
        ("[derive]\nline = '{= nobody =}'\n", "unknown-name"),
    ] {
        place.write("layers/licence/layer.toml", broken);
        let found = findings(&place, 5);
        assert!(
            found.iter().any(|it| it.starts_with(&format!("{code} ../../layers/licence/layer.toml:"))),
            "{found:?}"
        );
    }
}

#[test]
fn what_meets_has_to_be_decided() {
    let second = ("layers/other/body/LICENSE", "other\n");
    let manifest = ("layers/other/layer.toml", "[derive]\nline = 'x'\n");
    let both = format!("{TAKEN}[[layer]]\nfrom = \"../../layers/other\"\n");
    // The layers, more files, and what is found.
    type Case<'c> = (String, &'c [(&'c str, &'c str)], &'c [&'c str]);
    let cases: &[Case<'_>] = &[
        (TAKEN.into(), &[("molds/m/body/LICENSE", "own\n")], &["layer-clash mold.toml:1"]),
        (TAKEN.into(), &[("molds/m/fragments/years", "own")], &["layer-clash mold.toml:1"]),
        (
            format!("{TAKEN}without = ['LICENSE', 'line', 'fragments/years']\n"),
            &[("molds/m/body/LICENSE", "{= licence =}{= holder =}")],
            &[],
        ),
        (
            both.clone(),
            &[second, manifest],
            &["bad-key ../../layers/licence/layer.toml:18", "layer-clash mold.toml:1"],
        ),
        (format!("{both}without = ['LICENSE', 'line']\n"), &[second, manifest], &[]),
        (format!("{TAKEN}{TAKEN}"), &[], &["bad-layer mold.toml:20"]),
        ("[[layer]]\nfrom = '../../layers/none'\n".into(), &[], &["bad-layer mold.toml:18"]),
        ("[[layer]]\nfrom = '/etc'\n".into(), &[], &["bad-layer mold.toml:18"]),
        (
            "[[layer]]\nfrom = '../../layers'\n".into(),
            &[("layers/x.txt", "not a layer")],
            &["bad-layer mold.toml:18"],
        ),
        (format!("{TAKEN}after = 'nme'\n"), &[], &["bad-layer mold.toml:19"]),
        (format!("{TAKEN}answers = {{ licens = 'MIT' }}\n"), &[], &["bad-layer mold.toml:19"]),
        (format!("{TAKEN}answers = {{ licence = 'GPL' }}\n"), &[], &["bad-value mold.toml:19"]),
        (
            format!("{TAKEN}[[question]]\nkey = 'holder'\nask = '?'\nkind = 'flag'\n"),
            &[],
            &["bad-key mold.toml:20"],
        ),
    ];
    for (layers, more, expected) in cases {
        let place = place(layers, more);
        let found = findings(&place, if expected.is_empty() { 0 } else { 5 });
        let errors: Vec<&str> =
            found.iter().filter(|it| !it.starts_with("never-")).map(String::as_str).collect();
        assert_eq!(errors, *expected, "{layers}");
    }
}

#[test]
fn a_packed_mold_stands_alone() {
    let place = place(TAKEN, &[]);
    place.run(&["pack", "./molds/m"]).says(0, &[]);
    let digest = |address: &str, folder: &str| {
        place.run(&["cast", address, folder, "--unattended"]).says(0, &[]);
        let record = place.read(&format!("{folder}/.tinmold/casting.toml"));
        record.lines().find(|line| line.starts_with("digest")).unwrap().to_owned()
    };
    let own = digest("./molds/m", "a");
    std::fs::rename(place.path("layers"), place.path("gone")).unwrap();
    assert_eq!(digest("./ferry-board-1.0.0.tar.gz", "b"), own);
    assert_eq!(place.read("a/LICENSE"), place.read("b/LICENSE"));
    // Unpacked, it has its layers in its own folder, whatever is beside it.
    let unpacked = std::process::Command::new("tar")
        .args(["xzf", "ferry-board-1.0.0.tar.gz"])
        .current_dir(place.path(""))
        .status();
    assert!(unpacked.unwrap().success());
    place.write("layers/licence/layer.toml", "x = [");
    assert_eq!(digest("./ferry-board-1.0.0", "c"), own);
    place.run(&["cast", "./molds/m", "d", "--unattended"]).says(5, &[]);
}
