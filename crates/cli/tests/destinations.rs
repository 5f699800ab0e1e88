//! Destinations: existing directories, archives, and the record of a project.
#![allow(clippy::unwrap_used)]

mod common;
use common::{DOWN, Place, WRITE};
use std::fs;
use std::process::Command;

/// A mold with a file for this machine only.
fn board() -> Place {
    let place = Place::new();
    let manifest = "[[question]]\nkey = \"pier\"\nask = \"Pier\"\nkind = \"text\"\ndefault = \"Gull Point\"\n\
        [[question]]\nkey = \"secret\"\nkind = \"minted\"\nlength = 20\n\
        [[files]]\nmatch = \".env\"\nlocal = true\n[next]\nlines = [\"cd {= project.dir =}\", \"make\"]\n";
    let files = [
        ("body/a.txt", "calls at {= pier =}\n"),
        ("body/src/b.txt", "b\n"),
        ("body/.env", "KEY={= secret =}\n"),
        ("body/.gitignore", ".env\n"),
    ];
    place.mold(manifest, &files);
    place
}

const CAST: [&str; 3] = ["cast", "./m", "--unattended"];

fn cast(place: &Place, more: &[&str]) -> common::Ran {
    place.run(&[&CAST[..], more].concat())
}

#[test]
fn a_casting_keeps_its_record() {
    let place = board();
    cast(&place, &["out", "--set", "pier=Tern Quay"]).says(0, &[]);
    let sums = place.finish(
        Command::new("sha256sum").args(["-c", ".tinmold/files.sha256"]).current_dir(place.path("out")),
    );
    sums.says(0, &["a.txt: OK", "src/b.txt: OK"]);
    let record = place.read("out/.tinmold/casting.toml");
    for piece in ["version = \"1.0.0\"", "pier = \"Tern Quay\"", "today = \"2026-11-23\"", "digest = \""] {
        assert!(record.contains(piece), "{piece} is not in {record}");
    }
    let secret = place.read("out/.env");
    for path in ["out/.tinmold/casting.toml", "out/.tinmold/files.sha256"] {
        let text = place.read(path);
        assert!(!text.contains(secret.trim_start_matches("KEY=").trim()) && !text.contains(".env"), "{text}");
    }
    place.run(&["status", "out/src"]).says(0, &["m 1.0.0 on 2026-11-23"]);
    // The digest is of the mold as it was.
    place.write("m/README.md", "new");
    cast(&place, &["other", "--set", "pier=Tern Quay"]).says(0, &[]);
    assert_ne!(place.read("other/.tinmold/casting.toml"), record);
    assert_eq!(place.read("other/.tinmold/files.sha256"), place.read("out/.tinmold/files.sha256"));
    place.write("out/a.txt", "mine");
    fs::remove_file(place.path("out/.gitignore")).unwrap();
    fs::remove_dir_all(place.path("out/src")).unwrap();
    #[cfg(unix)]
    std::os::unix::fs::symlink("../other/src", place.path("out/src")).unwrap();
    let json = place.run(&["status", "out", "--format", "json"]).says(0, &[]);
    let status: serde_json::Value = serde_json::from_str(&json.out).unwrap();
    assert_eq!(
        status["projects"][0]["files"],
        serde_json::json!({ "as-cast": [], "changed": ["a.txt", "src/b.txt"], "missing": [".gitignore"] })
    );
    assert_eq!(status["projects"][0]["answers"]["pier"], "Tern Quay");
    place.run(&["status", "out"]).says(0, &["changed  a.txt", "missing  .gitignore"]);
}

#[test]
fn what_is_not_utf_8_comes_out_byte_for_byte_wherever_it_goes() {
    let place = board();
    let files: [(&str, &[u8]); 4] = [
        ("logo.png", b"\x89PNG\r\n\x1a\n{= pier =}\xff\xfe"),
        ("latin.txt", b"caf\xe9 {= nobody =}\n{= if"),
        ("wide.txt", b"\xff\xfe{\0=\0 \0p\0"),
        ("page.xml", b"<?xml version=\"1.0\" encoding=\"ISO-8859-1\"?><p>\xe9{= pier =}</p>"),
    ];
    for (path, bytes) in files {
        place.write(&format!("m/body/{path}"), bytes);
    }
    // A text it is as long as it is UTF-8, whatever else is in it.
    place.write("m/body/zero.bin", b"\0{= pier =}\0");
    let holds = |folder: &str| {
        for (path, bytes) in files {
            assert_eq!(fs::read(place.path(&format!("{folder}/{path}"))).unwrap(), bytes, "{folder}/{path}");
        }
        assert_eq!(place.read(&format!("{folder}/zero.bin")), "\0Gull Point\0");
        let sums = ["-c", "--quiet", ".tinmold/files.sha256"];
        place.finish(Command::new("sha256sum").args(sums).current_dir(place.path(folder))).says(0, &[]);
    };
    cast(&place, &["out"]).says(0, &["9 files"]);
    holds("out");
    // In an existing directory, with equal and with different files.
    cast(&place, &["out"]).says(0, &[]);
    place.write("out/latin.txt", "mine");
    cast(&place, &["out"]).says(4, &["latin.txt"]);
    cast(&place, &["out", "--if-present", "replace"]).says(0, &["replaced: latin.txt"]);
    holds("out");
    cast(&place, &["packed", "--archive", "packed.tar.gz"]).says(0, &["packed.tar.gz"]);
    place
        .finish(Command::new("tar").args(["-xzf", "packed.tar.gz"]).current_dir(place.path("")))
        .says(0, &[]);
    holds("packed");
    let planned = cast(&place, &["new", "--dry-run", "--format", "json"]).says(0, &[]);
    let planned: serde_json::Value = serde_json::from_str(&planned.out).unwrap();
    for (path, bytes) in files {
        let entries = planned["entries"].as_array().unwrap();
        let entry = entries.iter().find(|entry| entry["path"] == path).unwrap();
        assert_eq!(entry["bytes"], bytes.len(), "{path}");
    }
    // A file that must have a format must be text.
    place.write("m/body/bad.json", b"{\n  \"pier\": \"\xe9\"\n}");
    let refused = ["bad.json would not be JSON", "not UTF-8 at line 2, column 12", "body/bad.json:2:12"];
    cast(&place, &["new"]).says(5, &refused);
    assert!(!place.path("new").exists());
    place.write("m/mold.toml", place.read("m/mold.toml") + "[[files]]\nmatch = \"bad.json\"\ncopy = true\n");
    // What is copied is not looked into.
    cast(&place, &["new"]).says(0, &[]);
    assert_eq!(fs::read(place.path("new/bad.json")).unwrap(), b"{\n  \"pier\": \"\xe9\"\n}");
}

#[test]
fn a_record_is_not_believed() {
    let place = board();
    place.run(&["status"]).says(2, &[]);
    cast(&place, &["out"]).says(0, &[]);
    let (record, sums) = ("out/.tinmold/casting.toml", "out/.tinmold/files.sha256");
    let good = (place.read(record), place.read(sums));
    let line = good.1.lines().next().unwrap();
    let digest = &line[..64];
    let cases = [
        (good.0.replace("format = 1", "format = 2"), good.1.clone()),
        (good.0.replace("format = 1", ""), good.1.clone()),
        (good.0.replace("[mold]", "[mold"), good.1.clone()),
        (good.0.replace("version", "verison"), good.1.clone()),
        (good.0.clone() + "[links]\n\"a/../../b\" = \"x\"\n", good.1.clone()),
        (good.0.clone(), format!("{digest}  ../../etc/passwd\n")),
        (good.0.clone(), format!("{digest}  .git/config\n")),
        (good.0.clone(), format!("{line}\nnonsense\n")),
        (good.0.clone(), format!("{}é  a\n", &digest[..62])),
    ];
    for (casting, list) in cases {
        place.write(record, &casting).write(sums, &list);
        place.run(&["status", "out"]).says(1, &[]);
        // Nor is it written over.
        cast(&place, &["out"]).says(1, &[]);
        assert_eq!((place.read(record), place.read(sums)), (casting, list));
    }
    fs::write(place.path(record), [0xff, 0xfe]).unwrap();
    place.run(&["status", "out"]).says(1, &["not UTF-8"]);
}

#[test]
fn files_in_the_way_are_never_lost() {
    // The options, the exit code, and the content of a.txt, a.txt.from-mold and src/b.txt
    // afterwards.
    type Case = (&'static [&'static str], i32, [Option<&'static str>; 3]);
    let cases: &[Case] = &[
        (&[], 4, [Some("mine\n"), None, None]),
        (&["--if-present", "keep"], 0, [Some("mine\n"), None, Some("b\n")]),
        (&["--if-present", "replace"], 0, [Some("calls at Gull Point\n"), None, Some("b\n")]),
        (&["--if-present", "aside"], 0, [Some("mine\n"), Some("calls at Gull Point\n"), Some("b\n")]),
    ];
    for (more, code, expected) in cases {
        let place = board();
        place.write("d/a.txt", "mine\n").write("d/.gitignore", ".env\n").write("d/.env", "KEY=old\n");
        place.write("d/other", "untouched");
        let old = fs::metadata(place.path("d/.gitignore")).unwrap().modified().unwrap();
        let dry = cast(&place, &[&["d", "--dry-run"], *more].concat());
        dry.says(0, &[]);
        let json = cast(&place, &["d", "--dry-run", "--format", "json"]);
        for word in ["\"present\": \"different\"", "\"present\": \"same\"", "\"present\": \"local\""] {
            assert!(json.out.contains(word), "{word} is not in {}", json.out);
        }
        let before = place.listing("d");
        let ran = cast(&place, &[&["d"], *more].concat()).says(*code, &[]);
        let files = ["d/a.txt", "d/a.txt.from-mold", "d/src/b.txt"];
        assert_eq!(
            files.map(|path| fs::read_to_string(place.path(path)).ok()).each_ref().map(Option::as_deref),
            *expected
        );
        assert_eq!((place.read("d/.env"), place.read("d/other")), ("KEY=old\n".into(), "untouched".into()));
        assert_eq!(fs::metadata(place.path("d/.gitignore")).unwrap().modified().unwrap(), old);
        if *code == 4 {
            ran.says(4, &["  a.txt"]);
            assert_eq!(place.listing("d"), before);
        } else {
            ran.says(0, &[".env"]);
            assert!(!place.path("d/.tinmold/pending").exists());
            let recorded = place.read("d/.tinmold/files.sha256").contains("  a.txt\n");
            assert_eq!(recorded, more[1] == "replace");
        }
    }
    // If the name is taken, the next number is used; the same cast again changes nothing.
    let place = board();
    place.write("d/a.txt", "mine").write("d/a.txt.from-mold", "older");
    cast(&place, &["d", "--if-present", "aside"]).says(0, &[]);
    cast(&place, &["d", "--if-present", "keep"]).says(0, &[]);
}

#[test]
fn the_folder_one_stands_in_is_a_destination() {
    let place = board();
    fs::create_dir(place.path("tides")).unwrap();
    let mut command = place.command();
    command.args(["cast", "../m", ".", "--unattended"]).current_dir(place.path("tides"));
    let ran = place.finish(&mut command).says(0, &["Written: .", "  make"]);
    assert!(!ran.err.contains("cd "), "{}", ran.err);
    assert!(place.read("tides/.tinmold/casting.toml").contains("\"project.dir\" = \"tides\""));
    // The directory that the mold names is written into only if the user confirms it.
    place.write("out/mine", "x");
    cast(&place, &[]).says(4, &[]);
    cast(&place, &["out"]).says(0, &[]);
    assert_eq!(place.read("out/mine"), "x");
}

#[cfg(unix)]
#[test]
fn what_cannot_be_written_over_is_said() {
    use std::os::unix::fs::symlink;
    type Prepare = fn(&Place);
    let cases: &[(&str, Prepare, i32)] = &[
        ("a file", |place| _ = place.write("d", "x"), 4),
        ("a link", |place| symlink("m", place.path("d")).unwrap(), 4),
        ("a file on the way", |place| _ = place.write("d/src", "x"), 4),
        ("a folder", |place| _ = place.write("d/a.txt/x", "x"), 4),
        ("our folder as a file", |place| _ = place.write("d/.tinmold", "x"), 4),
        (
            "a link on the way",
            |place| {
                place.write("elsewhere/x", "x").write("d/x", "x");
                symlink("../elsewhere", place.path("d/src")).unwrap();
            },
            6,
        ),
        (
            "our folder as a link",
            |place| {
                place.write("elsewhere/x", "x").write("d/x", "x");
                symlink("../elsewhere", place.path("d/.tinmold")).unwrap();
            },
            6,
        ),
        (
            "another casting",
            |place| {
                place.run(&["cast", "python-service", "d", "--unattended"]).says(0, &[]);
            },
            4,
        ),
    ];
    for (name, prepare, code) in cases {
        let place = board();
        prepare(&place);
        let before = (place.listing("d"), place.listing("elsewhere"));
        for choice in [&["d"][..], &["d", "--if-present", "replace"]] {
            cast(&place, choice).says(*code, &[]);
            assert_eq!((place.listing("d"), place.listing("elsewhere")), before, "{name}");
        }
    }
    // A link in place of a file is in the way, and is itself replaced.
    let place = board();
    place.write("elsewhere/x", "x").write("d/x", "x");
    symlink("../elsewhere/x", place.path("d/a.txt")).unwrap();
    cast(&place, &["d"]).says(4, &["  a.txt"]);
    cast(&place, &["d", "--if-present", "replace"]).says(0, &["replaced: a.txt"]);
    assert!(!place.path("d/a.txt").is_symlink());
    assert_eq!(place.read("elsewhere/x"), "x");
}

#[test]
fn a_person_decides_about_each_file() {
    let place = board();
    place
        .write("d/a.txt", "calls at Osier Island\n")
        .write("d/src/b.txt", "c\n")
        .write("d/.gitignore", ".env\nx\n");
    let before = place.listing("d");
    let mut terminal = place.terminal(&["cast", "./m", "d"]);
    terminal.sees("Files that are there already").types(WRITE).sees("Decide first").sees("− x");
    terminal.types("\x03").sees("nothing was written");
    assert_eq!((terminal.ends(), place.listing("d")), (130, before));
    let mut terminal = place.terminal(&["cast", "./m", "d"]);
    terminal.sees("Files that are there already").types(WRITE).sees("Decide first").types("\r\r");
    terminal.sees("mine stays").sees("− calls at Osier Island").sees("+ calls at Gull Point");
    terminal.types("\r").sees("a.txt.from-mold").types(DOWN).types("\r");
    terminal.sees("a.txt").types("\r").types(DOWN).types("\r").loses("not decided");
    terminal.types(WRITE).sees("Write it?").types("\r").sees("replaced: a.txt, src/b.txt");
    assert_eq!(terminal.ends(), 0);
    assert_eq!(
        ["a.txt", "src/b.txt", ".gitignore"].map(|path| place.read(&format!("d/{path}"))),
        ["calls at Gull Point\n", "b\n", ".env\nx\n"]
    );
    // The same in plain lines.
    place.write("d/a.txt", "x\r\ny").write("d/src/b.txt", "x");
    let ran = place.run_with(&["cast", "./m", "d", "--plain"], "\nyes\nwhat\nkeep\naside all\n");
    ran.says(0, &[]);
    place.run_with(&["cast", "./m", "d", "--plain"], "\nyes\nno\n").says(0, &[]);
    place.run_with(&["cast", "./m", "d", "--plain"], "\nyes\n").says(4, &[]);
}

#[test]
fn an_archive_is_the_same_on_every_run() {
    let place = board();
    cast(&place, &["out"]).says(0, &[]);
    for name in ["tides.tar.gz", "tides.zip"] {
        let ran = cast(&place, &["out", "--archive", name]).says(0, &[]);
        assert!(ran.err.contains(if name.ends_with("zip") {
            "unzip tides.zip"
        } else {
            "tar -xzf tides.tar.gz"
        }));
        let first = fs::read(place.path(name)).unwrap();
        cast(&place, &["out", "--archive", name]).says(4, &[]);
        cast(&place, &["out", "--archive", name, "--if-present", "aside"]).says(0, &["tides-2."]);
        cast(&place, &["out", "--archive", name, "--if-present", "replace"]).says(0, &[]);
        assert_eq!(fs::read(place.path(name)).unwrap(), first);
        assert_eq!(fs::read(place.path(&name.replace("tides.", "tides-2."))).unwrap(), first);
        let to = place.path("unpacked");
        fs::create_dir_all(&to).unwrap();
        let mut unpack = if name.ends_with("zip") {
            let mut python = Command::new("python3");
            python.args(["-m", "zipfile", "-e"]).arg(place.path(name)).arg(&to);
            python
        } else {
            let mut tar = Command::new("tar");
            tar.arg("-xzf").arg(place.path(name)).arg("-C").arg(&to);
            tar
        };
        place.finish(&mut unpack).says(0, &[]);
        let mut expected = place.listing("out");
        expected.retain(|path| path != ".env");
        assert_eq!(place.listing("unpacked/out"), expected);
        assert_eq!(place.read("unpacked/out/a.txt"), "calls at Gull Point\n");
        fs::remove_dir_all(to).unwrap();
    }
    cast(&place, &["out", "--archive", "tides.rar"]).says(2, &[]);
    cast(&place, &["out", "--archive", "no/where.zip"]).says(1, &[]);
    place.write("m/body/bad.json", "{");
    cast(&place, &["out", "--archive", "bad.zip"]).says(5, &["malformed-output"]);
    let stray: Vec<_> = place
        .listing("")
        .into_iter()
        .filter(|path| path.contains("bad.zip") || path.contains("stage"))
        .collect();
    assert!(stray.is_empty(), "{stray:?}");
}

#[test]
fn the_configuration_sets_the_limits() {
    let place = board();
    for (at, (limits, code, place_or_code)) in [
        ("files = 3", 5, "too-many-files"),
        ("files = 4", 0, ""),
        ("bytes = 20", 5, "limit-reached"),
        ("bites = 20", 1, "config.toml"),
        ("bytes = -1", 1, "line 2"),
    ]
    .into_iter()
    .enumerate()
    {
        let folder = format!("limited{at}");
        place.write(".home/config/tinmold/config.toml", format!("[limits]\n{limits}\n"));
        cast(&place, &[&folder]).says(code, &[place_or_code]);
        assert_eq!(place.path(&folder).exists(), code == 0, "{limits}");
    }
}
