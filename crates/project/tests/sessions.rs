//! Sessions: what is asked, what follows what, going back, and the sources of answers.
#![allow(clippy::unwrap_used)]

mod common;
use common::{mold, session, shown};
use proptest::prelude::*;
use tinmold_mold::Mold;
use tinmold_notation::Value;
use tinmold_project::answers::{
    AnswerSource, Answers, Offers, Session, SheetFormat, blank_sheet, display_value, full_sheet, parse_set,
    parse_text, read_sheet,
};

const BOARD: &str = r#"
[[question]]
key = "name"
ask = "Name"
kind = "text"
form = "kebab"
default = "my-board"
from-folder = true

[[question]]
key = "module"
ask = "Module"
kind = "text"
form = "python-module"
default = "{= name.snake =}"

[[question]]
key = "web"
ask = "Web layer"
kind = "one-of"
default = "stdlib"
  [[question.option]]
  value = "stdlib"
  [[question.option]]
  value = "flask"
  [[question.option]]
  value = "tide"
  when = "name == 'tides'"

[[question]]
key = "port"
ask = "Port"
kind = "integer"
min = 1
max = 65535
when = "web != 'stdlib'"
default = "{= if web == 'flask' then 5000 else 8000 =}"

[[question]]
key = "extras"
ask = "Extras"
kind = "some-of"
default = ["ci", "deep"]
  [[question.option]]
  value = "ci"
  [[question.option]]
  value = "container"
  [[question.option]]
  value = "compose"
  requires = ["container"]
  excludes = ["bare"]
  [[question.option]]
  value = "bare"
  [[question.option]]
  value = "deep"
  when = "web == 'flask'"

[[question]]
key = "calls"
ask = "Calls"
kind = "texts"
default = ["{= title =}", "Osier Island"]
max = 3
detail = true

[[question]]
key = "night"
ask = "At night?"
kind = "flag"
when = "'ci' in extras"
hidden = true

[[question]]
key = "secret"
kind = "minted"
length = 20

[derive]
title = "{= name.title =}"

[preset.small]
answers = { web = "flask", extras = [], name = "{= 'small' + '-board' =}" }
"#;

fn board() -> Mold {
    mold(BOARD, &[])
}

fn answer(session: &mut Session<'_>, key: &str, text: &str) {
    let mold = session.mold();
    let at = mold.questions.iter().position(|question| question.key == key).unwrap();
    let value = parse_text(&mold.questions[at], text, &mold.scope).unwrap();
    session.answer(at, value).unwrap();
}

fn asked(session: &Session<'_>) -> Vec<String> {
    session.unanswered().map(|at| session.mold().questions[at].key.clone()).collect()
}

#[test]
fn defaults_follow_until_somebody_types() {
    let mold = board();
    let mut session = session(&mold, &[], Offers::default());
    assert_eq!(
        shown(&session),
        [
            "name=my-board (default)",
            "module=my_board (default)",
            "web=stdlib (default)",
            "extras=ci (default)",
            "calls=My Board, Osier Island (default)",
            "night=false (default)",
            "secret= (minted)",
        ]
    );
    assert_eq!(asked(&session), ["name", "module", "web", "extras", "night"]);
    answer(&mut session, "name", "tide-times");
    answer(&mut session, "module", "tide_times");
    assert_eq!(shown(&session)[..2], ["name=tide-times (you)", "module=tide_times (default)"]);
    answer(&mut session, "name", "class");
    assert_eq!(shown(&session)[1], "module=class_ (default)");
    answer(&mut session, "module", "board");
    answer(&mut session, "name", "berths");
    assert_eq!(shown(&session)[..2], ["name=berths (you)", "module=board (you)"]);
    answer(&mut session, "web", "flask");
    assert_eq!(shown(&session)[3..5], ["port=5000 (default)", "extras=ci, deep (default)"]);
    answer(&mut session, "extras", "[]");
    assert!(!shown(&session).iter().any(|line| line.starts_with("night")));
    let night = mold.questions.iter().position(|question| question.key == "night").unwrap();
    assert_eq!(session.resolved()[night].value, Value::Flag(true));
    assert_eq!(asked(&session), ["port"]);
    session.ask_details(true);
    assert_eq!(asked(&session), ["port", "calls"]);
    assert_eq!(session.progress(3), (4, 6));
    assert_eq!(session.before(3), Some(2));
}

#[test]
fn what_becomes_illegal_is_asked_again() {
    let mold = board();
    let mut session = session(&mold, &[], Offers::default());
    for (key, text) in [
        ("name", "tides"),
        ("module", "m"),
        ("web", "tide"),
        ("port", "81"),
        ("extras", "ci"),
        ("night", "yes"),
    ] {
        answer(&mut session, key, text);
    }
    assert_eq!(session.next(), None);
    answer(&mut session, "name", "berths");
    assert_eq!(asked(&session), ["web"]);
    assert_eq!(session.problems()[0].key, "web");
    answer(&mut session, "web", "stdlib");
    assert_eq!(session.next(), None);
    let answers = session.finish().unwrap();
    assert_eq!(answers.questions[3].source, AnswerSource::NotAsked);
    let secret = |answers: &Answers| display_value(&mold, &answers.questions[7].value);
    assert_eq!(secret(&answers).len(), 20);
    assert!(secret(&answers).bytes().all(|b| b.is_ascii_alphanumeric()));
    let again = common::session(&mold, &[], Offers::default()).finish().unwrap();
    assert_ne!(secret(&answers), secret(&again));
    let sheet = full_sheet(&mold, &answers);
    assert!(!sheet.contains("secret") && !sheet.contains("port"), "{sheet}");
}

#[test]
fn values_are_judged_by_their_rules() {
    let mold = board();
    let cases = [
        ("port", "0"),
        ("port", "70000"),
        ("extras", "compose"),
        ("extras", "container,compose,bare"),
        ("extras", "deep"),
        ("calls", "a,b,c,d"),
        ("name", "A"),
    ];
    for (key, text) in cases {
        let session = session(
            &mold,
            &[("web", if key == "port" { "flask" } else { "stdlib" }), (key, text)],
            Offers::default(),
        );
        let problems = session.problems();
        assert_eq!(problems.len(), 1, "{key}={text} {problems:?}");
        assert_eq!((problems[0].key.as_str(), &problems[0].source), (key, &AnswerSource::Set));
    }
    let extras = mold.question("extras").unwrap();
    let of = extras.kind.choices().unwrap();
    assert_eq!(display_value(&mold, &extras.completed(of, &[2])), "container, compose");
}

#[test]
fn the_first_source_that_has_an_answer_wins() {
    let mold = board();
    let offers = Offers {
        anew: Vec::new(),
        casting: Vec::new(),
        folder: Some("Gull Point".into()),
        preset: Some("small".into()),
        last: vec![("module".into(), Value::Text("last".into())), ("port".into(), Value::Integer(0))],
        own: vec![("module".into(), Value::Text("own".into())), ("port".into(), Value::Integer(81))],
        tools: Vec::new(),
    };
    let with_preset = session(&mold, &[("extras", "bare")], offers.clone());
    assert_eq!(
        shown(&with_preset)[..5],
        [
            "name=small-board (preset small)",
            "module=last (used again)",
            "web=flask (preset small)",
            "port=81 (your defaults)",
            "extras=bare (--set)",
        ]
    );
    assert_eq!(asked(&with_preset), ["module", "port"]);
    let without = session(&mold, &[], Offers { preset: None, ..offers });
    assert_eq!(shown(&without)[0], "name=gull-point (folder)");
}

#[test]
fn the_machine_gives_the_newest_version_that_it_has() {
    let source = r#"
[[question]]
key = "coordinates"
ask = "Coordinates"
kind = "text"
form = "java-coordinates"
default = "org.example:my-app"
from-folder = true

[[question]]
key = "java"
ask = "Java"
kind = "one-of"
default = "17"
from-tool = "javac"
  [[question.option]]
  value = "17"
  [[question.option]]
  value = "21"
  [[question.option]]
  value = "25"
  when = "coordinates != 'a.b:old'"
"#;
    let mold = mold(source, &[]);
    let named = |value: &str| vec![("coordinates".to_owned(), Value::Text(value.to_owned()))];
    let (last, own) = (named("example.saltmarsh:tides"), named("a.b:old"));
    let javac = |version| vec![("javac".to_owned(), version)];
    let folder = Some("Gull Point".to_owned());
    for (offers, expected) in [
        (Offers::default(), ["org.example:my-app (default)", "17 (default)"]),
        (Offers { tools: javac(24), ..Offers::default() }, ["org.example:my-app (default)", "21 (machine)"]),
        (Offers { tools: javac(11), ..Offers::default() }, ["org.example:my-app (default)", "17 (default)"]),
        // The owner is that of the last project, the name that of the folder or of the mold.
        (
            Offers { tools: javac(26), last: last.clone(), ..Offers::default() },
            ["example.saltmarsh:my-app (used again)", "25 (machine)"],
        ),
        (
            Offers { folder: folder.clone(), last, own, ..Offers::default() },
            ["example.saltmarsh:gull-point (folder)", "17 (default)"],
        ),
        (Offers { folder, ..Offers::default() }, ["org.example:gull-point (folder)", "17 (default)"]),
    ] {
        let lines = shown(&session(&mold, &[], offers));
        let values: Vec<&str> = lines.iter().filter_map(|line| Some(line.split_once('=')?.1)).collect();
        assert_eq!(values, expected);
    }
    let session =
        session(&mold, &[("coordinates", "a.b:old")], Offers { tools: javac(25), ..Offers::default() });
    assert_eq!(shown(&session)[1], "java=21 (machine)");
}

#[test]
fn set_takes_every_kind() {
    let mold = board();
    let cases = [
        ("name=a=b", "a=b"),
        ("web=flask", "flask"),
        ("night", "true"),
        ("night=off", "false"),
        ("port=+5", "5"),
        ("extras=bare, ci", "ci, bare"),
        ("extras=", ""),
        ("extras=[\"ci\"]", "ci"),
        ("calls=[\"a, b\", \"\u{645} \\\"x\\\"\"]", "a, b, \u{645} \"x\""),
    ];
    for (text, expected) in cases {
        let (_, value) = parse_set(&mold, text).unwrap();
        assert_eq!(display_value(&mold, &value), expected, "{text}");
    }
    let wrong = [
        ("nmae=x", "nmae", "`name`"),
        ("zzzzzz=x", "zzzzzz", ""),
        ("name", "name", ""),
        ("web=flsk", "web", "`flask`"),
        ("port=x", "port", ""),
        ("night=maybe", "night", ""),
        ("secret=x", "secret", ""),
        ("calls=[1]", "calls", ""),
        ("extras=ci,x", "extras", ""),
    ];
    for (text, key, nearest) in wrong {
        let error = parse_set(&mold, text).unwrap_err();
        assert!(error.key == key && error.refusal.advice.contains(nearest), "{text}: {error:?}");
    }
}

#[test]
fn sheets_are_read_in_three_formats() {
    let mold = board();
    let sheets = [
        (SheetFormat::Toml, "name = 'a\"b'\nport = 81\nextras = ['bare', 'ci']\nnight = true\ncalls = []\n"),
        (
            SheetFormat::Json,
            "\u{feff}{\"name\": \"a\\\"b\", \"port\": 81.0, \"extras\": [\"bare\", \"ci\"], \"night\": true, \"calls\": [], \"web\": null}",
        ),
        (
            SheetFormat::Yaml,
            "# x\nname: 'a\"b'\nport: 81\nextras:\n  - bare\n  - ci\nnight: true\ncalls: []\n",
        ),
    ];
    for (format, text) in sheets {
        assert_eq!(SheetFormat::of_text(text.trim_start_matches('\u{feff}')), format);
        let sheet = read_sheet(&mold, text, format).unwrap();
        let mut read: Vec<_> = sheet
            .answers
            .iter()
            .map(|(at, value)| format!("{}={}", mold.questions[*at].key, display_value(&mold, value)))
            .collect();
        read.sort();
        assert_eq!(read, ["calls=", "extras=ci, bare", "name=a\"b", "night=true", "port=81"], "{format:?}");
        assert_eq!(sheet.wrong, []);
    }
    let broken = [
        (SheetFormat::Toml, "a = 1\nb =\n", "line 2, column 4"),
        (SheetFormat::Json, "{\n \"a\": }", "line 2, column 7"),
        (SheetFormat::Json, "[1]", "a table of keys"),
        (SheetFormat::Yaml, "a: [1\nb: 2", "line"),
        (SheetFormat::Yaml, "- 1", "a table of keys"),
    ];
    for (format, text, place) in broken {
        let error = read_sheet(&mold, text, format).unwrap_err();
        assert!(error.to_string().contains(place), "{text:?}: {error}");
    }
    let wrong = read_sheet(
        &mold,
        "nmae = 1\nport = '81'\nweb = 'x'\nsecret = 'x'\nnight = 2026-11-23\n",
        SheetFormat::Toml,
    );
    let wrong = wrong.unwrap().wrong;
    assert_eq!(wrong.len(), 5, "{wrong:?}");
    assert_eq!(read_sheet(&mold, "", SheetFormat::Yaml).unwrap().answers, []);
    let blank = blank_sheet(&mold);
    let filled: String = blank
        .lines()
        .map(|line| match line.strip_prefix('#') {
            Some(rest) if !rest.starts_with(' ') && rest.contains(" = ") && !rest.starts_with("module") => {
                format!("{rest}\n")
            }
            _ => format!("{line}\n"),
        })
        .collect();
    assert_eq!(read_sheet(&mold, &blank, SheetFormat::Toml).unwrap().answers, []);
    assert_eq!(read_sheet(&mold, &filled, SheetFormat::Toml).unwrap().answers.len(), 6, "{filled}");
}

/// Possible answers to each question.
const ANSWERS: &[(&str, &[&str])] = &[
    ("name", &["tides", "berths", "class", "my-board"]),
    ("module", &["tides", "board", "my_board"]),
    ("web", &["stdlib", "flask", "tide"]),
    ("port", &["81", "5000", "8000"]),
    ("extras", &["[]", "ci", "container,compose", "bare", "deep"]),
    ("calls", &["a", "[]"]),
    ("night", &["true", "false"]),
];

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

    #[test]
    fn detours_end_where_the_straight_way_ends(steps in prop::collection::vec((0..ANSWERS.len(), 0..5usize), 0..30)) {
        let mold = board();
        let mut wandering = session(&mold, &[], Offers::default());
        wandering.ask_details(true);
        let mut last: Vec<Option<&str>> = vec![None; ANSWERS.len()];
        for (question, choice) in steps {
            let (key, texts) = ANSWERS[question];
            let text = texts[choice % texts.len()];
            answer(&mut wandering, key, text);
            last[question] = Some(text);
        }
        // Straight: only the last answer to each question, in order. An answer that equalled its
        // offer follows it now; any other was typed.
        let typed: Vec<(&str, String)> = mold
            .questions
            .iter()
            .zip(wandering.resolved())
            .filter(|(_, resolved)| resolved.source == AnswerSource::Person)
            .map(|(question, resolved)| (question.key.as_str(), display_value(&mold, &resolved.value)))
            .collect();
        let mut straight = session(&mold, &[], Offers::default());
        for (key, text) in &typed {
            answer(&mut straight, key, if text.is_empty() { "[]" } else { text });
        }
        let values = |session: &Session<'_>| -> Vec<Value> {
            session.resolved().iter().map(|resolved| resolved.value.clone()).collect()
        };
        let visible = |session: &Session<'_>| -> Vec<bool> {
            session.resolved().iter().map(|resolved| resolved.is_visible()).collect()
        };
        prop_assert_eq!(values(&wandering), values(&straight));
        prop_assert_eq!(visible(&wandering), visible(&straight));
        prop_assert_eq!(wandering.problems(), straight.problems());
    }
}
