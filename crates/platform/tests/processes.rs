//! Programs: found in absolute directories only, ended with everything that they started.
#![cfg(unix)]
#![allow(clippy::unwrap_used)]

use std::cell::Cell;
use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::path::Path;
use std::time::Duration;
use tempfile::TempDir;
use tinmold_platform::process::{Ended, Outcome, capture, command, programs, run, search_path};

const LONG: Duration = Duration::from_secs(60);

fn script(folder: &Path, name: &str, text: &str) {
    let path = folder.join(name);
    fs::write(&path, format!("#!/bin/sh\n{text}\n")).unwrap();
    fs::set_permissions(path, fs::Permissions::from_mode(0o755)).unwrap();
}

fn output_of(folder: &Path, program: &str, limit: Duration) -> (Outcome, String) {
    let mut output = String::new();
    let outcome = run(&mut command(program, folder), limit, &|| false, &mut |line| {
        output += &String::from_utf8_lossy(line);
    });
    (outcome, output)
}

#[test]
fn a_path_has_absolute_directories_only() {
    let place = TempDir::new().unwrap();
    for folder in ["one", "two"] {
        fs::create_dir(place.path().join(folder)).unwrap();
        script(&place.path().join(folder), "tide", "echo tide");
    }
    fs::write(place.path().join("two/notes"), "not a program").unwrap();
    fs::create_dir(place.path().join("two/berth")).unwrap();
    let (one, two) = (place.path().join("one"), place.path().join("two"));
    let joined = std::env::join_paths([&two, Path::new("."), Path::new(""), &one, &two]).unwrap();
    let directories = search_path(Some(&joined));
    assert_eq!(directories, [two.clone(), one.clone()]);
    assert_eq!(programs("tide", &directories).collect::<Vec<_>>(), [two.join("tide"), one.join("tide")]);
    for name in ["notes", "berth", "none"] {
        assert_eq!(programs(name, &directories).count(), 0, "{name}");
    }
    assert!(search_path(None).is_empty());
}

#[test]
fn a_program_ends_as_it_says() {
    let place = TempDir::new().unwrap();
    script(place.path(), "says", "echo one; echo two >&2; cat; printf three");
    script(place.path(), "fails", "exit 7");
    script(place.path(), "dies", "kill -9 $$");
    let (outcome, output) = output_of(place.path(), "./says", LONG);
    assert!(outcome.ended.is_success() && output == "one\ntwo\nthree", "{outcome:?} {output}");
    assert_eq!(output_of(place.path(), "./fails", LONG).0.ended, Ended::Exit(7));
    assert_eq!(output_of(place.path(), "./dies", LONG).0.ended, Ended::Signal(9));
    fs::write(place.path().join("plain"), "no program").unwrap();
    for program in ["no-such-program-here", "./none", "./plain"] {
        let ended = output_of(place.path(), program, LONG).0.ended;
        assert!(matches!(ended, Ended::NotStarted(_)), "{program}: {ended:?}");
    }
    // A program without a slash is never taken from the working directory.
    script(place.path(), "tide-of-the-tests", "echo here");
    let ended = output_of(place.path(), "tide-of-the-tests", LONG).0.ended;
    assert!(matches!(ended, Ended::NotStarted(_)), "{ended:?}");
}

#[test]
fn a_program_that_is_stopped_takes_its_children_along() {
    let place = TempDir::new().unwrap();
    script(place.path(), "hangs", "sleep 600 & echo $! >child; echo ready; wait");
    let is_alive = || {
        let number = fs::read_to_string(place.path().join("child")).unwrap();
        let state = fs::read_to_string(format!("/proc/{}/stat", number.trim())).unwrap_or_default();
        !state.is_empty() && !state.contains(") Z ")
    };
    let ready = Cell::new(false);
    let ended =
        run(&mut command("./hangs", place.path()), LONG, &|| ready.get(), &mut |_| ready.set(true)).ended;
    assert_eq!(ended, Ended::Cancelled);
    assert!(!Path::new("/proc").exists() || !is_alive());
    let (outcome, _) = output_of(place.path(), "./hangs", Duration::from_millis(500));
    assert_eq!(outcome.ended, Ended::TimedOut);
    assert!(!Path::new("/proc").exists() || !is_alive());
}

#[test]
fn output_is_read_to_its_end_or_called_cut() {
    let place = TempDir::new().unwrap();
    // A child that outlives the program ends within the two seconds, or holds the output open.
    script(place.path(), "late", "(sleep 0.4; echo last) & echo first");
    script(place.path(), "daemon", "sleep 20 & echo first");
    script(place.path(), "long", "head -c 3000000 /dev/zero | tr '\\0' x; echo; echo error >&2");
    assert_eq!(output_of(place.path(), "./late", LONG).1, "first\nlast\n");
    let (outcome, output) = output_of(place.path(), "./daemon", LONG);
    assert!(
        outcome.ended.is_success() && output.starts_with("first\n(") && outcome.took < LONG / 4,
        "{output}"
    );
    let captured = |name: &str| capture(&mut command(name, place.path()), LONG).unwrap();
    assert_eq!(captured("./late").output, b"first\nlast\n");
    let long = captured("./long");
    assert_eq!((long.output.len(), &*long.errors, long.ended), (3_000_001, &b"error\n"[..], Ended::Exit(0)));
    assert_eq!(captured("./daemon").ended, Ended::Cut);
    script(place.path(), "slow", "sleep 20");
    let slow = capture(&mut command("./slow", place.path()), Duration::from_millis(200)).unwrap();
    assert_eq!(slow.ended, Ended::TimedOut);
}
