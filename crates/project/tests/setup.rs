//! Setting up: answers in any order, what they change in the outcome, and the way back.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use common::{mold, session};
use std::collections::BTreeSet;
use tinmold_mold::Mold;
use tinmold_notation::Value;
use tinmold_project::answers::{Offers, display_value, parse_text};
use tinmold_project::outcome::{
    DiffLine, Effect, FileEffect, FileMarks, Forecast, LineCounts, Outcome, dependents, differing_lines,
    line_counts,
};
use tinmold_project::plan::Limits;
use tinmold_project::setup::{Setup, SetupRow, Standing, draft_of, rows, take_draft};

const MANIFEST: &str = r#"
folder = "{= name =}"
[[question]]
key = "name"
ask = "Name"
group = "Identity"
kind = "text"
form = "kebab"
default = "tide-times"
[[question]]
key = "module"
ask = "Module"
group = "Identity"
kind = "text"
form = "python-module"
default = "{= name.snake =}"
[[question]]
key = "motto"
ask = "Motto"
group = "Identity"
kind = "text"
detail = true
max = 20
default = "On time"
[[question]]
key = "database"
ask = "Database"
group = "Data"
kind = "one-of"
default = "none"
[[question.option]]
value = "none"
label = "None"
[[question.option]]
value = "sqlite"
label = "SQLite"
[[question.option]]
value = "server"
label = "A server"
[[question]]
key = "pool"
ask = "Pool"
group = "Data"
kind = "integer"
default = 4
when = "database == 'server'"
[[question]]
key = "extras"
ask = "Extras"
kind = "some-of"
[[question.option]]
value = "web"
label = "Web"
requires = ["log"]
[[question.option]]
value = "log"
label = "Log"
[[question.option]]
value = "quiet"
label = "Quiet"
excludes = ["log"]
[[question.option]]
value = "pages"
label = "Pages"
requires = ["web"]
[[question]]
key = "token"
ask = "Token"
kind = "text"
secret = true
optional = true
[derive]
upper = "{= name.upper =}"
[[files]]
match = "db.py"
when = "database != 'none'"
[[files]]
match = "memory.py"
when = "database == 'none'"
[[files]]
match = ".env"
local = true
"#;

const FILES: &[(&str, &str)] = &[
    (
        "body/app.py",
        "# {= upper =}\nrun()\n# {= if database != 'none' =}\npool = {= if database == 'server' then 8 else 1 =}\n# {= end =}\nend()\n",
    ),
    ("body/db.py", "DB = '{= database =}'\n"),
    ("body/memory.py", "rows = []\n"),
    ("body/{= module =}/a.py", "x = 1\n"),
    ("body/extras.txt", "{= for e in extras =}\n{= e.label =}\n{= end =}\nend\n"),
    ("body/plain.bin", "\u{0}no tags\n"),
    ("body/.env", "TOKEN={= token.shell =}\n"),
    ("body/.gitignore", ".env\n"),
];

fn world() -> Mold {
    mold(MANIFEST, FILES)
}

fn at(mold: &Mold, key: &str) -> usize {
    mold.questions.iter().position(|question| question.key == key).unwrap()
}

fn setup(mold: &Mold) -> Setup<'_> {
    Setup::new(session(mold, &[], Offers::default()))
}

fn value(mold: &Mold, key: &str, text: &str) -> Value {
    parse_text(&mold.questions[at(mold, key)], text, &mold.scope).unwrap()
}

fn outcome(forecast: &Forecast<'_>, setup: &Setup<'_>) -> Outcome {
    forecast.outcome(&setup.session().preview(), &|| false).unwrap().unwrap()
}

/// `+path`, `-path` or `~path` for every file that differs.
fn shown(effect: &Effect) -> Vec<String> {
    let sign = |file: &FileEffect| match file {
        FileEffect::Added(_) => "+",
        FileEffect::Removed(_) => "-",
        FileEffect::Changed(..) => "~",
    };
    effect.files.iter().map(|(path, file)| format!("{}{path}", sign(file))).collect()
}

#[test]
fn an_option_shows_what_it_changes_before_it_is_taken() {
    let mold = world();
    let forecast = Forecast::new(&mold, Limits::default());
    let mut setup = setup(&mold);
    let before = outcome(&forecast, &setup);
    let database = at(&mold, "database");
    let effects: Vec<(bool, Vec<String>)> = setup
        .alternatives(database)
        .into_iter()
        .map(|one| {
            let after = setup.answers_with(database, one.value).unwrap();
            let after = forecast.outcome(&after, &|| false).unwrap().unwrap();
            (one.taken, shown(&Effect::between(&before, &after)))
        })
        .collect();
    let others = ["~app.py", "+db.py", "-memory.py"].map(str::to_owned).to_vec();
    assert_eq!(effects, [(true, vec![]), (false, others.clone()), (false, others)]);
    // What it says comes true.
    setup.pick(database, value(&mold, "database", "server")).unwrap();
    let after = outcome(&forecast, &setup);
    let effect = Effect::between(&before, &after);
    assert_eq!(effect.counts(), (1, 1, 1));
    let text = |answers: &Setup<'_>, outcome: &Outcome| {
        let preview = forecast.preview(&answers.session().preview(), outcome, "app.py").unwrap().unwrap();
        preview.text.unwrap()
    };
    let now = text(&setup, &after);
    assert_eq!(now, "# TIDE-TIMES\nrun()\npool = 8\nend()\n");
    let question = setup.undo().unwrap();
    assert_eq!(question, Some(database));
    let then = text(&setup, &before);
    assert_eq!(line_counts(&then, &now), LineCounts { added: 1, removed: 0 });
    use DiffLine::{Added, Gap, Removed, Same};
    assert_eq!(differing_lines(&then, &now, 1), [Same(1), Added(2), Same(3)]);
    assert_eq!(
        differing_lines("a\nb\nc\nd\ne\n", "x\nb\nc\nd\ny\n", 0),
        [Removed(0), Added(0), Gap, Removed(4), Added(4)]
    );
    // A name moves a folder and changes what is derived of it; nothing else is rendered again.
    setup.type_text(at(&mold, "name"), "berths").unwrap();
    let renamed = outcome(&forecast, &setup);
    let moved = shown(&Effect::between(&before, &renamed));
    assert_eq!(moved, ["~app.py", "+berths/a.py", "-tide_times/a.py"]);
    assert_eq!((renamed.count(), before.count()), (7, 7));
    assert!(
        forecast
            .outcome(&setup.answers_with(database, value(&mold, "database", "sqlite")).unwrap(), &|| true)
            .unwrap()
            .is_none()
    );
}

#[test]
fn bytes_and_lines_of_a_question_are_marked() {
    let mold = world();
    let forecast = Forecast::new(&mold, Limits::default());
    let mut setup = setup(&mold);
    setup.pick(at(&mold, "database"), value(&mold, "database", "server")).unwrap();
    let answers = setup.session().preview();
    let all = outcome(&forecast, &setup);
    let marked = |key: &str, path: &str| {
        let trace = forecast.trace(&answers, &all, path).unwrap().unwrap();
        let names = dependents(setup.session(), at(&mold, key));
        let marks = FileMarks::of(&trace, &names);
        let texts: Vec<String> = marks
            .bytes
            .iter()
            .map(|bytes| String::from_utf8_lossy(&trace.text[bytes.clone()]).into_owned())
            .collect();
        (texts, marks.lines)
    };
    assert_eq!(marked("name", "app.py"), (vec!["TIDE-TIMES".to_owned()], vec![]));
    assert_eq!(marked("database", "app.py"), (vec!["8".to_owned()], vec![2]));
    assert_eq!(marked("motto", "app.py"), (vec![], vec![]));
    let followers: Vec<&str> = dependents(setup.session(), at(&mold, "name"))
        .iter()
        .map(|id| mold.scope.name(*id).name.as_str())
        .collect();
    assert_eq!(followers, ["name", "upper", "module", "project.dir"]);
    // What the user gave follows no more.
    setup.type_text(at(&mold, "module"), "berths").unwrap();
    assert_eq!(dependents(setup.session(), at(&mold, "name")).len(), 3);
}

#[test]
fn refused_texts_stay_and_everything_can_be_taken_back() {
    let mold = world();
    let mut setup = setup(&mold);
    let (name, module, pool) = (at(&mold, "name"), at(&mold, "module"), at(&mold, "pool"));
    for text in ["h", "ha", "harbour", "harbour!"] {
        setup.type_text(name, text).unwrap();
    }
    assert_eq!((setup.text(name).as_str(), setup.unusable()), ("harbour!", vec![name]));
    assert_eq!(setup.standing(name), Standing::Yours);
    assert_eq!((setup.text(module).as_str(), setup.standing(module)), ("harbour", Standing::Follows));
    // Typing is one change.
    assert_eq!(setup.undo().unwrap(), Some(name));
    assert_eq!((setup.text(name).as_str(), setup.undo().unwrap()), ("tide-times", None));
    assert_eq!(setup.redo().unwrap(), Some(name));
    assert_eq!((setup.text(name).as_str(), setup.redo().unwrap()), ("harbour!", None));
    setup.end_typing();
    setup.type_text(name, "harbour").unwrap();
    assert_eq!((setup.unusable(), setup.rejected(name)), (vec![], None));
    setup.type_text(module, "class").unwrap();
    let advice = setup.refusal(module).unwrap().to_string();
    assert!(advice.contains("class_"), "{advice}");
    setup.forget(module).unwrap();
    assert_eq!(setup.text(module), "harbour");
    // A question that leaves comes back with its answer.
    let database = at(&mold, "database");
    setup.pick(database, value(&mold, "database", "server")).unwrap();
    setup.type_text(pool, "many").unwrap();
    assert_eq!(setup.unusable(), [pool]);
    setup.type_text(pool, "16").unwrap();
    setup.pick(database, value(&mold, "database", "none")).unwrap();
    let is_there = |setup: &Setup<'_>| rows(setup, &BTreeSet::new()).contains(&SetupRow::Question(pool));
    assert!(!is_there(&setup));
    setup.pick(database, value(&mold, "database", "server")).unwrap();
    assert!(is_there(&setup));
    assert_eq!(setup.text(pool), "16");
}

/// What is ticked, one after the other; what the last tick adds and takes away; what is ticked then.
type Ticks<'a> = (&'a [u16], &'a [u16], &'a [u16], &'a str);

#[test]
fn ticks_name_what_they_force() {
    let mold = world();
    let extras = at(&mold, "extras");
    let cases: &[Ticks] = &[
        (&[0], &[1], &[], "web, log"),
        (&[3], &[1, 0], &[], "web, log, pages"),
        (&[2], &[], &[], "quiet"),
        (&[2, 1], &[], &[2], "log"),
        (&[3, 2], &[], &[0, 1, 3], "quiet"),
        (&[3, 1], &[], &[0, 3], ""),
        (&[0, 0], &[], &[], "log"),
    ];
    for (ticks, with, without, now) in cases {
        let mut setup = setup(&mold);
        let mut last = None;
        for option in *ticks {
            last = Some(setup.tick(extras, *option).unwrap().unwrap());
        }
        let last = last.unwrap();
        let sorted = |mut all: Vec<u16>| {
            all.sort_unstable();
            all
        };
        assert_eq!(sorted(last.ticked), sorted(with.to_vec()), "{ticks:?}");
        assert_eq!(sorted(last.unticked), *without, "{ticks:?}");
        assert_eq!(display_value(&mold, &setup.session().resolved()[extras].value), *now, "{ticks:?}");
        assert!(setup.unusable().is_empty());
        // One undo takes back all of it.
        for _ in 0..ticks.len() {
            setup.undo().unwrap();
        }
        assert_eq!(setup.session().resolved()[extras].value, Value::List(vec![]));
    }
}

#[test]
fn details_fold_and_open_where_something_is_wrong() {
    let mold = world();
    let mut setup = setup(&mold);
    let motto = at(&mold, "motto");
    let fold = SetupRow::Details { group: "Identity".into(), count: 1, open: false };
    let all = rows(&setup, &BTreeSet::new());
    assert_eq!(all[0], SetupRow::Group("Identity".into()));
    assert!(all.contains(&fold) && !all.contains(&SetupRow::Question(motto)));
    assert!(rows(&setup, &["Identity".to_owned()].into()).contains(&SetupRow::Question(motto)));
    setup.take_lines(motto, "At the pier, and on time").unwrap();
    assert!(rows(&setup, &BTreeSet::new()).contains(&SetupRow::Question(motto)));
}

#[test]
fn a_draft_holds_what_was_given_and_no_secret() {
    let mold = world();
    let mut first = setup(&mold);
    assert_eq!(draft_of(&first), None);
    first.type_text(at(&mold, "name"), "Berths!").unwrap();
    first.type_text(at(&mold, "token"), "geheim").unwrap();
    first.tick(at(&mold, "extras"), 0).unwrap().unwrap();
    let draft = draft_of(&first).unwrap();
    assert!(!draft.contains("geheim"), "{draft}");
    let mut next = setup(&mold);
    assert_eq!(take_draft(&mut next, &draft).unwrap(), 2);
    assert_eq!(
        (next.text(at(&mold, "name")).as_str(), next.text(at(&mold, "token")).as_str()),
        ("Berths!", "")
    );
    assert_eq!(next.text(at(&mold, "extras")), "web, log");
    assert_eq!(next.unusable(), [at(&mold, "name")]);
    for hostile in ["", "]", "[answers]\nname = 3\nnobody = 1\n[refused]\nx = 1", "answers = 3"] {
        assert_eq!(take_draft(&mut setup(&mold), hostile).unwrap(), 0, "{hostile:?}");
    }
}
