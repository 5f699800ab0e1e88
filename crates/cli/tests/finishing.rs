//! The check of the machine, the finishing steps, and who vouches for them.
#![cfg(unix)]
#![allow(clippy::unwrap_used)]

mod common;
use common::{Place, Ran, WRITE};
use std::fs;
use std::net::TcpListener;
use std::os::unix::fs::PermissionsExt;

fn script(place: &Place, path: &str, text: &str) {
    place.write(path, format!("#!/bin/sh\n{text}\n"));
    fs::set_permissions(place.path(path), fs::Permissions::from_mode(0o755)).unwrap();
}

fn digest(place: &Place) -> String {
    let shown = place.run(&["show", "./m", "--format", "json"]).says(0, &[]);
    let json: serde_json::Value = serde_json::from_str(&shown.out).unwrap();
    json["digest"].as_str().unwrap().to_owned()
}

#[test]
fn every_tool_gets_its_verdict() {
    let place = Place::new();
    let tools = [
        "node",
        "go",
        "ruby",
        "php",
        "cmake",
        "tide-chart",
        "tide-table",
        "cargo",
        "tidecalc",
        "make",
        "java",
        "bun",
    ];
    let needs: String = tools
        .iter()
        .map(|tool| format!("[[need]]\ntool = \"{tool}\"\nversion = \">=8.2\"\nget = {{ linux = \"fetch {tool}\", macos = \"fetch {tool}\" }}\n"))
        .collect();
    place.mold(&needs, &[("body/a", "x")]);
    script(&place, "bin/node", "echo v22.1.0");
    script(&place, "bin/go", "echo go version go1.2.3 linux/amd64");
    script(&place, "late/go", "echo go version go9.0 linux/amd64");
    script(&place, "bin/ruby", "echo ruby 3.1");
    script(&place, "bin/php", "exec /bin/sleep 60");
    script(&place, "bin/cmake", "echo no version here");
    fs::create_dir_all(place.path("bin/tide-chart")).unwrap();
    place.write("bin/tide-table", "not to be executed");
    script(&place, ".home/.cargo/bin/cargo", "echo cargo 9.9.9");
    script(&place, "bin/tidecalc", "touch ran; echo 9.9.9");
    script(&place, "make", "echo GNU Make 9.9");
    script(&place, "bin/java", "echo 'openjdk version \"1.8.2_392\"' >&2");
    script(&place, "bin/bun", "/usr/bin/head -c 4000000 /dev/zero; echo 9.9.9; exit 1");
    let path = std::env::join_paths([place.path("bin"), place.path("late"), ".".into(), "".into()]).unwrap();
    let run = |args: &[&str]| -> Ran {
        let mut command = place.command();
        command.args(args).env("PATH", &path);
        place.finish(&mut command)
    };
    let json = run(&["preflight", "./m", "--format", "json"]).says(1, &[]);
    let json: serde_json::Value = serde_json::from_str(&json.out).unwrap();
    assert_eq!(json["ready"], false);
    let verdicts: Vec<&str> =
        json["needs"].as_array().unwrap().iter().map(|need| need["verdict"].as_str().unwrap()).collect();
    let expected = [
        "fine",
        "behind",
        "wrong-version",
        "unknown",
        "unknown",
        "missing",
        "missing",
        "off-path",
        "unknown",
        "off-path",
        "fine",
        "unknown",
    ];
    assert_eq!(verdicts, expected);
    assert!(!place.path("ran").exists() && !place.path("bin/ran").exists(), "a tool nobody knows was run");
    run(&["preflight", "./m"]).says(1, &["22.1.0 at", "9.0.0 at", "3.1.0 at"]);
    // A cast warns and goes on.
    let ran = run(&["cast", "./m", "--unattended"]).says(0, &["tide-chart"]);
    assert!(!ran.err.contains("node"), "{}", ran.err);
    assert!(
        !run(&["cast", "./m", "x", "--unattended", "--skip-preflight"]).says(0, &[]).err.contains("lacks")
    );
    // The user is told before the write.
    let ran = place.run_with(&["cast", "./m", "--plain"], "no\n");
    ran.says(0, &[]);
    place.run(&["show", "./m"]).says(0, &["  tidecalc\n      >=8.2"]);
    // Needs of other answers than the defaults are listed, and count as missing for no other.
    script(&place, "full/python3", "echo Python 3.13.1");
    script(&place, "full/make", "echo GNU Make 4.3");
    let mut command = place.command();
    command.args(["preflight", "python-service"]).env("PATH", place.path("full"));
    place.finish(&mut command).says(0, &[]);
    // For all molds each tool is listed once, with a mold that needs it.
    run(&["preflight"]).says(1, &[]);
    let all = run(&["preflight", "--format", "json"]).says(1, &[]);
    let all: serde_json::Value = serde_json::from_str(&all.out).unwrap();
    let tools = all["needs"].as_array().unwrap().iter();
    let tools: Vec<String> = tools.map(|need| format!("{} {}", need["tool"], need["wanted"])).collect();
    assert_eq!(tools.iter().collect::<std::collections::BTreeSet<_>>().len(), tools.len(), "{tools:?}");
    place.mold("", &[]);
    place.run(&["preflight", "./m"]).says(0, &[]);
}

const STEPS: &str = "[[question]]\nkey = \"pier\"\nask = \"Pier\"\nkind = \"text\"\ndefault = \"Gull Point\"\n\
    [[finish]]\nname = \"mark\"\nlabel = \"Leave a mark\"\nrun = [\"./mark\", \"{= pier =}\", \"$(x) && y\"]\ntick = true\n\
    [[finish]]\nname = \"later\"\nlabel = \"Go on\"\nrun = [\"./mark\", \"later\"]\nafter = [\"mark\"]\n";

/// A mold from elsewhere whose steps write down that they ran.
fn strange() -> Place {
    let place = Place::new();
    place.mold(STEPS, &[("body/a", "{= pier =}")]);
    script(
        &place,
        "m/body/mark",
        "printf '%s|' \"$@\" >>ran\nprintf '\\033[2Jloud\\n'\nif [ -e broken ]; then exit 7; fi",
    );
    place
}

#[test]
fn a_stranger_runs_nothing_without_a_yes() {
    let place = strange();
    let digest = digest(&place);
    let cast =
        |folder: &str, more: &[&str]| place.run(&[&["cast", "./m", folder, "--unattended"], more].concat());
    // Without options no step runs; the commands are printed for copying.
    cast("a", &[]).says(0, &["./mark 'Gull Point' '$(x) && y'"]);
    assert!(!place.path("a/ran").exists());
    // Steps of an unknown mold are refused, and shown.
    for steps in ["all", "mark,later"] {
        cast("b", &["--finish", steps]).says(6, &[&digest, "--vouch"]);
    }
    cast("b", &["--finish", "all", "--vouch", &digest.replace(['0', '1'], "2")]).says(6, &[&digest]);
    cast("b", &["--finish", "amrk"]).says(2, &[]);
    cast("b", &["--finish", "all", "--dry-run"]).says(0, &[]);
    assert!(!place.path("b").exists());
    // No shell is used, and no program of the working directory: the first ones on PATH would leave a
    // trace.
    for shell in ["sh", "bash", "dash"] {
        script(&place, &format!("shells/{shell}"), "touch a-shell-ran");
    }
    script(&place, "git", "touch a-program-here-ran");
    let path = std::env::var_os("PATH").unwrap_or_default();
    let folders = [place.path("shells"), ".".into()].into_iter().chain(std::env::split_paths(&path));
    let mut command = place.command();
    command.args(["cast", "./m", "b", "--unattended", "--finish", "all", "--vouch", &digest]);
    command.env("PATH", std::env::join_paths(folders).unwrap()).env("SHELL", place.path("shells/sh"));
    let ran = place.finish(&mut command).says(0, &[]);
    for trace in ["b/a-shell-ran", "a-shell-ran", "a-program-here-ran"] {
        assert!(!place.path(trace).exists(), "{trace}");
    }
    assert!(!ran.err.contains('\u{1b}') && !ran.err.contains("Still to do"), "{}", ran.err);
    assert_eq!(place.read("b/ran"), "Gull Point|$(x) && y|later|");
    // A mold that changed is another one.
    place.write("m/body/a", "changed");
    cast("c", &["--finish", "all", "--vouch", &digest]).says(6, &[]);
    // An answer cannot become an option.
    cast("c", &["--set", "pier=--help"]).says(6, &[]);
    assert!(!place.path("c").exists());
}

#[test]
fn a_person_sees_what_runs_and_says_yes() {
    let place = strange();
    let mut terminal = place.terminal(&["cast", "./m", "a"]);
    terminal.sees("□ Leave a mark").sees("0 steps will run").goes_to("□ Leave a mark");
    terminal.sees("$(x) && y").sees("You have not vouched for these steps").types(" ").sees("■ Leave a mark");
    terminal.goes_to("□ vouch for this mold").types(" ").sees("■ vouch").types(WRITE);
    terminal.sees("then: Leave a mark").types("\r");
    terminal.sees("done     Leave a mark").sees("Still to do").sees("./mark later");
    assert_eq!((terminal.ends(), place.read("a/ran")), (0, "Gull Point|$(x) && y|".into()));
    // The vouched digest was stored.
    let mut terminal = place.terminal(&["cast", "./m", "b"]);
    terminal.sees("■ Leave a mark").types(WRITE).sees("Write it?").types("\r").sees("done     Leave a mark");
    assert_eq!(terminal.ends(), 0);
    place.write("m/README.md", "changed");
    let mut terminal = place.terminal(&["cast", "./m", "c"]);
    terminal.sees("□ Leave a mark").types(WRITE).sees("Write it?").types("\r");
    terminal.sees("Still to do");
    assert_eq!((terminal.ends(), place.path("c/ran").exists()), (0, false));
    let ran = place.run_with(&["cast", "./m", "d", "--plain"], "\nsteps\n1\nonce\nyes\n");
    ran.says(0, &[]);
    place.run_with(&["cast", "./m", "e", "--plain"], "\nsteps\nall\nno\nyes\n").says(0, &[]);
    assert!(!place.path("e/ran").exists());
}

#[test]
fn what_failed_or_was_left_is_finished_later() {
    let place = strange();
    place.write("m/body/broken", "");
    let digest = digest(&place);
    let ran = place.run(&["cast", "./m", "a", "--unattended", "--finish", "all", "--vouch", &digest]);
    let ran = ran.says(1, &["Written: a", "  loud", "tinmold finish mark"]);
    let log = ran.err.lines().find_map(|line| line.trim().strip_prefix("all of it: ")).unwrap();
    assert_eq!(fs::read(log).unwrap(), b"\x1b[2Jloud\n");
    fs::remove_file(place.path("a/broken")).unwrap();
    let finish = |more: &[&str]| place.run(&[&["finish", "--dir", "a/"], more].concat());
    finish(&[]).says(0, &["./mark later"]);
    finish(&["all"]).says(6, &[]);
    finish(&["mark", "--vouch", &digest]).says(0, &[]);
    finish(&["later", "--vouch", &digest, "--quiet"]).says(0, &[]);
    finish(&[]).says(0, &[]);
    // A step that was added is open.
    let manifest = place.read("m/mold.toml") + "[[finish]]\nname = \"new\"\nrun = [\"true\"]\n";
    place.write("m/mold.toml", manifest);
    finish(&[]).says(0, &[]);
    place.run(&["finish"]).says(2, &[]);
    // Without the mold, the one that was kept at the cast is used.
    fs::remove_dir_all(place.path("m")).unwrap();
    finish(&[]).says(0, &[]);
    fs::remove_dir_all(place.path(".home/state/tinmold/molds")).unwrap();
    finish(&[]).says(1, &[]);
}

#[test]
fn ctrl_c_ends_a_step_with_all_it_started() {
    let place = Place::new();
    place.mold("[[finish]]\nname = \"wait\"\nlabel = \"Wait\"\nrun = [\"./wait\"]\n[[finish]]\nname = \"next\"\nlabel = \"Next\"\nrun = [\"true\"]\n", &[("body/a", "x")]);
    script(&place, "m/body/wait", "sleep 600 & echo $! >child; echo waiting; sleep 600");
    let digest = digest(&place);
    let mut terminal =
        place.terminal(&["cast", "./m", "a", "--unattended", "--finish", "all", "--vouch", &digest]);
    terminal.sees("waiting").types("\x03").sees("interrupted");
    assert_eq!(terminal.ends(), 130);
    let child = place.read("a/child");
    let state = fs::read_to_string(format!("/proc/{}/stat", child.trim())).unwrap_or_default();
    assert!(state.is_empty() || state.contains(") Z "), "{state}");
    assert!(place.path("a/a").exists());
}

#[test]
fn interactive_steps_get_the_terminal() {
    let place = Place::new();
    place.mold("[[finish]]\nname = \"account\"\nlabel = \"First account\"\nrun = [\"./account\"]\ninteractive = true\n", &[("body/a", "x")]);
    script(&place, "m/body/account", "printf 'Name? '; read name; echo \"$name\" >account.txt");
    let digest = digest(&place);
    let args = ["cast", "./m", "a", "--unattended", "--finish", "all", "--vouch", &digest];
    place.run(&args).says(0, &["./account"]);
    let mut terminal = place.terminal(&["finish", "all", "--dir", "a", "--vouch", &digest]);
    terminal.sees("Name?").types("Tern\r").sees("done     First account");
    assert_eq!((terminal.ends(), place.read("a/account.txt")), (0, "Tern\n".into()));
}

#[test]
fn the_built_in_mold_proves_that_it_works() {
    let place = Place::new();
    let free = TcpListener::bind("127.0.0.1:0").unwrap();
    let port = free.local_addr().unwrap().port();
    let set = format!("port={port}");
    let args = ["cast", "python-service", "tides", "--unattended", "--set", &set, "--finish", "all"];
    // The port is taken, and git does not know who commits.
    place.run(&args).says(1, &["(process "]);
    drop(free);
    let finish = |more: &[&str]| place.run(&[&["finish", "--dir", "tides"], more].concat());
    finish(&["answers"]).says(0, &[]);
    // Every started process is ended.
    TcpListener::bind(("127.0.0.1", port)).unwrap();
    assert!(place.path("tides/.git").exists());
    place.write(".home/gitconfig", "[user]\nname = Osier\nemail = osier@saltmarsh.example\n");
    place
        .run(&["cast", "python-service", "tides/inner", "--unattended", "--finish", "repository"])
        .says(0, &[]);
    place.run(&["cast", "python-service", "gull", "--unattended", "--finish", "repository"]).says(0, &[]);
    let git = |args: &[&str]| {
        let mut command = std::process::Command::new("git");
        command
            .args(args)
            .current_dir(place.path("gull"))
            .env("GIT_CONFIG_GLOBAL", place.path(".home/gitconfig"));
        place.finish(&mut command).says(0, &[]).out
    };
    assert_eq!(git(&["log", "--format=%an %s"]), "Osier Start gull from python-service 0.2.0\n");
    assert_eq!(git(&["status", "--porcelain"]), "");
    // Without git the other steps run.
    let mut command = place.command();
    command
        .args(["cast", "python-service", "bare", "--unattended", "--finish", "repository"])
        .env("PATH", place.path("none"));
    place.finish(&mut command).says(0, &[]);
}
