//! Shells complete command lines with what is there.
#![allow(clippy::unwrap_used)]

mod common;
use common::{NAMED, Place};
use std::process::Command;

/// What the program offers for the last of these words, as fish is told.
fn offered(place: &Place, words: &[&str]) -> Vec<String> {
    let mut command = place.command();
    command.args(["--", "tinmold"]).args(words).env("TINMOLD_COMPLETE", "fish");
    let ran = place.finish(&mut command).says(0, &[]);
    ran.out.lines().map(|line| line.split('\t').next().unwrap().to_owned()).collect()
}

#[test]
fn what_can_follow_is_known() {
    let place = Place::new();
    place.mold(NAMED, &[("body/a", "{= name =}"), ("body/b", "# joint: b (tinmold)\n")]);
    place.write("m/parts/quay/part.toml", "[part]\nname = \"quay\"\nsummary = \"One more quay\"\n[[question]]\nkey = \"berth\"\nask = \"Berth\"\nkind = \"one-of\"\ndefault = \"b4\"\noption = [{ value = \"b4\" }, { value = \"c1\" }]\n[[joint]]\nfile = \"b\"\nname = \"b\"\nlines = [\"{= berth =}\"]\n");
    place.write(
        "shelf/crew-board/mold.toml",
        "[mold]\nname = \"crew-board\"\nversion = \"1.2.0\"\nsummary = \"A board\"\n",
    );
    place.write("shelf/crew-board/body/a", "x");
    place.run(&["shelf", "add", "crews", "shelf", "--summary", "Boards of the crews"]).says(0, &[]);
    place.run(&["shelf", "list"]).says(0, &["Boards of the crews"]);
    place.run(&["cast", "./m", "--unattended"]).says(0, &[]);
    let cases: &[(&[&str], &[&str])] = &[
        (&["cast", "cre"], &["crew-board", "crews/"]),
        (&["cast", "crews/"], &["crews/crew-board"]),
        (&["show", "crew-board@"], &["crew-board@1.2.0"]),
        (&["cast", "python-service", "--set", "we"], &["web="]),
        (&["cast", "python-service", "--set", "web=f"], &["web=fastapi", "web=flask"]),
        (&["cast", "python-service", "--set", "extras=ci,con"], &["extras=ci,container"]),
        (&["cast", "python-service", "--preset", "t"], &["team"]),
        (&["cast", "python-service", "--finish", "rep"], &["repository"]),
        (&["cast", "./m", "--set", ""], &["name="]),
        (&["fit", "--dir", "out", "q"], &["quay"]),
        (&["fit", "quay", "--dir", "out", "--set", "berth="], &["berth=b4", "berth=c1"]),
        (&["shelf", "drop", ""], &["crews"]),
        (&["find", "--only", "ki"], &["kind="]),
        (&["find", "--only", "shelf=c"], &["shelf=crews"]),
        (&["settings", "network.o"], &["network.offline"]),
        (&["help", "shelf", "dr"], &["drop"]),
        (&["cast", "no-such-mold", "--set", "x"], &[]),
    ];
    for (words, expected) in cases {
        let all: Vec<String> =
            offered(&place, words).into_iter().filter(|word| !word.starts_with('-')).collect();
        assert_eq!(all, *expected, "{words:?}");
    }
    // What a stranger's mold holds is never put on the line of a shell, nor a file with such a name.
    place.write("bad/mold.toml", "[mold]\nname = \"bad\"\nversion = \"1.0.0\"\nsummary = \"x\"\n[[question]]\nkey = \"q\"\nask = \"tides\"\nkind = \"one-of\"\ndefault = \"ok\"\noption = [{ value = \"ok\", note = \"a pier\" }, { value = \"$(touch ran)\" }]\n");
    place.write("bad/body/a", "{= q =}");
    assert_eq!(offered(&place, &["cast", "./bad", "--set", "q="]), ["q=ok"]);
    place.write("$(touch ran)/x", "");
    let mut bash = place.command();
    bash.args(["--", "tinmold", "cast", "./"])
        .env("TINMOLD_COMPLETE", "bash")
        .env("TINMOLD_COMPLETE_INDEX", "2");
    let offered_there = place.finish(&mut bash).out;
    assert!(offered_there.contains("./bad/") && !offered_there.contains("touch"), "{offered_there}");
    // A broken configuration or project is no reason for noise on the line.
    place.write(".home/config/tinmold/config.toml", "[network");
    assert!(offered(&place, &["cast", "py"]).is_empty());
}

#[test]
fn every_shell_has_a_script() {
    let place = Place::new();
    for shell in ["bash", "zsh", "fish", "powershell", "elvish"] {
        place.run(&["completion", shell]).says(0, &["TINMOLD_COMPLETE", "tinmold"]);
    }
    let mut named = place.command();
    named.arg("completion").env("SHELL", "/usr/bin/fish");
    place.finish(&mut named).says(0, &["fish"]);
    named.env("SHELL", "/bin/odd");
    place.finish(&mut named).says(2, &["tinmold completion bash"]);
    // bash breaks words at `=` and `@`.
    if Command::new("bash").arg("--version").output().is_err() {
        return;
    }
    let folder = std::path::Path::new(env!("CARGO_BIN_EXE_tinmold")).parent().unwrap();
    let path = format!("{}:{}", folder.display(), std::env::var("PATH").unwrap());
    for (words, index, expected) in [
        ("tinmold cast python-service --set web = fa", 6, "fastapi"),
        ("tinmold cast python-service --set web =", 5, "stdlib fastapi flask"),
        ("tinmold cast python-ser", 2, "python-service"),
    ] {
        let script = format!(
            "source <(tinmold completion bash); COMP_WORDS=({words}); COMP_CWORD={index}; _tinmold_complete; echo \"${{COMPREPLY[@]}}\""
        );
        let mut bash = place.command_of("bash".as_ref());
        bash.args(["--norc", "-c", &script]).env("PATH", &path);
        assert_eq!(place.finish(&mut bash).out.trim(), expected, "{words}");
    }
}
