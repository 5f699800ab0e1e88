//! What a check finds by casting: the place in the body, and the smallest answers that show it.
#![allow(clippy::unwrap_used)]

#[path = "../../project/tests/common/mod.rs"]
mod common;

use common::{mold, package};
use tinmold_author::{CheckOptions, Checked, check};
use tinmold_mold::{Content, File, Mold, Package};

const QUESTIONS: &str = r#"
[[question]]
key = "name"
ask = "Name"
kind = "text"
form = "kebab"
default = "gull-point"
[[question]]
key = "about"
ask = "What is it for?"
kind = "text"
form = "plain"
default = "Departures"
[[question]]
key = "web"
ask = "Web"
kind = "one-of"
default = "none"
option = [{ value = "none" }, { value = "flask" }, { value = "waitress" }]
[[question]]
key = "store"
ask = "Database"
kind = "one-of"
default = "none"
option = [{ value = "none" }, { value = "sqlite" }]
[[question]]
key = "extras"
ask = "Extras"
kind = "some-of"
option = [{ value = "ci" }, { value = "image" }, { value = "lint" }]
[[question]]
key = "manager"
ask = "Manager"
kind = "one-of"
default = "pip"
when = "web != 'none'"
option = [{ value = "pip" }, { value = "uv" }]
"#;

/// Uses every question and names every option.
const USES: (&str, &str) = (
    "body/uses.txt",
    "{= name =}{= about =}{= store =}{= extras.len =}{= match web =}{= case 'none', 'flask', 'waitress' =}w{= end =}{= if web != 'none' =}{= manager =}{= end =}{= if manager == 'pip' or manager == 'uv' or store in ['none', 'sqlite'] =}{= end =}",
);

fn checked(manifest: &str, files: &[(&str, &str)]) -> (Package, Checked) {
    let manifest = format!("{QUESTIONS}{manifest}");
    let mold = mold(&manifest, &[files, &[USES]].concat());
    let checked = check(&mold, CheckOptions::default());
    (mold.package, checked)
}

/// `code file:line answers` for each finding.
fn found(manifest: &str, files: &[(&str, &str)]) -> Vec<String> {
    let (package, checked) = checked(manifest, files);
    let line = |it: &tinmold_author::Reported| {
        let text = package
            .file(&it.finding.file)
            .map_or(String::new(), |file| String::from_utf8_lossy(&file.read().unwrap()).into_owned());
        let answers = it.answers.as_ref().map_or(String::new(), |set| format!(" with {set}"));
        let part = it.part.as_ref().map_or(String::new(), |(part, set)| format!(" and {part}: {set}"));
        let at = it.finding.position(&text).line;
        format!("{} {}:{at}{answers}{part}", it.finding.code, it.finding.file)
    };
    checked.findings.iter().map(line).collect()
}

/// The manifest behind the questions, the files, and what is found.
type Case<'c> = (&'c str, &'c [(&'c str, &'c str)], &'c [&'c str]);

#[test]
fn casts_show_their_mistakes_with_the_smallest_answers() {
    let cases: &[Case<'_>] = &[
        ("", &[], &[]),
        // What comes out is parsed: data, code, and copies of both.
        (
            "",
            &[(
                "body/a.json",
                "{\n  \"a\": 1\n  {= if store == 'sqlite' and 'ci' in extras =}\"b\": 2{= end =}\n}\n",
            )],
            &["malformed-output body/a.json:2 with store=sqlite and extras=ci"],
        ),
        (
            "",
            &[(
                "body/a.py",
                "def a():\n    # {= if web == 'flask' =}\n    return (1\n    # {= else =}\n    return 1\n    # {= end =}\n",
            )],
            &["malformed-code body/a.py:3 with web=flask"],
        ),
        ("", &[("body/a.rs", "fn a() {}\nfn b() {\n")], &["malformed-code body/a.rs:2 with the defaults"]),
        (
            "[[files]]\nmatch = '*.js'\ncopy = true\n",
            &[("body/a.js", "const a = [1;\n"), ("body/b.js", "let b = 1;\n")],
            &["malformed-code body/a.js:1 with the defaults"],
        ),
        ("[[files]]\nmatch = '*.js'\nparse = false\n", &[("body/a.js", "const a = [1;\n")], &[]),
        // Texts with quotes break what is quoted by hand.
        (
            "",
            &[("body/a.py", "A = {= about.python =}\nB = \"{= about =}\"\n")],
            &[
                "malformed-code body/a.py:2 with about=The pilot's \"Gull & Heron\" <1>",
                "unquoted-text body/a.py:2",
            ],
        ),
        // Paths
        (
            "[[files]]\nmatch = 'b/**'\nwhen = \"'lint' in extras\"\n",
            &[("body/a/x", "1"), ("body/{= if store == 'sqlite' =}a{= end =}/x", "2"), ("body/b/y", "3")],
            &["same-path body/{= if store == 'sqlite' =}a{= end =}/x:1 with store=sqlite"],
        ),
        (
            "",
            &[("body/{= manager =}.txt", "x")],
            &["empty-in-name body/{= manager =}.txt (name):1 with the defaults"],
        ),
        // Secrets, and files that git would not have
        (
            "[[files]]\nmatch = '.env'\nlocal = true\n",
            &[("body/.gitignore", "{= if web == 'none' =}\n/.env\n{= end =}\n"), ("body/.env", "A=1\n")],
            &["uncovered-secret body/.env:1 with web=flask"],
        ),
        (
            "",
            &[
                ("body/.gitignore", "*.log\n{= if store == 'sqlite' =}\n/data\n{= end =}\n"),
                ("body/data/x", "1"),
            ],
            &["ignored-file body/data/x:1 with store=sqlite"],
        ),
        // A question that is not asked
        (
            "",
            &[("body/a.txt", "by {= manager =}\n{= if web == 'flask' =}{= manager.label =}{= end =}\n")],
            &["empty-value body/a.txt:1 with the defaults"],
        ),
    ];
    for (manifest, files, expected) in cases {
        assert_eq!(found(manifest, files), *expected, "{manifest}{files:?}");
    }
}

#[test]
fn defaults_and_presets_are_judged_as_a_whole() {
    let more = "[[question]]\nkey = 'parts'\nask = '?'\nkind = 'some-of'\n";
    let uses = ("body/b.txt", "{= parts.len =}");
    let cases: &[(String, &[&str])] = &[
        (
            format!(
                "{more}default = ['a', 'b']\noption = [{{ value = 'a', excludes = ['b'] }}, {{ value = 'b' }}]\n"
            ),
            &["bad-value mold.toml:46"],
        ),
        (
            format!(
                "{more}default = ['b']\noption = [{{ value = 'a' }}, {{ value = 'b', requires = ['a'] }}]\n"
            ),
            &["bad-value mold.toml:46"],
        ),
        (
            format!("{more}default = ['a']\noption = [{{ value = 'a', when = \"store == 'sqlite'\" }}]\n"),
            &["idle-answer mold.toml:46"],
        ),
        (
            format!(
                "{more}option = [{{ value = 'a' }}, {{ value = 'b', requires = ['a'] }}]\n[preset.few]\nsummary = 'x'\nanswers = {{ parts = ['b'], manager = 'uv' }}\n"
            ),
            &[
                "bad-value mold.toml:49 with the preset `few`",
                "idle-answer mold.toml:49 with the preset `few`",
            ],
        ),
        (
            format!(
                "{more}option = [{{ value = 'a' }}]\n[[question]]\nkey = 'short'\nask = '?'\nkind = 'text'\nmax = 30\ndefault = '{{= name =}}'\n[[files]]\nmatch = 'b.txt'\nwhen = \"short != 'x'\"\n"
            ),
            &["fragile-default mold.toml:52 with name=harbour-departures-and-arrivals-of-all-small-ferries"],
        ),
    ];
    for (manifest, expected) in cases {
        assert_eq!(found(manifest, &[uses]), *expected, "{manifest}");
    }
}

#[test]
fn what_never_comes_out_is_found() {
    let cases: &[Case<'_>] = &[
        (
            "[[files]]\nmatch = 'c.txt'\ncopy = true\n",
            &[("body/c.txt", "hello {= name =}\n"), ("body/d.txt~", "x")],
            &["never-rendered body/c.txt:1", "junk-file body/d.txt~:1"],
        ),
        ("", &[("body/latin.txt", "\u{0}")], &[]),
        (
            "[[files]]\nmatch = '*.tpl'\nmarks = ['<%', '%>']\n",
            &[
                ("body/a.tpl", "<% name %> {= about =}"),
                ("body/b.txt", "<% name %>"),
                ("body/c.tpl", "{= 5 =}"),
            ],
            &["never-rendered body/a.tpl:1", "never-rendered body/b.txt:1"],
        ),
        (
            "[[files]]\nmatch = 'never/**'\nwhen = \"store == 'sqlite' and store == 'none'\"\n",
            &[
                ("body/never/a.txt", "x"),
                ("body/b.txt", "{= if web == 'flask' =}{= if web == 'none' =}x{= end =}{= end =}"),
            ],
            &["never-reached body/b.txt:1", "never-written mold.toml:44"],
        ),
        // Four choices together are reached although no set has them.
        (
            "",
            &[(
                "body/b.txt",
                "{= if web == 'flask' and store == 'sqlite' and 'ci' in extras and 'lint' in extras and 'image' not in extras and manager == 'uv' =}x{= end =}",
            )],
            &[],
        ),
        (
            "",
            &[("fragments/head", "x"), ("fragments/tail", "y"), ("body/b.txt", "{= place 'tail' =}")],
            &["unused-fragment fragments/head:1"],
        ),
    ];
    for (manifest, files, expected) in cases {
        assert_eq!(found(manifest, files), *expected, "{manifest}{files:?}");
    }
    // Not UTF-8, and a link to nothing.
    let mut package = package(
        &format!("{QUESTIONS}[[files]]\nmatch = 'a'\nwhen = \"store == 'sqlite'\"\n"),
        &[USES, ("body/a", "x")],
    );
    let bytes = [b"caf\xe9 {= name =}".as_slice()].concat();
    package.files.push(File::new("body/latin.txt".to_owned(), Content::Held(bytes.into()), 0o644));
    package.files.push(File::new("body/link".to_owned(), Content::Link("a".into()), 0o777));
    package.files.sort_by(|a, b| a.path.cmp(&b.path));
    let checked = check(&Mold::load(package).unwrap(), CheckOptions::default());
    let codes: Vec<&str> = checked.findings.iter().map(|it| it.finding.code.as_str()).collect();
    assert_eq!(codes, ["never-rendered", "dangling-link"]);
    assert_eq!(checked.findings[1].answers.as_ref().unwrap().to_string(), "the defaults");
    let (_, checked) =
        self::checked("", &[("body/b.txt", "a\n{= if name.has('_') =}\nb\n\nc\n{= end =}\nd\n")]);
    let lines: Vec<(&str, &[usize])> =
        checked.unrendered.iter().map(|(file, lines)| (&**file, &**lines)).collect();
    assert_eq!(lines, [("body/b.txt", &[3, 5][..])]);
}

#[test]
fn names_in_prose_are_followed() {
    let make = ("body/Makefile", "test:\n\techo\n{= if 'lint' in extras =}\nlint:\n\techo\n{= end =}\n");
    let scripts = ("body/package.json", "{ \"scripts\": { \"build\": \"x\" } }");
    let data = ("body/data/tides.csv", "1");
    let only = "[[files]]\nmatch = 'data/**'\nwhen = \"store == 'sqlite'\"\n";
    let cases: &[Case<'_>] = &[
        (
            "[[tour]]\npath = 'src/{= name =}'\nsays = 'x'\n[[tour]]\npath = 'Makefile'\nsays = 'x'\n",
            &[make],
            &["missing-path mold.toml:43 with the defaults"],
        ),
        (
            "[next]\nlines = ['cd x && make -s tset', 'make V=1 test']\n",
            &[make],
            &["missing-target mold.toml:43 with the defaults"],
        ),
        (
            "[[finish]]\nname = 'check'\nrun = ['make', 'lint']\n[[finish]]\nname = 'lint'\nrun = ['make', 'lint']\nwhen = \"'lint' in extras\"\n",
            &[make],
            &["missing-target mold.toml:44 with the defaults"],
        ),
        (
            only,
            &[
                data,
                (
                    "body/README.md",
                    "See `data/tides.csv` and `data/tide.csv`, `a/b/made.db`.\n[tides](data/tides.csv) [x](https://a.example/b) [top](#top)\n",
                ),
            ],
            &[
                "missing-path body/README.md:1 with the defaults",
                "missing-path body/README.md:1 with store=sqlite",
                "missing-path body/README.md:2 with the defaults",
            ],
        ),
        (
            "",
            &[
                make,
                scripts,
                (
                    "body/README.md",
                    "Run `make lint`.\n\n    make test    make it whole\n\n```\n$ npm run biuld\nnpm run build\nmake nothing # at all\n```\n",
                ),
            ],
            &[
                "missing-target body/README.md:1 with the defaults",
                "missing-target body/README.md:6 with the defaults",
                "missing-target body/README.md:8 with the defaults",
            ],
        ),
    ];
    for (manifest, files, expected) in cases {
        assert_eq!(found(manifest, files), *expected, "{manifest}{files:?}");
    }
}

#[test]
fn options_that_are_forgotten_fall_into_an_else() {
    let new = "[[question]]\nkey = 'tide'\nask = '?'\nkind = 'one-of'\noption = [{ value = 'low' }, { value = 'high' }, { value = 'slack' }]\n";
    let cases: &[(&str, &[&str])] = &[
        (
            "{= if tide == 'low' =}a{= else if tide == 'high' =}b{= else =}c{= end =}",
            &["forgotten-option mold.toml:46"],
        ),
        ("{= if tide in ['low', 'high'] then 1 else 2 =}", &["forgotten-option mold.toml:46"]),
        ("{= match tide =}{= case 'low', 'high' =}a{= else =}b{= end =}", &["forgotten-option mold.toml:46"]),
        ("{= match tide case 'low', 'high' then 1 case 'slack' then 2 =}", &[]),
        ("{= if tide == 'low' or tide == 'high' =}a{= end =}{= tide =}", &[]),
        (
            "{= if tide == 'low' =}a{= else =}b{= end =}{= if tide == 'high' or tide == 'slack' =}c{= end =}",
            &[],
        ),
    ];
    for (text, expected) in cases {
        assert_eq!(found(new, &[("body/b.txt", text)]), *expected, "{text}");
    }
}

#[test]
fn parts_are_tried_on_every_project() {
    let part = |more: &str| {
        format!(
            "[part]\nname = 'stop'\nsummary = 'x'\n[[question]]\nkey = 'stop'\nask = '?'\nkind = 'text'\nform = 'python-module'\ndefault = 'stop'\n{more}"
        )
    };
    let own = ("parts/stop/body/{= stop =}.py", "A = 1\n");
    let list = "STOPS = [\n    \"a\"{= if store == 'sqlite' =},{= end =}\n    # joint: stops (tinmold)\n]\n";
    let cases: &[Case<'_>] = &[
        (
            "[[joint]]\nfile = 'stops.py'\nname = 'stops'\nlines = ['\"{= stop =}\",']\n",
            &[("body/stops.py", list)],
            &[
                "missing-comma body/stops.py:2 with the defaults and stop: the defaults",
                "taken-path parts/stop/part.toml:5 with the defaults and stop: stop=stops",
            ],
        ),
        (
            "except = ['stops']\n[[joint]]\nfile = 'stops.py'\nname = 'stops'\nlines = ['def {= stop =}(:']\n",
            &[("body/stops.py", "A = 1\n# joint: stops (tinmold)\n")],
            &["malformed-code parts/stop/part.toml:12 with the defaults and stop: the defaults"],
        ),
        (
            "except = ['stops']\n[[joint]]\nfile = 'stops.py'\nname = 'stops'\nlines = ['{= stop =} = 1']\n",
            &[("body/stops.py", "A = 1\n{= if store == 'none' =}\n# joint: stops (tinmold)\n{= end =}\n")],
            &["bad-joint parts/stop/part.toml:12 with store=sqlite and stop: the defaults"],
        ),
        (
            "[[edit]]\nfile = 'p.toml'\nset = { projct = { scripts = { a = 'b' } } }\n",
            &[("body/p.toml", "[project]\nname = 'x'\n")],
            &["new-table parts/stop/part.toml:12 with the defaults and stop: the defaults"],
        ),
        (
            "[[edit]]\nfile = 'p.toml'\nset = { tool = { a = 'b' } }\n",
            &[("body/p.toml", "[project]\nname = 'x'\n")],
            &[],
        ),
    ];
    for (more, files, expected) in cases {
        let manifest = part(more);
        let all = [*files, &[own, ("parts/stop/part.toml", &manifest)]].concat();
        assert_eq!(found("", &all), *expected, "{more}");
    }
}
