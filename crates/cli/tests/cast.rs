//! `tinmold cast` without a terminal: what is written, and what is refused.

mod common;
use common::Place;
use std::fs;

#[test]
fn the_service_is_named_after_its_folder_and_passes_its_own_tests() {
    let place = Place::new();
    let hostile = "summary=it's \"quoted\" \\ $(touch pwned) {= name =} \u{1f6a2} \u{645}";
    place
        .run(&[
            "cast",
            "python-service",
            "new/harbor-times",
            "--unattended",
            "--set",
            hostile,
            "--set",
            "extras=ci,container",
        ])
        .says(0, &["Written: new/harbor-times", "cd new/harbor-times", "src/harbor_times/notes/"]);
    let files = place.listing("new/harbor-times");
    for file in ["Containerfile", ".github/workflows/tests.yml", "make.cmd", "src/harbor_times/__main__.py"] {
        assert!(files.contains(&file.to_owned()), "{file} is not in {files:?}");
    }
    assert!(place.read("new/harbor-times/README.md").contains("{= name =}"));
    assert!(place.read("new/harbor-times/make.cmd").contains("\r\n:test\r\n"));
    let tests = place
        .finish(std::process::Command::new("make").arg("test").current_dir(place.path("new/harbor-times")));
    tests.says(0, &[]);
    let stray: Vec<_> =
        place.listing("new").into_iter().filter(|path| !path.starts_with("harbor-times")).collect();
    assert!(stray.is_empty(), "{stray:?}");
}

#[test]
fn every_wrong_answer_is_said_at_once() {
    let place = Place::new();
    let args =
        ["cast", "python-service", "x", "--unattended", "--set", "module=class", "--set", "port=99999"];
    let more = [
        "--set",
        "summary=a\"b\nc",
        "--set",
        "nmae=x",
        "--set",
        "log=jsn",
        "--set",
        "extras=cy",
        "--set",
        "name",
    ];
    place.run(&[&args[..], &more].concat()).says(2, &[]);
    assert!(!place.path("x").exists());
}

#[test]
fn what_is_missing_is_named_with_its_option() {
    let place = Place::new();
    let missing = place.run(&["cast", "python-service", "--set", "name=tides"]);
    missing.says(3, &["--set port=…", "(default \"8000\")", "--unattended"]);
    place.mold(
        "[[question]]\nkey = \"pier\"\nask = \"Pier\"\nkind = \"text\"\nform = \"plain\"\n",
        &[("body/a", "{= pier =}")],
    );
    place.run(&["cast", "./m", "--unattended"]).says(3, &["--set pier=…"]);
    let mut command = place.command();
    command.args(["cast", "./m", "--unattended"]).env("TINMOLD_ANSWER_PIER", "Gull Point");
    place.finish(&mut command).says(0, &[]);
    assert_eq!(place.read("out/a"), "Gull Point");
}

#[test]
fn what_is_not_there_is_not_cast() {
    let place = Place::new();
    place.mold("", &[("body/a", "new"), ("body/run.sh", "#!/bin/sh\n")]);
    place.run(&["cast", "./m", "--dry-run"]).says(0, &["out/", "├─ a  3 B"]);
    assert!(!place.path("out").exists());
    place.run(&["cast", "nowhere-service"]).says(2, &[]);
    place.run(&["cast", "./nowhere"]).says(2, &[]);
}

#[cfg(unix)]
#[test]
fn mode_bits_bytes_and_links_survive() {
    use std::os::unix::fs::{PermissionsExt, symlink};
    let place = Place::new();
    place.mold(
        "[[files]]\nmatch = \"raw/*\"\ncopy = true\n",
        &[("body/run.sh", "#!/bin/sh\n"), ("body/raw/a", "{= x =}")],
    );
    fs::set_permissions(place.path("m/body/run.sh"), fs::Permissions::from_mode(0o750)).unwrap();
    fs::write(place.path("m/body/image"), [0, 159, 146, 150, b'{', b'=']).unwrap();
    symlink("raw/a", place.path("m/body/link")).unwrap();
    fs::create_dir(place.path("m/body/hollow")).unwrap();
    place.run(&["cast", "./m"]).says(0, &[]);
    let mut files = place.listing("out");
    files.retain(|path| !path.starts_with(".tinmold"));
    assert_eq!(files, ["hollow/", "image", "link", "raw/", "raw/a", "run.sh"]);
    assert_eq!(fs::metadata(place.path("out/run.sh")).unwrap().permissions().mode() & 0o777, 0o755);
    assert_eq!(fs::read(place.path("out/image")).unwrap(), [0, 159, 146, 150, b'{', b'=']);
    assert_eq!(fs::read_link(place.path("out/link")).unwrap().to_str(), Some("raw/a"));
    assert_eq!(place.read("out/raw/a"), "{= x =}");
}

#[cfg(unix)]
#[test]
fn what_leads_out_is_refused() {
    let paths = [
        "body/{= pier =}/a",
        "body/.GIT/config",
        "body/x/.tinmold/a",
        "body/aux.txt",
        "body/ab:c",
        "body/c:d",
        "body/trailing.",
    ];
    for path in paths {
        let place = Place::new();
        place.mold(
            "[[question]]\nkey = \"pier\"\nask = \"?\"\nkind = \"text\"\ndefault = \"..\"\n",
            &[(path, "x")],
        );
        place.run(&["cast", "./m", "--unattended"]).says(6, &[path]);
        assert_eq!(place.listing("out"), Vec::<String>::new());
    }
    for target in ["/etc/passwd", "../../secret", "a/../../../b", "C:\\x"] {
        let place = Place::new();
        place.mold("", &[("body/a/b", "x")]);
        std::os::unix::fs::symlink(target, place.path("m/body/a/link")).unwrap();
        place.run(&["cast", "./m"]).says(6, &[]);
    }
    let place = Place::new();
    place.mold(
        "",
        &[("body/Pier", "x"), ("body/pier", "y"), ("body/caf\u{e9}", "x"), ("body/cafe\u{301}", "y")],
    );
    place.run(&["cast", "./m"]).says(6, &[]);
}

#[test]
fn a_faulty_mold_shows_every_place() {
    let place = Place::new();
    place.mold(
        "[[question]]\nkey = \"pier\"\nask = \"Pier\"\nkind = \"text\"\ndefault = \"a\"\n",
        &[("body/b.txt", "x {= peir =}\n{= pier.uper =}"), ("body/a.txt", "{= if pier =}{= end =}")],
    );
    let ran = place.run(&["cast", "./m", "--unattended"]).says(
        5,
        &[
            "error[wrong-type]",
            "--> body/a.txt:1:7",
            "error[unknown-name]",
            "--> body/b.txt:1:6",
            "x {= peir =}",
            "--> body/b.txt:2:9",
        ],
    );
    assert!(ran.err.find("a.txt") < ran.err.find("b.txt"));
    place.mold("[[question]]\nkee = \"pier\"\n", &[]);
    place.run(&["cast", "./m"]).says(5, &["--> mold.toml:7:1"]);
    place.mold("[[question]]\nkey = 5\n", &[]);
    place.run(&["cast", "./m"]).says(5, &["error[wrong-shape]", "--> mold.toml:7:7"]);
    place.mold("[[question]\n", &[]);
    place.run(&["cast", "./m"]).says(5, &["error[unreadable-manifest]"]);
}

#[test]
fn the_demo_never_meets_its_last_run() {
    let place = Place::new();
    let mut folders = Vec::new();
    for _ in 0..2 {
        let mut command = place.command();
        command
            .arg("demo")
            .env("TMPDIR", place.path(""))
            .env("TEMP", place.path(""))
            .env("TMP", place.path(""));
        let ran = place.finish(&mut command).says(0, &["proved"]);
        // What is shown can be pasted, and finds everything written.
        let lines = ran.err.lines().skip_while(|line| !line.contains(" cast python-service "));
        let typed: Vec<&str> = lines.take_while(|line| !line.is_empty()).collect();
        assert!(typed.len() > 5, "{}", ran.err);
        let mut shell = place.command_of("sh".as_ref());
        place.finish(shell.args(["-c", &typed.join("\n")])).says(0, &["already just so"]);
        folders
            .push(ran.err.lines().find(|line| line.starts_with("Written:")).unwrap_or_default().to_owned());
    }
    assert_ne!(folders[0], folders[1]);
    assert!(place.path("tinmold-demo/departures-board/Makefile").exists());
    assert!(place.path("tinmold-demo-2/departures-board/Makefile").exists());
    // Of all built-in molds, one project each.
    place.run(&["demo", "all", "--all"]).says(0, &[]);
    for name in tinmold_mold::package::built_in_names() {
        assert!(place.path(&format!("all/{name}/.tinmold/casting.toml")).exists(), "{name}");
    }
}

#[test]
fn a_dry_run_tells_everything_and_writes_nothing() {
    let place = Place::new();
    let manifest = "[[question]]\nkey = \"night\"\nask = \"?\"\nkind = \"flag\"\n\
        [[files]]\nmatch = \"late\"\nwhen = \"night\"\n[[files]]\nmatch = \"mine\"\nowner = \"you\"\ncopy = true\n";
    let files =
        [("body/{= mold.name =}/a", "{= night =} \u{1b}[31m\n"), ("body/late", "x"), ("body/mine", "{= x")];
    place.mold(manifest, &files).write("m/body/image", [0, 159, 146]);
    let args = ["cast", "./m", "new", "--unattended", "--dry-run"];
    let with = |more: &[&str]| place.run(&[&args[..], more].concat());
    with(&[]).says(0, &["new/", "├─ image  3 B", "│  └─ a  12 B"]);
    with(&["--verbose"]).says(0, &[]);
    let plain = with(&["--plain", "--quiet"]).says(0, &["  new/\n    image  3 B\n    m/\n      a  12 B\n"]);
    assert_eq!(plain.err, "");
    let json = with(&["--format", "json"]).says(0, &[]);
    let plan: serde_json::Value = serde_json::from_str(&json.out).expect("a dry run gives JSON");
    assert_eq!((plan["folder"].as_str(), plan["bytes"].as_u64()), (Some("new"), Some(19)));
    let expected = serde_json::json!({
        "path": "m/a", "kind": "text", "target": null, "bytes": 12, "mode": "644",
        "from": "body/{= mold.name =}/a", "owner": "mold", "local": false, "present": "absent",
    });
    assert_eq!(plan["entries"][1], expected);
    assert_eq!(
        (plan["entries"][2]["kind"].as_str(), plan["entries"][2]["owner"].as_str()),
        (Some("copy"), Some("you"))
    );
    assert_eq!(
        plan["left_out"],
        serde_json::json!([{ "from": "body/late", "reason": "`night` does not hold" }])
    );
    assert_eq!(with(&["--show", "m/a"]).says(0, &[]).out, "false \u{1b}[31m\n");
    assert_eq!(with(&["--show", "mine"]).says(0, &[]).out, "{= x");
    // The content of a file cannot control the terminal.
    let mut terminal = place.terminal(&[&args[..], &["--show", "m/a"]].concat());
    terminal.sees("false \\u{1b}[31m");
    let mut terminal = place.terminal(&[&args[..], &["--show", "image"]].concat());
    terminal.sees("3 bytes");
    with(&["--show", "m/b"]).says(2, &[]);
    place.run(&["cast", "./m", "new", "--unattended", "--show", "m/a"]).says(2, &["--dry-run"]);
    assert!(!place.path("new").exists());
    place.write("m/body/late", "{= nope =}");
    with(&["--set", "night"]).says(5, &[]);
}

#[test]
fn the_last_words_know_the_system_and_are_made_before_anything_is_written() {
    let place = Place::new();
    let shown = "[[tour]]\npath = \"a\"\nsays = \"made on {= system =}\"\n\
        [[tour]]\npath = \"{= if system == 'amiga' =}b{= end =}\"\nsays = \"nowhere\"\n\
        [next]\nlines = [\"{= if system == 'amiga' =}stay{= end =}\", \"go {= system.upper =}\"]\n";
    place.mold(shown, &[("body/a", "x")]);
    let system = if cfg!(target_os = "macos") {
        "macos"
    } else if cfg!(windows) {
        "windows"
    } else {
        "linux"
    };
    place.run(&["check", "./m", "--strict"]).says(0, &[]);
    let words = format!("Places to know\n  a  made on {system}\n\nNext\n  go {}\n", system.to_uppercase());
    // A line that renders to nothing is left out.
    place.run(&["cast", "./m"]).says(0, &[&words]);
    place.mold("[next]\nlines = [\"{= 1 / (year - year) =}\"]\n", &[("body/a", "x")]);
    for last in ["--unattended", "--dry-run"] {
        place.run(&["cast", "./m", "new", last]).says(5, &["error[division-by-zero]"]);
        assert!(!place.path("new").exists());
    }
    place.mold("", &[("body/a", "{= system =}")]);
    place.run(&["cast", "./m", "new"]).says(5, &["error[out-of-place]"]);
}
