//! Mistakes in mold.toml and in the whole of a mold: each is found, with its place and a way out.
#![allow(clippy::unwrap_used)]

mod common;
use common::{findings, package, session};
use tinmold_project::answers::Offers;
use tinmold_mold::model::{Mold, MoldError};
use tinmold_project::plan::{Limits, Plan, PlanError};
use tinmold_project::verify::VerifyError;
use tinmold_notation::Finding;

const TEXT: &str = "kind = \"text\"\nask = \"?\"\n";

/// The manifest after `[mold]`, the code, the text that is underlined, a piece of message or help.
const CASES: &[(&str, &str, &str, &str)] = &[
    // The shape of the file
    ("[[question]\n", "unreadable-manifest", "", "not TOML"),
    ("[[question]]\nkee = 'a'\n", "unknown-key", "kee", "did you mean `key`?"),
    ("[[question]]\nkey = 'a'\nkind = 'txt'\n", "unknown-key", "'txt'", "did you mean `text`?"),
    ("[[question]]\nkey = 5\n", "wrong-shape", "5", "wrong type"),
    ("[[question]]\nask = 'a'\nkind = 'flag'\n", "wrong-shape", "", "`key` is missing"),
    ("[[question]]\nkey = 'a'\nkind = 'flag'\n", "wrong-shape", "'a'", "`ask` is missing"),
    ("[derive]\nx = 5\n", "wrong-shape", "5", "neither a text"),
    ("[[files]]\nmatch = 'a'\nowner = 'me'\n", "unknown-key", "'me'", "`you`"),
    ("[notation]\nmarks = ['{{', '{{']\n", "bad-marks", "['{{', '{{']", "must differ"),
    ("[notation]\nmarks = ['##', '=}']\n", "bad-marks", "['##', '=}']", "punctuation"),
    // Keys
    ("[[question]]\nkey = 'end'\nask = '?'\nkind = 'flag'\n", "bad-key", "'end'", "words of tags"),
    ("[[question]]\nkey = 'a-b'\nask = '?'\nkind = 'flag'\n", "bad-key", "'a-b'", "letters, digits"),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\n[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\n",
        "bad-key",
        "'a'",
        "two questions",
    ),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\n[derive]\na = 'x'\n", "bad-key", "'a'", "already"),
    // Rules against kinds
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\nform = 'kebab'\n",
        "wrong-rule",
        "'kebab'",
        "kind text",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\nform = 'kebap'\n",
        "unknown-form",
        "'kebap'",
        "did you mean `kebab`?",
    ),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\nmin = 1\n", "wrong-rule", "1", "no bounds"),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'integer'\nmin = 5\nmax = 2\n",
        "wrong-rule",
        "5",
        "more than `max`",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\npattern = '('\n",
        "bad-pattern",
        "'('",
        "no regular expression",
    ),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\nlength = 9\n", "wrong-rule", "9", "minted"),
    ("[[question]]\nkey = 'a'\nkind = 'minted'\nlength = 2\n", "wrong-rule", "2", "8 to 1024"),
    ("[[question]]\nkey = 'a'\nkind = 'minted'\ndefault = 'x'\n", "wrong-rule", "'x'", "no default"),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\nhidden = true\n",
        "wrong-rule",
        "true",
        "with a `when`",
    ),
    // Options
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\n", "bad-options", "'one-of'", "no options"),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\noption = [{ value = 'x' }]\n",
        "wrong-rule",
        "'x'",
        "takes no options",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\noption = [{ value = 'x' }, { value = 'x' }]\n",
        "bad-options",
        "'x'",
        "another option",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\noption = [{ value = '' }]\n",
        "bad-options",
        "''",
        "not empty",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\noption = [{ value = 'x', with = { upper = 'y' } }]\n",
        "bad-options",
        "upper",
        "named like a view",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\noption = [{ value = 'x', with = { n = 1 } }, { value = 'y', with = { n = 'z' } }]\n",
        "bad-options",
        "n",
        "has one type",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\noption = [{ value = 'x', with = { n = [1] } }]\n",
        "wrong-shape",
        "[1]",
        "a field is",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'some-of'\noption = [{ value = 'x', requires = ['z'] }]\n",
        "not-an-option",
        "'z'",
        "no option",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'some-of'\noption = [{ value = 'x', requires = ['y'] }, { value = 'y', requires = ['x'] }]\n",
        "bad-requires",
        "'x'",
        "in a circle",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'some-of'\noption = [{ value = 'x', requires = ['y'] }, { value = 'y', excludes = ['x'] }]\n",
        "bad-requires",
        "'x'",
        "never be ticked",
    ),
    // Defaults
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\ndefault = 'y'\noption = [{ value = 'x' }]\n",
        "bad-value",
        "'y'",
        "none of its options",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\nform = 'kebab'\ndefault = 'A'\n",
        "bad-value",
        "'A'",
        "lower-case",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'integer'\nmax = 3\ndefault = 4\n",
        "bad-value",
        "4",
        "3 is the most",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\ndefault = 'yes'\n",
        "bad-value",
        "'yes'",
        "true or false is wanted",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'texts'\ndefault = '{= year =}'\n",
        "bad-value",
        "'{= year =}'",
        "a list is wanted",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\ndefault = '{= b =}'\n[[question]]\nkey = 'b'\nask = '?'\nkind = 'text'\n",
        "used-too-early",
        "b",
        "asked later",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\ndefault = '{= a =}'\n",
        "used-too-early",
        "a",
        "this question itself",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\nwhen = 'b'\n[[question]]\nkey = 'b'\nask = '?'\nkind = 'flag'\n",
        "used-too-early",
        "b",
        "asked later",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\nwhen = 'x'\n[[question]]\nkey = 'b'\nask = '?'\nkind = 'flag'\n[derive]\nx = { is = 'b' }\n",
        "used-too-early",
        "x",
        "computed from what is asked later",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\nwhen = 'year'\n",
        "wrong-type",
        "year",
        "a condition is a flag",
    ),
    // Derived values, presets, rules for files
    ("[derive]\nx = '{= y =}'\ny = '{= x =}'\n", "derive-circle", "x", "in a circle"),
    ("[derive]\nx = '{= nope =}'\n", "unknown-name", "nope", "nothing is called"),
    ("[derive]\nx = { is = '1 +' }\n", "unexpected", "", "expected a value"),
    ("[preset.bare]\nanswers = { nope = 1 }\n", "unknown-key", "nope", "no question"),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\n[preset.bare]\nanswers = { a = 1 }\n",
        "bad-value",
        "1",
        "true or false",
    ),
    ("[[files]]\nmatch = 'a['\n", "bad-match", "'a['", "cannot be read"),
    ("[[files]]\nmatch = 'nothing'\n", "unused-rule", "'nothing'", "no file"),
    ("[[files]]\nmatch = 'a'\nwhen = 'peir'\n", "unknown-name", "peir", ""),
    ("[[files]]\nmatch = 'a'\neach = 'piers'\n", "wrong-rule", "'piers'", "pier in piers"),
    ("[[files]]\nmatch = 'a'\neach = 'p in year'\n", "wrong-rule", "'p in year'", "no list"),
    ("[[files]]\nmatch = 'a'\neach = 'p in pears'\n", "unknown-name", "pears", ""),
    ("[[tour]]\npath = '{= nope =}'\nsays = 'x'\n", "unknown-name", "nope", ""),
    ("[next]\nlines = ['{= nope =}']\n", "unknown-name", "nope", ""),
    (
        "[[question]]\nkey = 'a'\nask = '{= x =}'\nkind = 'flag'\n",
        "tag-in-fixed-text",
        "{= x =}",
        "not rendered",
    ),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\n", "unused-question", "'a'", "nothing uses"),
    // Needs and finishing steps
    ("[[need]]\ntool = './sh'\n", "bad-need", "'./sh'", "one types it"),
    ("[[need]]\ntool = '-x'\n", "bad-need", "'-x'", "no name of a program"),
    ("[[need]]\ntool = 'go'\nversion = 'new'\n", "bad-need", "'new'", "no range"),
    ("[[need]]\ntool = 'go'\nwhen = 'night'\n", "unknown-name", "night", ""),
    ("[[need]]\ntool = 'go'\nvesrion = '1'\n", "unknown-key", "vesrion", "did you mean `version`?"),
    ("[[finish]]\nname = 'a'\n", "bad-step", "'a'", "either `run` or `git`"),
    ("[[finish]]\nname = 'a'\nrun = []\n", "bad-step", "'a'", "runs nothing"),
    ("[[finish]]\nname = 'a'\nrun = ['x']\ngit = 'y'\n", "bad-step", "'a'", "either `run` or `git`"),
    ("[[finish]]\nname = 'A b'\nrun = ['x']\n", "bad-step", "'A b'", "no name of a step"),
    ("[[finish]]\nname = 'all'\nrun = ['x']\n", "bad-step", "'all'", "it is taken"),
    ("[[finish]]\nname = 'a'\nrun = ['{= year =}']\n", "bad-step", "'{= year =}'", "named as it is"),
    ("[[finish]]\nname = 'a'\nrun = ['x', '{= yaer =}']\n", "unknown-name", "yaer", "did you mean `year`?"),
    ("[[finish]]\nname = 'a'\nrun = ['x']\nafter = ['b']\n", "bad-step", "'b'", "no step above"),
    ("[[finish]]\nname = 'a'\nrun = 'make test'\n", "wrong-shape", "'make test'", "wrong type"),
    (
        "[[finish]]\nname = 'a'\nrun = ['x']\n[[finish]]\nname = 'a'\nrun = ['y']\n",
        "bad-step",
        "'a'",
        "it is taken",
    ),
    (
        "[[question]]\nkey = 'k'\nkind = 'minted'\n[[finish]]\nname = 'a'\nrun = ['x', '{= k =}']\n",
        "minted-outside-local",
        "k",
        "local",
    ),
    (
        "[[question]]\nkey = 'k'\nkind = 'minted'\n[next]\nlines = ['{= k =}']\n",
        "minted-outside-local",
        "k",
        "local",
    ),
];

#[test]
fn every_mistake_of_a_manifest_has_its_place() {
    let mut wrong = Vec::new();
    for (manifest, code, under, words) in CASES {
        let source = package(manifest, &[]).file("mold.toml").unwrap().read().unwrap().into_owned();
        let source = String::from_utf8(source).unwrap();
        let found = findings(manifest, &[("body/a", "x")]);
        let there = found.iter().any(|finding| {
            finding.code.as_str() == *code
                && (under.is_empty() || finding.span.of(&source) == *under)
                && format!("{} {}", finding.message, finding.help).contains(words)
        });
        if !there {
            let shown: Vec<_> = found
                .iter()
                .map(|finding| {
                    format!(
                        "{} {:?} {} / {}",
                        finding.code,
                        finding.span.of(&source),
                        finding.message,
                        finding.help
                    )
                })
                .collect();
            wrong.push(format!("{manifest}  wants {code} {under:?} {words:?}\n  found {shown:#?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn the_header_has_its_forms() {
    let cases = [
        ("name = 'Ferry Board'\nversion = '1.0.0'", "bad-header", "'Ferry Board'"),
        ("name = 'a'\nversion = '1.0'", "bad-header", "'1.0'"),
        ("name = 'a'\nversion = '1.0.0'\nowner = 'saltmarsh'", "bad-header", "'saltmarsh'"),
        ("name = 'a'\nversion = '1.0.0'\ntinmold = '>=x'", "bad-header", "'>=x'"),
        ("name = 'a'\nversion = '1.0.0'\ntinmold = '>=99'", "other-program", "'>=99'"),
        (
            "name = 'a'\nversion = '1.0.0'\ntinmold = '>=99'\nnewer = true",
            "other-program",
            "tinmold = '>=99'",
        ),
    ];
    for (header, code, under) in cases {
        let manifest = format!("[mold]\n{header}\nsummary = 'x'\n");
        let found = findings(&manifest, &[]);
        assert_eq!(found[0].code.as_str(), code, "{found:?}");
        assert_eq!(found[0].span.of(&manifest), under);
    }
    let mut broken = package("", &[]);
    broken.files[0].content = tinmold_mold::package::Content::Held(vec![b'a', 0xff].into());
    let Err(MoldError::Faulty(faulty)) = Mold::load(broken) else { unreachable!("bytes are no manifest") };
    assert_eq!(faulty.findings[0].code.as_str(), "unreadable-manifest");
}

const PART: &str = "parts/pier/part.toml";
/// The same with a head that is right.
const PIER: &str = "parts/pier/part.toml, the rest of it";
const HEAD: &str = "[part]\nname = 'pier'\nsummary = 'One more pier'\n";

#[test]
fn the_whole_of_a_mold_is_looked_at() {
    type Files = &'static [(&'static str, &'static str)];
    let cases: &[(Files, &str, &str)] = &[
        (&[("body/{= nope =}/a", "x")], "unknown-name", "body/{= nope =} (name)"),
        (&[("body/{= for x in y =}", "x")], "tag-in-name", "body/{= for x in y =} (name)"),
        (&[("body/A", "x"), ("body/a", "y")], "same-path", "body/a"),
        (&[("body/{= a =}", "x"), ("body/{=a=}", "y")], "same-path", "body/{=a=}"),
        (&[("body/d/aux.txt", "x")], "unsafe-path", "body/d/aux.txt (name)"),
        (&[("body/.git/{= a =}", "x")], "unsafe-path", "body/.git/{= a =} (name)"),
        (&[("fragments/unplaced", "{= if =}")], "unexpected", "fragments/unplaced"),
        (&[("body/b", "{= place 'f' =}"), ("fragments/f", "{= peir =}")], "unknown-name", "fragments/f"),
        (&[(PART, "[part]\nname = 'pier'")], "wrong-shape", PART),
        (&[(PART, "[part]\nname = 'pier'\nsummary = '{= a =}'")], "tag-in-fixed-text", PART),
        (&[(PART, "[part]\nname = 'pier'\nsummary = ''\nfits = ['A b']")], "bad-part", PART),
        (&[(PART, "[part]\nname = 'pier'\nsummary = ''\nwhen = 'b'")], "unknown-name", PART),
        (&[(PIER, "[[question]]\nkey = 'a'\nask = ''\nkind = 'flag'")], "bad-key", PART),
        (&[(PIER, "[[question]]\nkey = 'b'\nask = ''\nkind = 'flag'")], "unused-question", PART),
        (&[(PIER, "[[joint]]\nfile = '{= b =}'\nname = 'x'\nlines = ['y']")], "unknown-name", PART),
        (&[(PIER, "[[joint]]\nfile = 'x'\nname = 'X y'\nlines = ['y']")], "bad-joint", PART),
        (&[(PIER, "[[edit]]\nfile = 'x.json'")], "bad-edit", PART),
        (&[(PIER, "[[edit]]\nfile = 'x.json'\nset = { a = 2026-11-23 }")], "bad-edit", PART),
        (&[(PIER, "[[edit]]\nfile = 'x.json'\nset = { a = '{= b =}' }")], "unknown-name", PART),
        (&[(PIER, "[[edit]]\nfile = 'x.json'\nset = { '{= b =}' = 1 }")], "unknown-name", PART),
        (&[(PIER, "[[edit]]\nfile = 'x.json'\nadd = { a = [1] }\nsame = '('")], "bad-pattern", PART),
        (&[(PIER, "[[files]]\nmatch = 'y'\ncopy = true")], "unused-rule", PART),
        (&[(PIER, ""), ("parts/pier/body/{= b =}", "")], "unknown-name", "parts/pier/body/{= b =} (name)"),
        (&[(PIER, ""), ("parts/pier/body/x", "{= b =}")], "unknown-name", "parts/pier/body/x"),
        (&[(PIER, ""), ("parts/pier/fragments/f", "{= if =}")], "unexpected", "parts/pier/fragments/f"),
    ];
    let manifest = format!("[[question]]\nkey = 'a'\n{TEXT}");
    for (files, code, file) in cases {
        let whole = |(path, text): &(&'static str, &str)| {
            let text = if *path == PIER { format!("{HEAD}{text}") } else { (*text).to_owned() };
            (if *path == PIER { PART } else { path }, text)
        };
        let whole: Vec<(&str, String)> = files.iter().map(whole).collect();
        let files: Vec<(&str, &str)> = whole.iter().map(|(path, text)| (*path, text.as_str())).collect();
        let files = files.as_slice();
        let found = findings(&manifest, files);
        let there = found.iter().any(|finding| finding.code.as_str() == *code && &*finding.file == *file);
        assert!(there, "{files:?} {found:?}");
    }
    let used = [("body/{= a =}", "{= b =}"), ("fragments/x", "")];
    let manifest = format!("[[question]]\nkey = 'a'\n{TEXT}[derive]\nb = '{{= a.upper =}}'\n");
    assert_eq!(findings(&manifest, &used), []);
}

/// What loading, checking, planning and rendering find in a mold of the page.
fn all_findings(manifest: &str, files: &[(&str, &str)], limits: &Limits) -> Vec<Finding> {
    let mut found = findings(manifest, files);
    if found.iter().all(|finding| !finding.is_error()) {
        let mold = common::mold(manifest, files);
        let Ok(answers) = session(&mold, &[], Offers::default()).finish() else { return found };
        let planned = match Plan::new(&mold, &answers, limits).map(Plan::verify) {
            Ok(Ok(plan)) => plan.sizes().map(drop).map_err(|PlanError::Faulty(found)| found),
            Ok(Err(VerifyError::Faulty(found))) | Err(PlanError::Faulty(found)) => Err(found),
            Ok(Err(VerifyError::Unsafe(_))) => Ok(()),
        };
        found.extend(planned.err().unwrap_or_default());
    }
    found
}

#[test]
fn every_code_has_an_example_on_the_page() {
    let page = concat!(include_str!("../../../docs/molds.md"), include_str!("../../../docs/parts.md"));
    let codes = include_str!("../src/codes.rs").split("(\"").skip(1);
    let codes: Vec<&str> = codes.filter_map(|rest| rest.split('"').next()).collect();
    assert!(codes.len() > 20, "{codes:?}");
    let (mut wrong, text) = (Vec::new(), "tides and berths\n".repeat(100));
    for code in codes {
        let Some((_, section)) = page.split_once(&format!("\n### {code}\n")) else {
            wrong.push(format!("{code} has no section"));
            continue;
        };
        let section = section.split("\n### ").next().unwrap();
        // Only a file that is there and cannot be read makes this one; a test of its own does.
        if code == "unreadable-file" {
            continue;
        }
        let (info, rest) = section.split_once("```toml mistake").unwrap().1.split_once('\n').unwrap();
        let manifest = rest.split("```").next().unwrap();
        let names = info.split(' ').find_map(|word| word.strip_prefix("with=")).unwrap_or("body/x");
        let names: Vec<String> = names.split(',').map(|name| name.replace('_', " ")).collect();
        let mut files: Vec<(&str, &str)> = names.iter().map(|name| (name.as_str(), text.as_str())).collect();
        let manifest = if info.contains(" part") {
            files.push(("parts/pier/part.toml", manifest));
            ""
        } else {
            manifest
        };
        let limits =
            if info.contains("limits") { Limits { files: 2, bytes: 1000 } } else { Limits::default() };
        let found = all_findings(manifest, &files, &limits);
        if !found.iter().any(|finding| finding.code.as_str() == code) {
            wrong.push(format!("{code}: {found:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn parts_are_tried_on_whatever_the_mold_casts() {
    let manifest = "[[question]]\nkey = 'view'\nask = '?'\nkind = 'one-of'\noption = [{ value = 'tides' }, { value = 'crews' }]\n\
        [[question]]\nkey = 'pier'\nask = '?'\nkind = 'text'\nform = 'kebab'\n";
    let body = [
        ("body/board.txt", "{= if view == 'tides' =}\n# joint: piers (tinmold)\n{= end =}\n{= pier =}\n"),
        ("body/fares.json", "{ \"child\": {= if view == 'tides' then '1' else '\"free\"' =} }\n"),
        ("body/{= if view == 'crews' =}rota{= end =}", "x"),
    ];
    let joint = "[[joint]]\nfile = 'board.txt'\nname = 'piers'\nlines = ['{= quay =}']\n";
    let asks = "[[question]]\nkey = 'quay'\nask = '?'\nkind = 'text'\nform = 'kebab'\n";
    // The part's manifest, the code that is found, and what the finding says; none where all is well.
    let cases = [
        (format!("{asks}{joint}"), Some(("bad-joint", "in a casting with view=crews"))),
        (format!("{asks}{joint}when = \"view == 'tides'\"\n"), None),
        (format!("when = \"view == 'tides'\"\n{asks}{joint}"), None),
        (
            "[[edit]]\nfile = 'fares.json'\nset = { child = 1 }\n".into(),
            Some(("bad-edit", "\"free\" at child already")),
        ),
        ("[[edit]]\nfile = 'fares.json'\nset = { adult = 2 }\n".into(), None),
        (
            "[[edit]]\nfile = 'fares.json'\nadd = { child = [2] }\n".into(),
            Some(("bad-edit", "1 at child already")),
        ),
        ("[[edit]]\nfile = 'rota'\nset = { adult = 2 }\n".into(), Some(("bad-edit", "rota is not cast"))),
        (
            "[[edit]]\nfile = 'board.txt'\nset = { adult = 2 }\n".into(),
            Some(("bad-edit", "only JSON, TOML and YAML")),
        ),
    ];
    for (part, expected) in cases {
        let part = format!("{HEAD}{part}");
        let files: Vec<(&str, &str)> = body.iter().copied().chain([(PART, part.as_str())]).collect();
        let found = findings(manifest, &files);
        match expected {
            None => assert_eq!(found, [], "{part}"),
            Some((code, words)) => {
                let there =
                    |finding: &Finding| finding.code.as_str() == code && finding.message.contains(words);
                assert!(found.iter().any(there), "{part}\n{found:#?}");
            }
        }
    }
}
