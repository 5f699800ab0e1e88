//! The built-in molds as projects: every variant is whole, builds and passes its own tests, whatever is answered.
#![allow(clippy::unwrap_used)]

mod common;
use common::{Place, Ran};
use std::process::Command;

/// Runs a program in a folder of the place.
fn run_in(place: &Place, folder: &str, program: &str, args: &[&str]) -> Ran {
    place.finish(Command::new(program).args(args).current_dir(place.path(folder)))
}

#[test]
fn every_variant_of_python_service_is_whole() {
    let place = Place::new();
    let options = ["editor", "ci", "lint", "container"];
    let extras = (0..16).map(|ticked| {
        let chosen = options.iter().enumerate().filter(|(at, _)| ticked >> at & 1 == 1);
        chosen.map(|(_, option)| *option).collect::<Vec<_>>().join(",")
    });
    for (at, extras) in extras.enumerate() {
        let folder = format!("v{at}");
        let log = if at % 2 == 0 { "log=json" } else { "log=text" };
        let extras = format!("extras={extras}");
        place
            .run(&["cast", "python-service", &folder, "--unattended", "--set", log, "--set", &extras])
            .says(0, &[]);
        let files = place.listing(&folder);
        for (option, file) in [
            ("editor", ".editorconfig"),
            ("ci", ".github/workflows/tests.yml"),
            ("container", "Containerfile"),
        ] {
            assert_eq!(files.contains(&file.to_owned()), extras.contains(option), "{extras} {file}");
        }
        let empty = files.iter().filter(|path| path.ends_with('/'));
        let empty: Vec<_> = empty
            .filter(|folder| !files.iter().any(|file| file != *folder && file.starts_with(*folder)))
            .collect();
        assert!(empty.is_empty(), "{empty:?}");
        for file in files.iter().filter(|path| !path.ends_with('/')) {
            let text = place.read(&format!("{folder}/{file}"));
            assert!(!text.contains("{=") && !text.contains("=}"), "{file} holds a tag");
            let lines = text.replace("\r\n", "\n");
            let scars = [
                lines.contains("\n\n\n\n"),
                lines.starts_with('\n'),
                lines.ends_with("\n\n"),
                !lines.ends_with('\n'),
            ];
            assert!(!scars.contains(&true), "{file} has blank lines too many or no line break at its end");
            assert!(
                lines.lines().all(|line| line.trim_end() == line),
                "{file} has spaces at the end of a line"
            );
        }
        assert!(
            place
                .read(&format!("{folder}/src/{folder}/config.py"))
                .contains(&log.replace("log=", "log_format: str = \""))
        );
    }
    run_in(&place, "v7", "make", &["test"]).says(0, &["OK"]);
    run_in(&place, "v0", "make", &["setup"]).says(0, &[]);
    run_in(&place, "v0", "make", &["clean"]).says(0, &[]);
    assert!(!place.listing("v0").iter().any(|path| path.contains("__pycache__")));
    assert_eq!(run_in(&place, "v0", "make", &[]).says(0, &[]).out.lines().count(), 4);
}

#[test]
fn free_text_stays_text() {
    let long = "long ".repeat(2000);
    let hostile = [
        "quotes \" ' ` and \\ at the end \\",
        "$(touch pwned) `touch pwned` ${HOME} %PATH% && touch pwned",
        "{= name =} {{ x }} <%= y %> #{z} =}",
        "</p><script>&amp; ]]> --> */ # // ;",
        "emoji \u{1f6a2} and \u{645}\u{631}\u{62d}\u{628}\u{627} \u{202e}turned\u{202c}",
        "\u{e9}\u{301} | tabs? ~ ^ * _ [x](y) <z>",
        long.trim(),
    ];
    let place = Place::new();
    for (at, text) in hostile.iter().enumerate() {
        let folder = format!("t{at}");
        let set = format!("summary={text}");
        place
            .run(&["cast", "python-service", &folder, "--unattended", "--set", &set, "--preset", "team"])
            .says(0, &[]);
        // The manifest is read back by Python's own parser, the module by its own compiler.
        let script = "import sys, json, runpy\n\
            names = runpy.run_path('src/' + sys.argv[1] + '/__init__.py')\n\
            text = open('pyproject.toml', encoding='utf-8').read()\n\
            line = next(line for line in text.splitlines() if line.startswith('description'))\n\
            try:\n    import tomllib; described = tomllib.loads(text)['project']['description']\n\
            except ImportError:\n    described = names['SUMMARY']\n\
            print(json.dumps([names['SUMMARY'], described, line.count('\\n')]))\n";
        let ran = run_in(&place, &folder, "python3", &["-c", script, &folder]).says(0, &[]);
        let read: serde_json::Value = serde_json::from_str(&ran.out).unwrap();
        assert_eq!((read[0].as_str(), read[1].as_str()), (Some(*text), Some(*text)));
        let compiled = run_in(&place, &folder, "python3", &["-m", "compileall", "-q", "src", "tests"]);
        compiled.says(0, &[]);
        assert!(!place.listing("").iter().any(|path| path.contains("pwned")));
    }
    run_in(&place, "t1", "make", &["test"]).says(0, &["OK"]);
    for wrong in ["", " ", "two\nlines", "a\u{7}b", "a\u{2028}b", "a\u{0}b"] {
        if !wrong.contains('\u{0}') {
            place
                .run(&["cast", "python-service", "w", "--unattended", "--set", &format!("summary={wrong}")])
                .says(2, &["summary"]);
        }
        let sheet = serde_json::json!({ "summary": wrong }).to_string();
        place
            .run_with(&["cast", "python-service", "w", "--unattended", "--sheet", "-"], &sheet)
            .says(2, &["summary"]);
    }
    assert!(!place.path("w").exists());
}

#[test]
fn the_service_answers_where_it_says() {
    let place = Place::new();
    // A free port, as the system gives it; the service is told it as an answer.
    let port = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
    place
        .run(&["cast", "python-service", "s", "--unattended", "--set", &format!("port={port}")])
        .says(0, &["make run"]);
    // What the service is asked, with what its own Python has: it stops it cleanly in the end.
    let script = format!(
        "import json, signal, subprocess, sys, time, urllib.request\n\
         service = subprocess.Popen(['make', '-s', 'run'], stderr=subprocess.PIPE, text=True, start_new_session=True)\n\
         first = json.loads(service.stderr.readline())\n\
         assert first['message'] == 'listening on http://127.0.0.1:{port}', first\n\
         ask = lambda path: json.load(urllib.request.urlopen('http://127.0.0.1:{port}' + path, timeout=10))\n\
         assert ask('/health') == {{'status': 'ok'}}\n\
         assert [d['from'] for d in ask('/departures')] == ['Gull Point', 'Netley Stairs']\n\
         import os; os.killpg(service.pid, signal.SIGTERM)\n\
         rest = service.stderr.read()\n\
         assert '\"message\": \"stopped\"' in rest, rest\n"
    );
    run_in(&place, "s", "python3", &["-c", &script]).says(0, &[]);
}
