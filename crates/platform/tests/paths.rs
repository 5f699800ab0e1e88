//! Portable paths: what every system takes, and what each refuses.
#![allow(clippy::unwrap_used)]

use tinmold_platform::paths::{
    PathError, folded, has_drive, is_device, parent_of, portable_name, portable_path,
};

#[test]
fn names_are_legal_on_every_system() {
    let long = "a".repeat(255);
    for name in ["a", ".env", "a b", "caf\u{e9}", "-x", "COM", "com10", "console", "a.con", &long] {
        assert_eq!(portable_name(name), Ok(()), "{name}");
    }
    let too_long = "a".repeat(256);
    let cases = [
        ("", PathError::Empty),
        (".", PathError::Dots),
        ("..", PathError::Dots),
        ("a:b", PathError::BadCharacter(':')),
        ("a\0", PathError::BadCharacter('\0')),
        ("a\u{7f}", PathError::BadCharacter('\u{7f}')),
        ("a\\b", PathError::BadCharacter('\\')),
        ("a.", PathError::BadEnd),
        ("a ", PathError::BadEnd),
        (&too_long, PathError::NameTooLong),
        ("con", PathError::Device),
        ("Aux.txt", PathError::Device),
        ("LPT\u{b9}.log", PathError::Device),
        ("conin$", PathError::Device),
        (".GIT", PathError::Protected),
        ("Git~1", PathError::Protected),
        (".tin\u{200b}mold", PathError::Protected),
        ("\u{ff0e}git", PathError::Protected),
    ];
    for (name, error) in cases {
        assert_eq!(portable_name(name), Err(error), "{name:?}");
    }
}

#[test]
fn paths_stay_inside() {
    for path in ["a", "a/b", ".github/workflows/ci.yml", "a..b/c...d"] {
        assert_eq!(portable_path(path), Ok(()), "{path}");
    }
    let deep = format!("{}b", "abc/".repeat(300));
    let outside = ["../a", "a/..", "a/../b", "a\\..\\b"];
    for path in outside {
        assert_eq!(portable_path(path), Err(PathError::Outside), "{path}");
    }
    for path in ["/a", "\\a", "C:/a", "c:a"] {
        assert_eq!(portable_path(path), Err(PathError::Absolute), "{path}");
    }
    assert_eq!(portable_path(&deep), Err(PathError::PathTooLong));
    for (path, part, reason) in [
        ("a//b", "", PathError::Empty),
        ("a/./b", ".", PathError::Dots),
        ("a/nul/b", "nul", PathError::Device),
        ("a/.git/b", ".git", PathError::Protected),
    ] {
        let expected = PathError::Part { part: part.into(), reason: Box::new(reason) };
        assert_eq!(portable_path(path), Err(expected), "{path}");
    }
}

#[test]
fn paths_that_some_system_takes_for_one_fold_alike() {
    for (one, other) in [
        ("Pier/A", "pier/a"),
        ("\u{e9}", "e\u{301}"),
        ("stra\u{df}e", "STRASSE"),
        ("\u{fb01}sh", "fish"),
        ("\u{212a}elp", "kelp"),
    ] {
        assert_eq!(folded(one), folded(other), "{one} {other}");
    }
    assert_ne!(folded("a-b"), folded("a_b"));
    assert_eq!((parent_of("a/b/c"), parent_of("a")), ("a/b", ""));
    assert!(has_drive("z:") && !has_drive(":a") && !has_drive("ab:"));
    assert!(is_device("PRN ") && !is_device("prns"));
}
