//! What all commands share: help, exit codes, every mistake at once, and filters.
#![allow(clippy::unwrap_used)]

mod common;
use common::Place;
use serde_json::Value as Json;
use std::fs;

/// Every command of the program, as its reference lists them.
fn commands(place: &Place) -> Vec<(String, Json)> {
    fn add(command: &Json, all: &mut Vec<(String, Json)>) {
        all.push((command["name"].as_str().unwrap().to_owned(), command.clone()));
        command["commands"].as_array().unwrap().iter().for_each(|inner| add(inner, all));
    }
    let reference = place.run(&["help", "--format", "json"]).says(0, &[]).out;
    let reference: Json = serde_json::from_str(&reference).unwrap();
    let mut all = Vec::new();
    for group in reference["groups"].as_array().unwrap() {
        group["commands"].as_array().unwrap().iter().for_each(|command| add(command, &mut all));
    }
    all
}

#[test]
fn every_command_explains_itself_and_refuses_what_it_does_not_know() {
    let place = Place::new();
    place.run(&["--version"]).says(0, &[env!("CARGO_PKG_VERSION")]);
    let all = place.run(&["--help"]).says(0, &[]).out;
    let commands = commands(&place);
    // What the shell is offered is in a group of the help.
    let mut shell = place.command();
    let offered = place.finish(shell.args(["--", "tinmold", ""]).env("TINMOLD_COMPLETE", "fish")).out;
    let offered = offered.lines().filter(|line| !line.starts_with('-')).count();
    assert_eq!(offered, commands.iter().filter(|(name, _)| name.split(' ').count() == 2).count());
    for (name, command) in &commands {
        let words: Vec<&str> = name.split(' ').skip(1).collect();
        if let [name] = words[..] {
            assert!(all.contains(&format!("  {name} ")), "{name} is not in\n{all}");
        }
        let long =
            place.run(&[&words, &["--help"][..]].concat()).says(0, &["--plain", "--log", "Examples:"]).out;
        assert!(long.lines().all(|line| line.chars().count() <= 100), "{long}");
        assert_eq!(long, place.run(&[&["help"], &words[..]].concat()).says(0, &[]).out);
        place.run(&[&words, &["--no-such-option"][..]].concat()).says(2, &["--no-such-option"]);
        // Every word of every example is one that the command takes.
        for example in command["examples"].as_array().unwrap() {
            let line = example["line"].as_str().unwrap();
            let Some(typed) = line.strip_prefix("tinmold ") else { continue };
            let typed = typed.split(['|', '>']).next().unwrap();
            let words = shlex::split(typed).unwrap();
            let words: Vec<&str> = words.iter().map(String::as_str).chain(["--help"]).collect();
            place.run(&words).says(0, &["Usage"]);
        }
    }
    let first = place.run(&[]).says(0, &["tinmold help"]).out;
    for text in [&all, &first] {
        assert!(
            text.lines()
                .take_while(|line| !line.starts_with("Options"))
                .all(|line| line.chars().count() <= 80),
            "{text}"
        );
    }
    assert_eq!(first.lines().filter(|line| line.starts_with("  tinmold ")).count(), 5, "{first}");
    // None of them wrote anything.
    assert!(place.listing("").iter().all(|path| path.starts_with(".home")), "{:?}", place.listing(""));
}

#[test]
fn words_of_other_habits_are_answered_with_ours() {
    let place = Place::new();
    let known: Vec<String> = commands(&place).into_iter().map(|(name, _)| name).collect();
    let cases: &[(&[&str], &str)] = &[
        (&["new", "x"], "tinmold cast"),
        (&["init"], "tinmold cast"),
        (&["list"], "tinmold find"),
        (&["version"], "tinmold --version"),
        (&["update"], "tinmold recast"),
        (&["UPGRADE", "--force"], "tinmold recast"),
        (&["config"], "tinmold settings"),
        (&["csat"], "`cast`"),
        (&["xyzzy"], "tinmold --help"),
        (&["shelf", "remove", "x"], "tinmold shelf drop"),
        (&["shelf", "lst"], "`list`"),
        (&["help", "csat"], "`cast`"),
    ];
    for (line, ours) in cases {
        let ran = place.run(line).says(2, &[ours, "nothing was done"]);
        if let Some(ours) = ours.strip_prefix("tinmold ").filter(|ours| !ours.starts_with('-')) {
            assert!(known.contains(&format!("tinmold {ours}")), "{ours}");
        }
        assert!(ran.out.is_empty(), "{line:?}");
    }
    assert!(place.listing("").iter().all(|path| path.starts_with(".home")), "{:?}", place.listing(""));
}

#[test]
fn every_command_has_a_man_page() {
    let place = Place::new();
    place.run(&["help", "--man", "man/man1"]).says(0, &[]);
    for (name, command) in commands(&place) {
        let page = place.read(&format!("man/man1/{}.1", name.replace(' ', "-")));
        assert!(page.contains(".SH EXAMPLES") && page.contains(".SH EXIT STATUS"), "{name}");
        assert!(!page.contains('\u{1b}'), "{name}");
        let usage = command["usage"].as_str().unwrap().lines().next().unwrap();
        assert!(page.contains(&usage.replace('-', "\\-")), "{name}: {usage}\n{page}");
    }
    place.write("file", "");
    place.run(&["help", "--man", "file/man"]).says(1, &["file/man"]);
}

#[test]
fn cast_and_fit_tell_every_wrong_answer_at_once() {
    let place = Place::new();
    let question = |key: &str, more: &str| format!("[[question]]\nkey = \"{key}\"\nask = \"?\"\n{more}\n");
    let three = question("pier", "kind = \"text\"\nform = \"kebab\"")
        + &question("berths", "kind = \"integer\"\nmax = 9")
        + &question("night", "kind = \"flag\"");
    let head = "[part]\nname = \"quay\"\nsummary = \"One more quay\"\nanywhere = true\n";
    let uses = "{= pier =}{= berths =}{= night =}";
    place.mold(&three, &[("body/a", uses)]);
    place.write("m/parts/quay/part.toml", format!("{head}{three}"));
    place.write("m/parts/quay/body/b", uses);
    place.write("plain/README.md", "a project without a record\n");
    let mold = place.path("m").display().to_string();
    let wrong = ["--set", "pier=Gull Point", "--set", "berths=12", "--set", "night=maybe", "--set", "peir=x"];
    for command in [
        vec!["cast", "./m", "new", "--unattended"],
        vec!["fit", "quay", "--mold", &mold, "--dir", "plain", "--unattended"],
    ] {
        let ran = place.run(&[&command[..], &wrong].concat()).says(2, &[]);
        for key in ["pier", "berths", "night", "peir"] {
            assert!(
                ran.err.contains(&format!("{key} ")) || ran.err.contains(&format!("{key}:")),
                "{key}: {}",
                ran.err
            );
        }
        // Without a terminal, all missing answers are reported at once, too.
        let missing = place.run(&command).says(3, &["--set pier=…"]);
        assert!(!missing.err.contains("Question"), "{}", missing.err);
    }
    assert!(!place.path("new").exists());
    assert_eq!(place.listing("plain"), ["README.md"]);
}

#[test]
fn molds_are_found_by_their_facets() {
    let place = Place::new();
    let mold = |name: &str, language: &str, tags: &str| {
        let head = format!(
            "[mold]\nname = \"{name}\"\nversion = \"1.0.0\"\nsummary = \"A board\"\nowner = \"example.saltmarsh\"\n\
             language = [\"{language}\"]\nkind = [\"service\"]\ntags = [{tags}]\n"
        );
        place.write(&format!("shelf/{name}/mold.toml"), head);
        fs::create_dir_all(place.path(&format!("shelf/{name}/body"))).unwrap();
    };
    mold("pier-board", "rust", "\"http\", \"tides\"");
    mold("tide-board", "rust", "\"http\"");
    mold("crew-board", "go", "\"tides\"");
    place.run(&["shelf", "add", "piers", "shelf"]).says(0, &[]);
    let found = |filters: &[&str]| -> Vec<String> {
        let mut args = vec!["find", "board", "--format", "json", "--only", "shelf=piers"];
        args.extend(filters.iter().flat_map(|filter| ["--only", *filter]));
        let ran = place.run(&args);
        let found: Json = serde_json::from_str(&ran.out).unwrap();
        let molds = found["molds"].as_array().unwrap();
        assert_eq!(ran.code, i32::from(molds.is_empty()));
        let mut names: Vec<_> = molds.iter().map(|mold| mold["name"].as_str().unwrap().to_owned()).collect();
        names.sort();
        names
    };
    let cases: &[(&[&str], &[&str])] = &[
        (&[], &["crew-board", "pier-board", "tide-board"]),
        (&["language=rust"], &["pier-board", "tide-board"]),
        (&["language=rust", "tag=tides"], &["pier-board"]),
        (&["tag=http", "tag=tides"], &["pier-board"]),
        (&["kind=service", "owner=example.salt"], &["crew-board", "pier-board", "tide-board"]),
        (&["language=GO"], &["crew-board"]),
        (&["language=ru"], &[]),
        (&["tag=none"], &[]),
    ];
    for (filters, names) in cases {
        assert_eq!(found(filters), *names, "{filters:?}");
    }
    for wrong in ["language", "language=", "colour=blue", "=rust", "shelf=pears"] {
        place.run(&["find", "board", "--only", wrong]).says(2, &[]);
    }
    place.run(&["find", "--only", "langauge=rust"]).says(2, &["language"]);
}

#[test]
fn other_words_find_what_is_meant_and_what_was_used_comes_first() {
    let place = Place::new();
    let names = |words: &[&str]| -> Vec<String> {
        let ran = place.run(&[&["find", "--format", "json"], words].concat());
        let found: Json = serde_json::from_str(&ran.out).unwrap();
        let molds = found["molds"].as_array().unwrap();
        assert_eq!(found["found"], molds.len());
        molds.iter().map(|mold| mold["name"].as_str().unwrap().to_owned()).collect()
    };
    let cases: &[(&[&str], &[&str])] = &[
        (&["rest", "golang"], &["go-service"]),
        (&["js"], &["node-service", "web-app"]),
        (&["terminal", "rust"], &["rust-cli"]),
        (&["lib", "py", "typed"], &["python-library"]),
        (&["postgres", "ts"], &["node-service"]),
    ];
    for (words, expected) in cases {
        assert_eq!(names(words), *expected, "{words:?}");
    }
    assert!(names(&["web"]).contains(&"web-app".to_owned()));
    let before = names(&[]);
    place.write(".home/state/tinmold/recent", "built-in/web-app\nbuilt-in/mold\n");
    let after = names(&[]);
    assert_eq!(after[..2], ["web-app", "mold"]);
    assert_eq!(after.len(), before.len());
    // Nothing is cut where no terminal is, and what there is is shown where nothing matches.
    assert!(!place.run(&["find"]).says(0, &["web-app"]).out.contains('…'));
    place.run(&["find", "zzzz"]).says(1, &["python-service", "web-app", "docs-site"]);
    let counts = place.run(&["find", "--categories", "--format", "json"]).says(0, &[]).out;
    let counts: Json = serde_json::from_str(&counts).unwrap();
    let kinds = counts["categories"][0]["values"].as_array().unwrap();
    assert_eq!(kinds[0]["value"], "service");
    assert!(kinds[0]["molds"].as_u64().unwrap() >= 5);
}

#[test]
fn a_new_user_meets_no_surprise() {
    let place = Place::new();
    let question = "[[question]]\nkey = \"pier\"\nask = \"Pier\"\nkind = \"text\"\n";
    place.mold(question, &[]);
    // A mold without files makes no project.
    place.run(&["cast", "./m", "--unattended", "--set", "pier=x"]).says(5, &["body/"]);
    place.write("m/body/a", "{= pier =}");
    // An empty answer is no answer, unless the mold says that it may be empty.
    place.run(&["cast", "./m", "--unattended", "--set", "pier="]).says(2, &["pier"]);
    place.run(&["cast", "./m", "--unattended"]).says(3, &["--set pier="]);
    place.mold(&format!("{question}default = \"\"\n"), &[]);
    place.run(&["cast", "./m", "--unattended"]).says(0, &[]);
    // What is typed is repeated.
    place.run(&["cast", "./m", "--unattended"]).says(4, &["tinmold cast ./m out"]);
    place.run(&["check", "m"]).says(2, &["./m"]);
    place.run(&["status", "--dir", "out"]).says(0, &["m 1.0.0"]);
    place.run(&["recast", "--dir", "out", "--check"]).says(0, &[]);
}

#[test]
fn a_mold_is_shown_in_words() {
    let place = Place::new();
    let manifest = r#"
[[question]]
key = "name"
ask = "Name"
kind = "text"
default = "gull-point"
[[question]]
key = "title"
ask = "Title"
kind = "text"
default = "{= name.title =}"
[[question]]
key = "store"
ask = "Store"
kind = "one-of"
default = "none"
option = [{ value = "none", label = "Nothing" }, { value = "file", label = "A file" }, { value = "server" }]
[[question]]
key = "night"
ask = "At night too?"
kind = "flag"
when = "stored"
[derive]
stored = { is = "match store case 'none' then false case 'file' then true case 'server' then true" }
[[need]]
tool = "make"
why = "runs it"
when = "not (store == 'file' or store == 'server') and name != 'x'"
[[need]]
tool = "make"
version = ">=4"
why = "runs it"
when = "name.len > 3"
"#;
    place.mold(manifest, &[("body/a", "{= title =}{= store =}{= night =}{= name =}")]);
    let shown = place.run(&["show", "./m"]).says(0, &["[Gull Point]", "tinmold cast ./m"]).out;
    for words in [
        "asked when “Store” is not Nothing",
        "when “Store” is not A file, and “Store” is not server, and “Name” is not x",
        "when the length of “Name” is more than 3",
    ] {
        assert!(shown.contains(words), "{words:?} is not in\n{shown}");
    }
    assert!(!shown.contains("{="), "{shown}");
    let tools =
        |text: &str| text.lines().filter(|line| line.split_whitespace().any(|word| word == "make")).count();
    assert_eq!(tools(&shown), 1, "{shown}");
    assert_eq!(tools(&place.run(&["preflight", "./m"]).out), 1);
}
