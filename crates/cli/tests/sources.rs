//! Sources of answers: the command line, sheets, the environment, presets, the last cast, the
//! user's own defaults.
#![allow(clippy::unwrap_used)]

mod common;
use common::Place;

const BOARD: &str = r#"
[[question]]
key = "pier"
ask = "Pier"
kind = "text"
default = "gull"
[[question]]
key = "author"
ask = "Author"
kind = "text"
default = "nobody"
[[question]]
key = "web"
ask = "Web layer"
kind = "one-of"
default = "a"
option = [{ value = "a" }, { value = "b" }]
[[question]]
key = "extras"
ask = "Extras"
kind = "some-of"
option = [{ value = "ci" }, { value = "image" }]
[[question]]
key = "token"
kind = "minted"
length = 24
[[files]]
match = ".env"
local = true
[preset.full]
summary = "Everything"
answers = { web = "b", extras = ["ci", "image"] }
"#;

const BODY: &[(&str, &str)] = &[
    ("body/a", "{= pier =}|{= author =}|{= web =}|{= extras.join('+') =}"),
    ("body/.env", "TOKEN={= token =}\n"),
    ("body/.gitignore", ".env\n"),
];

fn board() -> Place {
    let place = Place::new();
    place.mold(BOARD, BODY);
    place
}

#[test]
fn each_source_has_its_rank() {
    let place = board();
    place.write("s.toml", "pier = \"sheet\"\nauthor = \"sheet\"\nweb = \"a\"\n");
    place.write(
        ".home/config/tinmold/config.toml",
        "[answers]\nauthor = \"own\"\nweb = \"b\"\nother = 1\nextras = 5\n",
    );
    let cases: &[(&[&str], &str)] = &[
        (&[], "gull|own|b|"),
        (&["--preset", "full"], "gull|own|b|ci+image"),
        (&["--sheet", "s.toml"], "sheet|sheet|a|"),
        (&["--sheet", "s.toml", "--preset", "full"], "sheet|sheet|a|ci+image"),
        (&["--sheet", "s.toml", "--set", "author=set=x"], "sheet|set=x|a|"),
    ];
    for (at, (args, expected)) in cases.iter().enumerate() {
        let folder = format!("out{at}");
        place.run(&[&["cast", "./m", &folder, "--unattended"], *args].concat()).says(0, &[]);
        assert_eq!(place.read(&format!("{folder}/a")), *expected, "{args:?}");
    }
    let mut command = place.command();
    command.args(["cast", "./m", "env", "--unattended", "--sheet", "s.toml"]);
    command.env("TINMOLD_ANSWER_PIER", "env").env("TINMOLD_ANSWER_EXTRAS", "ci");
    place.finish(&mut command).says(0, &[]);
    assert_eq!(place.read("env/a"), "sheet|sheet|a|ci");
}

#[test]
fn sheets_come_from_files_and_standard_input() {
    let place = board();
    for (name, text) in [
        ("-", "{\"pier\": \"a\\nb $(x) {= y =} \u{1f6a2}\"}"),
        ("-", "pier = \"\"\"a\nb $(x) {= y =} \u{1f6a2}\"\"\"\n"),
        ("-", "pier: \"a\\nb $(x) {= y =} \u{1f6a2}\"\n"),
    ] {
        let out = format!("out{}", text.len());
        place.run_with(&["cast", "./m", &out, "--unattended", "--sheet", name], text).says(0, &[]);
        assert_eq!(place.read(&format!("{out}/a")), "a\nb $(x) {= y =} \u{1f6a2}|nobody|a|", "{text}");
    }
    place.write("broken.toml", "pier = \n").write("wrong.yaml", "peir: x\nweb: c\nextras: ci\n");
    place.run(&["cast", "./m", "x", "--sheet", "broken.toml"]).says(2, &[]);
    place.run(&["cast", "./m", "x", "--sheet", "none.toml"]).says(2, &[]);
    place.run(&["cast", "./m", "x", "--sheet", "wrong.yaml"]).says(2, &[]);
    place.run(&["cast", "./m", "x", "--preset", "ful"]).says(2, &[]);
    assert!(!place.path("x").exists());
}

#[test]
fn a_saved_sheet_replays_the_cast() {
    let place = board();
    let odd = "pier=it's \"odd\" \\ \u{645} {= x =}";
    place
        .run(&[
            "cast",
            "./m",
            "one",
            "--unattended",
            "--set",
            odd,
            "--preset",
            "full",
            "--save-sheet",
            "s.toml",
        ])
        .says(0, &[]);
    place.run(&["cast", "./m", "two", "--unattended", "--sheet", "s.toml"]).says(0, &[]);
    assert_eq!(place.read("one/a"), place.read("two/a"));
    let sheet = place.read("s.toml");
    assert!(!sheet.contains("token"), "{sheet}");
    // A minted value is new in every project, and only in the file for this machine.
    let tokens = [place.read("one/.env"), place.read("two/.env")];
    assert_ne!(tokens[0], tokens[1]);
    assert_eq!(tokens[0].trim().len(), "TOKEN=".len() + 24);
    let kept: Vec<_> = place.listing(".home").into_iter().filter(|path| path.ends_with(".toml")).collect();
    let token = tokens[1].trim().trim_start_matches("TOKEN=").to_owned();
    assert!(kept.iter().all(|path| !place.read(&format!(".home/{path}")).contains(&token)), "{kept:?}");
}

#[test]
fn what_was_answered_last_time_is_offered() {
    let place = board();
    place.run_with(&["cast", "./m", "one", "--plain"], "\nInes\nb\n\nyes\n").says(0, &[]);
    let ran = place.run_with(&["cast", "./m", "two", "--plain"], "\n\n\n\nyes\n");
    let ran = ran.says(0, &["Enter takes Ines,"]);
    assert!(!ran.err.contains("TOKEN="));
    assert_eq!(place.read("two/a"), "gull|Ines|b|");
    // Without a terminal the last answers do not count.
    place.run(&["cast", "./m", "three", "--unattended"]).says(0, &[]);
    assert_eq!(place.read("three/a"), "gull|nobody|a|");
    let shown = place.run_with(&["cast", "./m", "four", "--plain"], "\n\n\n\nshow .env\nno\n");
    shown.says(0, &["TOKEN=************************"]);
}

#[test]
fn a_broken_configuration_is_one_clear_error() {
    let place = board();
    for (text, told) in
        [("[answers\n", "line 1, column 9"), ("answers = 1\n", "line 1"), ("[anwers]\n", "anwers")]
    {
        place.write(".home/config/tinmold/config.toml", text);
        place.run(&["cast", "./m", "x", "--unattended"]).says(1, &["config.toml", told]);
    }
}

#[test]
fn a_mold_is_shown_to_people_and_programs() {
    let place = board();
    place.write("m/README.md", "# m\n\nFor boards.\n");
    place.run(&["show", "./m"]).says(0, &["m 1.0.0", "├─ .env", "For boards."]);
    let json = place.run(&["show", "./m", "--format", "json"]).says(0, &[]);
    let shown: serde_json::Value = serde_json::from_str(&json.out).unwrap();
    assert_eq!(shown["questions"][2]["options"][1]["value"], "b");
    assert_eq!(shown["questions"][4]["kind"], "minted");
    assert_eq!(shown["files"][0]["local"], true);
    assert_eq!(shown["presets"][0]["name"], "full");
    let schema = place.run(&["show", "./m", "--format", "json-schema"]).says(0, &[]);
    let schema: serde_json::Value = serde_json::from_str(&schema.out).unwrap();
    assert!(
        jsonschema::validator_for(&schema)
            .unwrap()
            .is_valid(&serde_json::json!({ "web": "b", "extras": ["ci"] }))
    );
    let sheet = place.run(&["show", "./m", "--sheet"]).says(0, &["#web = \"a\""]);
    place.write("blank.toml", sheet.out);
    place.run(&["cast", "./m", "x", "--unattended", "--sheet", "blank.toml"]).says(0, &[]);
    // A reader that closes the pipe early is not a failure.
    let mut command = place.command_of("sh".as_ref());
    command.arg("-c").arg(format!("{} show ./m | head -n 1", env!("CARGO_BIN_EXE_tinmold")));
    let ran = place.finish(&mut command).says(0, &["m 1.0.0"]);
    assert_eq!(ran.err, "");
}
