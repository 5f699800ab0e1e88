//! A project that has parts follows its mold.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use common::Place;
use common::recasts::{File, apply, content, recast, said, said_changes, version_of_texts as version};
use std::fs;

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
