//! Parts: what `tinmold fit` changes in a project, conflicts, and undo.
#![allow(clippy::unwrap_used)]

mod common;
use common::{Place, Ran, UP, WRITE};
use serde_json::Value as Json;
use std::fs;

const PAGE: &str = include_str!("../../../docs/parts.md");

/// Returns the blocks of the page with this info string: the rest of it, and the text.
fn blocks(info: &str) -> Vec<(&'static str, &'static str)> {
    let found = PAGE.split("\n```").filter_map(|rest| rest.strip_prefix(info)?.split_once('\n'));
    found.map(|(of, text)| (of.trim(), text)).collect()
}

/// Makes the mold of the page, and a project from it in `out`.
fn ferry_board() -> Place {
    let place = Place::new();
    let joined = |info: &str| blocks(info).iter().map(|(_, text)| format!("{text}\n")).collect::<String>();
    place.mold(&joined("toml mold"), &[]);
    place.write("m/parts/departure/part.toml", joined("toml part"));
    for (path, text) in blocks("text ").iter().filter(|(path, _)| !path.starts_with("after ")) {
        place.write(&format!("m/{path}"), format!("{text}\n"));
    }
    place.write("m/body/{= module =}/piers/gull_point.py", "gull_point = []\n");
    place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
    place
}

/// Runs `tinmold fit` in the project.
fn fit(place: &Place, args: &[&str]) -> Ran {
    let mut command = place.command();
    command.arg("fit").args(args).current_dir(place.path("out/departures_board"));
    place.finish(&mut command)
}

const TERN: [&str; 3] = ["departure", "tern_quay", "--unattended"];
const BOARD: &str = "out/departures_board/board.py";

/// Returns every file of the project with its content.
fn content(place: &Place) -> Vec<(String, String)> {
    let files = place.listing("out").into_iter().filter(|path| !path.ends_with('/'));
    files
        .map(|path| {
            (
                path.clone(),
                String::from_utf8_lossy(&fs::read(place.path(&format!("out/{path}"))).unwrap()).into_owned(),
            )
        })
        .collect()
}

#[test]
fn the_page_is_true_and_a_fit_can_be_taken_back() {
    let place = ferry_board();
    place.run(&["check", "./m", "--strict"]).says(0, &[]);
    place.run(&["show", "./m"]).says(0, &[]);
    let shown: Json = serde_json::from_str(&place.run(&["show", "./m", "--format", "json"]).out).unwrap();
    assert_eq!(shown["parts"][0]["questions"][0]["key"], "pier");
    let before = content(&place);
    // A dry run shows all of it and writes nothing.
    let dry = fit(&place, &["departure", "tern_quay", "--unattended", "--dry-run"]);
    dry.says(
        0,
        &["tern_quay.py  new", "board.py  changed", "+ from departures_board.piers import tern_quay"],
    );
    let dry = fit(&place, &["departure", "tern_quay", "--dry-run", "--unattended", "--format", "json"]);
    let dry: Json = serde_json::from_str(&dry.out).unwrap();
    assert_eq!(dry["files"][0]["path"], "departures_board/piers/tern_quay.py");
    assert!(dry["changes"][0]["diff"].as_str().unwrap().contains("\n+    tern_quay,\n"), "{dry}");
    assert_eq!(dry["done"], Json::Null);
    assert_eq!(content(&place), before);
    fit(&place, &TERN)
        .says(0, &["new: departures_board/piers/tern_quay.py", "changed: departures_board/board.py"]);
    for (path, text) in blocks("text after ") {
        assert_eq!(place.read(&format!("out/{path}")), format!("{text}\n"), "{path}");
    }
    let made = place.read("out/departures_board/piers/tern_quay.py");
    assert_eq!(made, "\"\"\"Departures from Tern Quay.\"\"\"\n\ntern_quay = []\n");
    place.run(&["status", "out"]).says(0, &[]);
    // The same fit again changes nothing, not even the record.
    let fitted = content(&place);
    fit(&place, &TERN).says(0, &[]);
    assert_eq!(content(&place), fitted);
    // Other changes stay, and the last fit is undone first.
    fit(&place, &["departure", "heron_stairs", "--unattended"]).says(0, &[]);
    let board = place.read(BOARD);
    place.write(BOARD, format!("{board}# mine\n"));
    let undo = ["--undo", "--unattended"];
    fit(&place, &undo).says(4, &[]);
    place.write(BOARD, &board);
    fit(&place, &["--undo", "--dry-run"]).says(0, &["- departures_board/piers/heron_stairs.py"]);
    let done: Json = serde_json::from_str(&fit(&place, &["--undo", "--format", "json"]).out).unwrap();
    assert_eq!(done["removed"][0], "departures_board/piers/heron_stairs.py");
    assert_eq!(content(&place), fitted);
    fit(&place, &undo).says(0, &["removed: departures_board/piers/tern_quay.py"]);
    assert_eq!(content(&place), before);
    fit(&place, &undo).says(2, &[]);
    // A project that is cast again keeps its parts.
    fit(&place, &TERN).says(0, &[]);
    place.run(&["cast", "./m", "out", "--unattended", "--if-present", "keep"]).says(0, &[]);
    place.run(&["status", "out"]).says(0, &[]);
}

#[test]
fn what_has_no_place_is_shown_and_nothing_is_half_done() {
    // A change of the user to the board or the manifest, and what is reported.
    type Change = fn(&str) -> String;
    let cases: [(&str, Change, &str); 5] = [
        (
            BOARD,
            |text| text.replace("    # joint: piers (tinmold)\n", ""),
            "has no line with `joint: piers (tinmold)`",
        ),
        (
            BOARD,
            |text| text.replace("PIERS", "# joint: piers (tinmold)\nPIERS"),
            "more than once: at lines 8 and 11",
        ),
        (BOARD, |_| String::new(), "has no line with `joint: imports (tinmold)`"),
        ("out/pyproject.toml", |text| text.replace('[', "[["), "cannot be edited: it is not TOML"),
        ("out/pyproject.toml", |_| "x = 1\n\u{0}".into(), "cannot be edited: it is not TOML"),
    ];
    for (path, change, why) in cases {
        let place = ferry_board();
        place.write(path, change(&place.read(path)));
        let before = content(&place);
        fit(&place, &TERN).says(4, &[why, "--skip-missing"]);
        assert_eq!(content(&place), before, "{why}");
        let done = fit(&place, &[&TERN[..], &["--skip-missing"]].concat());
        done.says(0, &[why]);
        assert!(place.path("out/departures_board/piers/tern_quay.py").exists());
    }
    // The mold's lines around the joint show where the missing ones belong; the user decides.
    let place = ferry_board();
    place.write(BOARD, place.read(BOARD).replace("    # joint: piers (tinmold)\n", ""));
    let before = content(&place);
    let around = "          gull_point,\n    +     tern_quay,\n          # joint: piers (tinmold)";
    let args = ["fit", "departure", "--plain", "--dir", "out"];
    place.run_with(&args, "tern_quay\nno\n").says(0, &[around]);
    assert_eq!(content(&place), before);
    place.run_with(&args, "tern_quay\nyes\n").says(0, &[]);
    assert!(place.read(BOARD).contains("import tern_quay"));
    // A file that is gone, and one that no editor would know again.
    fs::remove_file(place.path("out/pyproject.toml")).unwrap();
    place.write(BOARD, [0xff, 0xfe, 0]);
    let said = fit(&place, &["departure", "osier", "--unattended"]);
    said.says(4, &[]);
}

#[test]
fn files_keep_their_manner() {
    type Change = fn(String) -> String;
    let manners: [Change; 4] = [
        |text| text.replace('\n', "\r\n"),
        |text| format!("\u{feff}{text}"),
        |text| text.trim_end().to_owned(),
        |text| text.replace("    ", "\t"),
    ];
    for manner in manners {
        let place = ferry_board();
        for path in [BOARD, "out/pyproject.toml"] {
            place.write(path, manner(place.read(path)));
        }
        let before = content(&place);
        fit(&place, &TERN).says(0, &[]);
        for (path, text) in blocks("text after ") {
            let expected = manner(format!("{text}\n"));
            // A list indented with tabs stays so; quotes that the user chose stay.
            assert_eq!(place.read(&format!("out/{path}")), expected, "{path}");
        }
        fit(&place, &["--undo", "--unattended"]).says(0, &[]);
        assert_eq!(content(&place), before);
    }
}

#[test]
fn what_is_in_the_way_is_never_lost() {
    let place = ferry_board();
    let pier = "out/departures_board/piers/tern_quay.py";
    place.write(pier, "mine = 1\n");
    let manifest =
        place.read("out/pyproject.toml").replace("    \"flask", "    \"Tern_Quay.tides==0.9\",\n    \"flask");
    place.write("out/pyproject.toml", format!("{manifest}[tool.board]\nrefresh = 5\n"));
    let before = content(&place);
    fit(&place, &TERN).says(
        4,
        &[
            "project.dependencies",
            "- \"Tern_Quay.tides==0.9\"",
            "+ \"tern-quay-tides>=1.0\"",
            "tool.board.refresh",
            "--if-present",
        ],
    );
    assert_eq!(content(&place), before);
    fit(&place, &[&TERN[..], &["--if-present", "keep"]].concat()).says(0, &[]);
    assert_eq!(place.read(pier), "mine = 1\n");
    assert!(
        place.read("out/pyproject.toml").contains("Tern_Quay.tides==0.9")
            && place.read(BOARD).contains("tern_quay,")
    );
    fit(&place, &["--undo", "--unattended"]).says(0, &[]);
    assert_eq!(content(&place), before);
    fit(&place, &[&TERN[..], &["--if-present", "replace"]].concat())
        .says(0, &["changed: departures_board/board.py, departures_board/piers/tern_quay.py"]);
    assert!(place.read("out/pyproject.toml").contains("    \"tern-quay-tides>=1.0\",\n    \"flask"));
    assert!(place.read("out/pyproject.toml").contains("refresh = 30"));
    // The replaced file is restored.
    fit(&place, &["--undo", "--unattended"]).says(0, &[]);
    assert_eq!(content(&place), before);
}

#[test]
fn where_nothing_can_be_fitted_one_error_says_why() {
    let place = ferry_board();
    place.run(&["fit", "departure", "x"]).says(2, &["next:"]);
    for (args, code, told) in [
        (&["departur", "x"][..], 2, "`departure`"),
        (&["--unattended"], 2, "departure  "),
        (&["departure"], 3, "--set pier=…"),
        (&["departure", "class", "--unattended"], 2, "`class`"),
        (&["departure", "piers", "--unattended"], 2, "piers"),
        (&["departure", "x", "--set", "name=y"], 2, "name"),
        (&["departure", "x", "--preset", "bare"], 2, "bare"),
        (&["departure", "--undo"], 2, "--undo"),
    ] {
        let before = content(&place);
        fit(&place, args).says(code, &[told]);
        assert_eq!(content(&place), before, "{args:?}");
    }
    let part = place.read("m/parts/departure/part.toml");
    let with = |from: &str, to: &str| {
        place.write("m/parts/departure/part.toml", part.replacen(from, to, 1));
        fit(&place, &TERN)
    };
    with("[[question]]", "when = \"name == 'other'\"\n[[question]]").says(2, &[]);
    with("file   = \"{= module =}/board.py\"", "file = \"../secret\"").says(6, &["../secret"]);
    with("file   = \"{= module =}/board.py\"", "file = \".git/config\"").says(6, &[]);
    with("lines  = [", "lines = [\"{= nope =}\", ").says(5, &["unknown-name", "part.toml"]);
    with("file = \"pyproject.toml\"", "file = \"{= module =}/piers/{= pier =}.py\"").says(5, &["bad-part"]);
    place.write("m/parts/departure/part.toml", &part);
    #[cfg(unix)]
    {
        // A folder that became a link is not written through.
        fs::rename(place.path("out/departures_board/piers"), place.path("elsewhere")).unwrap();
        std::os::unix::fs::symlink(place.path("elsewhere"), place.path("out/departures_board/piers"))
            .unwrap();
        fit(&place, &TERN).says(6, &[]);
        assert_eq!(place.listing("elsewhere"), ["gull_point.py"]);
    }
    let record = place.read("out/.tinmold/casting.toml");
    for (text, told) in [
        (record.replace("format = 1", "format = 9"), "casting.toml"),
        (record.replace("[answers]", "[answers"), "line "),
        (record.replace("module = ", "modul = "), "modul"),
    ] {
        place.write("out/.tinmold/casting.toml", text);
        fit(&place, &TERN).says(1, &[told]);
    }
    // A record is untrusted: it cannot remove anything outside the project.
    place.write("secret", "mine");
    let digest = "4e7a3d2d3b2a5c7f".repeat(4);
    let evil = format!(
        "{record}\n[[part]]\nname = \"x\"\ntoday = \"2026-11-23\"\nanswers = {{}}\nfiles = {{ \"../secret\" = \"{digest}\", \".git/config\" = \"{digest}\" }}\n"
    );
    place.write("out/.tinmold/casting.toml", evil);
    fit(&place, &["--undo", "--unattended"]).says(4, &["../secret", ".git/config"]);
    assert_eq!(place.read("secret"), "mine");
}

#[test]
fn parts_go_into_other_projects_that_they_say() {
    let place = ferry_board();
    let head = "[mold]\nname = \"crews\"\nversion = \"1.0.0\"\nsummary = \"Of the tests\"\n";
    place.write("crews/mold.toml", head).write("crews/body/a", "a\n");
    let module = "[[question]]\nkey = \"module\"\nask = \"Module\"\nkind = \"text\"\ndefault = \"none\"\n";
    for (part, more, body) in [
        ("rota", "fits = [\"m\"]\n", "rota of {= module =}\n"),
        ("badge", "anywhere = true\n", "badge of {= project.dir =} {= module =}\n"),
        ("own", "", "own\n"),
    ] {
        let manifest = format!("[part]\nname = \"{part}\"\nsummary = \"One {part}\"\n{more}");
        let module = if part == "own" { "" } else { module };
        place.write(&format!("crews/parts/{part}/part.toml"), manifest + module);
        place.write(&format!("crews/parts/{part}/body/{part}.txt"), body);
    }
    place.run(&["check", "./crews", "--strict"]).says(0, &[]);
    let crews = place.path("crews").display().to_string();
    // The project's answer is offered to a question with the same key.
    fit(&place, &["rota", "--mold", &crews, "--unattended"]).says(0, &[]);
    assert_eq!(place.read("out/rota.txt"), "rota of departures_board\n");
    place.run(&["status", "out"]).says(0, &[]);
    fit(&place, &["rota", "--mold", &crews, "--unattended"]).says(0, &[]);
    fit(&place, &["own", "--mold", &crews]).says(2, &[]);
    fit(&place, &["own", "x", "--mold", &crews]).says(2, &[]);
    let other = |args: &[&str]| {
        fs::create_dir_all(place.path("plain")).unwrap();
        let mut command = place.command();
        command.arg("fit").args(args).args(["--mold", &crews]).current_dir(place.path("plain"));
        place.finish(&mut command)
    };
    other(&["badge", "osier", "--unattended"]).says(0, &[]);
    assert_eq!(place.listing("plain"), ["badge.txt"]);
    assert_eq!(place.read("plain/badge.txt"), "badge of plain osier\n");
    other(&["rota"]).says(2, &[]);
    place.run(&["fit", "--undo", "--dir", "plain"]).says(2, &[]);
}

#[test]
fn only_parts_that_go_with_the_answers_are_offered() {
    let place = ferry_board();
    let crew = "[[question]]\nkey = \"crew\"\nask = \"Crew\"\nkind = \"text\"\ndefault = \"none\"\n";
    for (part, when, more) in [
        ("night", "name == 'other'", crew),
        ("day", "name != 'other'", ""),
        // Its own questions still decide.
        ("rota", "crew == 'gulls'", crew),
        ("broken", "name.len / (name.len - name.len) > 1", ""),
    ] {
        let manifest =
            format!("[part]\nname = \"{part}\"\nsummary = \"One {part}\"\nwhen = \"{when}\"\n{more}");
        place.write(&format!("m/parts/{part}/part.toml"), manifest);
        place.write(&format!("m/parts/{part}/body/{part}.txt"), format!("{part}\n"));
    }
    let list = fit(&place, &["--unattended"]).says(2, &[]);
    assert!(!list.err.contains("night"), "{}", list.err);
    // Said before anything is asked for.
    fit(&place, &["night"]).says(2, &[]);
    fit(&place, &["rota", "--unattended"]).says(2, &[]);
    fit(&place, &["rota", "gulls", "--unattended"]).says(0, &[]);
    let before = content(&place);
    fit(&place, &["broken", "--unattended"]).says(5, &["part.toml"]);
    let mut terminal = place.terminal(&["fit", "--dir", "out"]);
    terminal.sees("Not for this project: night (`name == 'other'` does not hold)").sees("One day");
    terminal.types("\x1b").sees("Left without writing");
    assert_eq!(terminal.ends(), 0);
    assert_eq!(content(&place), before);
    for part in ["departure", "day", "rota", "broken"] {
        fs::remove_dir_all(place.path(&format!("m/parts/{part}"))).unwrap();
    }
    fit(&place, &["--unattended"]).says(2, &[]);
}

#[test]
fn a_person_chooses_looks_and_decides() {
    let place = ferry_board();
    place.write("m/parts/quay/part.toml", "[part]\nname = \"quay\"\nsummary = \"One more quay\"\n");
    place.write("m/parts/quay/body/quay.txt", "quay\n");
    place.write("out/pyproject.toml", place.read("out/pyproject.toml") + "[tool.board]\nrefresh = 5\n");
    let before = content(&place);
    let mut terminal = place.terminal(&["fit", "--dir", "out"]);
    terminal.sees("Choose a part").sees("quay       One more quay").types("depart\r");
    terminal.sees("Pier").types("tern_quay").sees("board.py").sees("values that are set already");
    assert!(!terminal.screen().contains("Board name"));
    terminal.types("\t").sees("the form").types(UP).sees("+     tern_quay,").types("\t");
    terminal.types(WRITE).sees("Decide first").sees("tool.board.refresh").types("\r").sees("mine stays");
    terminal.types("\r").loses("not decided").types(WRITE).sees("Write it?").types("\r");
    terminal.sees("Fitted: departure");
    assert_eq!(terminal.ends(), 0);
    assert!(place.read("out/pyproject.toml").contains("refresh = 5"));
    let mut terminal = place.terminal(&["fit", "--undo", "--dir", "out"]);
    terminal.sees("Undo it?").types("no\r").sees("Left without writing");
    assert_eq!(terminal.ends(), 0);
    let mut terminal = place.terminal(&["fit", "--undo", "--dir", "out"]);
    terminal.sees("Undo it?").types("yes\r").sees("Undone: departure");
    assert_eq!(terminal.ends(), 0);
    assert_eq!(content(&place), before);
    // The same in plain lines, left at every point.
    let plain = ["fit", "--plain", "--dir", "out"];
    place.run_with(&plain, "no\n").says(0, &[]);
    place.run_with(&plain, "1\nosier\nno\n").says(0, &[]);
    place.run_with(&plain, "departure\n").says(3, &["--set pier=…"]);
    assert_eq!(content(&place), before);
    place.run_with(&plain, "quay\nyes\n").says(0, &[]);
    place.run_with(&["fit", "--undo", "--plain", "--dir", "out"], "yes\n").says(0, &[]);
    assert_eq!(content(&place), before);
}
