//! Programs that are run: without a shell, with limits, and ended with all that they started.
#![cfg(unix)]
#![allow(clippy::unwrap_used)]

use std::cell::Cell;
use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::path::Path;
use std::time::Duration;
use tempfile::TempDir;
use tinmold_platform::process::Ended;
use tinmold_project::steps::{
    FoundProgram, OfferedStep, ProjectCode, StepCommand, StepObserver, StepReport, StepResult, run_steps,
};

/// Collects the output, and stops after a line that says so.
#[derive(Default)]
struct Gathering {
    lines: Vec<Vec<u8>>,
    stop: Cell<bool>,
}

impl StepObserver for Gathering {
    fn begins(&mut self, _: &OfferedStep) {}
    fn line(&mut self, _: &OfferedStep, line: &[u8]) {
        self.stop.set(line.starts_with(b"stop"));
        self.lines.push(line.to_vec());
    }
    fn ended(&mut self, _: &OfferedStep, _: &StepReport) {}
    fn is_cancelled(&self) -> bool {
        self.stop.get()
    }
}

fn step(name: &str, arguments: &[&str]) -> OfferedStep {
    OfferedStep {
        name: name.into(),
        label: name.into(),
        run: StepCommand::Program(arguments.iter().map(|argument| (*argument).to_owned()).collect()),
        folder: String::new(),
        environment: [("BERTH".to_owned(), "A1 $(x)".to_owned())].into(),
        tick: true,
        after: Vec::new(),
        limit: Duration::from_secs(20),
        interactive: false,
        proof: false,
        asks: None,
        program: FoundProgram::Missing(String::new()),
        code: ProjectCode::None,
        left_out: Vec::new(),
    }
}

fn script(root: &Path, name: &str, text: &str) {
    let path = root.join(name);
    fs::write(&path, format!("#!/bin/sh\n{text}\n")).unwrap();
    fs::set_permissions(path, fs::Permissions::from_mode(0o755)).unwrap();
}

/// Returns true if a process with this number runs.
fn lives(root: &Path, file: &str) -> bool {
    let number = fs::read_to_string(root.join(file)).unwrap();
    let state = fs::read_to_string(format!("/proc/{}/stat", number.trim())).unwrap_or_default();
    !state.is_empty() && !state.contains(") Z ")
}

#[test]
fn steps_run_as_they_are_and_end_as_they_must() {
    let place = TempDir::new().unwrap();
    let root = place.path();
    script(root, "says", "cat; printf '%s|' \"$@\" \"$BERTH\"; echo; pwd >&2");
    script(root, "fails", "echo one; echo two >&2; exit 3");
    script(root, "hangs", "sleep 600 & echo $! >child; echo $$ >self; sleep 600");
    script(root, "stops", "sleep 600 & echo $! >child2; echo stop; trap '' TERM; sleep 600; sleep 600");
    script(root, "leaves", "sleep 600 & echo $! >left; echo done");
    script(root, "floods", "head -c 3000000 /dev/zero; echo; echo end");
    script(root, "dies", "kill -9 $$");
    fs::create_dir(root.join("inner")).unwrap();
    std::os::unix::fs::symlink("/", root.join("out")).unwrap();
    let run = |step: OfferedStep| {
        let mut gathering = Gathering::default();
        let report = run_steps(&[step], &[], root, Some(&root.join("logs")), &mut gathering).remove(0);
        (report, gathering)
    };
    // Arguments are passed unchanged, standard input is empty, and both outputs are in order.
    let (report, gathering) = run(step("says", &["./says", "$(touch pwned)", "a b; c", "*"]));
    assert_eq!(report.result, StepResult::Done(None));
    assert_eq!(gathering.lines[0], b"$(touch pwned)|a b; c|*|A1 $(x)|\n");
    assert!(!root.join("pwned").exists());
    assert_eq!(fs::read_to_string(report.log.unwrap()).unwrap().lines().count(), 2);
    let (report, _) = run(OfferedStep { folder: "inner".into(), ..step("inside", &["pwd"]) });
    assert!(report.last[0].ends_with("/inner"), "{report:?}");
    let (report, _) = run(step("fails", &["./fails"]));
    assert_eq!(
        (report.result, report.last),
        (StepResult::Failed(Ended::Exit(3)), vec!["one".into(), "two".into()])
    );
    // A step that takes too long or is stopped is ended with its children, also one that ignores
    // the signal.
    let (report, _) = run(OfferedStep { limit: Duration::from_millis(300), ..step("hangs", &["./hangs"]) });
    assert_eq!(report.result, StepResult::Failed(Ended::TimedOut));
    assert!(!lives(root, "child") && !lives(root, "self"));
    let (report, _) = run(step("stops", &["./stops"]));
    assert_eq!(report.result, StepResult::Failed(Ended::Cancelled));
    assert!(!lives(root, "child2"));
    // A process that it leaves running blocks nothing.
    let (report, _) = run(step("leaves", &["./leaves"]));
    assert_eq!(report.result, StepResult::Done(None));
    let _ = std::process::Command::new("kill")
        .arg(fs::read_to_string(root.join("left")).unwrap().trim())
        .status();
    let (report, gathering) = run(step("floods", &["./floods"]));
    assert_eq!((report.result, report.last.last().unwrap().as_str()), (StepResult::Done(None), "end"));
    assert!(gathering.lines.iter().all(|line| line.len() <= 64 * 1024));
    assert_eq!(run(step("dies", &["./dies"])).0.result, StepResult::Failed(Ended::Signal(9)));
    let outside = OfferedStep { folder: "out".into(), ..step("outside", &["ls"]) };
    for case in [step("missing", &["no-such-program-here"]), step("says", &["./inner"]), outside] {
        let result = run(case).0.result;
        assert!(matches!(result, StepResult::Failed(Ended::NotStarted(_))), "{result:?}");
    }
    // A step after one that is not done is skipped; so is one that needs a terminal.
    let later = OfferedStep { after: vec!["fails".into()], ..step("later", &["./says"]) };
    let asks = OfferedStep { interactive: true, ..step("asks", &["./says"]) };
    let all = [step("fails", &["./fails"]), later.clone(), asks];
    let reports = run_steps(&all, &[], root, None, &mut Gathering::default());
    assert!(
        matches!(reports[1].result, StepResult::Skipped(_))
            && matches!(reports[2].result, StepResult::Skipped(_))
    );
    let reports = run_steps(&[later], &["fails".into()], root, None, &mut Gathering::default());
    assert_eq!(reports[0].result, StepResult::Done(None));
}

#[test]
fn a_service_is_asked_until_it_answers() {
    let place = TempDir::new().unwrap();
    let root = place.path();
    fs::write(root.join("there"), "x").unwrap();
    script(root, "late", "sleep 0.4; exec python3 -m http.server --bind 127.0.0.1 \"$1\"");
    script(root, "ends", "echo no tide; exit 4");
    script(root, "silent", "sleep 600");
    let free = || std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
    // The program, the address after the port, and whether it answers.
    let cases = [
        ("./late", "/there", true),
        ("./late", "/there?pier=gull#x", true),
        ("./late", "/nowhere", false),
        ("./ends", "/", false),
        ("./silent", "/", false),
        ("./no-such", "/", false),
    ];
    for (program, path, answers) in cases {
        let port = free();
        let limit = Duration::from_millis(if program == "./silent" { 600 } else { 15_000 });
        let asks = Some(format!("http://127.0.0.1:{port}{path}"));
        let proof = OfferedStep {
            asks: asks.clone(),
            limit,
            proof: true,
            ..step("serve", &[program, &port.to_string()])
        };
        let report = run_steps(&[proof], &[], root, None, &mut Gathering::default()).remove(0);
        let is_expected = match &report.result {
            StepResult::Done(Some(note)) => answers && asks.is_some_and(|asks| note.contains(&asks)),
            StepResult::Failed(Ended::NoAnswer(_) | Ended::NotStarted(_)) => !answers,
            _ => false,
        };
        assert!(is_expected, "{program} {path}: {report:?}");
        // In any case, nothing listens there afterwards.
        assert!(std::net::TcpListener::bind(("127.0.0.1", port)).is_ok(), "{program} {path}");
    }
    for address in ["https://127.0.0.1:1/", "gull", "http://", "http:///x"] {
        let proof = OfferedStep { asks: Some(address.into()), ..step("serve", &["./silent"]) };
        let report = run_steps(&[proof], &[], root, None, &mut Gathering::default()).remove(0);
        assert!(matches!(report.result, StepResult::Failed(Ended::NoAnswer(_))), "{report:?}");
    }
}

#[test]
fn a_repository_is_begun_only_where_there_is_none() {
    let place = TempDir::new().unwrap();
    let root = place.path();
    fs::write(root.join("a"), "x").unwrap();
    fs::create_dir(root.join("inner")).unwrap();
    let config = root.join("gitconfig");
    fs::write(&config, "[user]\nname = Heron\nemail = heron@saltmarsh.example\n").unwrap();
    let nobody = root.join("nobody");
    fs::write(&nobody, "[user]\nuseConfigOnly = true\n").unwrap();
    let git = |folder: &str, config: &Path| OfferedStep {
        run: StepCommand::Git("Gull Point's \"$(first)\" commit".into()),
        folder: folder.into(),
        environment: [
            ("GIT_CONFIG_GLOBAL".to_owned(), config.display().to_string()),
            ("GIT_CONFIG_SYSTEM".to_owned(), "/dev/null".to_owned()),
        ]
        .into(),
        ..step("repository", &[])
    };
    let run = |step: OfferedStep, at: &Path| {
        run_steps(&[step], &[], at, None, &mut Gathering::default()).remove(0).result
    };
    let other = TempDir::new().unwrap();
    fs::write(other.path().join("a"), "x").unwrap();
    // Git has no user: a note says so, and there is no commit.
    let result = run(git("", &nobody), other.path());
    assert!(matches!(result, StepResult::Done(Some(_))), "{result:?}");
    assert_eq!(run(git("", &config), root), StepResult::Done(None));
    let head = fs::read_to_string(root.join(".git/COMMIT_EDITMSG")).unwrap();
    assert_eq!(head, "Gull Point's \"$(first)\" commit\n");
    for folder in ["", "inner"] {
        let result = run(git(folder, &config), root);
        assert!(matches!(result, StepResult::Done(Some(_))), "{result:?}");
    }
    assert!(!root.join("inner/.git").exists());
}
