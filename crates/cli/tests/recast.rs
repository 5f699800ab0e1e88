//! A project follows its mold: what the owner did stays, what the mold changed comes.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use common::Place;
use common::recasts::{File, apply, content, recast, said, said_changes, version_of_texts as version};
use std::fs;

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
