//! The built-in molds as projects: every variant is complete, builds and passes its own tests, with
//! odd answers too.
#![allow(clippy::unwrap_used)]

mod common;
use common::{Place, cast, has, left_out};
use std::process::Command;
use tinmold_author::combinations;
use tinmold_mold::model::Mold;
use tinmold_mold::package::{built_in, built_in_names};

/// Checks every file of a project: no tag is left, nor a stray blank line.
fn is_whole(place: &Place, folder: &str) {
    let files = place.listing(folder);
    let empty = files.iter().filter(|path| path.ends_with('/'));
    let empty: Vec<_> = empty
        .filter(|folder| !files.iter().any(|file| file != *folder && file.starts_with(*folder)))
        .collect();
    assert!(empty.is_empty(), "{folder}: {empty:?}");
    for file in files.iter().filter(|path| !path.ends_with('/') && !path.starts_with(".tinmold")) {
        let text = place.read(&format!("{folder}/{file}"));
        assert!(!text.contains("{=") && !text.contains("=}"), "{folder}/{file} holds a tag");
        let lines = text.replace("\r\n", "\n");
        let scars = [
            lines.contains("\n\n\n\n"),
            lines.starts_with('\n'),
            lines.ends_with("\n\n"),
            !lines.is_empty() && !lines.ends_with('\n'),
            lines.lines().any(|line| line.trim_end() != line),
        ];
        assert!(!scars.contains(&true), "{folder}/{file} has a scar ({scars:?}):\n{text}");
    }
    // Users of a terminal find the same words in each.
    let makefile = place.read(&format!("{folder}/Makefile"));
    let has_twin = place.path(&format!("{folder}/make.cmd")).exists();
    let twin = if has_twin { place.read(&format!("{folder}/make.cmd")) } else { String::new() };
    let readme = place.read(&format!("{folder}/README.md"));
    for target in
        makefile.lines().filter_map(|line| line.strip_prefix(".PHONY: ")).flat_map(str::split_whitespace)
    {
        assert!(makefile.contains(&format!("\n{target}:")), "{folder}: {target} is no target");
        assert!(
            !has_twin || target == "help" || twin.contains(&format!("\n:{target}\r\n")),
            "{folder}: make.cmd has no {target}"
        );
        assert!(
            target == "help" || readme.contains(&format!("make {target}")),
            "{folder}: README.md has no {target}"
        );
    }
    let has_target = |target: &str| makefile.contains(&format!("\n{target}:"));
    for target in ["setup", "build", "test", "clean"] {
        assert!(has_target(target), "{folder}: there is no make {target}");
    }
    assert!(has_target("live") || has_target("watch"), "{folder}: nothing starts it again");
}

#[test]
fn every_two_choices_of_every_mold_go_together() {
    let place = Place::in_memory();
    for name in built_in_names() {
        place.run(&["check", name, "--strict"]).says(0, &[]);
        let mold = Mold::load(built_in(name).unwrap()).unwrap();
        let sets = combinations(&mold, 2).unwrap();
        assert!(sets.len() > 4, "{name} has only {} sets", sets.len());
        for (at, set) in sets.iter().enumerate() {
            let folder = format!("{name}-{at}");
            let mut command = place.command();
            command.args(["cast", name, &folder, "--unattended", "--skip-preflight", "--quiet"]);
            command.args(set.arguments());
            place.finish(&mut command).says(0, &[]);
            // What comes out of it is a mold, with tags of its own.
            if name == "mold" {
                place.run(&["check", &format!("./{folder}"), "--strict"]).says(0, &[]);
                continue;
            }
            is_whole(&place, &folder);
            let files = place.listing(&folder);
            if files.contains(&"Containerfile".to_owned()) {
                context_is_right(&place, &folder, &files);
            }
            for (option, file) in [
                ("editor", ".editorconfig"),
                ("ci", ".github/workflows/tests.yml"),
                ("container", "Containerfile"),
                ("updates", ".github/dependabot.yml"),
            ] {
                let is_ticked =
                    set.answer("extras").unwrap_or("").split(',').any(|ticked| ticked.trim() == option);
                assert!(at == 0 || files.contains(&file.to_owned()) == is_ticked, "{folder} {file}: {set:?}");
            }
        }
    }
}

/// Whether a container file finds all that it copies, and its context leaves out what must stay here.
/// Patterns are of the form of `.dockerignore`: from the root, `*` within a name.
fn context_is_right(place: &Place, folder: &str, files: &[String]) {
    let text = place.read(&format!("{folder}/.dockerignore"));
    assert_eq!(text, place.read(&format!("{folder}/.containerignore")), "{folder}");
    let mut ignored = globset::GlobSetBuilder::new();
    for pattern in text.lines().filter(|line| !line.is_empty()) {
        for pattern in [pattern.to_owned(), format!("{pattern}/**")] {
            ignored.add(globset::GlobBuilder::new(&pattern).literal_separator(true).build().unwrap());
        }
    }
    let ignored = ignored.build().unwrap();
    let kept_out = place.read(&format!("{folder}/.gitignore"));
    for secret in [".git/config", ".env", ".venv/bin/python", "node_modules/x/index.js", "target/debug/x"] {
        let mut lines = kept_out.lines().map(|line| line.trim_matches('/')).filter(|line| !line.is_empty());
        let stays_here = secret.starts_with(".git/") || lines.any(|line| secret.starts_with(line));
        assert!(!stays_here || ignored.is_match(secret), "{folder}: {secret} would come into the image");
    }
    let container = place.read(&format!("{folder}/Containerfile"));
    for line in container.lines().filter(|line| line.starts_with("COPY ") && !line.contains("--from=")) {
        let words: Vec<_> = line.split_whitespace().skip(1).collect();
        for source in words[..words.len() - 1].iter().filter(|source| **source != ".") {
            // The lock is made by the first setup.
            let is_lock = matches!(
                *source,
                "go.sum"
                    | "Cargo.lock"
                    | "uv.lock"
                    | "constraints.txt"
                    | "package-lock.json"
                    | "pnpm-lock.yaml"
                    | "yarn.lock"
            );
            let is_there = |file: &String| file == source || file.starts_with(&format!("{source}/"));
            assert!(is_lock || files.iter().any(is_there), "{folder}: {line}");
            assert!(!ignored.is_match(source), "{folder}: {source} is ignored");
        }
    }
}

const LONG_NAME: &str = "name=the-ferry-tables-of-saltmarsh-county-and-old-piers";

#[test]
fn what_the_molds_promise_offline_is_true() {
    let place = Place::new();
    // The mold, its tool, answers, and parts with their names: without packages from a registry
    // each builds, passes its tests, runs and cleans up, also after the parts are fitted.
    type Case = (&'static str, &'static str, Vec<&'static str>, Vec<[&'static str; 2]>);
    let cases: Vec<Case> = vec![
        ("python-service", "python3", vec![], vec![]),
        ("python-service", "python3", vec!["log=text"], vec![["route", "tides"], ["route", "departures"]]),
        // Names as long as they may be: the format holds for them too.
        (
            "rust-cli",
            "cargo",
            vec![LONG_NAME, "arguments=std"],
            vec![["command", "departureboardsofall"], ["command", "tides"]],
        ),
        ("rust-cli", "cargo", vec!["arguments=std", "extras=", "licence=MIT"], vec![]),
        ("c-tool", "cc", vec!["extras="], vec![["module", "tides"]]),
        ("c-tool", "cc", vec!["shape=library", "extras="], vec![]),
        ("c-tool", "clang-tidy", vec!["shape=both", "standard=c23"], vec![["module", "tides"]]),
        ("c-tool", "cmake", vec!["shape=both", "build=cmake", "extras="], vec![["module", "tides"]]),
        ("node-service", "node", vec![], vec![["route", "tide-tables"]]),
        ("web-app", "node", vec![], vec![["page", "tide-tables"]]),
        ("java-app", "javac", vec![], vec![]),
        ("docs-site", "python3", vec![], vec![["page", "tide-tables"]]),
        ("docs-site", "python3", vec!["languages=de,en,fr,es", "extras="], vec![]),
        ("go-service", "go", vec![], vec![["route", "tides"], ["route", "departures"], ["package", "piers"]]),
        ("go-cli", "go", vec![], vec![["command", "tide-windows"], ["package", "piers"]]),
    ];
    for (at, (mold, tool, answers, parts)) in cases.iter().enumerate() {
        if !has(tool) {
            left_out(&format!("{mold} with {answers:?} is built"), tool);
            continue;
        }
        let folder = format!("p{at}");
        let mut command = place.command();
        command.args(["cast", mold, &folder, "--unattended", "--quiet"]);
        for answer in answers {
            command.args(["--set", answer]);
        }
        place.finish(&mut command).says(0, &[]);
        for [part, name] in parts {
            place.run(&["fit", part, name, "--dir", &folder, "--unattended"]).says(0, &[]);
        }
        let before = place.listing(&folder);
        let makefile = place.read(&format!("{folder}/Makefile"));
        for target in ["setup", "build", "test", "lint", "clean"] {
            // The tools of the linter are fetched.
            let fetched = (*tool == "python3" && matches!(target, "setup" | "lint"))
                || (*tool == "go" && target == "lint");
            if fetched || !makefile.contains(&format!("\n{target}:")) {
                continue;
            }
            if target == "lint" && *mold == "rust-cli" && !has("cargo-clippy") {
                left_out("rust-cli is linted", "cargo-clippy");
                continue;
            }
            let make = |target: &str| {
                let mut make = Command::new("make");
                make.args(["-s", target])
                    .current_dir(place.path(&folder))
                    .env_remove("CARGO_TARGET_DIR")
                    .env_remove("RUSTFLAGS");
                place.finish(&mut make)
            };
            make(target).says(0, &[]);
        }
        let left: Vec<String> = place
            .listing(&folder)
            .into_iter()
            .filter(|path| !before.contains(path) && path != "Cargo.lock")
            .collect();
        assert!(left.is_empty(), "{folder}: make clean leaves {left:?}");
    }
}

#[test]
fn every_part_goes_in_and_comes_out_again() {
    let place = Place::in_memory();
    // The mold, answers that its parts need, and each part with a name and with a reserved one.
    let cases = [
        ("python-service", "", "route", "tides", "class"),
        ("python-service", "web=flask", "route", "tides", "None"),
        ("python-service", "web=fastapi database=sqlite", "route", "tides", "notes"),
        ("python-service", "web=flask", "dependency", "httpx[http2]>=0.28", "a b"),
        ("python-library", "", "module", "tides", "lambda"),
        ("python-library", "", "dependency", "attrs", "x!"),
        ("python-site", "", "page", "lost_property", "admin"),
        ("python-site", "database=postgres", "table", "berth", "class"),
        ("python-site", "", "area", "crew_room", "frame"),
        ("python-site", "", "dependency", "attrs", "a b"),
        ("rust-cli", "arguments=std", "command", "tides", "count"),
        ("rust-cli", "", "command", "tide-table", "match"),
        ("rust-cli", "", "dependency", "anyhow@1", "any how"),
        ("rust-service", "", "route", "tide-tables", "fn"),
        ("rust-service", "web=actix database=postgres", "route", "tide-tables", "lib"),
        ("rust-service", "web=axum", "dependency", "itoa@1", "@1"),
        ("node-service", "language=ts web=express", "route", "tide-tables", "Tides"),
        ("node-service", "web=fastify", "dependency", "@types/node@22", "@types"),
        ("web-app", "", "page", "tide-tables", "missing"),
        ("web-app", "view=react", "page", "tide-tables", "frame"),
        ("web-app", "view=vue language=ts", "component", "tide-table", "../x"),
        ("web-app", "view=react language=ts style=components", "client", "berths", "notes"),
        ("web-app", "view=vue", "dependency", "zod@4", "Zod"),
        ("java-service", "", "route", "tide-tables", "notes"),
        ("java-service", "web=spring modules=several", "route", "tide-tables", "actuator"),
        ("java-service", "web=spring modules=several", "dependency", "org.example:tides:1.0", "tides"),
        ("java-app", "build=maven", "dependency", "org.example:tides:1.0", "tides"),
        ("java-library", "", "dependency", "org.example:tides:1.0", "org.example:tides"),
        ("java-library", "", "class", "TideTable", "class"),
        ("c-tool", "build=cmake shape=both", "module", "tides", "int"),
        ("docs-site", "languages=de,en", "page", "tide-tables", "a/b"),
        ("go-service", "web=gin database=postgres", "route", "tides", "notes"),
        ("go-service", "", "package", "piers", "func"),
        ("go-service", "web=chi", "dependency", "golang.org/x/text@v0.30.0", "golang.org/x/text"),
        ("go-cli", "", "command", "tide-tables", "count"),
        ("go-cli", "", "package", "piers", "Piers"),
        ("go-cli", "arguments=cobra", "dependency", "golang.org/x/text@v0.30.0", "text"),
    ];
    let files = |folder: &str| -> Vec<(String, String)> {
        let all = place.listing(folder).into_iter().filter(|path| !path.ends_with('/'));
        all.map(|path| (place.read(&format!("{folder}/{path}")), path)).collect()
    };
    for (at, (mold, answers, part, name, refused)) in cases.iter().enumerate() {
        let folder = format!("p{at}");
        let answers: Vec<_> = answers.split(' ').filter(|answer| !answer.is_empty()).collect();
        cast(&place, mold, &folder, &answers);
        let before = files(&folder);
        let fit =
            |more: &[&str]| place.run(&[&["fit", "--dir", folder.as_str(), "--unattended"], more].concat());
        fit(&[part, refused]).says(2, &[]);
        let dry = fit(&[part, name, "--dry-run"]).says(0, &[]);
        assert_eq!(files(&folder), before, "{mold} {part}: {}", dry.out);
        fit(&[part, name]).says(0, &[]);
        place.run(&["status", &folder]).says(0, &[]);
        if *part != "dependency" {
            is_whole(&place, &folder);
            let slug = name.replace('_', "-");
            let readme = place.read(&format!("{folder}/README.md"));
            assert!(
                matches!(*part, "class" | "package")
                    || *mold == "c-tool"
                    || *mold == "web-app"
                    || *mold == "docs-site"
                    || readme.contains(&slug),
                "{readme}"
            );
        }
        fit(&[part, name]).says(0, &[]);
        fit(&["--undo"]).says(0, &[]);
        assert_eq!(files(&folder), before, "{mold} {part}");
    }
    let parts: std::collections::BTreeSet<_> =
        cases.iter().map(|(mold, _, part, ..)| (*mold, *part)).collect();
    for name in built_in_names() {
        let mold = Mold::load(built_in(name).unwrap()).unwrap();
        for part in mold.parts() {
            assert!(parts.contains(&(name, part)), "{name} {part} is not tried");
        }
    }
}

/// Prints what the manifest of a Python project says that it is for.
const DESCRIPTION: &str = "python3 -c 'import tomllib; print(tomllib.load(open(\"pyproject.toml\", \"rb\"))[\"project\"][\"description\"])'";

#[test]
fn free_text_stays_text() {
    let hostile = [
        "quotes \" ' ` and \\ in it, \\u0041 ??/ %s %d",
        "$(touch pwned) `touch pwned` ${HOME} %PATH% && touch pwned",
        "{= name =} {{ x }} <%= y %> #{z} =}",
        "</p><script>&amp; ]]> --> */ # // ;",
        "emoji \u{1f6a2} and \u{645}\u{631}\u{62d}\u{628}\u{627} \u{202e}turned\u{202c}",
        "\u{e9}\u{301} | tabs? ~ ^ * _ [x](y) <z> \\",
    ];
    let all = hostile.join(" ");
    let long = "long ".repeat(2000);
    let place = Place::new();
    // The mold, its tool, a script that must succeed, and one that prints the text.
    let molds = [
        ("python-service", "python3", "make test", DESCRIPTION),
        ("python-library", "python3", "python3 -m compileall -q src tests", DESCRIPTION),
        ("python-site", "python3", "python3 -m compileall -q src", DESCRIPTION),
        (
            "docs-site",
            "python3",
            "make test",
            "python3 -c 'import tomllib; print(tomllib.load(open(\"site.toml\", \"rb\"))[\"summary\"])'",
        ),
        ("rust-cli", "cargo", "cargo build --quiet", "cargo run --quiet -- help"),
        (
            "rust-service",
            "cargo",
            "cargo metadata --no-deps --offline --format-version 1",
            "cargo metadata --no-deps --offline --format-version 1 | python3 -c 'import json, sys; print(json.load(sys.stdin)[\"packages\"][0][\"description\"])'",
        ),
        ("c-tool", "cc", "make build", "build/FOLDER --help"),
        ("node-service", "node", "make test", "node -p 'require(\"./package.json\").description'"),
        ("web-app", "node", "make test", "node -p 'require(\"./package.json\").description'"),
        ("java-app", "javac", "make build", "java -jar build/FOLDER.jar --help"),
        ("go-cli", "go", "make build", "build/FOLDER --help"),
    ];
    for (mold, tool, build, tells) in molds {
        for (folder, text) in
            [(mold.replace('-', "") + "a", all.as_str()), (mold.replace('-', "") + "b", long.trim())]
        {
            let set = format!("summary={text}");
            // Every other text that a licence holder may type, too.
            let mut command = place.command();
            command.args([
                "cast",
                mold,
                &folder,
                "--unattended",
                "--quiet",
                "--skip-preflight",
                "--preset",
                "team",
                "--set",
                &set,
            ]);
            if mold == "node-service" {
                command.args(["--set", "language=js", "--set", "web=node"]);
            }
            if mold == "rust-cli" {
                command.args(["--set", "arguments=std"]);
            }
            if mold == "web-app" {
                command.args(["--set", "language=js", "--set", "view=none", "--set", "extras=editor"]);
            }
            if mold == "java-app" {
                command.args(["--set", "build=make"]);
            }
            if mold == "go-cli" {
                command.args(["--set", "arguments=flag"]);
            }
            if mold == "docs-site" {
                command.args(["--set", "tool=plain"]);
            }
            if matches!(mold, "web-app" | "docs-site" | "python-site") {
                command.args(["--set", &format!("title={text}")]);
            }
            command.args(["--set", "licence=MIT", "--set", &format!("holder={text}")]);
            place.finish(&mut command).says(0, &[]);
            let part = match mold {
                "python-service" | "node-service" | "rust-service" => Some(["route", "tides", "does"]),
                "python-library" | "c-tool" => Some(["module", "tides", "does"]),
                "rust-cli" | "go-cli" => Some(["command", "tides", "does"]),
                "docs-site" | "web-app" => Some(["page", "tides", "heading"]),
                _ => None,
            };
            if let Some([part, name, key]) = part {
                let set = format!("{key}={text}");
                let fit = ["fit", part, name, "--dir", &folder, "--unattended", "--set", &set];
                place.run(&fit).says(0, &[]);
            }
            if !has(tool) {
                left_out(&format!("{mold} with odd answers is built"), tool);
                continue;
            }
            for script in [build, tells] {
                let script = script.replace("FOLDER", &folder);
                let mut shell = Command::new("sh");
                shell
                    .args(["-c", &script])
                    .current_dir(place.path(&folder))
                    .env_remove("CARGO_TARGET_DIR")
                    .env("LC_ALL", "C.UTF-8");
                let ran = place.finish(&mut shell).says(0, &[]);
                assert!(script.starts_with(build) || ran.out.contains(text), "{mold}: {}", ran.out);
            }
            let pwned = place.listing(&folder).into_iter().find(|path| path.contains("pwned"));
            assert_eq!(pwned, None, "{mold}");
        }
    }
    // The manifests are read back by parsers of their own.
    for folder in ["pythonservicea", "pythonlibrarya", "pythonsitea", "rustclia", "rustservicea"]
        .iter()
        .filter(|folder| place.path(folder).exists())
    {
        for manifest in ["pyproject.toml", "Cargo.toml"]
            .iter()
            .filter(|file| place.path(&format!("{folder}/{file}")).exists())
        {
            let read: toml::Table = place.read(&format!("{folder}/{manifest}")).parse().unwrap();
            let project = read.get("project").or(read.get("package")).unwrap();
            assert_eq!(project["description"].as_str(), Some(all.as_str()), "{manifest}");
        }
    }
    for wrong in ["", " ", "two\nlines", "a\u{7}b", "a\u{2028}b", "a\u{0}b"] {
        if !wrong.contains('\u{0}') {
            place
                .run(&["cast", "python-service", "w", "--unattended", "--set", &format!("summary={wrong}")])
                .says(2, &[]);
        }
        let sheet = serde_json::json!({ "summary": wrong }).to_string();
        place.run_with(&["cast", "python-service", "w", "--unattended", "--sheet", "-"], &sheet).says(2, &[]);
    }
    assert!(!place.path("w").exists());
}
