//! From answers to the list of what is written, and the looking over of that list.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;
use common::{mold, session};
use tinmold_project::answers::Offers;
use tinmold_mold::model::Mold;
use tinmold_project::plan::{EntryKind, Limits, Plan, PlanError, Rendered};
use tinmold_mold::package::{Content, File};
use tinmold_project::verify::VerifyError;

const PIERS: &str = r#"
[[question]]
key = "piers"
ask = "Piers"
kind = "texts"
default = ["gull", "tern"]
[[question]]
key = "night"
ask = "At night?"
kind = "flag"
[[question]]
key = "key"
kind = "minted"
length = 12
[[files]]
match = "piers/*"
each = "pier in piers"
[[files]]
match = "**/*.night"
when = "night"
[[files]]
match = "raw/**"
copy = true
[[files]]
match = "raw/x"
copy = false
marks = ["<%", "%>"]
[[files]]
match = ".env"
local = true
"#;

fn piers(files: &[(&str, &str)]) -> Mold {
    mold(PIERS, files)
}

fn plan<'m>(mold: &'m Mold, given: &[(&str, &str)]) -> Result<Plan<'m>, PlanError> {
    Plan::new(mold, &session(mold, given, Offers::default()).finish().unwrap(), &Limits::default())
}

/// Gives the body's file of this index another path, whether it may have that or not.
fn call_it(mold: &mut Mold, at: usize, path: &str) {
    mold.package.files[mold.body[at].file].path = format!("body/{path}").into();
}

/// `path: text` for every entry.
fn texts(plan: &Plan<'_>) -> Vec<String> {
    plan.entries
        .iter()
        .map(|entry| {
            let mut bytes = Vec::new();
            match plan.render(entry, &mut bytes).unwrap() {
                Rendered::Bytes => format!("{}: {}", entry.path, String::from_utf8(bytes).unwrap()),
                Rendered::AsIs => format!("{}: as it is", entry.path),
            }
        })
        .collect()
}

#[test]
fn rules_decide_what_becomes_of_each_file() {
    let mold = piers(&[
        ("body/piers/{= pier =}.txt", "{= pier.title =} of {= piers.len =}"),
        ("body/{= if night =}late{= end =}/a", "x"),
        ("body/b.night", "n"),
        ("body/raw/y", "{= not a tag"),
        ("body/raw/x", "<% night %> {= y =}"),
        ("body/.env", "KEY={= key =}"),
        ("body/.gitignore", ".env\n"),
    ]);
    let plan_of = plan(&mold, &[]).unwrap();
    let all = texts(&plan_of);
    assert!(all[0].starts_with(".env: KEY=") && all[0].len() == ".env: KEY=".len() + 12, "{all:?}");
    assert_eq!(
        all[1..],
        [
            ".gitignore: .env\n",
            "piers/gull.txt: Gull of 2",
            "piers/tern.txt: Tern of 2",
            "raw/x: false {= y =}",
            "raw/y: as it is",
        ]
        .map(|text| text.to_owned())
    );
    let reasons: Vec<_> =
        plan_of.left_out.iter().map(|left| format!("{}: {}", left.path, left.reason)).collect();
    assert_eq!(
        reasons,
        [
            "b.night: `night` does not hold",
            "{= if night =}late{= end =}/a: the condition in its name does not hold"
        ]
    );
    assert!(plan_of.entries.iter().all(|entry| entry.kind != EntryKind::Folder));
    let other = plan(&mold, &[("piers", "[]"), ("night", "yes")]).unwrap();
    let paths: Vec<_> = other.entries.iter().map(|entry| &*entry.path).collect();
    assert_eq!(paths, [".env", ".gitignore", "b.night", "late/a", "raw/x", "raw/y"]);
    assert_eq!(other.left_out[0].reason, "`piers` is empty");
    let sizes = other.sizes().unwrap();
    assert_eq!(sizes[1..4], [5, 1, 1]);
}

#[test]
fn patterns_reach_what_they_say() {
    // Patterns of one rule after another with what each makes of `copy`, a file, and whether it is copied in the end.
    type Case = (&'static [(&'static str, bool)], &'static str, bool);
    let cases: &[Case] = &[
        (&[("raw/x", true)], "raw/x", true),
        (&[("raw", true)], "raw/x", false),
        (&[("raw/**", true)], "raw/x/y", true),
        (&[("raw/**", true)], "rawer/x", false),
        (&[("raw/**", true)], "raw", false),
        (&[("{= mold.name =}/**", true)], "{= mold.name =}/x", true),
        (&[("{= mold.name =}.*", true)], "{= mold.name =}.txt", true),
        (&[("*.txt", true)], "a/b.txt", false),
        (&[("?[0-9].txt", true)], "b7.txt", true),
        (&[("**", true), ("raw/x", false)], "raw/x", false),
        (&[("raw/x", false), ("**", true)], "raw/x", true),
        (&[("raw/**", true), ("?aw/x", false), ("raw/x", true)], "raw/x", true),
        (&[("raw/x", true), ("raw/**", false), ("raw/?", true)], "raw/xx", false),
    ];
    for (rules, path, copied) in cases {
        let manifest: String = rules
            .iter()
            .map(|(pattern, copy)| format!("[[files]]\nmatch = '{pattern}'\ncopy = {copy}\n"))
            .collect();
        let mold = mold(&manifest, &[(&format!("body/{path}"), "x")]);
        let plan = plan(&mold, &[]).unwrap();
        let kind = if *copied { EntryKind::Copy } else { EntryKind::Text };
        assert_eq!(plan.entries[0].kind, kind, "{rules:?} {path}");
    }
}

#[test]
fn names_that_cannot_be_are_findings() {
    let mold = piers(&[("body/piers/{= pier =}.txt", "x"), ("body/{= mold.name =}", "x")]);
    for (given, code) in [("a/b", "slash-in-name"), ("[\"\"]", "empty-in-name"), ("..\\a", "slash-in-name")] {
        let Err(PlanError::Faulty(found)) = plan(&mold, &[("piers", given)]) else {
            panic!("{given} makes a plan")
        };
        assert_eq!(found[0].code.as_str(), code);
        assert_eq!(&*found[0].file, "body/piers/{= pier =}.txt (name)");
    }
}

#[test]
fn secrets_must_be_ignored() {
    let cases: &[(&str, bool)] = &[
        (".env\n", true),
        ("x\r\n/.env\r\n", true),
        ("*.txt\n/.env*\n", true),
        ("/sub/.env\n", false),
        ("# .env\n", false),
        (".env\n!.env\n", false),
        ("", false),
    ];
    for (ignored, fine) in cases {
        let mold = piers(&[("body/.env", "K={= key =}"), ("body/.gitignore", ignored)]);
        match plan(&mold, &[]).unwrap().verify() {
            Ok(_) => assert!(fine, "{ignored:?}"),
            Err(VerifyError::Faulty(found)) => {
                assert!(!fine, "{ignored:?}");
                assert_eq!(found[0].code.as_str(), "uncovered-secret");
            }
            Err(VerifyError::Unsafe(found)) => panic!("{found:?}"),
        }
    }
}

#[test]
fn only_safe_plans_pass() {
    let cases: &[(&str, &str)] = &[
        ("../x", "leads out"),
        ("a/../../x", "leads out"),
        ("/etc/x", "begins at a root"),
        ("C:/x", "begins at a root"),
        ("a\\b", "no name on Windows"),
        ("a/./b", "leads to another folder"),
        ("a//b", "is empty"),
        ("COM1.txt", "device"),
        ("a/lpt9", "device"),
        ("a/x ", "ends with a space"),
        ("a\u{1}b", "no name on Windows"),
        (".Git/x", "belongs to git"),
        ("git~1/x", "belongs to git"),
        (".g\u{200d}it/x", "belongs to git"),
        (".tinmold/casting.toml", "belongs to git or to Tin Mold"),
    ];
    let mut wrong = Vec::new();
    let long = format!("{}/x", "a".repeat(256));
    let deep = "abcdefgh/".repeat(120) + "x";
    let more = [(long.as_str(), "255 bytes"), (deep.as_str(), "1024 bytes")];
    for (path, reason) in cases.iter().copied().chain(more) {
        let mut mold = mold("", &[("body/a", "x")]);
        call_it(&mut mold, 0, path);
        match plan(&mold, &[]).unwrap().verify() {
            Err(VerifyError::Unsafe(found)) if found[0].reason.contains(reason) => {}
            other => wrong.push(format!("{path}: {:?}", other.map(|plan| plan.entries.len()))),
        }
    }
    assert!(wrong.is_empty(), "{wrong:?}");
    for (first, second) in [
        ("a", "a/b"),
        ("a", "a/b/c/d"),
        ("Quay", "quay/b/c"),
        ("Pier", "pier"),
        ("\u{e9}", "e\u{301}"),
        ("\u{fb01}", "fi"),
        ("stra\u{df}e", "STRA\u{df}E"),
    ] {
        let mut mold = mold("", &[("body/1", "x"), ("body/2", "y")]);
        call_it(&mut mold, 0, first);
        call_it(&mut mold, 1, second);
        let Err(VerifyError::Unsafe(found)) = plan(&mold, &[]).unwrap().verify() else {
            panic!("{first} {second}")
        };
        assert!(found[0].reason.starts_with("meets"), "{found:?}");
    }
}

#[test]
fn links_stay_inside() {
    for (target, safe) in [
        ("b", true),
        ("../c", true),
        ("./x/../y", true),
        ("../../c", false),
        ("/etc", false),
        ("", false),
        ("..\\..", false),
        ("../.git/hooks", false),
    ] {
        let mut with_link = common::package("", &[("body/a/x", "x")]);
        let link = File::new("body/a/link", Content::Link(target.into()), 0o777);
        with_link.files.push(link);
        with_link.files.sort_by(|a, b| a.path.cmp(&b.path));
        let mold = Mold::load(with_link).unwrap();
        assert_eq!(plan(&mold, &[]).unwrap().verify().is_ok(), safe, "{target}");
    }
}

#[test]
fn coordinates_become_packages_and_folders() {
    let manifest = r#"
[[question]]
key = "owner"
ask = "Owner"
kind = "text"
form = "reverse-domain"
default = "com.example"
[[question]]
key = "artifact"
ask = "Project"
kind = "text"
form = "java-artifact"
default = "my-app"
[[question]]
key = "version"
ask = "First release"
kind = "text"
form = "semver"
default = "0.1.0"
[[question]]
key = "package"
ask = "Package"
kind = "text"
form = "java-package"
default = "{= owner =}.{= artifact =}"
detail = true
"#;
    let body = "package {= package =}; // {= owner =}:{= artifact =}:{= version =}\n";
    let mold = mold(manifest, &[("body/src/{= package.dirs =}/Main.java", body)]);
    let cases: &[(&[(&str, &str)], &str)] = &[
        (&[], "src/com/example/my_app/Main.java: package com.example.my_app; // com.example:my-app:0.1.0\n"),
        (
            &[("owner", "example.salt-marsh"), ("artifact", "tide.times"), ("version", "2.0.0-rc.1")],
            "src/example/salt_marsh/tide/times/Main.java: package example.salt_marsh.tide.times; // example.salt-marsh:tide.times:2.0.0-rc.1\n",
        ),
        (
            &[("artifact", "new"), ("owner", "example.int")],
            "src/example/int_/new_/Main.java: package example.int_.new_; // example.int:new:0.1.0\n",
        ),
        (&[("package", "tides")], "src/tides/Main.java: package tides; // com.example:my-app:0.1.0\n"),
    ];
    for (given, expected) in cases {
        assert_eq!(texts(&plan(&mold, given).unwrap()), [*expected], "{given:?}");
    }
    let refused = session(
        &mold,
        &[("owner", "saltmarsh"), ("artifact", "Tide"), ("version", "1"), ("package", "a.class")],
        Offers::default(),
    );
    let reasons: Vec<_> = refused.problems().iter().map(|problem| problem.refusal.to_string()).collect();
    assert_eq!(reasons.len(), 4, "{reasons:?}");
    assert!(reasons[3].contains("`class` is a keyword of Java; `a.class_` would do"), "{reasons:?}");
}
