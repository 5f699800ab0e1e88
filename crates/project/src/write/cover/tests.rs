#![allow(clippy::unwrap_used)]

use super::patterns::{GitPatterns, git_ignores, image_ignores};
use std::fs;
use std::process::Command;
use tempfile::TempDir;

#[test]
fn patterns_are_read_as_git_reads_them() {
    let place = TempDir::new().unwrap();
    let git = |args: &[&str]| {
        let mut git = Command::new("git");
        git.args(args).current_dir(place.path()).env("GIT_CONFIG_GLOBAL", "/dev/null");
        git.env("GIT_CONFIG_NOSYSTEM", "1").output().unwrap()
    };
    assert!(git(&["init", "--quiet"]).status.success());
    fs::create_dir_all(place.path().join("d/e")).unwrap();
    let paths =
        [".env", "d/.env", "d/e/.env", "d/e/a b", "x{y,z}", "xy", "tab", "sp ", "#a", "!a", "é", "a*b"];
    for path in paths {
        fs::write(place.path().join(path), "").unwrap();
    }
    let texts = [
        ".env\n",
        "/.env\n",
        "*.env\n",
        "d/\n",
        "d\n!d/.env\n",
        "d/*\n!d/.env\n",
        "d/**\n!d/e/\n!d/e/.env\n",
        "**/.env\n",
        "d/**/.env\n",
        "/d/e\n",
        "x{y,z}\n",
        "{xy,tab}\n",
        "tab\t\n",
        "sp \n",
        "sp\\ \n",
        "#a\n",
        "\\#a\n",
        "!a\n",
        "\\!a\n",
        ".env\r\n",
        ".env\n!.env\n",
        "!.env\n.env\n",
        "\u{feff}.env\n",
        "[.]env\n",
        ".en?\n",
        "d/e/\n",
        "e\n",
        "*\n!.env\n",
        "*\n!*/\n!.env\n",
        "\\.env\n",
        "a\\*b\n",
        "a*b\n",
        "**\n",
        "/*\n",
        "d/e/a b\n",
        "\u{e9}\n",
        ".env ",
        ".env/\n",
        "//.env\n",
        "./.env\n",
        "[a-\n",
        "**/\n",
        "e/**\n",
        "/**/e\n",
    ];
    for nested in [None, Some("!.env\n"), Some("*\n")] {
        let _ = fs::remove_file(place.path().join("d/.gitignore"));
        if let Some(text) = nested {
            fs::write(place.path().join("d/.gitignore"), text).unwrap();
        }
        for text in texts {
            fs::write(place.path().join(".gitignore"), text).unwrap();
            let mut files: Vec<GitPatterns> =
                nested.iter().map(|nested| GitPatterns::new("d", nested.as_bytes())).collect();
            files.push(GitPatterns::new("", text.as_bytes()));
            for path in paths {
                let expected = git(&["check-ignore", "--quiet", "--no-index", "--", path]).status.success();
                assert_eq!(git_ignores(&files, path), expected, "{text:?} {nested:?} {path:?}");
            }
        }
    }
}

#[test]
fn images_leave_out_what_their_ignore_file_names() {
    for (text, path, expected) in [
        (".env\n", ".env", true),
        (".env\n", "d/.env", false),
        ("**/.env\n", "d/.env", true),
        ("**/.env\n", ".env", true),
        ("*.env\n", "d/x.env", false),
        ("d\n", "d/e/.env", true),
        ("/d/\n", "d/.env", true),
        ("*\n!.env\n", ".env", false),
        ("!.env\n*\n", ".env", true),
        ("d\n!d/.env\n", "d/.env", false),
        ("# .env\n", ".env", false),
        (" .env \r\n", ".env", true),
        ("{.env,x}\n", ".env", false),
        ("", ".env", false),
    ] {
        assert_eq!(image_ignores(text, path), expected, "{text:?} {path}");
    }
}
