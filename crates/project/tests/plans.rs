//! From answers to the list of what is written, and the looking over of that list.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;
use common::{mold, session};
use tinmold_mold::{Content, File, Mold};
use tinmold_platform::paths::PathError;
use tinmold_project::answers::Offers;
use tinmold_project::plan::{EntryKind, Limits, Plan, PlanError, Rendered};
use tinmold_project::verify::{UnsafeReason, VerifyError};
use tinmold_project::write::cover;

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
    mold.package.files[mold.body[at].file].path = format!("body/{path}");
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
    let left_out: Vec<_> = plan_of.left_out.iter().map(|left| &*left.path).collect();
    assert_eq!(left_out, ["b.night", "{= if night =}late{= end =}/a"]);
    assert!(plan_of.entries.iter().all(|entry| entry.kind != EntryKind::Folder));
    let other = plan(&mold, &[("piers", "[]"), ("night", "yes")]).unwrap();
    let paths: Vec<_> = other.entries.iter().map(|entry| &*entry.path).collect();
    assert_eq!(paths, [".env", ".gitignore", "b.night", "late/a", "raw/x", "raw/y"]);
    assert_eq!(other.left_out.len(), 1, "{:?}", other.left_out);
    let sizes = other.sizes().unwrap();
    assert_eq!(sizes[1..4], [5, 1, 1]);
}

#[test]
fn patterns_reach_what_they_say() {
    // Patterns of rules in order with the `copy` of each, a file, and whether it is copied.
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
        let found = cover::findings(&plan(&mold, &[]).unwrap());
        assert_eq!(found.is_empty(), *fine, "{ignored:?} {found:?}");
        assert!(found.iter().all(|finding| finding.code.as_str() == "uncovered-secret"));
    }
}

#[test]
fn only_safe_plans_pass() {
    let (long, deep) = (format!("{}/x", "a".repeat(256)), "abcdefgh/".repeat(120) + "x");
    let cases = [
        ("../x", PathError::Outside),
        ("a/../../x", PathError::Outside),
        ("/etc/x", PathError::Absolute),
        ("C:/x", PathError::Absolute),
        ("a\\b", PathError::BadCharacter('\\')),
        ("a/./b", PathError::Dots),
        ("a//b", PathError::Empty),
        ("COM1.txt", PathError::Device),
        ("a/lpt9", PathError::Device),
        ("a/x ", PathError::BadEnd),
        ("a\u{1}b", PathError::BadCharacter('\u{1}')),
        (".Git/x", PathError::Protected),
        ("git~1/x", PathError::Protected),
        (".g\u{200d}it/x", PathError::Protected),
        (".tinmold/casting.toml", PathError::Protected),
        (&long, PathError::NameTooLong),
        (&deep, PathError::PathTooLong),
    ];
    let mut wrong = Vec::new();
    for (path, expected) in cases {
        let mut mold = mold("", &[("body/a", "x")]);
        call_it(&mut mold, 0, path);
        let found = match plan(&mold, &[]).unwrap().verify() {
            Err(VerifyError::Unsafe(found)) => found[0].reason.clone(),
            other => panic!("{path}: {:?}", other.map(|plan| plan.entries.len())),
        };
        match found {
            UnsafeReason::Path(PathError::Part { reason, .. }) if *reason == expected => {}
            UnsafeReason::Path(reason) if reason == expected => {}
            other => wrong.push(format!("{path}: {other:?}")),
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
        assert!(matches!(found[0].reason, UnsafeReason::Meets(_)), "{found:?}");
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
    let problems = refused.problems();
    assert_eq!(problems.len(), 4, "{problems:?}");
    assert!(problems[3].refusal.advice.contains("`a.class_`"), "{problems:?}");
}

#[test]
fn an_answer_is_refused_before_what_is_made_of_it() {
    let manifest = r#"
[[question]]
key = "piers"
ask = "Piers"
kind = "some-of"
default = ["gull"]
min = 1
  [[question.option]]
  value = "gull"
  [[question.option]]
  value = "heron"
[[question]]
key = "start"
ask = "Start"
kind = "text"
default = "{= piers.first =}"
[derive]
first = { is = "piers.first" }
"#;
    let mold = mold(manifest, &[("body/a", "{= first =} {= start =}")]);
    assert_eq!(texts(&plan(&mold, &[("piers", "heron,gull")]).unwrap()), ["a: gull gull"]);
    let refused = session(&mold, &[("piers", "")], Offers::default());
    let problems = refused.problems();
    assert!(problems.len() == 1 && problems[0].key == "piers", "{problems:?}");
}
