//! The ways of a recast: its base, its decisions, its report, what comes before and after it.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use common::recasts::{recast, version};
use common::{DOWN, Place, WRITE};
use serde_json::Value as Json;
use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::process::Command;

const LINES: &str = "one\ntwo\nthree\nfour\nfive\nsix\nseven\n";
const TOP: &str = "ONE\ntwo\nthree\nfour\nfive\nsix\nseven\n";
const END: &str = "one\ntwo\nthree\nfour\nfive\nsix\nSEVEN\n";
const BOTH: &str = "ONE\ntwo\nthree\nfour\nfive\nsix\nSEVEN\n";

/// A project of version 1, with one file.
fn project(text: &str) -> Place {
    let place = Place::new();
    version(&place, "1.0.0", "", &[("body/a.txt", text.as_bytes())]);
    place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
    place
}

fn git(place: &Place, args: &[&str]) {
    let mut git = place.command_of("git".as_ref());
    let names = [("GIT_AUTHOR_NAME", "Odile"), ("GIT_COMMITTER_NAME", "Odile")];
    let mails =
        [("GIT_AUTHOR_EMAIL", "odile@ferries.example"), ("GIT_COMMITTER_EMAIL", "odile@ferries.example")];
    git.args(args).current_dir(place.path("out")).envs(names).envs(mails);
    let ran = place.finish(&mut git);
    assert_eq!(ran.code, 0, "{}", ran.err);
}

#[test]
fn without_the_old_mold_the_history_of_the_project_tells() {
    for (name, has_git, turned, code) in [
        ("no history", false, false, 4),
        ("a history", true, false, 0),
        ("a history with other line endings", true, true, 0),
    ] {
        let place = project(LINES);
        if has_git {
            git(&place, &["init", "--quiet"]);
            if turned {
                place.write("out/a.txt", LINES.replace('\n', "\r\n"));
            }
            git(&place, &["add", "."]);
            git(&place, &["commit", "--quiet", "-m", "cast"]);
        }
        place.write("out/a.txt", TOP);
        fs::remove_dir_all(place.path(".home/state/tinmold/molds")).unwrap();
        version(&place, "2.0.0", "", &[("body/a.txt", END.as_bytes())]);
        let (found, report) = recast(&place, &[]);
        assert_eq!(found, code, "{name}: {report:#}");
        assert_eq!(place.read("out/a.txt"), if code == 0 { BOTH } else { TOP }, "{name}");
        // A file that is as recorded needs no base.
        place.write("out/a.txt", if code == 0 { END } else { LINES });
        assert_eq!(recast(&place, &[]).0, 0, "{name}");
        assert_eq!(place.read("out/a.txt"), END, "{name}");
    }
}

#[test]
fn permissions_and_bytes_merge_apart() {
    let place = Place::new();
    let script: &[u8] = b"#!/bin/sh\necho one\n";
    version(
        &place,
        "1.0.0",
        "",
        &[("body/run", script), ("body/image", b"\xff\x001"), ("body/other", b"\xff\x001")],
    );
    place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
    place.write("out/run", "#!/bin/sh\necho ONE\n");
    place.write("out/image", b"\xff\x002");
    version(
        &place,
        "2.0.0",
        "",
        &[("body/run", script), ("body/image", b"\xff\x003"), ("body/other", b"\xff\x003")],
    );
    fs::set_permissions(place.path("m/body/run"), fs::Permissions::from_mode(0o755)).unwrap();
    let (code, report) = recast(&place, &[]);
    assert_eq!((code, report["undecided"][0]["key"].as_str()), (4, Some("image")), "{report:#}");
    let (code, report) = recast(&place, &["--if-present", "replace"]);
    assert_eq!(code, 0, "{report:#}");
    let mode = |path: &str| fs::metadata(place.path(path)).unwrap().permissions().mode() & 0o777;
    assert_eq!((place.read("out/run").as_str(), mode("out/run")), ("#!/bin/sh\necho ONE\n", 0o755));
    assert_eq!(fs::read(place.path("out/image")).unwrap(), b"\xff\x003");
    assert_eq!(fs::read(place.path("out/other")).unwrap(), b"\xff\x003");
    place.run(&["recast", "out", "--undo", "--unattended"]).says(0, &[]);
    assert_eq!((mode("out/run"), fs::read(place.path("out/image")).unwrap()), (0o644, b"\xff\x002".to_vec()));
}

#[test]
fn a_skipped_version_gives_what_going_step_by_step_does() {
    let manifests = [
        ("1.0.0", "", "body/one.txt", LINES.to_owned()),
        ("2.0.0", "[[files]]\nmatch = \"two.txt\"\nwas = \"one.txt\"\n", "body/two.txt", END.to_owned()),
        (
            "3.0.0",
            "[[files]]\nmatch = \"three.txt\"\nwas = [\"two.txt\", \"one.txt\"]\n",
            "body/three.txt",
            END.replace("four", "FOUR"),
        ),
    ];
    let mut results = Vec::new();
    for steps in [&[1, 2][..], &[2]] {
        let place = Place::new();
        let make = |at: usize| {
            let (number, manifest, path, text) = &manifests[at];
            version(&place, number, manifest, &[(path, text.as_bytes())]);
        };
        make(0);
        place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
        place.write("out/one.txt", TOP);
        for step in steps {
            make(*step);
            assert_eq!(recast(&place, &[]).0, 0);
        }
        let record = place.read("out/.tinmold/casting.toml");
        let list = place.read("out/.tinmold/files.sha256");
        results.push((place.listing("out"), place.read("out/three.txt"), record, list));
    }
    assert_eq!(results[0], results[1]);
    assert_eq!(results[0].1, BOTH.replace("four", "FOUR"));
}

#[test]
fn a_project_knows_when_it_is_behind() {
    let place = project(LINES);
    place.run(&["recast", "out", "--check"]).says(0, &["up to date"]);
    version(&place, "1.1.0", "", &[("body/a.txt", END.as_bytes())]);
    place.run(&["recast", "out", "--check"]).says(4, &["1.1.0"]);
    place.run(&["status", "out"]).says(0, &["1.1.0", "recast --dry-run"]);
    let status = place.run(&["status", "out", "--format", "json"]).says(0, &[]);
    let status: Json = serde_json::from_str(&status.out).unwrap();
    assert_eq!(status["projects"][0]["newest"]["behind"], Json::Bool(true));
    place.run(&["cast", "./m", "second", "--unattended"]).says(0, &[]);
    let table = place.run(&["status", "out", "second"]).says(0, &[]).out;
    let cells = |line: &str| line.split_whitespace().map(str::to_owned).collect::<Vec<_>>();
    let rows: Vec<Vec<String>> = table.lines().map(cells).collect();
    assert_eq!((rows.len(), rows[1][3].as_str(), rows[2][3].as_str()), (3, "1.1.0", "–"), "{table}");
    // A question without a default: behind, though the version is the same.
    version(
        &place,
        "1.1.0",
        "[[question]]\nkey = \"port\"\nask = \"Port\"\nkind = \"integer\"\n",
        &[("body/a.txt", b"{= port =}\n")],
    );
    let checked = place.run(&["recast", "second", "--check", "--format", "json"]).says(4, &[]);
    let checked: Json = serde_json::from_str(&checked.out).unwrap();
    assert_eq!(checked["missing"], serde_json::json!(["port"]));
    place.run(&["recast", "second", "--unattended"]).says(3, &["port"]);
    place.run(&["recast", "second", "--unattended", "--set", "port=80"]).says(0, &[]);
    assert_eq!(place.read("second/a.txt"), "80\n");
    // An older version comes only by its name, and another mold never.
    version(&place, "1.0.0", "", &[("body/a.txt", LINES.as_bytes())]);
    place.run(&["recast", "second", "--unattended"]).says(2, &["older", "--to"]);
    place.run(&["recast", "second", "--unattended", "--to", "1.0.0"]).says(0, &[]);
    assert_eq!(place.read("second/a.txt"), LINES);
    place.run(&["recast", "out", "--unattended", "--to", "python-service"]).says(2, &["python-service"]);
    place.run(&["recast", "out", "--unattended", "--to", "7.0.0"]).says(2, &["7.0.0"]);
    fs::remove_dir_all(place.path("m")).unwrap();
    place.run(&["recast", "out", "--unattended"]).says(1, &["--to"]);
}

#[test]
fn a_dry_run_and_a_pull_request_show_it_and_write_nothing() {
    let place = project(LINES);
    place.write("out/a.txt", TOP);
    version(&place, "2.0.0", "", &[("body/a.txt", END.as_bytes()), ("body/b.txt", b"b\n")]);
    let before = place.listing("out");
    place.run(&["recast", "out", "--dry-run"]).says(0, &["1.0.0 → 2.0.0", "+ SEVEN", "Nothing was written"]);
    let text = place.run(&["recast", "out", "--dry-run", "--format", "markdown"]).says(0, &[]).out;
    assert!(text.starts_with("# m 1.0.0 → 2.0.0\n") && text.contains("```diff\n--- a/a.txt\n"), "{text}");
    assert!(text.contains("| `a.txt` | merged with yours |"), "{text}");
    let (code, report) = recast(&place, &["--dry-run"]);
    assert_eq!((code, report["written"].as_bool()), (0, Some(false)));
    assert_eq!((place.listing("out"), place.read("out/a.txt").as_str()), (before, TOP));
}

#[test]
fn changes_that_are_not_committed_are_said_without_running_a_filter() {
    let place = project(LINES);
    git(&place, &["init", "--quiet"]);
    git(&place, &["add", "."]);
    git(&place, &["commit", "--quiet", "-m", "cast"]);
    git(&place, &["config", "filter.bad.clean", "sh -c 'touch RAN; cat'"]);
    place.write("out/.git/info/attributes", "* filter=bad\n");
    version(&place, "2.0.0", "", &[("body/a.txt", END.as_bytes())]);
    // Touched, and the same.
    place.write("out/a.txt", LINES);
    let ran = place.run(&["recast", "out", "--dry-run", "--clean"]).says(0, &[]);
    assert!(!ran.err.contains("not committed"), "{}", ran.err);
    place.write("out/a.txt", TOP);
    place.run(&["recast", "out", "--dry-run"]).says(0, &["not committed", "a.txt"]);
    place.run(&["recast", "out", "--unattended", "--clean"]).says(4, &["not committed", "a.txt"]);
    place.run(&["recast", "out", "--unattended"]).says(0, &[]);
    assert_eq!(place.read("out/a.txt"), BOTH);
    assert!(!place.path("out/RAN").exists() && !place.path("RAN").exists());
    // It never commits.
    let log = Command::new("git").args(["log", "--oneline"]).current_dir(place.path("out")).output().unwrap();
    assert_eq!(String::from_utf8_lossy(&log.stdout).lines().count(), 1);
}

#[test]
fn an_undo_is_refused_where_something_changed_since() {
    let place = project(LINES);
    place.run(&["recast", "out", "--undo", "--unattended"]).says(2, &[]);
    version(&place, "2.0.0", "", &[("body/a.txt", END.as_bytes())]);
    assert_eq!(recast(&place, &[]).0, 0);
    place.write("out/a.txt", BOTH);
    place.run(&["recast", "out", "--undo", "--unattended"]).says(4, &["a.txt"]);
    assert_eq!(place.read("out/a.txt"), BOTH);
    place.write("out/a.txt", END);
    place.run(&["recast", "out", "--undo", "--unattended"]).says(0, &[]);
    assert_eq!(place.read("out/a.txt"), LINES);
    // Once only.
    place.run(&["recast", "out", "--undo", "--unattended"]).says(2, &[]);
}

#[test]
fn new_steps_stand_open_and_need_consent_to_the_new_mold() {
    let step = |name: &str, word: &str| {
        format!("[[finish]]\nname = \"{name}\"\nlabel = \"{name}\"\nrun = [\"touch\", \"{word}\"]\n")
    };
    let place = Place::new();
    version(&place, "1.0.0", &(step("one", "1") + &step("two", "2")), &[("body/a.txt", b"a\n")]);
    let digest = |place: &Place| {
        let shown = place.run(&["show", "./m", "--format", "json"]).says(0, &[]).out;
        let shown: Json = serde_json::from_str(&shown).unwrap();
        shown["digest"].as_str().unwrap().to_owned()
    };
    let vouched = digest(&place);
    place.run(&["cast", "./m", "out", "--unattended", "--finish", "all", "--vouch", &vouched]).says(0, &[]);
    version(
        &place,
        "2.0.0",
        &(step("one", "1") + &step("two", "two") + &step("three", "3")),
        &[("body/a.txt", b"b\n")],
    );
    place.run(&["recast", "out", "--unattended"]).says(0, &[]);
    assert!(!place.path("out/3").exists(), "recast runs no step");
    let open = place.run(&["finish", "--dir", "out"]).says(0, &["two", "three"]);
    assert!(!open.err.contains("touch 1"), "{}", open.err);
    place.run(&["finish", "three", "--dir", "out", "--vouch", &vouched]).says(6, &[]);
    place.run(&["finish", "three", "--dir", "out", "--vouch", &digest(&place)]).says(0, &[]);
    assert!(place.path("out/3").exists());
}

#[test]
fn conflicts_are_decided_on_the_screen_and_in_lines() {
    let set_up = || {
        let place = project(LINES);
        place.write("out/a.txt", "mine\ntwo\nthree\nfour\nfive\nsix\nmine too\n");
        version(&place, "2.0.0", "", &[("body/a.txt", BOTH.as_bytes()), ("body/b.txt", b"b\n")]);
        place
    };
    let place = set_up();
    let mut terminal = place.terminal(&["recast", "out"]);
    terminal.sees("1.0.0 → 2.0.0").sees("a.txt#1").goes_to("a.txt#1").sees("mine");
    terminal.types("\r").sees("both, mine first").types(DOWN).types("\r").sees("the new one");
    // What is not decided is gone to first.
    terminal.types(WRITE).sees("Decide first").types("e").sees("in place of both").types(" own\x1b");
    terminal.sees("my own text").types(WRITE).sees("Write it?").types("\r");
    assert_eq!(terminal.ends(), 0);
    assert_eq!(place.read("out/a.txt"), "ONE\ntwo\nthree\nfour\nfive\nsix\nmine too own\n");
    assert_eq!(place.read("out/b.txt"), "b\n");

    let place = set_up();
    let mut terminal = place.terminal(&["recast", "out"]);
    terminal.sees("a.txt#1").goes_to("a.txt#1").types("\r").sees("both, mine first").types("\r");
    terminal.sees("mine stays").types("\x1b\x1b");
    terminal.rests();
    terminal.types("\x03");
    terminal.ends();
    assert!(!place.path("out/b.txt").exists(), "leaving changes nothing");

    let ran = place.run_with(&["--plain", "recast", "out"], "both\ntheirs\nyes\n").says(0, &["2 to decide"]);
    assert_eq!(place.read("out/a.txt"), "mine\nONE\ntwo\nthree\nfour\nfive\nsix\nSEVEN\n", "{}", ran.err);
}

#[test]
fn an_answer_that_is_gone_is_asked_for() {
    let options = |kind: &str, default: &str, values: &[&str]| {
        let head = format!(
            "[[question]]\nkey = \"web\"\nask = \"Web layer\"\nkind = \"{kind}\"\ndefault = {default}\n"
        );
        let one =
            |value: &&str| format!("[[question.option]]\nvalue = \"{value}\"\nlabel = \"The {value} one\"\n");
        head + &values.iter().map(one).collect::<String>()
    };
    let text: &[(&str, &[u8])] = &[("body/a.txt", b"{= web =}\n")];
    let list: &[(&str, &[u8])] = &[("body/a.txt", b"{= web.join(' ') =}\n")];
    for (kind, old, new, body, wanted) in [
        ("one-of", "\"old\"", "\"new\"", text, "new\n"),
        ("some-of", "[\"old\", \"new\"]", "[]", list, "new\n"),
    ] {
        let place = Place::new();
        version(&place, "1.0.0", &options(kind, old, &["old", "new"]), body);
        place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
        version(&place, "2.0.0", &options(kind, new, &["new", "newer"]), body);
        let before = place.read("out/a.txt");
        place.run(&["recast", "out", "--unattended"]).says(3, &["--set web=", "old"]);
        place.run(&["recast", "out", "--check"]).says(4, &["web"]);
        assert_eq!(place.read("out/a.txt"), before, "{kind}");
        let mut terminal = place.terminal(&["recast", "out"]);
        terminal.sees("1.0.0 → 2.0.0").types(WRITE).sees("This answer is still needed");
        // What the mold offers can be taken too.
        terminal.types("\r").sees("The new one").types(if kind == "one-of" { "\r" } else { " \r" });
        terminal.types(WRITE).sees("Write it?").types("\r");
        assert_eq!(terminal.ends(), 0, "{kind}");
        assert_eq!(place.read("out/a.txt"), wanted, "{kind}");
    }
}

const PART: &str = "[part]\nname = \"pier\"\nsummary = \"A pier\"\n\
    [[question]]\nkey = \"pier\"\nask = \"Pier\"\nkind = \"text\"\n";

#[test]
fn a_record_that_lies_leads_nowhere() {
    let files: &[(&str, &[u8])] = &[
        ("body/a.txt", LINES.as_bytes()),
        ("parts/pier/part.toml", PART.as_bytes()),
        ("parts/pier/body/{= pier =}.txt", b"{= pier =}\n"),
    ];
    let outside = "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855  ../victim\n";
    let change = "\n[[part.change]]\npath = \"../victim\"\nwas = \"x\"\nnow = \"y\"\n";
    // What is replaced in the record, and by what; or what the list becomes; and the exit code.
    let cases: &[(&str, &str, Option<&str>, i32)] = &[
        ("pier = \"gulls\"", "pier = \"../../victim\"", None, 5),
        ("pier = \"gulls\"", "pier = \"CON\"", None, 6),
        ("pier = \"gulls\"", "pier = 7", None, 4),
        ("\"gulls.txt\" = ", "\"../victim\" = ", None, 0),
        ("name = \"pier\"", "name = \"../../pier\"", None, 4),
        ("\n[[part]]", "\n[[part]]\nodd = 1", None, 1),
        ("format = 1", "format = 9", None, 1),
        ("digest = \"2:", "digest = \"2:../../", None, 0),
        ("\nversion = \"1.0.0\"", "\nversion = \"9.9.9\"", None, 0),
        ("\"project.dir\" = \"out\"", "\"project.dir\" = \"../../x\"", None, 0),
        ("", "", Some(outside), 1),
        ("", "", Some("no list"), 1),
        // What nobody changed is brought along though the list has lost it.
        ("", "", Some(""), 0),
        ("pier = \"gulls\"\n", &format!("pier = \"gulls\"\n{change}"), None, 0),
    ];
    for (from, to, list, code) in cases {
        let place = Place::new();
        version(&place, "1.0.0", "", files);
        place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
        place.run(&["fit", "pier", "gulls", "--unattended", "--dir", "out"]).says(0, &[]);
        place.write("victim", "mine\n");
        let record = place.read("out/.tinmold/casting.toml");
        assert!(record.contains(from), "{from:?} is not in {record}");
        place.write("out/.tinmold/casting.toml", record.replacen(from, to, 1));
        if let Some(list) = list {
            place.write("out/.tinmold/files.sha256", list);
        }
        let mut newer = files.to_vec();
        newer[0].1 = END.as_bytes();
        version(&place, "2.0.0", "", &newer);
        let ran = place.run(&["recast", "out", "--to", "./m", "--unattended"]);
        assert_eq!(ran.code, *code, "{from:?} {to:?} {list:?}: {}", ran.err);
        assert_eq!(place.read("out/a.txt"), if *code == 0 { END } else { LINES }, "{from:?} {to:?} {list:?}");
        assert_eq!(place.read("victim"), "mine\n");
        assert!(place.path("out/gulls.txt").exists());
    }
}

#[test]
fn a_part_of_another_mold_is_fitted_again_and_stays_without_its_mold() {
    for (has_mold, has_old) in [(true, true), (false, true), (false, false)] {
        let place = Place::new();
        let (top, joint_line) = ("one\ntwo\n", "# joint: piers (tinmold)\nend\n");
        let body = format!("{top}{joint_line}");
        version(&place, "1.0.0", "", &[("body/a.txt", body.as_bytes())]);
        let joint = "[[joint]]\nfile = \"a.txt\"\nname = \"piers\"\nlines = [\"{= pier =}\"]\n";
        let part = PART.replacen("summary", "fits = [\"m\"]\nsummary", 1) + joint;
        place.write("o/mold.toml", "[mold]\nname = \"o\"\nversion = \"1.0.0\"\nsummary = \"Piers\"\n");
        place.write("o/body/x.txt", "x\n").write("o/parts/pier/part.toml", part);
        place.write("o/parts/pier/body/{= pier =}.txt", "{= pier =}\n");
        place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
        let fit = ["fit", "pier", "gulls", "--mold", "./o", "--unattended", "--dir", "out"];
        place.run(&fit).says(0, &[]);
        // The record has an address for it only if both are in one repository.
        let record = place.read("out/.tinmold/casting.toml");
        let digest = record.rfind("digest = ").unwrap();
        let addressed = format!("{}address = \"../o\"\n{}", &record[..digest], &record[digest..]);
        if has_mold {
            fs::create_dir_all(place.path(".git")).unwrap();
            place.write(".git/HEAD", "ref: refs/heads/main\n");
            place.write("out/.tinmold/casting.toml", addressed);
        } else {
            fs::remove_dir_all(place.path("o")).unwrap();
        }
        if !has_old {
            fs::remove_dir_all(place.path(".home/state/tinmold/molds")).unwrap();
        }
        version(&place, "2.0.0", "", &[("body/a.txt", format!("start\n{body}").as_bytes())]);
        let (code, report) = recast(&place, &[]);
        assert_eq!(code, 0, "{has_mold}: {report:#}");
        assert_eq!(place.read("out/a.txt"), format!("start\n{top}gulls\n{joint_line}"), "{has_mold}");
        assert_eq!(recast(&place, &[]).1["files"], serde_json::json!([]), "{has_mold}");
        place.run(&["fit", "--undo", "--unattended", "--dir", "out"]).says(0, &[]);
        assert_eq!(place.read("out/a.txt"), format!("start\n{body}"), "{has_mold}");
        assert!(!place.path("out/gulls.txt").exists(), "{has_mold}");
    }
}
