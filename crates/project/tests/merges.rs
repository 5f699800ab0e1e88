//! Merging by line: what one side did is taken, what both did differently is a conflict.
#![allow(clippy::unwrap_used)]

use proptest::collection::vec;
use proptest::prelude::*;
use tinmold_mold::Holds;
use tinmold_project::merge::{Choice, Conflict, Hunk, Merge, Merged, texts};

/// A base, the owner's text, the mold's text, and what comes out: the text, or the conflicts as `line:base|mine|theirs`.
const CASES: &[(&str, &str, &str, Result<&str, &str>)] = &[
    ("a\nb\nc\n", "a\nb\nc\n", "a\nx\nc\n", Ok("a\nx\nc\n")),
    ("a\nb\nc\n", "a\nx\nc\n", "a\nb\nc\n", Ok("a\nx\nc\n")),
    ("a\nb\nc\n", "a\nx\nc\n", "a\nx\nc\n", Ok("a\nx\nc\n")),
    ("a\nb\nc\n", "A\nb\nc\n", "a\nb\nC\n", Ok("A\nb\nC\n")),
    ("a\nb\nc\n", "", "", Ok("")),
    ("", "", "", Ok("")),
    // Both add the same, and one adds more.
    ("a\n", "a\nb\n", "a\nb\n", Ok("a\nb\n")),
    ("a\nz\n", "a\nb\nz\n", "a\nb\nc\nz\n", Err("3:||c\n")),
    ("a\nb\nc\nd\n", "a\nX\nc\nd\n", "a\nY\nc\nd\n", Err("2:b\n|X\n|Y\n")),
    // What both write at the start and the end of a conflict is none.
    ("a\nb\nc\n", "1\nX\n3\n", "1\nY\n3\n", Err("2:a\nb\nc\n|X\n|Y\n")),
    // Neighbouring lines belong together.
    ("a\nb\n", "A\nb\n", "a\nB\n", Err("1:a\nb\n|A\nb\n|a\nB\n")),
    ("a\nb\nc\nd\n", "a\nd\n", "a\nb\nC\nd\n", Err("2:b\nc\n||b\nC\n")),
    ("a\nb\nc\nd\n", "a\nd\n", "a\nb\nc\nd\ne\n", Ok("a\nd\ne\n")),
    // Line endings are the owner's, and no change.
    ("a\nb\nc\n", "a\r\nb\r\nc\r\n", "a\nx\nc\n", Ok("a\r\nx\r\nc\r\n")),
    ("a\r\nb\r\nc\r\n", "a\nB\nc\n", "a\r\nb\r\nC\r\n", Err("2:b\nc\n|B\nc\n|b\nC\n")),
    ("a\r\nb\r\nc\r\nd\r\n", "A\nb\nc\nd\n", "a\r\nb\r\nc\r\nD\r\n", Ok("A\nb\nc\nD\n")),
    ("a\nb\nc\n", "a\r\nb\nc\n", "a\nb\nC\n", Ok("a\r\nb\nC\n")),
    // So is whether the last line ends.
    ("a\nb", "a\nb", "a\nb\n", Ok("a\nb\n")),
    ("a\nb\n", "a\nb", "x\nb\n", Err("1:a\nb\n|a\nb|x\nb\n")),
    ("a\nb\nc\n", "a\nb\nc", "x\nb\nc\n", Ok("x\nb\nc")),
];

#[test]
fn texts_merge_by_line() {
    for (base, mine, theirs, expected) in CASES {
        let merge = Merge::of(base, mine, theirs);
        let conflicts: Vec<String> = merge
            .conflicts()
            .map(|Conflict { line, base, mine, theirs }| format!("{line}:{base}|{mine}|{theirs}"))
            .collect();
        let found = merge.text().ok_or(conflicts.concat());
        assert_eq!(found, expected.map(str::to_owned).map_err(str::to_owned), "{base:?} {mine:?} {theirs:?}");
    }
}

#[test]
fn conflicts_are_decided_and_marked() {
    let merge = Merge::of("a\nb\nc\nd\ne", "a\nX\nc\nd\nM", "a\nY\nc\nd\nT\n");
    for (choices, text) in [
        ([Choice::Mine, Choice::Mine], "a\nX\nc\nd\nM"),
        ([Choice::Theirs, Choice::Both], "a\nY\nc\nd\nM\nT\n"),
        ([Choice::Both, Choice::Theirs], "a\nX\nY\nc\nd\nT\n"),
        ([Choice::Text("own\n".into()), Choice::Text(String::new())], "a\nown\nc\nd\n"),
    ] {
        assert_eq!(merge.decided(&choices).as_deref(), Some(text), "{choices:?}");
    }
    assert_eq!(merge.decided(&[Choice::Mine]), None);
    let marked = "a\n<<<<<<< mine\nX\n||||||| before\nb\n======= theirs\nY\n>>>>>>>\nc\nd\n\
        <<<<<<< mine\nM\n||||||| before\ne\n======= theirs\nT\n>>>>>>>\n";
    assert_eq!(merge.marked(), marked);
}

/// Some lines, few of them different, the last one with an ending or without.
fn text() -> impl Strategy<Value = String> {
    let line = prop_oneof!["[a-d]", "[a-d]{2}", Just(String::new()), "\\PC{0,3}"];
    (vec(line, 0..12), prop::bool::ANY, prop_oneof![Just("\n"), Just("\r\n")])
        .prop_map(|(lines, is_ended, ending)| lines.join(ending) + if is_ended { ending } else { "" })
}

/// A text in which line endings do not count.
fn plain(text: &str) -> String {
    text.replace("\r\n", "\n")
}

proptest! {
    #[test]
    fn what_one_side_leaves_alone_is_the_others(base in text(), other in text()) {
        prop_assert_eq!(Merge::of(&base, &other, &base).text(), Some(other.clone()));
        prop_assert_eq!(Merge::of(&other, &other, &other).text(), Some(other.clone()));
        prop_assert_eq!(Merge::of(&base, &other, &other).text(), Some(other.clone()));
        let theirs = Merge::of(&base, &base, &other).text().map(|text| plain(&text));
        prop_assert_eq!(theirs, Some(plain(&other)));
    }

    #[test]
    fn choices_give_the_sides_back(base in text(), mine in text(), theirs in text()) {
        let merge = Merge::of(&base, &mine, &theirs);
        let turned = Merge::of(&base, &theirs, &mine);
        prop_assert_eq!(merge.conflicts().count(), turned.conflicts().count());
        for (conflict, other) in merge.conflicts().zip(turned.conflicts()) {
            prop_assert_eq!(plain(&conflict.mine), plain(&other.theirs));
            prop_assert!(plain(&conflict.mine) != plain(&conflict.theirs));
            prop_assert!(plain(&mine).contains(&plain(&conflict.mine)));
            prop_assert!(plain(&theirs).contains(&plain(&conflict.theirs)));
            let before: usize = mine.split_inclusive('\n').take(conflict.line - 1).map(str::len).sum();
            prop_assert!(mine[before..].starts_with(&conflict.mine));
        }
        // Every line of the result is of one of the three texts, and no conflicts leave no choice.
        let text = merge.decided(&vec![Choice::Theirs; merge.conflicts().count()]).unwrap();
        for line in text.lines() {
            prop_assert!([&mine, &theirs].iter().any(|text| text.lines().any(|one| one == line)));
        }
        prop_assert_eq!(merge.text().is_some(), !merge.hunks.iter().any(|hunk| matches!(hunk, Hunk::Conflict(_))));
    }
}

/// A text that may be of a format, or nearly: pieces of all of them.
fn pieces() -> impl Strategy<Value = String> {
    let piece = prop_oneof![
        8 => "[ab]( = |: )[0-9]\n",
        4 => prop_oneof!["\\{", "\\}", "\\[", "\\]", ",", ":", "\"a\"", "  - ", "\n", "\r\n", "#", "&x ", "\\*x"],
        1 => ".{0,4}",
    ];
    vec(piece, 0..12).prop_map(|pieces| pieces.concat())
}

proptest! {
    #[test]
    fn texts_of_any_format_keep_what_one_side_did(base in pieces(), mine in pieces(), theirs in pieces()) {
        for holds in [Holds::Json, Holds::Jsonc, Holds::Toml, Holds::Yaml, Holds::Xml, Holds::Text] {
            prop_assert_eq!(texts(holds, &base, &mine, &base), Merged::Clean(mine.clone()));
            prop_assert_eq!(texts(holds, &base, &mine, &mine), Merged::Clean(mine.clone()));
            match texts(holds, &base, &mine, &theirs) {
                Merged::Clean(_) => {}
                Merged::Conflicts(merge, _) => {
                    let mine_again = merge.decided(&vec![Choice::Mine; merge.conflicts().count()]);
                    prop_assert!(mine_again.is_some());
                }
            }
        }
    }
}

/// A format, three texts, and what comes out: the text, or the paths of the values that differ.
const FILES: &[(Holds, [&str; 3], Result<&str, &str>)] = &[
    // Neighbours in one line, and keys beside each other.
    (
        Holds::Json,
        [r#"{"a": 1, "b": 1}"#, r#"{"a": 2, "b": 1}"#, r#"{"a": 1, "b": 3}"#],
        Ok(r#"{"a": 2, "b": 3}"#),
    ),
    (
        Holds::Toml,
        ["a = 1\nb = 1\n", "a = 2 # ours\nb = 1\n", "a = 1\nb = 3\nc = 4\n"],
        Ok("a = 2 # ours\nb = 3\nc = 4\n"),
    ),
    (Holds::Yaml, ["a: 1\nb: 1\n", "a: 2 # ours\nb: 1\n", "a: 1\nb: 3\n"], Ok("a: 2 # ours\nb: 3\n")),
    // Lists of names are sets where manifests have them, and nowhere else.
    (
        Holds::Toml,
        [
            "[project]\ndependencies = [\n  \"a\",\n  \"b\",\n]\n",
            "[project]\ndependencies = [\n  \"a\",\n  \"mine\",\n]\n",
            "[project]\ndependencies = [\n  \"a\",\n  \"b\",\n  \"c\",\n]\n",
        ],
        Ok("[project]\ndependencies = [\n  \"a\",\n  \"mine\",\n  \"c\",\n]\n"),
    ),
    // What is required of one thing is one element: a version of each side is a decision, and one moves in its place.
    (
        Holds::Toml,
        [
            "dependencies = [\n  \"tide>=1\",\n  \"pier==1\",\n]\n",
            "dependencies = [\n  \"tide>=1\",\n  \"pier==1\",\n  \"own\",\n]\n",
            "dependencies = [\n  \"Tide>=2\",\n  \"pier==1\",\n  \"quay\",\n]\n",
        ],
        Ok("dependencies = [\n  \"Tide>=2\",\n  \"pier==1\",\n  \"own\",\n  \"quay\",\n]\n"),
    ),
    (Holds::Toml, ["dev = [\"ruff==1\"]\n", "dev = [\"ruff==2\"]\n", "dev = [\"ruff==3\"]\n"], Err("dev")),
    (Holds::Json, [r#"{"steps": ["a"]}"#, r#"{"steps": ["b"]}"#, r#"{"steps": ["c"]}"#], Err("steps.0")),
    // Tables in lists are told apart by their names, other elements by their place.
    (
        Holds::Json,
        [
            r#"{"jobs": [{"name": "a", "n": 1}, {"name": "b"}]}"#,
            r#"{"jobs": [{"name": "a", "n": 1, "m": 1}, {"name": "b"}, {"name": "own"}]}"#,
            r#"{"jobs": [{"name": "a", "n": 2}, {"name": "c"}]}"#,
        ],
        Ok(r#"{"jobs": [{"name": "a", "n": 2, "m": 1}, {"name": "own"}, { "name": "c" }]}"#),
    ),
    (
        Holds::Yaml,
        [
            "jobs:\n  - id: 1\n    n: 1 # once\n  - id: 2\n",
            "jobs:\n  - id: 1\n    n: 1 # once\n    m: 1\n  - id: 2\n",
            "jobs:\n  - id: 1\n    n: 2 # once\n  - id: 2\n    k: 1\n",
        ],
        Ok("jobs:\n  - id: 1\n    n: 2 # once\n    m: 1\n  - id: 2\n    k: 1\n"),
    ),
    (
        Holds::Json,
        [
            r#"{"jobs": [{"id": 1, "n": 1}]}"#,
            r#"{"jobs": [{"id": 1, "n": 2}]}"#,
            r#"{"jobs": [{"id": 1, "n": 3}]}"#,
        ],
        Err("jobs.0.n"),
    ),
    (
        Holds::Json,
        [r#"{"jobs": [{"id": 1, "n": 1}]}"#, r#"{"jobs": []}"#, r#"{"jobs": [{"id": 1, "n": 3}]}"#],
        Err("jobs"),
    ),
    (
        Holds::Json,
        [r#"{"x": [1, 2, 3]}"#, r#"{"x": [9, 2, 3]}"#, r#"{"x": [1, 2, 8]}"#],
        Ok(r#"{"x": [9, 2, 8]}"#),
    ),
    // What one removes and the other leaves alone goes; what the other changed is a decision.
    (Holds::Json, [r#"{"a": 1, "b": 1}"#, r#"{"a": 2, "b": 1}"#, r#"{"a": 1}"#], Ok(r#"{"a": 2}"#)),
    (Holds::Json, [r#"{"a": 1, "b": 1}"#, r#"{"a": 2, "b": 2}"#, r#"{"a": 1}"#], Err("b")),
    (Holds::Json, [r#"{"a": {"x": 1}}"#, r#"{"a": {"x": 2}}"#, r#"{"a": {"x": 3}, "b": 1}"#], Err("a.x")),
    // Both added a table, with different keys.
    (
        Holds::Toml,
        ["x = 1\n", "x = 1\n[tool]\na = 1\n", "x = 1\n[tool]\nb = 2\n"],
        Ok("x = 1\n[tool]\na = 1\nb = 2\n"),
    ),
    // Clean by line, and not of its format any more: a key is there twice.
    (
        Holds::Toml,
        ["a = 1\nb = 1\nc = 1\n", "n = 1\na = 1\nb = 1\nc = 1\n", "a = 1\nb = 1\nc = 1\nn = 1\n"],
        Ok("n = 1\na = 1\nb = 1\nc = 1\n"),
    ),
    // Dates and anchors are more than their data: only lines are merged.
    (Holds::Toml, ["a = 1\nb = 1\n", "a = 2\nb = 1\n", "a = 1\nb = 2026-11-28\n"], Err("")),
    (Holds::Yaml, ["a: &x 1\nb: 1\n", "a: &x 2\nb: 1\n", "a: &x 1\nb: *x\n"], Err("")),
    // The owner's line endings stay, and so does a file that was unreadable before.
    (Holds::Toml, ["a = 1\nb = 1\n", "a = 2\r\nb = 1\r\n", "a = 1\nb = 3\n"], Ok("a = 2\r\nb = 3\r\n")),
    (Holds::Json, ["{\n1\n2\n", "{\n0\n1\n2\n", "{\n1\n2\n3\n"], Ok("{\n0\n1\n2\n3\n")),
    (Holds::Text, ["a = 1\nb = 1\n", "a = 2\nb = 1\n", "a = 1\nb = 3\n"], Err("")),
];

#[test]
fn files_merge_by_what_they_hold() {
    for (holds, [base, mine, theirs], expected) in FILES {
        let found = match texts(*holds, base, mine, theirs) {
            Merged::Clean(text) => Ok(text),
            Merged::Conflicts(merge, disagreements) => {
                assert!(merge.text().is_none() || !disagreements.is_empty(), "{base:?}");
                Err(disagreements.iter().map(|it| it.path.join(".")).collect::<Vec<_>>().join(" "))
            }
        };
        assert_eq!(found, expected.map(str::to_owned).map_err(str::to_owned), "{base:?} {mine:?} {theirs:?}");
    }
}
