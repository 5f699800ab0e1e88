//! Without a person: what is taken, what is told, and what is left for a person as it was.
#![allow(clippy::unwrap_used)]

mod common;

use common::{Place, WRITE};
use std::fs;
use std::os::unix::fs::PermissionsExt;

const QUESTIONS: &str = "[[question]]\nkey = \"pier\"\nask = \"Pier\"\nkind = \"text\"\ndefault = \"Gull Point\"\n\
    [[question]]\nkey = \"berths\"\nask = \"Berths\"\nkind = \"integer\"\ndefault = 4\n";
const BODY: &[(&str, &str)] = &[("body/a", "{= pier =} {= berths =}")];

#[test]
fn missing_answers_name_the_defaults_that_are_taken() {
    let place = Place::new();
    place.mold(QUESTIONS, BODY);
    // A person once answered otherwise; that is offered to persons only.
    let mut terminal = place.terminal(&["cast", "./m", "first"]);
    terminal.sees("Pier").types("Tern Quay").sees("yours").types(WRITE).sees("Write it?").types("\r");
    terminal.sees("Written:");
    assert_eq!((terminal.ends(), place.read("first/a")), (0, "Tern Quay 4".into()));
    let said = place.run(&["cast", "./m", "x"]).says(3, &["--set pier=…", "\"Gull Point\"", "--unattended"]);
    assert!(!said.err.contains("Tern Quay"), "{}", said.err);
    place.run(&["cast", "./m", "second", "--unattended"]).says(0, &[]);
    assert_eq!(place.read("second/a"), "Gull Point 4");
    let dry = place.run(&["cast", "./m", "x", "--dry-run", "--unattended", "--show", "a"]).says(0, &[]);
    assert_eq!(dry.out.trim_end(), "Gull Point 4");
}

#[test]
fn unattended_casts_change_nothing_that_is_offered_next() {
    let place = Place::new();
    place.mold(QUESTIONS, BODY);
    let mut terminal = place.terminal(&["cast", "./m", "first"]);
    terminal.sees("Pier").types("Tern Quay").sees("yours").types(WRITE).sees("Write it?").types("\r");
    assert_eq!(terminal.ends(), 0);
    let stored = || {
        let all = ["answers", "recent", "drafts"];
        all.map(|name| {
            (place.listing(&format!(".home/state/tinmold/{name}")), {
                let folder = place.path(&format!(".home/state/tinmold/{name}"));
                fs::read_dir(folder)
                    .into_iter()
                    .flatten()
                    .map(|file| fs::read(file.unwrap().path()).unwrap())
                    .collect::<Vec<_>>()
            })
        })
    };
    let before = stored();
    for (number, more) in [&["--set", "pier=Osier Island"][..], &[]].into_iter().enumerate() {
        let folder = format!("u{number}");
        place.run(&[&["cast", "./m", &folder, "--unattended"], more].concat()).says(0, &[]);
    }
    place.run(&["cast", "python-service", "--unattended", "--quiet"]).says(0, &[]);
    assert_eq!(stored(), before);
    let mut terminal = place.terminal(&["cast", "./m", "next"]);
    terminal.sees("Tern Quay").sees("last time").types("\x03");
    assert_eq!(terminal.ends(), 130);
}

#[test]
fn a_tool_in_the_wrong_version_is_told_like_a_missing_one() {
    let place = Place::new();
    let need = |tool: &str| {
        format!(
            "[[need]]\ntool = \"{tool}\"\nversion = \">=2\"\nget = {{ linux = \"ask at Heron Stairs\", macos = \"ask at Heron Stairs\" }}\n"
        )
    };
    place.mold(&format!("{}{}{}", need("deno"), need("cmake"), need("ferry-none")), BODY_OF_NEEDS);
    for (name, version) in [("deno", "deno 1.4.0"), ("cmake", "cmake version 2.1.0")] {
        place.write(&format!("bin/{name}"), format!("#!/bin/sh\necho {version}\n"));
        let path = place.path(&format!("bin/{name}"));
        fs::set_permissions(path, fs::Permissions::from_mode(0o755)).unwrap();
    }
    let path = std::env::var("PATH").unwrap_or_default();
    let path = format!("{}:{path}", place.path("bin").display());
    let mut command = place.command();
    command.args(["cast", "./m", "--unattended"]).env("PATH", &path);
    let said =
        place.finish(&mut command).says(0, &["deno", "1.4.0", "ferry-none", "not found", "ask at Heron"]);
    assert!(!said.err.contains("cmake"), "{}", said.err);
    let mut terminal = place.terminal_with(&["cast", "./m", "t"], (110, 36), &[("PATH", &path)]);
    terminal.sees("! deno: other version").sees("1.4.0").sees("! ferry-none: missing");
    terminal.sees("cmake 2.1.0 ok").types("\x1b");
    assert_eq!(terminal.ends(), 0);
    let mut command = place.command();
    command.args(["cast", "./m", "s", "--unattended", "--skip-preflight"]).env("PATH", &path);
    let said = place.finish(&mut command).says(0, &[]);
    assert!(!said.err.contains("deno"), "{}", said.err);
}

const BODY_OF_NEEDS: &[(&str, &str)] = &[("body/a", "x")];

#[test]
fn an_input_that_ends_says_where() {
    let place = Place::new();
    place.mold(QUESTIONS, BODY);
    let plain = ["cast", "./m", "x", "--plain"];
    place.run_with(&plain, "").says(3, &["--set pier=…", "--set berths=…"]);
    place.run_with(&plain, "Osier Island\n").says(3, &["--set berths=…"]);
    let said = place
        .run_with(&plain, "Osier Island\n5\n")
        .says(3, &["where the write is confirmed", "--unattended"]);
    assert!(!said.err.contains("--set"), "{}", said.err);
    assert!(!place.path("x").exists());
    // Numbered options, help and the way back, without marks and hints in brackets.
    let said = place
        .run_with(&plain, "?\n<\nOsier Island\n<\nTern Quay\n6\nyes\n")
        .says(0, &["Enter takes Gull Point"]);
    assert!(!said.err.contains('[') && !said.err.contains('\u{1b}'), "{}", said.err);
    assert_eq!(place.read("x/a"), "Tern Quay 6");
}
