//! Names that molds and their parts take: what comes of them is well-formed in its language.
#![allow(clippy::unwrap_used)]

mod common;
use common::{Place, cast, run_in};
use tinmold_grammar::{Language, mistake};

const NAMES: [&str; 21] = [
    "departures",
    "tides",
    "a",
    "z9",
    "lost_property",
    "crew_room",
    "x__y",
    "_quay",
    "tide_table_2",
    "user",
    "group",
    "model",
    "models",
    "forms",
    "test",
    "tests",
    "views",
    "page",
    "request",
    "typing_",
    "abcdefghijklmnopqrstuvwxyz_1",
];

/// Asserts that every file of a language that is known here is well-formed.
fn is_well_formed(place: &Place, folder: &str) {
    for file in place.listing(folder).iter().filter(|path| !path.ends_with('/')) {
        if let Some(language @ (Language::Python | Language::Html | Language::Css)) = Language::of_path(file)
        {
            let text = place.read(&format!("{folder}/{file}"));
            assert_eq!(mistake(language, &text), None, "{folder}/{file}:\n{text}");
        }
    }
}

#[test]
fn parts_take_many_names() {
    let place = Place::in_memory();
    let cases = [
        ("python-service", &[][..], &["route"][..], "notes"),
        ("python-service", &["web=fastapi", "database=sqlite"], &["route"], "database"),
        ("python-service", &["web=flask", "database=postgres"], &["route"], "settings"),
        ("python-library", &["command=yes"], &["module"], "counts"),
        ("python-site", &[], &["page", "area", "table"], "notices"),
    ];
    for (at, (mold, answers, parts, taken)) in cases.into_iter().enumerate() {
        for part in parts {
            let folder = format!("{mold}-{part}-{at}");
            cast(&place, mold, &folder, answers);
            let before = place.listing(&folder).len();
            let fit = |more: &[&str]| {
                place.run(&[&["fit", "--dir", folder.as_str(), "--unattended", "--quiet"], more].concat())
            };
            for name in NAMES {
                fit(&[part, name]).says(0, &[]);
            }
            is_well_formed(&place, &folder);
            for refused in [taken, "class", "Tides", "a-b", "", "../up"] {
                fit(&[part, refused]).says(2, &[]);
            }
            if answers.is_empty() && mold == "python-service" {
                run_in(&place, &folder, "make", &["-s", "test"]).says(0, &[]);
                run_in(&place, &folder, "make", &["-s", "clean"]).says(0, &[]);
            }
            for _ in NAMES {
                fit(&["--undo"]).says(0, &[]);
            }
            assert_eq!(place.listing(&folder).len(), before, "{folder}");
        }
    }
}

#[test]
fn packages_of_go_take_many_names() {
    let place = Place::in_memory();
    let names = NAMES.iter().filter(|name| !name.contains('_')).copied();
    let names: Vec<&str> = names.chain(["json", "list", "x", "y"]).collect();
    for web in ["std", "chi", "gin", "echo"] {
        cast(&place, "go-service", web, &[&format!("web={web}"), "database=sqlite"]);
        let fit =
            |more: &[&str]| place.run(&[&["fit", "--dir", web, "--unattended", "--quiet"], more].concat());
        for name in &names {
            fit(&["route", name]).says(0, &[]);
        }
        for refused in ["notes", "func", "Tides", "a-b", "a_b", "", "../up", "http", "9"] {
            fit(&["route", refused]).says(2, &[]);
        }
        for file in place.listing(web).iter().filter(|path| path.ends_with(".go")) {
            let text = place.read(&format!("{web}/{file}"));
            assert_eq!(mistake(Language::Go, &text), None, "{web}/{file}:\n{text}");
        }
        // Imports stand in the order of gofmt.
        let service = place.read(&format!("{web}/internal/service/service.go"));
        let imports: Vec<&str> = service.lines().filter(|line| line.contains("/internal/")).collect();
        assert!(imports.is_sorted() && imports.len() == names.len() + 3, "{imports:#?}");
    }
}

#[test]
fn parts_of_other_languages_take_many_names() {
    let place = Place::in_memory();
    let is_kebab = |name: &&&str| name.split('_').all(|word| !word.is_empty());
    let kebab: Vec<String> = NAMES.iter().filter(is_kebab).map(|name| name.replace('_', "-")).collect();
    let class = |name: &String| {
        let words = name.split('-').filter(|word| !word.is_empty());
        words.map(|word| word[..1].to_uppercase() + &word[1..]).collect::<String>() + "X"
    };
    let classes: Vec<String> = kebab.iter().map(class).collect();
    // Cargo and C keep names to themselves, and a command has up to twenty letters.
    let crates: Vec<String> = kebab.iter().filter(|name| *name != "test").cloned().collect();
    let short: Vec<String> = crates.iter().filter(|name| name.len() <= 20).cloned().collect();
    let c_names: Vec<String> =
        short.iter().map(|name| name.replace('-', "_")).filter(|name| name != "tests").collect();
    for (mold, answers, part, names, refused) in [
        ("java-service", "web=jdk", "route", &kebab, ["notes", "Tides", "../up", "", "a b"]),
        ("java-service", "web=spring", "route", &kebab, ["actuator", "error", "a_b", "9", "a/b"]),
        (
            "node-service",
            "web=express features=openapi",
            "route",
            &kebab,
            ["notes", "Tides", "../up", "", "9"],
        ),
        ("node-service", "web=fastify language=ts", "route", &kebab, ["ready", "a b", "a_b", "-a", "a/b"]),
        ("node-service", "web=node language=ts", "route", &kebab, ["health", "testing", "a.b", "é", "%61"]),
        ("java-library", "", "class", &classes, ["tides", "String-X", "../Up", "class", ""]),
        ("web-app", "view=react language=ts", "page", &kebab, ["frame", "Tides", "../up", "", "9"]),
        ("web-app", "view=vue", "page", &kebab, ["notes", "a b", "a_b", "-a", "a/b"]),
        ("web-app", "view=none", "page", &kebab, ["index", "missing", "a.b", "é", "%61"]),
        ("rust-service", "", "route", &crates, ["lib", "core", "../up", "", "fn"]),
        ("rust-service", "web=actix", "route", &crates, ["notes", "a b", "self", "-a", "a/b"]),
        ("rust-cli", "arguments=std", "command", &short, ["help", "std", "a.b", "", "match"]),
        ("rust-cli", "", "command", &short, ["manual", "é", "completion", "../up", "-h"]),
        ("c-tool", "shape=both", "module", &c_names, ["count", "int", "../up", "", "a-b"]),
        ("go-cli", "arguments=flag", "command", &kebab, ["count", "help", "version", "Up", ""]),
        ("go-cli", "arguments=cobra", "command", &kebab, ["completion", "a_b", "9", "../up", "-h"]),
    ] {
        let folder = format!("{mold}{}", answers.len());
        let answers: Vec<&str> = answers.split(' ').filter(|answer| !answer.is_empty()).collect();
        cast(&place, mold, &folder, &answers);
        let fit = |more: &[&str]| {
            place.run(&[&["fit", "--dir", &folder, "--unattended", "--quiet"], more].concat())
        };
        for name in names {
            fit(&[part, name]).says(0, &[]);
        }
        for name in refused {
            fit(&[part, "--set", &format!("{part}={name}")]).says(2, &[]);
        }
        let files = place.listing(&folder).into_iter();
        for (file, language) in
            files.filter_map(|file| Language::of_path(&file).map(|language| (file, language)))
        {
            let text = place.read(&format!("{folder}/{file}"));
            assert_eq!(mistake(language, &text), None, "{folder}/{file}:\n{text}");
        }
    }
}

#[test]
fn coordinates_name_all_that_follows() {
    let place = Place::in_memory();
    // Coordinates, version, and what comes of them.
    for (at, (coordinates, release, java)) in [
        ("example.saltmarsh:tide-times", "0.1.0", "example/saltmarsh/tidetimes/TideTimes.java"),
        ("example.salt-marsh:tides", "1.0", "example/salt_marsh/tides/Tides.java"),
        ("a.b:string", "1.0-SNAPSHOT", "a/b/string/StringProject.java"),
        ("a.b:x.y2", "2", "a/b/xy2/XY2.java"),
    ]
    .into_iter()
    .enumerate()
    {
        for mold in ["java-app", "java-service", "java-library"] {
            let folder = format!("{mold}{at}");
            let set = [format!("coordinates={coordinates}"), format!("release={release}")];
            let answers: Vec<&str> = set.iter().map(String::as_str).collect();
            cast(&place, mold, &folder, &answers);
            assert!(place.listing(&folder).contains(&format!("src/main/java/{java}")), "{folder} {java}");
            let manifest = if mold == "java-app" { "Makefile" } else { "pom.xml" };
            assert!(place.read(&format!("{folder}/{manifest}")).contains(release), "{folder}");
        }
    }
    for wrong in ["release=one", "release=1..0", "release=1.0 ", "coordinates=a.b:C", "coordinates=a.b:c:1"] {
        place.run(&["cast", "java-app", "w", "--unattended", "--set", wrong]).says(2, &[]);
    }
    // A folder gives the name.
    place.run(&["cast", "java-app", "Gull Point", "--unattended", "--quiet"]).says(0, &[]);
    assert!(place.read("Gull Point/.tinmold/casting.toml").contains("\"org.example:gull-point\""));
    place.run(&["cast", "go-cli", "gull", "--unattended", "--quiet"]).says(0, &[]);
    assert!(place.read("gull/go.mod").contains("module example.com/gull"));
}
