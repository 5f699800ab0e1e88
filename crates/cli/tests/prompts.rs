//! A user at plain lines, and where there is none.

mod common;
use common::{Place, WRITE};

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
fn a_long_list_is_narrowed_by_words() {
    let place = Place::new();
    let options: String = (0..30)
        .map(|at| {
            let need = if at < 2 { "Reads JSON" } else { "Does more" };
            format!("[[question.option]]\nvalue = \"o{at}\"\nlabel = \"Option {at}\"\ngroup = \"{need}\"\n")
        })
        .collect();
    let manifest = "[[question]]\nkey = \"name\"\nask = \"Coordinates\"\nkind = \"text\"\nform = \"java-coordinates\"\n\
        [[question]]\nkey = \"extras\"\nask = \"It must also\"\nkind = \"some-of\"\n";
    place.mold(&format!("{manifest}{options}"), &[("body/a", "{= name =} {= extras.join('+') =}")]);
    let lines =
        "example.saltmarsh.Pier Times\nexample.saltmarsh:pier-times\njson\nnothing like it\no1,3\nyes\n";
    let ran = place.run_with(&["cast", "./m", "--plain"], lines).says(
        0,
        &[
            "`example.saltmarsh:pier-times` would do",
            "owner example.saltmarsh, name pier-times",
            "2. o1 (Option 1)",
        ],
    );
    assert!(!ran.err.contains("o2 ("), "{}", ran.err);
    assert_eq!(place.read("out/a"), "example.saltmarsh:pier-times o1+o2");
}

#[test]
fn odd_text_goes_through_prompts_unchanged() {
    let odd = "it's \"odd\" \\ $(x) {= y =} \u{1f6a2} \u{645}\u{631}\u{62d}\u{628}\u{627} caf\u{e9}";
    let place = Place::new();
    place
        .mold("[[question]]\nkey = \"sign\"\nask = \"Sign\"\nkind = \"text\"\n", &[("body/a", "{= sign =}")]);
    let mut terminal = place.terminal(&["cast", "./m", "asked"]);
    terminal.sees("Sign").types(odd).types(WRITE).sees("Write it?").types("\r").sees("Written:");
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
    // An answer that is given is open to change.
    let mut terminal = place.terminal(&["cast", "./m", "y", "--set", "sign=low tide"]);
    terminal.sees("low tide").sees("flag").types("\x15high tide").sees("yours");
    terminal.types(WRITE).sees("Write it?").types("\r").sees("Written:").sees("high tide");
    assert_eq!(terminal.ends(), 0);
    assert_eq!(place.read("y/a"), "high tide");
    let mut terminal = place.terminal(&["cast", "./m", "z", "--set", "sign=x"]);
    terminal.sees("flag").types("\x1b").sees("Left without writing anything.");
    assert_eq!(terminal.ends(), 0);
    assert!(!place.path("z").exists());
}
