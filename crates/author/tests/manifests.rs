//! Mistakes in mold.toml and in whole molds: each is found, with its position and a way out.
#![allow(clippy::unwrap_used)]

#[path = "../../project/tests/common/mod.rs"]
mod common;

use common::{package, session};
use tinmold_author::CheckOptions;
use tinmold_mold::{Content, Mold, MoldError};
use tinmold_notation::Finding;
use tinmold_project::answers::Offers;
use tinmold_project::plan::{Limits, Plan, PlanError};
use tinmold_project::verify::VerifyError;
use tinmold_project::write::cover;

/// Everything that loading and checking find.
fn findings(manifest: &str, files: &[(&str, &str)]) -> Vec<Finding> {
    findings_within(manifest, files, &Limits::default())
}

fn findings_within(manifest: &str, files: &[(&str, &str)], limits: &Limits) -> Vec<Finding> {
    match Mold::load(package(manifest, files)) {
        Ok(mold) => {
            let checked =
                tinmold_author::check(&mold, CheckOptions { limits: *limits, ..CheckOptions::default() });
            checked.findings.into_iter().map(|reported| reported.finding).collect()
        }
        Err(MoldError::Faulty(faulty)) => faulty.findings,
        Err(error) => unreachable!("{error}"),
    }
}

const TEXT: &str = "kind = \"text\"\nask = \"?\"\n";

/// The manifest after `[mold]`, the code, the text that is underlined.
const CASES: &[(&str, &str, &str)] = &[
    // The shape of the file
    ("[[question]\n", "unreadable-manifest", ""),
    ("[[question]]\nkee = 'a'\n", "unknown-key", "kee"),
    ("[[question]]\nkey = 'a'\nkind = 'txt'\n", "unknown-key", "'txt'"),
    ("[[question]]\nkey = 5\n", "wrong-shape", "5"),
    ("[[question]]\nask = 'a'\nkind = 'flag'\n", "wrong-shape", ""),
    ("[[question]]\nkey = 'a'\nkind = 'flag'\n", "wrong-shape", "'a'"),
    ("[derive]\nx = 5\n", "wrong-shape", "5"),
    ("[[files]]\nmatch = 'a'\nowner = 'me'\n", "unknown-key", "'me'"),
    ("[notation]\nmarks = ['{{', '{{']\n", "bad-marks", "['{{', '{{']"),
    ("[notation]\nmarks = ['##', '=}']\n", "bad-marks", "['##', '=}']"),
    // Keys
    ("[[question]]\nkey = 'end'\nask = '?'\nkind = 'flag'\n", "bad-key", "'end'"),
    ("[[question]]\nkey = 'a-b'\nask = '?'\nkind = 'flag'\n", "bad-key", "'a-b'"),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\n[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\n",
        "bad-key",
        "'a'",
    ),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\n[derive]\na = 'x'\n", "bad-key", "'a'"),
    // Rules against kinds
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\nform = 'kebab'\n", "wrong-rule", "'kebab'"),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\nform = 'kebap'\n", "unknown-form", "'kebap'"),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\nmin = 1\n", "wrong-rule", "1"),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'integer'\nmin = 5\nmax = 2\n", "wrong-rule", "5"),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\npattern = '('\n", "bad-pattern", "'('"),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\nlength = 9\n", "wrong-rule", "9"),
    ("[[question]]\nkey = 'a'\nkind = 'minted'\nlength = 2\n", "wrong-rule", "2"),
    ("[[question]]\nkey = 'a'\nkind = 'minted'\ndefault = 'x'\n", "wrong-rule", "'x'"),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\nhidden = true\n", "wrong-rule", "true"),
    // Options
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\n", "bad-options", "'one-of'"),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\noption = [{ value = 'x' }]\n", "wrong-rule", "'x'"),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\noption = [{ value = 'x' }, { value = 'x' }]\n",
        "bad-options",
        "'x'",
    ),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\noption = [{ value = '' }]\n", "bad-options", "''"),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\noption = [{ value = 'x', with = { upper = 'y' } }]\n",
        "bad-options",
        "upper",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\noption = [{ value = 'x', with = { n = 1 } }, { value = 'y', with = { n = 'z' } }]\n",
        "bad-options",
        "n",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\noption = [{ value = 'x', with = { n = [1] } }]\n",
        "wrong-shape",
        "[1]",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'some-of'\noption = [{ value = 'x', requires = ['z'] }]\n",
        "not-an-option",
        "'z'",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'some-of'\noption = [{ value = 'x', requires = ['y'] }, { value = 'y', requires = ['x'] }]\n",
        "bad-requires",
        "'x'",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'some-of'\noption = [{ value = 'x', requires = ['y'] }, { value = 'y', excludes = ['x'] }]\n",
        "bad-requires",
        "'x'",
    ),
    // Defaults
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'one-of'\ndefault = 'y'\noption = [{ value = 'x' }]\n",
        "bad-value",
        "'y'",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\nform = 'kebab'\ndefault = 'A'\n",
        "bad-value",
        "'A'",
    ),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'integer'\nmax = 3\ndefault = 4\n", "bad-value", "4"),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\ndefault = 'yes'\n", "bad-value", "'yes'"),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'texts'\ndefault = '{= year =}'\n",
        "bad-value",
        "'{= year =}'",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\ndefault = '{= b =}'\n[[question]]\nkey = 'b'\nask = '?'\nkind = 'text'\n",
        "used-too-early",
        "b",
    ),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'text'\ndefault = '{= a =}'\n", "used-too-early", "a"),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\nwhen = 'b'\n[[question]]\nkey = 'b'\nask = '?'\nkind = 'flag'\n",
        "used-too-early",
        "b",
    ),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\nwhen = 'x'\n[[question]]\nkey = 'b'\nask = '?'\nkind = 'flag'\n[derive]\nx = { is = 'b' }\n",
        "used-too-early",
        "x",
    ),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\nwhen = 'year'\n", "wrong-type", "year"),
    // Derived values, presets, rules for files
    ("[derive]\nx = '{= y =}'\ny = '{= x =}'\n", "derive-circle", "x"),
    ("[derive]\nx = '{= nope =}'\n", "unknown-name", "nope"),
    ("[derive]\nx = { is = '1 +' }\n", "unexpected", ""),
    ("[preset.bare]\nanswers = { nope = 1 }\n", "unknown-key", "nope"),
    (
        "[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\n[preset.bare]\nanswers = { a = 1 }\n",
        "bad-value",
        "1",
    ),
    ("[[files]]\nmatch = 'a['\n", "bad-match", "'a['"),
    ("[[files]]\nmatch = 'nothing'\n", "unused-rule", "'nothing'"),
    ("[[files]]\nmatch = 'a'\nwhen = 'peir'\n", "unknown-name", "peir"),
    ("[[files]]\nmatch = 'a'\neach = 'piers'\n", "wrong-rule", "'piers'"),
    ("[[files]]\nmatch = 'a'\neach = 'p in year'\n", "wrong-rule", "'p in year'"),
    ("[[files]]\nmatch = 'a'\neach = 'p in pears'\n", "unknown-name", "pears"),
    ("[[tour]]\npath = '{= nope =}'\nsays = 'x'\n", "unknown-name", "nope"),
    ("[next]\nlines = ['{= nope =}']\n", "unknown-name", "nope"),
    ("[[question]]\nkey = 'a'\nask = '{= x =}'\nkind = 'flag'\n", "tag-in-fixed-text", "{= x =}"),
    ("[[question]]\nkey = 'a'\nask = '?'\nkind = 'flag'\n", "unused-question", "'a'"),
    // Needs and finishing steps
    ("[[need]]\ntool = './sh'\n", "bad-need", "'./sh'"),
    ("[[need]]\ntool = '-x'\n", "bad-need", "'-x'"),
    ("[[need]]\ntool = 'go'\nversion = 'new'\n", "bad-need", "'new'"),
    ("[[need]]\ntool = 'go'\nwhen = 'night'\n", "unknown-name", "night"),
    ("[[need]]\ntool = 'go'\nvesrion = '1'\n", "unknown-key", "vesrion"),
    ("[[finish]]\nname = 'a'\n", "bad-step", "'a'"),
    ("[[finish]]\nname = 'a'\nrun = []\n", "bad-step", "'a'"),
    ("[[finish]]\nname = 'a'\nrun = ['x']\ngit = 'y'\n", "bad-step", "'a'"),
    ("[[finish]]\nname = 'A b'\nrun = ['x']\n", "bad-step", "'A b'"),
    ("[[finish]]\nname = 'all'\nrun = ['x']\n", "bad-step", "'all'"),
    ("[[finish]]\nname = 'a'\nrun = ['{= year =}']\n", "bad-step", "'{= year =}'"),
    ("[[finish]]\nname = 'a'\nrun = ['x', '{= yaer =}']\n", "unknown-name", "yaer"),
    ("[[finish]]\nname = 'a'\nrun = ['x']\nafter = ['b']\n", "bad-step", "'b'"),
    ("[[finish]]\nname = 'a'\nrun = 'make test'\n", "wrong-shape", "'make test'"),
    ("[[finish]]\nname = 'a'\nrun = ['x']\n[[finish]]\nname = 'a'\nrun = ['y']\n", "bad-step", "'a'"),
    (
        "[[question]]\nkey = 'k'\nkind = 'minted'\n[[finish]]\nname = 'a'\nrun = ['x', '{= k =}']\n",
        "minted-outside-local",
        "k",
    ),
    ("[[question]]\nkey = 'k'\nkind = 'minted'\n[next]\nlines = ['{= k =}']\n", "minted-outside-local", "k"),
];

#[test]
fn every_mistake_of_a_manifest_has_its_place() {
    let mut wrong = Vec::new();
    for (manifest, code, under) in CASES {
        let source = package(manifest, &[]).file("mold.toml").unwrap().read().unwrap().into_owned();
        let source = String::from_utf8(source).unwrap();
        let found = findings(manifest, &[("body/a", "x")]);
        let there = found.iter().any(|finding| {
            finding.code.as_str() == *code && (under.is_empty() || finding.span.of(&source) == *under)
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
            wrong.push(format!("{manifest}  wants {code} {under:?}\n  found {shown:#?}"));
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
        ("name = 'a'\nversion = '1.0.0'\ntinmold = '>=99'\nnewer = true", "other-program", "'>=99'"),
    ];
    for (header, code, under) in cases {
        let manifest = format!("[mold]\n{header}\nsummary = 'x'\n");
        let found = findings(&manifest, &[]);
        assert_eq!(found[0].code.as_str(), code, "{found:?}");
        assert_eq!(found[0].span.of(&manifest), under);
    }
    let mut broken = package("", &[]);
    broken.files[0].content = Content::Held(vec![b'a', 0xff].into());
    let Err(MoldError::Faulty(faulty)) = Mold::load(broken) else { unreachable!("bytes are no manifest") };
    assert_eq!(faulty.findings[0].code.as_str(), "unreadable-manifest");
}

const PART: &str = "parts/pier/part.toml";
/// The manifest of a part with a correct head.
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
    let used = [("body/{= a =}", "{= b =}{= place 'x' =}"), ("fragments/x", "")];
    let manifest =
        format!("[[question]]\nkey = 'a'\n{TEXT}form = 'kebab'\n[derive]\nb = '{{= a.upper =}}'\n");
    assert_eq!(findings(&manifest, &used), []);
}

/// Returns the findings of loading, checking, planning and rendering an example of the page.
fn all_findings(manifest: &str, files: &[(&str, &str)], limits: &Limits) -> Vec<Finding> {
    let mut found = findings_within(manifest, files, limits);
    if found.iter().all(|finding| !finding.is_error()) {
        let mold = common::mold(manifest, files);
        let Ok(answers) = session(&mold, &[], Offers::default()).finish() else { return found };
        let planned = match Plan::new(&mold, &answers, limits).map(Plan::verify) {
            Ok(Ok(plan)) => match plan.sizes() {
                Err(PlanError::Faulty(found)) => Err(found),
                _ => Err(cover::findings(&plan)),
            },
            Ok(Err(VerifyError::Faulty(found))) | Err(PlanError::Faulty(found)) => Err(found),
            Ok(Err(VerifyError::Unsafe(_))) | Err(PlanError::Package(_)) => Ok(()),
        };
        found.extend(planned.err().unwrap_or_default());
    }
    found
}

#[test]
fn every_code_has_an_example_on_the_page() {
    let page = concat!(include_str!("../../../docs/molds.md"), include_str!("../../../docs/parts.md"));
    let codes: Vec<&str> = tinmold_mold::codes::DESCRIBED.iter().map(|(code, _)| code.as_str()).collect();
    assert!(codes.len() > 20, "{codes:?}");
    let (mut wrong, text) = (Vec::new(), "tides and berths\n".repeat(100));
    for code in codes {
        let Some((_, section)) = page.split_once(&format!("\n### {code}\n")) else {
            wrong.push(format!("{code} has no section"));
            continue;
        };
        let section = section.split("\n### ").next().unwrap();
        // These codes need an unreadable file and a link; other tests cover them.
        if ["unreadable-file", "dangling-link"].contains(&code) {
            continue;
        }
        let (info, rest) = section.split_once("```toml mistake").unwrap().1.split_once('\n').unwrap();
        let manifest = rest.split("```").next().unwrap();
        let has_own = section.contains("```text file=");
        let usual = if has_own { "" } else { "body/x" };
        let names = info.split(' ').find_map(|word| word.strip_prefix("with=")).unwrap_or(usual);
        let names = names.split(',').filter(|name| !name.is_empty());
        let names: Vec<String> = names.map(|name| name.replace('_', " ")).collect();
        let mut files: Vec<(&str, &str)> = names.iter().map(|name| (name.as_str(), text.as_str())).collect();
        let manifest = if info.contains(" part") {
            files.push(("parts/pier/part.toml", manifest));
            ""
        } else {
            manifest
        };
        let named = section.split("```text file=").skip(1).map(|rest| rest.split_once('\n').unwrap());
        files.extend(named.map(|(path, rest)| (path, rest.split("```").next().unwrap())));
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
    // The part's manifest, and the code that is found; none where all is well.
    let cases = [
        (format!("{asks}{joint}"), Some("bad-joint")),
        (format!("{asks}{joint}when = \"view == 'tides'\"\n"), None),
        (format!("when = \"view == 'tides'\"\n{asks}{joint}"), None),
        ("[[edit]]\nfile = 'fares.json'\nset = { child = 1 }\n".into(), Some("bad-edit")),
        ("[[edit]]\nfile = 'fares.json'\nset = { adult = 2 }\n".into(), None),
        ("[[edit]]\nfile = 'fares.json'\nadd = { child = [2] }\n".into(), Some("bad-edit")),
        ("[[edit]]\nfile = 'rota'\nset = { adult = 2 }\n".into(), Some("bad-edit")),
        ("[[edit]]\nfile = 'board.txt'\nset = { adult = 2 }\n".into(), Some("bad-edit")),
    ];
    for (part, expected) in cases {
        let part = format!("{HEAD}{part}");
        let files: Vec<(&str, &str)> = body.iter().copied().chain([(PART, part.as_str())]).collect();
        let found = findings(manifest, &files);
        match expected {
            None => assert_eq!(found, [], "{part}"),
            Some(code) => {
                assert!(found.iter().any(|finding| finding.code.as_str() == code), "{part}\n{found:#?}");
            }
        }
    }
}
