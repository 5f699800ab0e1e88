//! The command `{= command =}`, run as people run it.

use std::process::{Command, Output};

const PROGRAM: &str = env!("CARGO_BIN_EXE_{= name =}");

fn run(args: &[&str]) -> Output {
    Command::new(PROGRAM)
        .args(args)
        .output()
        .expect("it starts")
}

#[test]
fn it_prints_words() {
    let output = run(&["{= command =}", "two", "words"]);
    assert!(output.status.success());
    assert_eq!(String::from_utf8_lossy(&output.stdout), "two words\n");
}

#[test]
fn it_wants_words() {
    let output = run(&["{= command =}"]);
    assert_eq!(output.status.code(), Some(1));
    assert!(String::from_utf8_lossy(&output.stderr).contains("words"));
}
