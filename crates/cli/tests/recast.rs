//! A project follows its mold: what the owner did stays, what the mold changed comes.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use common::Place;
use serde_json::Value as Json;
use std::fs;
use std::os::unix::fs::PermissionsExt;

/// A file: its path and its text; without a text, none is there.
type File = (&'static str, Option<&'static str>);

/// A story: the old version, what the owner did, the new version, and what comes out.
struct Story {
    name: &'static str,
    old: (&'static str, &'static [File]),
    /// What the owner did.
    edits: &'static [File],
    new: (&'static str, &'static [File]),
    args: &'static [&'static str],
    code: i32,
    /// What changes, is undecided and is said, each with its path.
    says: &'static [&'static str],
    /// What is there afterwards.
    files: &'static [File],
}

const STORY: Story =
    Story { name: "", old: ("", &[]), edits: &[], new: ("", &[]), args: &[], code: 0, says: &[], files: &[] };

const LINES: &str = "one\ntwo\nthree\nfour\nfive\nsix\nseven\n";

/// Makes a version of the mold in the folder `m`.
fn version(place: &Place, version: &str, (manifest, files): (&str, &[File])) {
    let _ = fs::remove_dir_all(place.path("m"));
    let head = format!(
        "[mold]\nname = \"m\"\nversion = \"{version}\"\nsummary = \"A mold of the tests\"\nfolder = \"out\"\n"
    );
    place.write("m/mold.toml", format!("{head}{manifest}"));
    fs::create_dir_all(place.path("m/body")).unwrap();
    apply(place, "m/", files);
}

fn apply(place: &Place, folder: &str, files: &[File]) {
    for (path, text) in files {
        let path = format!("{folder}{path}");
        match text {
            Some(text) => drop(place.write(&path, text)),
            None => fs::remove_file(place.path(&path)).unwrap(),
        }
    }
}

fn json(text: &str) -> Json {
    serde_json::from_str(text).unwrap_or_else(|error| panic!("{error}: {text}"))
}

/// What a recast says, a line each: `change path`, `undecided key`, `note kind path`; sorted.
fn said(report: &Json) -> Vec<String> {
    let list = |key: &str| report[key].as_array().cloned().unwrap_or_default();
    let text = |value: &Json, key: &str| value[key].as_str().unwrap_or("").to_owned();
    let files = list("files").into_iter().map(|file| {
        let from = file["from"].as_str().map_or_else(String::new, |from| format!(" from {from}"));
        format!("{} {}{from}", text(&file, "change"), text(&file, "path"))
    });
    let moves =
        list("moves").into_iter().map(|one| format!("folder {} to {}", text(&one, "from"), text(&one, "to")));
    let open = list("undecided").into_iter().map(|one| format!("undecided {}", text(&one, "key")));
    let notes = list("notes").into_iter().map(|note| {
        let what = [text(&note, "path"), text(&note, "key")].concat();
        format!("note {} {what}", text(&note, "kind"))
    });
    let mut all: Vec<String> = files.chain(moves).chain(open).chain(notes).collect();
    all.sort();
    all
}

/// Recasts the project, unattended; returns the exit code and the report.
fn recast(place: &Place, args: &[&str]) -> (i32, Json) {
    let ran = place.run(&[&["recast", "out", "--unattended", "--format", "json"], args].concat());
    let report = if ran.out.is_empty() { Json::String(ran.err) } else { json(&ran.out) };
    (ran.code, report)
}

#[track_caller]
fn told(story: &Story) {
    let place = Place::new();
    version(&place, "1.0.0", story.old);
    place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
    apply(&place, "out/", story.edits);
    version(&place, "2.0.0", story.new);
    let before = content(&place);
    let (code, report) = recast(&place, story.args);
    let name = story.name;
    assert_eq!(code, story.code, "{name}: {report:#}");
    let mut expected: Vec<&str> = story.says.to_vec();
    expected.sort_unstable();
    if code != 3 {
        assert_eq!(said(&report), expected, "{name}: {report:#}");
    }
    if code != 0 {
        assert_eq!(content(&place), before, "{name}: nothing is written");
    }
    for (path, text) in story.files {
        let found = fs::read_to_string(place.path(&format!("out/{path}"))).ok();
        assert_eq!(found.as_deref(), *text, "{name}: {path}");
    }
    if code == 0 {
        let after = content(&place);
        let (code, again) = recast(&place, &[]);
        assert_eq!((code, said_changes(&again)), (0, vec![]), "{name}: again: {again:#}");
        assert_eq!(content(&place), after, "{name}: again changes nothing");
        if after != before {
            place.run(&["recast", "out", "--undo", "--unattended"]).says(0, &[]);
            assert_eq!(content(&place), before, "{name}: the undo gives back everything");
        }
    }
}

fn said_changes(report: &Json) -> Vec<String> {
    said(report).into_iter().filter(|line| !line.starts_with("note")).collect()
}

/// Every file of the project with its permissions.
fn content(place: &Place) -> Vec<(String, u32, Vec<u8>)> {
    let files = place.listing("out").into_iter().filter(|path| !path.ends_with('/'));
    files
        .map(|path| {
            let whole = place.path(&format!("out/{path}"));
            let mode = fs::symlink_metadata(&whole).unwrap().permissions().mode();
            (path, mode, fs::read(whole).unwrap_or_default())
        })
        .collect()
}

const A: &str = "body/a.txt";

const STORIES: &[Story] = &[
    Story {
        name: "an untouched project gets everything",
        old: ("", &[(A, Some(LINES)), ("body/gone.txt", Some("gone\n"))]),
        new: ("", &[(A, Some("one\nTWO\n")), ("body/new.txt", Some("new\n"))]),
        says: &["replaced a.txt", "new new.txt", "removed gone.txt"],
        files: &[("a.txt", Some("one\nTWO\n")), ("new.txt", Some("new\n")), ("gone.txt", None)],
        ..STORY
    },
    Story {
        name: "both change a file in different places",
        old: ("", &[(A, Some(LINES))]),
        edits: &[("a.txt", Some("ONE\ntwo\nthree\nfour\nfive\nsix\nseven\n"))],
        new: ("", &[(A, Some("one\ntwo\nthree\nfour\nfive\nsix\nSEVEN\n"))]),
        says: &["merged a.txt"],
        files: &[("a.txt", Some("ONE\ntwo\nthree\nfour\nfive\nsix\nSEVEN\n"))],
        ..STORY
    },
    Story {
        name: "both change a place in different ways",
        old: ("", &[(A, Some(LINES))]),
        edits: &[("a.txt", Some("1\ntwo\nthree\nfour\nfive\nsix\nseven\n"))],
        new: ("", &[(A, Some("ONE\ntwo\nthree\nfour\nfive\nsix\nseven\n"))]),
        code: 4,
        says: &["undecided a.txt"],
        ..STORY
    },
    Story {
        name: "the command line decides for the owner",
        old: ("", &[(A, Some(LINES))]),
        edits: &[("a.txt", Some("1\ntwo\nthree\nfour\nfive\nsix\nseven\n"))],
        new: ("", &[(A, Some("ONE\ntwo\nthree\nfour\nfive\nsix\nSEVEN\n"))]),
        args: &["--if-present", "keep"],
        says: &["merged a.txt"],
        files: &[("a.txt", Some("1\ntwo\nthree\nfour\nfive\nsix\nSEVEN\n"))],
        ..STORY
    },
    Story {
        name: "the command line asks for markers",
        old: ("", &[(A, Some("one\n"))]),
        edits: &[("a.txt", Some("1\n"))],
        new: ("", &[(A, Some("ONE\n"))]),
        args: &["--leave-marks"],
        says: &["merged a.txt"],
        files: &[("a.txt", Some("<<<<<<< mine\n1\n||||||| before\none\n======= theirs\nONE\n>>>>>>>\n"))],
        ..STORY
    },
    Story {
        name: "both change a place alike",
        old: ("", &[(A, Some(LINES))]),
        edits: &[("a.txt", Some("ONE\ntwo\nthree\nfour\nfive\nsix\nseven\n"))],
        new: ("", &[(A, Some("ONE\ntwo\nthree\nfour\nfive\nsix\nseven\n"))]),
        ..STORY
    },
    Story {
        name: "what the owner deleted stays deleted",
        old: ("", &[(A, Some("one\n")), ("body/b.txt", Some("b\n"))]),
        edits: &[("a.txt", None), ("b.txt", None)],
        new: ("", &[(A, Some("two\n")), ("body/b.txt", Some("b\n"))]),
        says: &["note deleted a.txt"],
        files: &[("a.txt", None), ("b.txt", None)],
        ..STORY
    },
    Story {
        name: "what the mold drops stays if the owner changed it",
        old: ("", &[(A, Some("one\n")), ("body/b.txt", Some("b\n"))]),
        edits: &[("a.txt", Some("mine\n"))],
        new: ("", &[]),
        says: &["note dropped a.txt", "removed b.txt"],
        files: &[("a.txt", Some("mine\n")), ("b.txt", None)],
        ..STORY
    },
    Story {
        name: "both have a new file, and it differs",
        old: ("", &[]),
        edits: &[("a.txt", Some("mine\n")), ("b.txt", Some("same\n"))],
        new: ("", &[(A, Some("theirs\n")), ("body/b.txt", Some("same\n"))]),
        code: 4,
        says: &["undecided a.txt"],
        ..STORY
    },
    Story {
        name: "a new file of the mold is written beside",
        old: ("", &[]),
        edits: &[("a.txt", Some("mine\n"))],
        new: ("", &[(A, Some("theirs\n"))]),
        args: &["--if-present", "aside"],
        says: &["new a.txt.from-mold", "note aside a.txt"],
        files: &[("a.txt", Some("mine\n")), ("a.txt.from-mold", Some("theirs\n"))],
        ..STORY
    },
    Story {
        name: "files of one machine stay, and what they would have is said",
        old: (
            "[[question]]\nkey = \"pin\"\nkind = \"minted\"\nlength = 12\n[[files]]\nmatch = \".env\"\nlocal = true\n",
            &[("body/.gitignore", Some(".env\n")), ("body/.env", Some("PIN={= pin =}\n"))],
        ),
        new: (
            "[[question]]\nkey = \"pin\"\nkind = \"minted\"\nlength = 12\n[[files]]\nmatch = \".env\"\nlocal = true\n",
            &[("body/.gitignore", Some(".env\n")), ("body/.env", Some("PIN={= pin =}\nPORT=8000\n"))],
        ),
        says: &["note local .env"],
        ..STORY
    },
    Story {
        name: "what is the owner's is left alone",
        old: ("[[files]]\nmatch = \"a.txt\"\nowner = \"you\"\n", &[(A, Some("one\n"))]),
        new: (
            "[[files]]\nmatch = \"*.txt\"\nowner = \"you\"\n",
            &[(A, Some("two\n")), ("body/b.txt", Some("b\n"))],
        ),
        says: &["note yours a.txt", "new b.txt"],
        files: &[("a.txt", Some("one\n")), ("b.txt", Some("b\n"))],
        ..STORY
    },
    Story {
        name: "a recorded answer is no default",
        old: (
            "[[question]]\nkey = \"port\"\nask = \"Port\"\nkind = \"integer\"\ndefault = 8000\n",
            &[(A, Some("{= port =}\n"))],
        ),
        new: (
            "[[question]]\nkey = \"port\"\nask = \"Port\"\nkind = \"integer\"\ndefault = 9000\n",
            &[(A, Some("port {= port =}\n"))],
        ),
        says: &["replaced a.txt", "note default port"],
        files: &[("a.txt", Some("port 8000\n"))],
        ..STORY
    },
    Story {
        name: "another answer on purpose",
        old: (
            "[[question]]\nkey = \"port\"\nask = \"Port\"\nkind = \"integer\"\ndefault = 8000\n",
            &[(A, Some("{= port =}\n"))],
        ),
        new: (
            "[[question]]\nkey = \"port\"\nask = \"Port\"\nkind = \"integer\"\ndefault = 9000\n",
            &[(A, Some("{= port =}\n"))],
        ),
        args: &["--set", "port=9001"],
        says: &["replaced a.txt"],
        files: &[("a.txt", Some("9001\n"))],
        ..STORY
    },
    Story {
        name: "an option that is gone is asked for",
        old: (
            "[[question]]\nkey = \"web\"\nask = \"Web\"\nkind = \"one-of\"\ndefault = \"old\"\n[[question.option]]\nvalue = \"old\"\nlabel = \"Old\"\n[[question.option]]\nvalue = \"new\"\nlabel = \"New\"\n",
            &[(A, Some("{= web =}\n"))],
        ),
        new: (
            "[[question]]\nkey = \"web\"\nask = \"Web\"\nkind = \"one-of\"\ndefault = \"new\"\n[[question.option]]\nvalue = \"new\"\nlabel = \"New\"\n[[question.option]]\nvalue = \"newer\"\nlabel = \"Newer\"\n",
            &[(A, Some("{= web =}\n"))],
        ),
        code: 3,
        ..STORY
    },
    Story {
        name: "questions, options and files that were renamed",
        old: (
            "[[question]]\nkey = \"web\"\nask = \"Web\"\nkind = \"one-of\"\ndefault = \"old\"\n[[question.option]]\nvalue = \"old\"\nlabel = \"Old\"\n[[question.option]]\nvalue = \"other\"\nlabel = \"Other\"\n",
            &[("body/src/app.txt", Some("one\ntwo\nthree\nfour\n{= web =}\n"))],
        ),
        edits: &[("src/app.txt", Some("ONE\ntwo\nthree\nfour\nold\n"))],
        new: (
            "[[question]]\nkey = \"server\"\nwas = \"web\"\nask = \"Web\"\nkind = \"one-of\"\ndefault = \"other\"\n\
             [[question.option]]\nvalue = \"new\"\nlabel = \"New\"\nwas = \"old\"\n\
             [[question.option]]\nvalue = \"other\"\nlabel = \"Other\"\n\
             [[files]]\nmatch = \"lib/main.txt\"\nwas = [\"src/app.txt\"]\n",
            &[("body/lib/main.txt", Some("one\ntwo\nthree\nfour\n{= server =}\n"))],
        ),
        says: &["merged lib/main.txt from src/app.txt", "note default server"],
        files: &[("lib/main.txt", Some("ONE\ntwo\nthree\nfour\nnew\n")), ("src/app.txt", None)],
        ..STORY
    },
    Story {
        name: "a new question takes its default",
        old: ("", &[(A, Some("one\n"))]),
        new: (
            "[[question]]\nkey = \"port\"\nask = \"Port\"\nkind = \"integer\"\ndefault = 9000\n",
            &[(A, Some("{= port =}\n"))],
        ),
        says: &["replaced a.txt"],
        files: &[("a.txt", Some("9000\n"))],
        ..STORY
    },
    Story {
        name: "a file of the mold that is alike was renamed",
        old: ("", &[("body/old.txt", Some(LINES))]),
        edits: &[("old.txt", Some("ONE\ntwo\nthree\nfour\nfive\nsix\nseven\n"))],
        new: ("", &[("body/new.txt", Some("one\ntwo\nthree\nfour\nfive\nsix\nSEVEN\n"))]),
        says: &["merged new.txt from old.txt"],
        files: &[("new.txt", Some("ONE\ntwo\nthree\nfour\nfive\nsix\nSEVEN\n")), ("old.txt", None)],
        ..STORY
    },
    Story {
        name: "the owner renamed a file",
        old: ("", &[(A, Some(LINES))]),
        edits: &[("a.txt", None), ("docs/mine.txt", Some("ONE\ntwo\nthree\nfour\nfive\nsix\nseven\n"))],
        new: ("", &[(A, Some("one\ntwo\nthree\nfour\nfive\nsix\nSEVEN\n"))]),
        says: &["merged docs/mine.txt", "note renamed a.txt"],
        files: &[("docs/mine.txt", Some("ONE\ntwo\nthree\nfour\nfive\nsix\nSEVEN\n")), ("a.txt", None)],
        ..STORY
    },
    Story {
        name: "line endings are the owner's",
        old: ("", &[(A, Some("one\ntwo\nthree\n")), ("body/gone.txt", Some("gone\n"))]),
        edits: &[("a.txt", Some("one\r\ntwo\r\nthree\r\n")), ("gone.txt", Some("gone\r\n"))],
        new: ("", &[(A, Some("one\ntwo\nTHREE\n"))]),
        says: &["merged a.txt", "removed gone.txt"],
        files: &[("a.txt", Some("one\r\ntwo\r\nTHREE\r\n")), ("gone.txt", None)],
        ..STORY
    },
    Story {
        name: "dependencies of both sides",
        old: ("", &[("body/package.json", Some("{\n  \"dependencies\": {\n    \"tide\": \"1\"\n  }\n}\n"))]),
        edits: &[(
            "package.json",
            Some("{\n  \"dependencies\": {\n    \"tide\": \"1\",\n    \"pier\": \"3\"\n  }\n}\n"),
        )],
        new: (
            "",
            &[(
                "body/package.json",
                Some("{\n  \"dependencies\": {\n    \"quay\": \"2\",\n    \"tide\": \"2\"\n  }\n}\n"),
            )],
        ),
        says: &["merged package.json"],
        files: &[(
            "package.json",
            Some(
                "{\n  \"dependencies\": {\n    \"tide\": \"2\",\n    \"pier\": \"3\",\n    \"quay\": \"2\"\n  }\n}\n",
            ),
        )],
        ..STORY
    },
    Story {
        name: "a changed name moves its folder with all that is in it",
        old: (
            "[[question]]\nkey = \"name\"\nask = \"Name\"\nkind = \"text\"\nform = \"kebab\"\ndefault = \"tides\"\n",
            &[
                ("body/src/{= name =}/main.txt", Some("{= name =}\nmain\n")),
                ("body/README.md", Some("{= name =}\n")),
            ],
        ),
        edits: &[
            ("src/tides/own/mine.txt", Some("of tides\n")),
            ("src/tides/main.txt", Some("tides\nmain\nmore\n")),
        ],
        new: (
            "[[question]]\nkey = \"name\"\nask = \"Name\"\nkind = \"text\"\nform = \"kebab\"\ndefault = \"tides\"\n",
            &[
                ("body/src/{= name =}/main.txt", Some("{= name =}\nmain\n")),
                ("body/README.md", Some("{= name =}\n")),
            ],
        ),
        args: &["--set", "name=harbor"],
        says: &[
            "folder src/tides/own to src/harbor/own",
            "merged src/harbor/main.txt from src/tides/main.txt",
            "note old-name src/harbor/own/mine.txt",
            "replaced README.md",
        ],
        files: &[
            ("src/harbor/own/mine.txt", Some("of tides\n")),
            ("src/harbor/main.txt", Some("harbor\nmain\nmore\n")),
            ("src/tides/main.txt", None),
        ],
        ..STORY
    },
    Story {
        name: "a folder that has another name in the mold, and two files that changed their names",
        old: (
            "",
            &[
                ("body/src/x.txt", Some("1\n2\n3\n4\n")),
                ("body/p.txt", Some("p\nq\nr\n")),
                ("body/q.txt", Some("s\nt\nu\n")),
            ],
        ),
        edits: &[("src/x.txt", Some("ONE\n2\n3\n4\n")), ("src/deep/own.txt", Some("own\n"))],
        new: (
            "[[files]]\nmatch = \"lib/new/**\"\nwas = \"src/**\"\n\
             [[files]]\nmatch = \"p.txt\"\nwas = \"q.txt\"\n\
             [[files]]\nmatch = \"q.txt\"\nwas = \"p.txt\"\n",
            &[
                ("body/lib/new/x.txt", Some("1\n2\n3\nFOUR\n")),
                ("body/q.txt", Some("p\nq\nR\n")),
                ("body/p.txt", Some("s\nt\nU\n")),
            ],
        ),
        says: &[
            "folder src/deep to lib/new/deep",
            "merged lib/new/x.txt from src/x.txt",
            "replaced p.txt from q.txt",
            "replaced q.txt from p.txt",
        ],
        files: &[
            ("lib/new/x.txt", Some("ONE\n2\n3\nFOUR\n")),
            ("lib/new/deep/own.txt", Some("own\n")),
            ("p.txt", Some("s\nt\nU\n")),
            ("q.txt", Some("p\nq\nR\n")),
        ],
        ..STORY
    },
    Story {
        name: "a file of the owner is where one of the mold goes",
        old: ("", &[("body/old.txt", Some(LINES))]),
        edits: &[("new.txt", Some("mine\n"))],
        new: ("[[files]]\nmatch = \"new.txt\"\nwas = \"old.txt\"\n", &[("body/new.txt", Some(LINES))]),
        code: 4,
        says: &["undecided new.txt"],
        ..STORY
    },
    Story {
        name: "a file of the owner stays where one of the mold would go",
        old: ("", &[("body/old.txt", Some(LINES))]),
        edits: &[("new.txt", Some("mine\n"))],
        new: (
            "[[files]]\nmatch = \"new.txt\"\nwas = \"old.txt\"\n",
            &[("body/new.txt", Some("one\ntwo\nthree\nfour\nfive\nsix\nSEVEN\n"))],
        ),
        args: &["--if-present", "keep"],
        says: &["replaced old.txt"],
        files: &[("new.txt", Some("mine\n")), ("old.txt", Some("one\ntwo\nthree\nfour\nfive\nsix\nSEVEN\n"))],
        ..STORY
    },
];

#[test]
fn a_project_follows_its_mold() {
    STORIES.iter().for_each(told);
}

/// A mold whose parts put lines at a joint; each project gets two routes, the second one last.
const ROUTES: &str = "# routes\n# joint: routes (tinmold)\n";
const ROUTE: &str = "[part]\nname = \"route\"\nsummary = \"A route\"\n\
    [[question]]\nkey = \"path\"\nask = \"Path\"\nkind = \"text\"\n\
    [[joint]]\nfile = \"routes.txt\"\nname = \"routes\"\nlines = [\"serve {= path =}\"]\n";
const ROUTE_FILE: (&str, Option<&str>) = ("parts/route/body/{= path =}.txt", Some("route {= path =}\n"));

/// Casts, fits the routes `tides` and `piers`, and edits.
fn with_routes(files: &[File], edits: &[File]) -> Place {
    let place = Place::new();
    version(&place, "1.0.0", ("", files));
    place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
    for path in ["tides", "piers"] {
        place.run(&["fit", "route", path, "--unattended", "--dir", "out"]).says(0, &[]);
    }
    apply(&place, "out/", edits);
    place
}

#[test]
fn parts_are_fitted_again() {
    const OLD: &[File] =
        &[("body/routes.txt", Some(ROUTES)), ("parts/route/part.toml", Some(ROUTE)), ROUTE_FILE];
    struct Case {
        name: &'static str,
        edits: &'static [File],
        new: &'static [File],
        args: &'static [&'static str],
        code: i32,
        says: &'static [&'static str],
        files: &'static [File],
        /// What `fit --undo` ends with afterwards.
        undo: i32,
    }
    const CASE: Case =
        Case { name: "", edits: &[], new: OLD, args: &[], code: 0, says: &[], files: &[], undo: 0 };
    const NEWER: &str = "# all routes\n# joint: routes (tinmold)\n# end\n";
    let cases = [
        Case {
            name: "with a body and a part that changed",
            new: &[
                ("body/routes.txt", Some(NEWER)),
                ("parts/route/part.toml", Some(ROUTE)),
                ("parts/route/body/{= path =}.txt", Some("a route to {= path =}\n")),
            ],
            says: &["replaced routes.txt", "replaced piers.txt", "replaced tides.txt"],
            files: &[
                (
                    "routes.txt",
                    Some("# all routes\nserve tides\nserve piers\n# joint: routes (tinmold)\n# end\n"),
                ),
                ("tides.txt", Some("a route to tides\n")),
            ],
            ..CASE
        },
        Case {
            name: "into a file that the owner changed",
            edits: &[(
                "routes.txt",
                Some("# routes\nserve tides\nserve piers\n# joint: routes (tinmold)\nmine\n"),
            )],
            new: &[
                ("body/routes.txt", Some("# all routes\n# joint: routes (tinmold)\n")),
                ("parts/route/part.toml", Some(ROUTE)),
                ROUTE_FILE,
            ],
            says: &["merged routes.txt"],
            files: &[(
                "routes.txt",
                Some("# all routes\nserve tides\nserve piers\n# joint: routes (tinmold)\nmine\n"),
            )],
            ..CASE
        },
        Case {
            name: "what the owner deleted of a part stays deleted",
            edits: &[
                ("tides.txt", None),
                ("routes.txt", Some("# routes\nserve piers\n# joint: routes (tinmold)\n")),
            ],
            new: &[
                ("body/routes.txt", Some("# all\n# routes\n# joint: routes (tinmold)\n")),
                ("parts/route/part.toml", Some(ROUTE)),
                ("parts/route/body/{= path =}.txt", Some("to {= path =}\n")),
            ],
            says: &["merged routes.txt", "note deleted tides.txt", "replaced piers.txt"],
            files: &[
                ("tides.txt", None),
                ("routes.txt", Some("# all\n# routes\nserve piers\n# joint: routes (tinmold)\n")),
            ],
            ..CASE
        },
        Case {
            name: "a joint that is gone",
            new: &[
                ("body/routes.txt", Some("# routes\n")),
                ("parts/route/part.toml", Some(ROUTE)),
                ROUTE_FILE,
            ],
            code: 4,
            says: &["undecided part route piers: routes.txt", "undecided part route tides: routes.txt"],
            ..CASE
        },
        Case {
            name: "a joint that is gone, and the lines stay",
            new: &[
                ("body/routes.txt", Some("# routes\n# no joint any more\n")),
                ("parts/route/part.toml", Some(ROUTE)),
                ROUTE_FILE,
            ],
            args: &["--if-present", "keep"],
            files: &[("routes.txt", Some("# routes\nserve tides\nserve piers\n# joint: routes (tinmold)\n"))],
            undo: 0,
            ..CASE
        },
        Case {
            name: "a part that is gone",
            new: &[("body/routes.txt", Some(NEWER))],
            code: 4,
            says: &["undecided part route piers", "undecided part route tides"],
            ..CASE
        },
        Case {
            name: "a part that is gone goes",
            new: &[("body/routes.txt", Some(NEWER))],
            args: &["--if-present", "replace"],
            says: &["removed piers.txt", "removed tides.txt", "replaced routes.txt"],
            files: &[("routes.txt", Some(NEWER)), ("tides.txt", None)],
            undo: 2,
            ..CASE
        },
        Case {
            name: "a part that has another name",
            new: &[
                ("body/routes.txt", Some(ROUTES)),
                (
                    "parts/way/part.toml",
                    Some(
                        "[part]\nname = \"way\"\nwas = \"route\"\nsummary = \"A way\"\n\
                    [[question]]\nkey = \"to\"\nwas = \"path\"\nask = \"To\"\nkind = \"text\"\n\
                    [[joint]]\nfile = \"routes.txt\"\nname = \"routes\"\nlines = [\"go {= to =}\"]\n",
                    ),
                ),
                ("parts/way/body/{= to =}.txt", Some("way {= to =}\n")),
            ],
            says: &["replaced piers.txt", "replaced routes.txt", "replaced tides.txt"],
            files: &[("routes.txt", Some("# routes\ngo tides\ngo piers\n# joint: routes (tinmold)\n"))],
            ..CASE
        },
        Case {
            name: "a part's file that the mold makes itself now",
            new: &[
                ("body/routes.txt", Some(ROUTES)),
                ("body/tides.txt", Some("of the mold\n")),
                ("parts/route/part.toml", Some(ROUTE)),
                ROUTE_FILE,
            ],
            code: 4,
            says: &["undecided tides.txt"],
            ..CASE
        },
    ];
    for case in cases {
        let name = case.name;
        let place = with_routes(OLD, case.edits);
        version(&place, "2.0.0", ("", case.new));
        let before = content(&place);
        let (code, report) = recast(&place, case.args);
        let mut expected = case.says.to_vec();
        expected.sort_unstable();
        assert_eq!(code, case.code, "{name}: {report:#}");
        assert_eq!(said(&report), expected, "{name}: {report:#}");
        for (path, text) in case.files {
            let found = fs::read_to_string(place.path(&format!("out/{path}"))).ok();
            assert_eq!(found.as_deref(), *text, "{name}: {path}");
        }
        if code != 0 {
            assert_eq!(content(&place), before, "{name}");
            continue;
        }
        let (code, again) = recast(&place, &[]);
        assert_eq!((code, said_changes(&again)), (0, vec![]), "{name}: again: {again:#}");
        let after = content(&place);
        let undone = place.run(&["fit", "--undo", "--unattended", "--dir", "out"]);
        assert_eq!(undone.code, case.undo, "{name}: {}", undone.err);
        if undone.code == 0 {
            let lines = place.read("out/routes.txt");
            assert!(!lines.contains("piers") && !place.path("out/piers.txt").exists(), "{name}: {lines}");
        } else {
            assert_eq!(content(&place), after, "{name}");
            place.run(&["recast", "out", "--undo", "--unattended"]).says(0, &[]);
            assert_eq!(content(&place), before, "{name}");
        }
    }
}
