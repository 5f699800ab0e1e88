//! Forms: what each accepts, what it refuses with which reason, and what it offers instead.
#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use tinmold_mold::question::Form;

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
    (Form::CIdentifier, &["a", "tide_times", "T1"]),
    (
        Form::GoModule,
        &["a", "saltmarsh.example/tides", "saltmarsh.example/tides/v2", "x.example/~a", "x.example/A"],
    ),
];

/// Form, text, part of the reason, the nearest legal text (empty: none is offered).
const REFUSED: &[(Form, &str, &str, &str)] = &[
    (Form::Plain, "", "empty", ""),
    (Form::Plain, " \t", "empty", ""),
    (Form::Plain, "a\nb", "more than one line", "a b"),
    (Form::Plain, "a\r\nb", "more than one line", "a b"),
    (Form::Plain, "a\u{7}b", "control character", "a b"),
    (Form::Plain, "a\u{2028}b", "control character", "a b"),
    (Form::Kebab, "", "empty", ""),
    (Form::Kebab, "TideTimes", "lower-case letter must come first", "tide-times"),
    (Form::Kebab, "tide times", "a space", "tide-times"),
    (Form::Kebab, "tide--times", "between two words", "tide-times"),
    (Form::Kebab, "tide-", "between two words", "tide"),
    (Form::Kebab, "../up", "lower-case letter must come first", "up"),
    (Form::Kebab, "caf\u{e9}", "`\u{e9}`", "cafe"),
    (Form::Kebab, "con", "device on Windows", "con-app"),
    (Form::Kebab, "9lives", "lower-case letter must come first", "my-9lives"),
    (Form::Kebab, "a/b", "`/`", "a-b"),
    (Form::Snake, "tide-times", "`-`", "tide_times"),
    (Form::Snake, "nul", "device", "nul_app"),
    (Form::Snake, "_a", "begins with `_`", "a"),
    (Form::Identifier, "1a", "begins with a digit", "_1a"),
    (Form::Identifier, "a-b", "`-`", "a_b"),
    (Form::Identifier, "", "empty", "_"),
    (Form::ClassName, "tide", "capital", "Tide"),
    (Form::ClassName, "Tide-Table", "`-`", "TideTable"),
    (Form::ClassName, "String", "standard library", "StringType"),
    (Form::ReverseDomain, "saltmarsh", "one part", "com.example.saltmarsh"),
    (Form::ReverseDomain, "example..a", "two dots", "example.a"),
    (Form::ReverseDomain, "Example.Saltmarsh", "`E`", "example.saltmarsh"),
    (Form::ReverseDomain, "example.-a", "hyphen", "example.a"),
    (Form::ReverseDomain, "example.9a", "letter", "com.example.example-9a"),
    (Form::ReverseDomain, "example.a_b", "`_`", "example.ab"),
    (Form::Semver, "1.0", "no version", "1.0.0"),
    (Form::Semver, "v1.2.3", "no version", "1.2.3"),
    (Form::Semver, "01.2.3", "no version", "1.2.3"),
    (Form::Semver, "x", "no version", "0.1.0"),
    (Form::SemverRange, ">=x", "no range", ">=0.1.0"),
    (Form::Path, "", "empty", ""),
    (Form::Path, "/etc/x", "inside the casting", "etc/x"),
    (Form::Path, "../x", "leads to another folder", "x"),
    (Form::Path, "a//b", "is empty", "a/b"),
    (Form::Path, "a\\b", "inside the casting", "a/b"),
    (Form::Path, "C:/x", "inside the casting", "C/x"),
    (Form::Path, "a/aux.txt", "device", ""),
    (Form::Path, "a/.git/b", "belongs to git", "a/git/b"),
    (Form::Path, "a/b.", "ends with a space or a dot", "a/b"),
    (Form::Path, "a?b", "no name on Windows", "ab"),
    (Form::Email, "a", "no `@`", ""),
    (Form::Email, "@x.example", "no mailbox", ""),
    (Form::Email, "a b@x.example", "a space", "ab@x.example"),
    (Form::Email, "a@-x.example", "no domain", ""),
    (Form::Email, "a..b@x.example", "no mailbox", ""),
    (Form::Url, "saltmarsh.example", "no scheme", "https://saltmarsh.example"),
    (Form::Url, "https://", "no host", ""),
    (Form::Url, "https://a b", "a space", "https://ab"),
    (Form::Url, "https://x.example:99999", "a port", ""),
    (Form::Url, "https://x.example/%zz", "hexadecimal", ""),
    (Form::Url, "1://x", "no scheme", "https://x"),
    (Form::Port, "0", "1 to 65535", "8000"),
    (Form::Port, "65536", "1 to 65535", "6553"),
    (Form::Port, "080", "1 to 65535", "80"),
    (Form::Port, "http", "1 to 65535", "8000"),
    (Form::Port, "-1", "1 to 65535", "1"),
    (Form::License, "Mit", "no SPDX licence", "MIT"),
    (Form::License, "Apache 2", "no SPDX licence", "Apache-2.0"),
    (Form::License, "", "empty", ""),
    (Form::RustCrate, "9lives", "does not begin with a letter", "my-9lives"),
    (Form::RustCrate, "fn", "keyword of Rust", "fn-rs"),
    (Form::RustCrate, "std", "Rust's own", "std-rs"),
    (Form::RustCrate, "tide times", "a space", "tide-times"),
    (Form::RustCrate, "na\u{ef}ve", "`\u{ef}`", "naive"),
    (Form::RustCrate, "aux", "device", "aux-rs"),
    (Form::PythonModule, "class", "keyword of Python", "class_"),
    (Form::PythonModule, "json", "standard library", "json_"),
    (Form::PythonModule, "tide-times", "`-`", "tide_times"),
    (Form::PythonModule, "Tide", "capital", "tide"),
    (Form::PythonModule, "1st", "digit", "app_1st"),
    (Form::PythonModule, "\u{fb01}le", "another name", "file"),
    (Form::PythonModule, "a b", "a space", "a_b"),
    (Form::PythonModule, "nul", "device", "nul_"),
    (Form::PythonPackage, "-a", "begin and end", "a"),
    (Form::PythonPackage, "a b", "a space", "a-b"),
    (Form::PythonPackage, "con", "device", "con-app"),
    (Form::NpmPackage, "Tide", "capital", "tide"),
    (Form::NpmPackage, "fs", "Node.js itself", "fs-app"),
    (Form::NpmPackage, ".hidden", "begins with `.`", "hidden"),
    (Form::NpmPackage, "@scope", "followed by `/`", "scope"),
    (Form::NpmPackage, "@Salt/Tide", "capital", "@salt/tide"),
    (Form::NpmPackage, "node_modules", "no name", "node-modules"),
    (Form::NpmPackage, "a b", "a space", "a-b"),
    (Form::NpmPackage, "a'b", "`'`", "a-b"),
    (Form::JavaPackage, "example.class", "keyword of Java", "example.class_"),
    (Form::JavaPackage, "Example.Tide", "capital", "example.tide"),
    (Form::JavaPackage, "a..b", "two dots", "a.b"),
    (Form::JavaPackage, "a.3d", "digit", "a._3d"),
    (Form::JavaPackage, "a.b-c", "`-`", "a.b_c"),
    (Form::JavaPackage, "java.util", "belong to the platform", "app.java.util"),
    (Form::JavaPackage, "a.con.b", "device", ""),
    (Form::JavaArtifact, "Tide", "lower-case letter", "tide"),
    (Form::JavaArtifact, "tide_times", "`_`", "tide-times"),
    (Form::JavaArtifact, "tide-", "between two words", "tide"),
    (Form::JavaArtifact, "9a", "lower-case letter", "app-9a"),
    (Form::CIdentifier, "int", "keyword of C", "int_"),
    (Form::CIdentifier, "class", "keyword of C++", "class_"),
    (Form::CIdentifier, "printf", "standard library", "printf_"),
    (Form::CIdentifier, "_x", "reserved", "x"),
    (Form::CIdentifier, "1x", "digit", "my_1x"),
    (Form::GoModule, "https://x.example/a", "`:`", "x.example/a"),
    (Form::GoModule, "x.example/a/v1", "no major version", "x.example/a"),
    (Form::GoModule, "x.example//a", "two slashes", "x.example/a"),
    (Form::GoModule, "X.example/a", "capital", "x.example/a"),
    (Form::GoModule, "x.example/.a", "dot", "x.example/a"),
    (Form::GoModule, "x.example/a~1", "short name", ""),
    (Form::GoModule, "main", "go command", "main.example/main"),
    (Form::GoModule, "x.example/aux/b", "device", ""),
    (Form::GoModule, "a b", "a space", "a-b"),
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
    for (form, text, reason, nearest) in REFUSED {
        let Err(refusal) = form.check(text) else {
            wrong.push(format!("{} {text:?} is accepted", form.name()));
            continue;
        };
        let offered = form.bend(text).unwrap_or_default();
        let advised = nearest.is_empty() || refusal.advice.starts_with(&format!("`{nearest}`"));
        if !advised || !refusal.reason.contains(reason) || offered != *nearest {
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
