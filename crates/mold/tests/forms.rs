//! Forms: what each accepts, what it refuses, and what it offers instead.
#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use tinmold_mold::question::{Form, bent};

const ACCEPTED: &[(Form, &[&str])] = &[
    (
        Form::Plain,
        &["a", "it's \"quoted\"", "$(x) {= y =}", "\u{1f6a2} \u{645}\u{631}\u{62d}\u{628}\u{627}", " x "],
    ),
    (Form::Kebab, &["a", "tide-times", "a1-b2", "x2"]),
    (Form::Snake, &["a", "tide_times", "a1_b2"]),
    (Form::Identifier, &["a", "_a", "Tide", "t1", "__x__"]),
    (Form::ClassName, &["Tide", "TideTable", "T2", "X"]),
    (Form::ReverseDomain, &["example.saltmarsh", "com.example.a-b", "a.b", "org.x9"]),
    (Form::Semver, &["0.1.0", "1.0.0-rc.1", "1.2.3+build.5", "10.20.30"]),
    (Form::SemverRange, &["1", ">=1.2, <2", "^0.3", "~1.2.3", "*"]),
    (Form::Path, &["a", "src/main.rs", "a b/c", "caf\u{e9}/x"]),
    (Form::Email, &["a@example.example", "first.last+tag@sub.saltmarsh.example", "o'neil@x.example"]),
    (
        Form::Url,
        &[
            "https://saltmarsh.example",
            "http://127.0.0.1:8000/a?b=c#d",
            "git+ssh://x.example/a",
            "https://[::1]:80/",
            "https://x.example/%20",
        ],
    ),
    (Form::Port, &["1", "80", "65535"]),
    (
        Form::License,
        &["MIT", "Apache-2.0", "MIT OR Apache-2.0", "GPL-3.0-or-later WITH Classpath-exception-2.0"],
    ),
    (Form::RustCrate, &["a", "tide-times", "Tide_2"]),
    (Form::PythonModule, &["a", "tide_times", "_private", "gr\u{f6}\u{df}e", "match_", "t2"]),
    (Form::PythonPackage, &["a", "Tide-Times", "a.b_c", "9lives"]),
    (Form::NpmPackage, &["a", "tide-times", "@saltmarsh/tides", "9lives", "a.b_c", "@x/fs"]),
    (Form::JavaPackage, &["a", "example.saltmarsh.tides", "a.b_c", "a._3d", "gr\u{f6}\u{df}e.x"]),
    (Form::JavaArtifact, &["a", "tide-times", "tide.times2"]),
    (Form::JavaCoordinates, &["a.b:c", "example.saltmarsh:tide-times", "com.example.a-b:x2.y"]),
    (Form::CIdentifier, &["a", "tide_times", "T1"]),
    (
        Form::GoModule,
        &["a", "saltmarsh.example/tides", "saltmarsh.example/tides/v2", "x.example/~a", "x.example/A"],
    ),
];

/// Form, text, the nearest legal text (empty: none is offered).
const REFUSED: &[(Form, &str, &str)] = &[
    (Form::Plain, "", ""),
    (Form::Plain, " \t", ""),
    (Form::Plain, "a\nb", "a b"),
    (Form::Plain, "a\r\nb", "a b"),
    (Form::Plain, "a\u{7}b", "a b"),
    (Form::Plain, "a\u{2028}b", "a b"),
    (Form::Kebab, "", ""),
    (Form::Kebab, "TideTimes", "tide-times"),
    (Form::Kebab, "tide times", "tide-times"),
    (Form::Kebab, "tide--times", "tide-times"),
    (Form::Kebab, "tide-", "tide"),
    (Form::Kebab, "../up", "up"),
    (Form::Kebab, "caf\u{e9}", "cafe"),
    (Form::Kebab, "con", "con-app"),
    (Form::Kebab, "9lives", "my-9lives"),
    (Form::Kebab, "a/b", "a-b"),
    (Form::Snake, "tide-times", "tide_times"),
    (Form::Snake, "nul", "nul_app"),
    (Form::Snake, "_a", "a"),
    (Form::Identifier, "1a", "_1a"),
    (Form::Identifier, "a-b", "a_b"),
    (Form::Identifier, "", "_"),
    (Form::ClassName, "tide", "Tide"),
    (Form::ClassName, "Tide-Table", "TideTable"),
    (Form::ClassName, "String", "StringType"),
    (Form::ReverseDomain, "saltmarsh", "com.example.saltmarsh"),
    (Form::ReverseDomain, "example..a", "example.a"),
    (Form::ReverseDomain, "Example.Saltmarsh", "example.saltmarsh"),
    (Form::ReverseDomain, "example.-a", "example.a"),
    (Form::ReverseDomain, "example.9a", "com.example.example-9a"),
    (Form::ReverseDomain, "example.a_b", "example.ab"),
    (Form::Semver, "1.0", "1.0.0"),
    (Form::Semver, "v1.2.3", "1.2.3"),
    (Form::Semver, "01.2.3", "1.2.3"),
    (Form::Semver, "x", "0.1.0"),
    (Form::SemverRange, ">=x", ">=0.1.0"),
    (Form::Path, "", ""),
    (Form::Path, "/etc/x", "etc/x"),
    (Form::Path, "../x", "x"),
    (Form::Path, "a//b", "a/b"),
    (Form::Path, "a\\b", "a/b"),
    (Form::Path, "C:/x", "C/x"),
    (Form::Path, "a/aux.txt", ""),
    (Form::Path, "a/.git/b", "a/git/b"),
    (Form::Path, "a/b.", "a/b"),
    (Form::Path, "a?b", "ab"),
    (Form::Email, "a", ""),
    (Form::Email, "@x.example", ""),
    (Form::Email, "a b@x.example", "ab@x.example"),
    (Form::Email, "a@-x.example", ""),
    (Form::Email, "a..b@x.example", ""),
    (Form::Url, "saltmarsh.example", "https://saltmarsh.example"),
    (Form::Url, "https://", ""),
    (Form::Url, "https://a b", "https://ab"),
    (Form::Url, "https://x.example:99999", ""),
    (Form::Url, "https://x.example/%zz", ""),
    (Form::Url, "1://x", "https://x"),
    (Form::Port, "0", "8000"),
    (Form::Port, "65536", "6553"),
    (Form::Port, "080", "80"),
    (Form::Port, "http", "8000"),
    (Form::Port, "-1", "1"),
    (Form::License, "Mit", "MIT"),
    (Form::License, "Apache 2", "Apache-2.0"),
    (Form::License, "", ""),
    (Form::RustCrate, "9lives", "my-9lives"),
    (Form::RustCrate, "fn", "fn-rs"),
    (Form::RustCrate, "std", "std-rs"),
    (Form::RustCrate, "tide times", "tide-times"),
    (Form::RustCrate, "na\u{ef}ve", "naive"),
    (Form::RustCrate, "aux", "aux-rs"),
    (Form::PythonModule, "class", "class_"),
    (Form::PythonModule, "json", "json_"),
    (Form::PythonModule, "tide-times", "tide_times"),
    (Form::PythonModule, "Tide", "tide"),
    (Form::PythonModule, "1st", "app_1st"),
    (Form::PythonModule, "\u{fb01}le", "file"),
    (Form::PythonModule, "a b", "a_b"),
    (Form::PythonModule, "nul", "nul_"),
    (Form::PythonPackage, "-a", "a"),
    (Form::PythonPackage, "a b", "a-b"),
    (Form::PythonPackage, "con", "con-app"),
    (Form::NpmPackage, "Tide", "tide"),
    (Form::NpmPackage, "fs", "fs-app"),
    (Form::NpmPackage, ".hidden", "hidden"),
    (Form::NpmPackage, "@scope", "scope"),
    (Form::NpmPackage, "@Salt/Tide", "@salt/tide"),
    (Form::NpmPackage, "node_modules", "node-modules"),
    (Form::NpmPackage, "a b", "a-b"),
    (Form::NpmPackage, "a'b", "a-b"),
    (Form::JavaPackage, "example.class", "example.class_"),
    (Form::JavaPackage, "Example.Tide", "example.tide"),
    (Form::JavaPackage, "a..b", "a.b"),
    (Form::JavaPackage, "a.3d", "a._3d"),
    (Form::JavaPackage, "a.b-c", "a.b_c"),
    (Form::JavaPackage, "java.util", "app.java.util"),
    (Form::JavaPackage, "a.con.b", ""),
    (Form::JavaArtifact, "Tide", "tide"),
    (Form::JavaArtifact, "tide_times", "tide-times"),
    (Form::JavaArtifact, "tide-", "tide"),
    (Form::JavaArtifact, "9a", "app-9a"),
    (Form::CIdentifier, "int", "int_"),
    (Form::CIdentifier, "class", "class_"),
    (Form::CIdentifier, "printf", "printf_"),
    (Form::CIdentifier, "_x", "x"),
    (Form::CIdentifier, "1x", "my_1x"),
    (Form::JavaCoordinates, "", ""),
    (Form::JavaCoordinates, "Tide Times", "org.example:tide-times"),
    (Form::JavaCoordinates, "tides", "org.example:tides"),
    (Form::JavaCoordinates, "example.saltmarsh.tides", "example.saltmarsh:tides"),
    (Form::JavaCoordinates, "example.saltmarsh:tides:1.0", "example.saltmarsh:tides"),
    (Form::JavaCoordinates, "example.saltmarsh/tides", "example.saltmarsh:tides"),
    (Form::JavaCoordinates, "Example.Saltmarsh : Tide Times", "example.saltmarsh:tide-times"),
    (Form::JavaCoordinates, "example.saltmarsh.Pier Times", "example.saltmarsh:pier-times"),
    (Form::JavaCoordinates, "example.saltmarsh pier times", "example.saltmarsh:pier-times"),
    (Form::JavaCoordinates, "example.saltmarsh:", ""),
    (Form::JavaCoordinates, "saltmarsh:9tides", "com.example.saltmarsh:app-9tides"),
    (Form::GoModule, "https://x.example/a", "x.example/a"),
    (Form::GoModule, "x.example/a/v1", "x.example/a"),
    (Form::GoModule, "x.example//a", "x.example/a"),
    (Form::GoModule, "X.example/a", "x.example/a"),
    (Form::GoModule, "x.example/.a", "x.example/a"),
    (Form::GoModule, "x.example/a~1", ""),
    (Form::GoModule, "main", "main.example/main"),
    (Form::GoModule, "x.example/aux/b", ""),
    (Form::GoModule, "a b", "a-b"),
];

#[test]
fn every_form_accepts_and_refuses_by_its_rules() {
    let accepted: usize = ACCEPTED.iter().map(|(_, texts)| texts.len()).sum();
    assert!(accepted + REFUSED.len() >= 150, "{}", accepted + REFUSED.len());
    for (form, texts) in ACCEPTED {
        for text in *texts {
            assert_eq!(form.check(text), Ok(()), "{} {text:?}", form.name());
        }
    }
    let mut wrong = Vec::new();
    for (form, text, nearest) in REFUSED {
        let Err(refusal) = form.check(text) else {
            wrong.push(format!("{} {text:?} is accepted", form.name()));
            continue;
        };
        let offered = form.bend(text).unwrap_or_default();
        let advised = nearest.is_empty() || refusal.advice.starts_with(&format!("`{nearest}`"));
        if !advised || refusal.reason.is_empty() || offered != *nearest {
            wrong.push(format!("{} {text:?}: {refusal} (offers {offered:?}, not {nearest:?})", form.name()));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    for form in Form::ALL {
        assert_eq!(Form::of_name(form.name()), Some(*form));
        assert!(ACCEPTED.iter().any(|(other, _)| other == form), "{} has no accepted text", form.name());
        let too_long = "a".repeat(300);
        let is_bounded =
            !matches!(form, Form::Plain | Form::Semver | Form::SemverRange | Form::License | Form::Port);
        assert!(!is_bounded || form.check(&too_long).is_err(), "{} takes 300 letters", form.name());
    }
}

proptest! {
    #[test]
    fn what_a_form_offers_it_accepts(text in any::<String>(), form in prop::sample::select(Form::ALL)) {
        if let Some(offered) = form.bend(&text) {
            prop_assert_eq!(form.check(&offered), Ok(()));
        }
        if let Err(refusal) = form.check(&text) {
            prop_assert!(!refusal.reason.is_empty());
        }
    }
}

#[test]
fn owner_and_name_are_taken_apart() {
    let cases = [
        (Form::JavaCoordinates, "example.saltmarsh:tides", Some(("example.saltmarsh:", "tides"))),
        (Form::GoModule, "saltmarsh.example/ferries/tides", Some(("saltmarsh.example/ferries/", "tides"))),
        (Form::GoModule, "tides", None),
        (Form::JavaCoordinates, "example.saltmarsh", None),
        (Form::Kebab, "tide-times", None),
    ];
    for (form, text, apart) in cases {
        assert_eq!(form.apart(text), apart, "{text}");
        assert_eq!(form.reading(text).is_some(), apart.is_some(), "{text}");
    }
    // A folder gives the name, and another answer the owner.
    let other = Some("example.saltmarsh:tides");
    for (form, folder, other, named) in [
        (Form::JavaCoordinates, "Pier 9", other, "example.saltmarsh:pier-9"),
        (Form::JavaCoordinates, "pier", None, "org.example:pier"),
        (Form::GoModule, "pier", Some("saltmarsh.example/tides"), "saltmarsh.example/pier"),
        (Form::Kebab, "Pier 9", Some("tides"), "pier-9"),
    ] {
        assert_eq!(bent(Some(form), folder, other).as_deref(), Some(named));
    }
}
