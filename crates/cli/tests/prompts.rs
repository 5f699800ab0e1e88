//! A user at a terminal, and one at plain lines.

mod common;
use common::Place;

#[test]
fn a_person_walks_through_the_questions() {
    let place = Place::new();
    let mut terminal = place.terminal(&["cast", "python-service"]);
    terminal.sees("Service name (my-service)").sees("1 of 10").types("tide-times\r");
    terminal.sees("What is it for? (Tide times, an HTTP service)").types("\r");
    terminal.sees("Python module (tide_times)").types("class\r");
    terminal.sees("`class` is a keyword of Python; `class_` or `classes` would do").types("es\r");
    terminal.sees("Requests and answers in JSON").types("\r");
    terminal.sees("No packages; runs with no network").types("\r");
    terminal.sees("Notes are kept in memory").types("\r");
    terminal
        .sees("Port (8000)")
        .types("70000\r")
        .sees("a port is a number from 1 to 65535")
        .types("\x7f\x7f\x7f\x7f\x7f")
        .types("8123\r");
    terminal.sees("One object a line").types("text\r").sees("Log format Text");
    // Back from the next question, and the other way.
    terminal.sees("Licence").types("\x1b").sees("One sentence a line").types("\x1b[A\r");
    terminal.sees("Log format JSON").sees("All rights stay with you").types("\r");
    terminal.sees("10 of 10").types("\r");
    terminal
        .sees("What will be written")
        .sees("Licence          none")
        .sees("make test")
        .sees("All set?")
        .types("\x1b[B\r");
    terminal
        .sees("Which one?")
        .types("Port")
        .sees("Port: 8123")
        .types("\r")
        .sees("Port (8123)")
        .types("8124\r");
    terminal
        .sees("All set?")
        .types("\x1b[B\x1b[B\r")
        .sees("Which file?")
        .types("config.py")
        .types("\r")
        .sees("port: int = 8124");
    terminal.sees("All set?").types("\r").sees("Written:").sees("make run");
    assert_eq!(terminal.ends(), 0);
    assert!(place.read("tide-times/src/classes/config.py").contains("port: int = 8124"));
}

#[test]
fn ctrl_c_leaves_nothing_behind() {
    let place = Place::new();
    for keys in [&["\x03"][..], &["tides\r", "\x03"], &["tides\r", "\r", "\r", "\r", "\x03"]] {
        let mut terminal = place.terminal(&["cast", "python-service"]);
        terminal.sees("Service name");
        for key in keys {
            terminal.types(key);
        }
        assert_eq!(terminal.ends(), 130, "{}", terminal.screen());
    }
    assert!(!place.path("tides").exists());
}

#[test]
fn plain_lines_do_too() {
    let place = Place::new();
    let manifest = r#"
[[question]]
key = "pier"
ask = "Pier"
help = "Where the ferry calls."
kind = "text"
form = "kebab"
[[question]]
key = "crew"
ask = "Crew"
kind = "integer"
default = 4
min = 2
[[question]]
key = "web"
ask = "Web layer"
kind = "one-of"
default = "a"
[[question.option]]
value = "a"
[[question.option]]
value = "b"
note = "The other one"
[[question]]
key = "extras"
ask = "Extras"
kind = "some-of"
[[question.option]]
value = "ci"
[[question.option]]
value = "image"
requires = ["ci"]
"#;
    place.mold(manifest, &[("body/a", "{= pier =} {= crew =} {= web =} {= extras.join('+') =}")]);
    let lines = [
        "Gull Point",
        "?",
        "gull-point",
        "1",
        "<",
        "",
        "5",
        "2",
        "2",
        "1,2",
        "show a",
        "show b",
        "change crew",
        "6",
        "yes",
    ];
    place
        .run_with(&["cast", "./m", "--plain"], &(lines.join("\n") + "\n"))
        .says(0, &["`gull-point` would do."]);
    assert_eq!(place.read("out/a"), "gull-point 6 b ci+image");
    let ended = place.run_with(&["cast", "./m", "x", "--plain"], "gull-point\n");
    ended.says(3, &["--set crew=…"]);
    place.run_with(&["cast", "./m", "x", "--plain"], "gull-point\n\n\n\nno\n").says(0, &[]);
    assert!(!place.path("x").exists());
}

#[test]
fn odd_text_goes_through_prompts_unchanged() {
    let odd = "it's \"odd\" \\ $(x) {= y =} \u{1f6a2} \u{645}\u{631}\u{62d}\u{628}\u{627} caf\u{e9}";
    let place = Place::new();
    place
        .mold("[[question]]\nkey = \"sign\"\nask = \"Sign\"\nkind = \"text\"\n", &[("body/a", "{= sign =}")]);
    let mut terminal = place.terminal(&["cast", "./m", "asked"]);
    terminal.sees("Sign").types(odd).types("\r").sees("All set?").types("\r").sees("Written:");
    assert_eq!(terminal.ends(), 0);
    assert_eq!(place.read("asked/a"), odd);
    place.run_with(&["cast", "./m", "plain", "--plain"], &format!("{odd}\nyes\n")).says(0, &[]);
    assert_eq!(place.read("plain/a"), odd);
}

#[test]
fn five_hundred_wrong_values_are_one_message() {
    let place = Place::new();
    let questions: String = (0..500)
        .map(|n| {
            format!(
                "[[question]]\nkey = \"q{n:03}\"\nask = \"?\"\nkind = \"integer\"\nmax = 9\ndefault = 1\n"
            )
        })
        .collect();
    place.mold(&questions, &[("body/a", "x")]);
    let sheet: String = (0..500).rev().map(|n| format!("q{n:03} = {}\n", n + 10)).collect();
    place.write("s.toml", sheet);
    let ran = place.run(&["cast", "./m", "x", "--unattended", "--sheet", "s.toml"]);
    let ran = ran.says(2, &[]);
    let keys: Vec<&str> = ran
        .err
        .lines()
        .filter_map(|line| line.trim().split(' ').next())
        .filter(|word| word.starts_with('q'))
        .collect();
    assert_eq!(keys.len(), 500);
    assert!(keys.is_sorted());
}

#[test]
fn nobody_is_asked_where_nobody_is() {
    let place = Place::new();
    place.mold(
        "[[question]]\nkey = \"sign\"\nask = \"Sign\"\nkind = \"text\"\nform = \"plain\"\n",
        &[("body/a", "{= sign =}")],
    );
    // In a terminal, but under CI.
    let mut command = place.command();
    command.args(["cast", "./m", "x"]).env("CI", "true");
    place.finish(&mut command).says(3, &["--set sign=…"]);
    // An answer that is given is not asked for, and open to change in the review.
    let mut terminal = place.terminal(&["cast", "./m", "y", "--set", "sign=low tide"]);
    terminal.sees("low tide").sees("--set").sees("All set?").types("\x1b[B\r").sees("Which one?").types("\r");
    terminal
        .sees("Sign (low tide)")
        .types("high tide\r")
        .sees("high tide")
        .sees("All set?")
        .types("\r")
        .sees("Written:");
    assert_eq!(terminal.ends(), 0);
    assert_eq!(place.read("y/a"), "high tide");
    let mut terminal = place.terminal(&["cast", "./m", "z", "--set", "sign=x"]);
    terminal.sees("All set?").types("Leave\r").sees("Left without writing anything.");
    assert_eq!(terminal.ends(), 0);
    assert!(!place.path("z").exists());
}
