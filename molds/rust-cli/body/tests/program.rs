//! The built program, run as people run it.
// {= if clap =}
//!
//! What it prints stands in tests/program/: `TRYCMD=overwrite cargo test` writes down what it prints now.
// {= end =}

use std::io::Write;
use std::process::{Command, Output, Stdio};

const PROGRAM: &str = env!("CARGO_BIN_EXE_{= name =}");

// {= if clap =}
#[test]
fn it_prints_what_is_written_down() {
    trycmd::TestCases::new()
        .case("tests/program/*.trycmd")
        .case("tests/program/*.toml");
}

// {= end =}
fn run(arguments: &[&str], input: &[u8], out: Stdio) -> Output {
    let mut program = Command::new(PROGRAM);
    // {= if settings =}
    program.env_remove("{= name.constant =}_SETTINGS");
    // {= end =}
    program.args(arguments).stdin(Stdio::piped());
    program.stdout(out).stderr(Stdio::piped());
    let mut program = program.spawn().expect("it starts");
    let mut stdin = program.stdin.take().expect("it has an input");
    // A program that reads nothing may be gone already.
    let _ = stdin.write_all(input);
    drop(stdin);
    program.wait_with_output().expect("it ends")
}
// {= if not clap =}

#[test]
fn it_counts() {
    for (arguments, printed) in [
        (&["count"][..], "       1        2        8  -\n"),
        (&["count", "-"], "       1        2        8  -\n"),
    ] {
        let output = run(arguments, b"one two\n", Stdio::piped());
        assert!(output.status.success(), "{output:?}");
        assert_eq!(String::from_utf8_lossy(&output.stdout), printed);
    }
    let output = run(&["count", "Cargo.toml", "README.md"], b"", Stdio::piped());
    assert!(output.stdout.ends_with(b"  in all\n"), "{output:?}");
}

#[test]
fn what_is_wrong_is_said() {
    for (arguments, code, word) in [
        (&["count", "no-such-file"][..], 1, "no-such-file"),
        (&["cuont"], 2, "cuont"),
        (&["count", "--colour"], 2, "--colour"),
        (&[], 2, "--help"),
    ] {
        let output = run(arguments, b"", Stdio::piped());
        let said = String::from_utf8_lossy(&output.stderr);
        assert_eq!(output.status.code(), Some(code), "{arguments:?}: {said}");
        assert!(said.contains(word), "{arguments:?}: {said}");
    }
    let output = run(&["help"], b"", Stdio::piped());
    assert!(
        output.status.success() && output.stderr.is_empty(),
        "{output:?}"
    );
}
// {= end =}

#[test]
fn a_closed_pipe_is_no_mistake() {
    let mut program = Command::new(PROGRAM)
        .arg("count")
        .args(std::iter::repeat_n("Cargo.toml", 5000))
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("it starts");
    drop(program.stdout.take());
    let output = program.wait_with_output().expect("it ends");
    assert!(
        output.status.success() && output.stderr.is_empty(),
        "{output:?}"
    );
}

#[cfg(target_os = "linux")]
#[test]
fn an_output_that_is_lost_is_a_failure() {
    let full = std::fs::File::create("/dev/full").expect("Linux has it");
    let output = run(&["count"], b"one\n", full.into());
    assert_eq!(output.status.code(), Some(1), "{output:?}");
    assert!(!output.stderr.is_empty());
}
