//! The built program, run as people run it.

use std::io::Write;
use std::process::{Command, Output, Stdio};

const PROGRAM: &str = env!("CARGO_BIN_EXE_{= name =}");
// {= if config =}
const SETTINGS: &str = "{= name.constant =}_SETTINGS";
// {= end =}

fn run(args: &[&str], input: &str) -> Output {
    let mut child = Command::new(PROGRAM)
        .args(args)
        // {= if config =}
        .env(SETTINGS, "/nowhere")
        // {= end =}
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("it starts");
    let mut stdin = child.stdin.take().expect("it has an input");
    // A program that reads nothing may be gone already.
    let _ = stdin.write_all(input.as_bytes());
    drop(stdin);
    child.wait_with_output().expect("it ends")
}

fn text(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).into_owned()
}

#[test]
fn standard_input_is_counted() {
    let output = run(&["count"], "one two\n");
    assert!(output.status.success());
    assert_eq!(text(&output.stdout), "       1        2        8  -\n");
}

#[test]
fn several_files_have_a_sum() {
    let output = run(&["count", "Cargo.toml", "README.md"], "");
    assert!(
        text(&output.stdout).ends_with("in all\n"),
        "{}",
        text(&output.stdout)
    );
}

#[test]
fn what_is_wrong_is_said() {
    for (args, code, words) in [
        (&["count", "no-such-file"][..], 1, "no-such-file"),
        (&["cuont"], 2, "cuont"),
        (&["count", "--colour"], 2, "--colour"),
    ] {
        let output = run(args, "");
        assert_eq!(output.status.code(), Some(code), "{args:?}");
        assert!(
            text(&output.stderr).contains(words),
            "{}",
            text(&output.stderr)
        );
        assert!(output.stdout.is_empty());
    }
}

#[test]
fn help_tells_the_commands() {
    let output = run(&["help"], "");
    assert!(output.status.success());
    assert!(text(&output.stdout).contains("count"));
}
