//! Findings of the checker: their codes, positions and ways out.

#![allow(clippy::unwrap_used)]

mod common;
use common::World;
use tinmold_notation::{Finding, Severity};

/// The source, and for each finding its code, line, column, underlined text, and a name that
/// the message or help holds.
type Case = (&'static str, &'static [(&'static str, usize, usize, &'static str, &'static str)]);

const CASES: &[Case] = &[
    // Tags and tokens
    ("a {= pier", &[("unclosed-tag", 1, 3, "{=", "`=}`")]),
    ("a\n  {= note x", &[("unclosed-tag", 2, 3, "{=", "")]),
    ("{= 'a =} {= pier =}", &[("unclosed-text", 1, 4, "'", "`'`")]),
    ("{= 'a\\qb' =}", &[("bad-escape", 1, 6, "\\q", "")]),
    ("{= '\\u{110000}' =}", &[("bad-escape", 1, 5, "\\u{110000}", "")]),
    ("{= '\\u{zz}' =}", &[("bad-escape", 1, 5, "\\u{zz}", "")]),
    ("{= night && pier =}", &[("bad-character", 1, 10, "&", "`and`")]),
    ("{= !night =}", &[("bad-character", 1, 4, "!", "`not`")]),
    ("{= pier|upper =}", &[("bad-character", 1, 8, "|", "")]),
    ("{= pi\u{e9}r =}", &[("bad-character", 1, 6, "\u{e9}", "")]),
    ("{= 99999999999999999999 =}", &[("number-too-big", 1, 4, "99999999999999999999", "")]),
    ("{= 9223372036854775808 =}", &[("number-too-big", 1, 4, "9223372036854775808", "")]),
    ("{= =}", &[("unexpected", 1, 4, "=}", "")]),
    ("{= pier = 'x' =}", &[("unexpected", 1, 9, "=", "`==`")]),
    ("{= pier(1) =}", &[("unexpected", 1, 8, "(", "")]),
    ("{= (berths =}", &[("unexpected", 1, 12, "=}", "`)`")]),
    ("{= [1, 2 =}", &[("unexpected", 1, 10, "=}", "`,`")]),
    ("{= pier. =}", &[("unexpected", 1, 10, "=}", "")]),
    ("{= 1 < 2 < 3 =}", &[("unexpected", 1, 10, "<", "")]),
    ("{= if night then 'a' =}", &[("unexpected", 1, 22, "=}", "`else`")]),
    ("{= for in piers =}{= end =}", &[("unexpected", 1, 11, "piers", "`in`")]),
    ("{= for p of piers =}{= end =}", &[("unexpected", 1, 10, "of", "`in`")]),
    ("{= let = 1 =}", &[("unexpected", 1, 8, "=", "")]),
    ("{= place head =}", &[("unexpected", 1, 10, "head", "")]),
    ("{= match web =}{= case web =}{= end =}", &[("unexpected", 1, 24, "web", "")]),
    ("{= as-is x =}{= pier =}{= end =}", &[("unexpected", 1, 4, "as-is x =}", "")]),
    ("{= a == not b =}", &[("unexpected", 1, 9, "not", "")]),
    // Blocks
    ("{= if night =}a", &[("unclosed-block", 1, 1, "{= if night =}", "`end`")]),
    ("{= for p in piers =}{= if night =}a{= end =}", &[("unclosed-block", 1, 1, "{= for p in piers =}", "")]),
    ("a{= end =}", &[("stray-tag", 1, 2, "{= end =}", "")]),
    ("{= else =}", &[("stray-tag", 1, 1, "{= else =}", "`if`")]),
    ("{= if night =}{= else =}{= else =}{= end =}", &[("stray-tag", 1, 25, "{= else =}", "")]),
    (
        "{= if night =}{= else =}{= else if night =}{= end =}",
        &[("stray-tag", 1, 25, "{= else if night =}", "`else`")],
    ),
    ("{= case 'a' =}", &[("stray-tag", 1, 1, "{= case 'a' =}", "`match`")]),
    ("{= between =}", &[("stray-tag", 1, 1, "{= between =}", "`for`")]),
    ("{= between ',' =}", &[("stray-tag", 1, 1, "{= between ',' =}", "`for`")]),
    (
        "{= for p in piers =}{= between =}{= between ',' =}{= end =}",
        &[("stray-tag", 1, 34, "{= between ',' =}", "")],
    ),
    (
        "{= match web =}x{= case 'flask', 'stdlib' =}{= end =}",
        &[("stray-tag", 1, 1, "{= match web =}", "`case`")],
    ),
    (
        "{= if night =}{= for p in piers =}x{= end if =}y{= end =}",
        &[("wrong-end", 1, 36, "{= end if =}", "line 1")],
    ),
    ("{= for p in piers =}{= end night =}", &[("unexpected", 1, 28, "night", "")]),
    ("{= if night =}a{= elif pier =}b{= end =}", &[("unexpected", 1, 19, "elif", "`else if`")]),
    ("{= if night =}a{= endif =}b", &[("unexpected", 1, 19, "endif", "`end`")]),
    (
        "{= match web case 'stdlib' then 1 =}",
        &[("missing-case", 1, 4, "match web case 'stdlib' then 1", "`flask`")],
    ),
    ("{= match pier case 'a' then 1 =}", &[("missing-else", 1, 4, "match pier case 'a' then 1", "")]),
    ("{= match web case 'stdlib' then 1 case 'flask' then 'b' =}", &[("wrong-type", 1, 53, "'b'", "a text")]),
    (
        "{= match web case 'flask' then 1 case 'flask' then 2 else 3 =}",
        &[("repeated-case", 1, 39, "'flask'", "")],
    ),
    ("{= match web then 1 =}", &[("unexpected", 1, 14, "then", "")]),
    ("{= match web case 'a' 1 =}", &[("unexpected", 1, 23, "1", "`then`")]),
    ("{= (match web) =}", &[("unexpected", 1, 14, ")", "`case`")]),
    // Names
    ("{= let pier = 1 =}", &[("hidden-name", 1, 8, "pier", "")]),
    ("{= let a = 1 =}{= let a = 2 =}", &[("hidden-name", 1, 23, "a", "")]),
    ("{= for p, p in piers =}{= end =}", &[("hidden-name", 1, 11, "p", "")]),
    ("{= for p in piers =}{= for p in piers =}{= end =}{= end =}", &[("hidden-name", 1, 28, "p", "")]),
    ("{= place 'head' given pier = 1 =}", &[("hidden-name", 1, 23, "pier", "")]),
    ("{= place 'head' given x = 1, x = 2 =}", &[("hidden-name", 1, 30, "x", "")]),
    ("{= let user = 1 =}", &[("reserved-word", 1, 8, "user", "")]),
    ("{= place 'head' given if = 1 =}", &[("reserved-word", 1, 23, "if", "")]),
    (
        "{= peir =} {= zebra =}",
        &[("unknown-name", 1, 4, "peir", "`pier`"), ("unknown-name", 1, 15, "zebra", "")],
    ),
    ("{= if night =}{= let a = 1 =}{= end =}{= a =}", &[("unknown-name", 1, 42, "a", "")]),
    ("{= project =}", &[("unknown-name", 1, 4, "project", "`project.dir`")]),
    ("{= mold.nam =}", &[("unknown-name", 1, 9, "nam", "`name`")]),
    ("{= system =}", &[("out-of-place", 1, 4, "system", "")]),
    ("{= for p in piers =}{= between =}{= q =}{= end =}", &[("unknown-name", 1, 37, "q", "")]),
    // Views, fields, fragments
    ("{= pier.uper =}", &[("unknown-view", 1, 9, "uper", "`upper`")]),
    ("{= pier.first =}", &[("unknown-view", 1, 9, "first", "")]),
    ("{= berths.upper =}", &[("unknown-view", 1, 11, "upper", "")]),
    ("{= pier.date('%Y') =}", &[("unknown-view", 1, 9, "date", "`today`")]),
    ("{= pier.upper() =}", &[("wrong-arguments", 1, 9, "upper", "")]),
    ("{= pier.indent =}", &[("wrong-arguments", 1, 9, "indent", "")]),
    ("{= pier.replace('a', 'b', 'c') =}", &[("wrong-arguments", 1, 9, "replace", "")]),
    ("{= pier.indent('2') =}", &[("wrong-type", 1, 16, "'2'", "")]),
    ("{= pier.has(1) =}", &[("wrong-type", 1, 13, "1", "")]),
    ("{= piers.has(1) =}", &[("wrong-type", 1, 14, "1", "")]),
    ("{= extras.has('cy') =}", &[("not-an-option", 1, 15, "'cy'", "`ci`")]),
    ("{= web.upper =}", &[("unknown-field", 1, 8, "upper", "`.value.upper`")]),
    ("{= web.pakage =}", &[("unknown-field", 1, 8, "pakage", "`package`")]),
    ("{= web.label(1) =}", &[("wrong-arguments", 1, 8, "label", "")]),
    ("{= place 'hed' =}", &[("unknown-fragment", 1, 10, "'hed'", "`head`")]),
    ("{= place 'calls' given stops = 1 =}", &[("wrong-type", 1, 13, "stops", "")]),
    ("{= place 'calls' =}", &[("unknown-name", 1, 13, "stops", "")]),
    // Types
    ("{= if pier =}{= end =}", &[("wrong-type", 1, 7, "pier", "")]),
    ("{= if piers =}{= end =}", &[("wrong-type", 1, 7, "piers", "`.empty`")]),
    ("{= not berths =}", &[("wrong-type", 1, 8, "berths", "")]),
    ("{= night and pier =}", &[("wrong-type", 1, 14, "pier", "")]),
    ("{= pier + berths =}", &[("wrong-type", 1, 4, "pier + berths", "`+`")]),
    ("{= web + 'x' =}", &[("wrong-type", 1, 4, "web + 'x'", "`.value`")]),
    ("{= pier * 2 =}", &[("wrong-type", 1, 4, "pier * 2", "")]),
    ("{= -pier =}", &[("wrong-type", 1, 5, "pier", "`-`")]),
    ("{= pier < berths =}", &[("wrong-type", 1, 4, "pier < berths", "")]),
    ("{= night < true =}", &[("wrong-type", 1, 4, "night < true", "")]),
    ("{= pier == berths =}", &[("wrong-type", 1, 4, "pier == berths", "")]),
    ("{= pier in 'gull' =}", &[("wrong-type", 1, 4, "pier in 'gull'", "`.has(…)`")]),
    ("{= berths in piers =}", &[("wrong-type", 1, 4, "berths in piers", "")]),
    ("{= [pier, berths].len =}", &[("wrong-type", 1, 11, "berths", "")]),
    ("{= [piers].len =}", &[("wrong-type", 1, 5, "piers", "")]),
    ("{= if night then pier else berths =}", &[("wrong-type", 1, 4, "if night then pier else berths", "")]),
    ("{= for c in pier =}{= end =}", &[("wrong-type", 1, 13, "pier", "`.lines`")]),
    ("{= let x = [] =}", &[("wrong-type", 1, 12, "[]", "")]),
    ("{= match night =}{= case 'a' =}{= end =}", &[("wrong-type", 1, 10, "night", "`if`")]),
    ("{= match berths =}{= case 'a' =}{= else =}{= end =}", &[("wrong-type", 1, 27, "'a'", "")]),
    ("{= match piers =}{= else =}{= end =}", &[("wrong-type", 1, 10, "piers", "`in`")]),
    ("{= piers =}", &[("list-put-in", 1, 4, "piers", "")]),
    ("{= extras.take(1) =}", &[("list-put-in", 1, 4, "extras.take(1)", "")]),
    // Options
    ("{= if web == 'flaks' =}{= end =}", &[("not-an-option", 1, 14, "'flaks'", "`flask`")]),
    ("{= if 'cy' in extras =}{= end =}", &[("not-an-option", 1, 7, "'cy'", "")]),
    ("{= if web in ['flask', 'x'] =}{= end =}", &[("not-an-option", 1, 24, "'x'", "`stdlib`")]),
    ("{= match web =}{= case 'x' =}{= else =}{= end =}", &[("not-an-option", 1, 24, "'x'", "")]),
    ("{= match web =}{= case 'flask' =}{= end =}", &[("missing-case", 1, 1, "{= match web =}", "`stdlib`")]),
    (
        "{= match unasked =}{= case 'flask', 'stdlib' =}{= end =}",
        &[("missing-else", 1, 1, "{= match unasked =}", "")],
    ),
    ("{= match pier =}{= case 'a' =}{= end =}", &[("missing-else", 1, 1, "{= match pier =}", "`else`")]),
    ("{= match berths =}{= case 1, 1 =}{= else =}{= end =}", &[("repeated-case", 1, 30, "1", "")]),
    // Secrets, dates
    ("{= secret =}", &[("minted-outside-local", 1, 4, "secret", "`local`")]),
    ("{= let x = secret.upper + 'a' =}{= x =}", &[("minted-outside-local", 1, 36, "x", "")]),
    ("{= if secret == 'a' =}{= end =}", &[("minted-outside-local", 1, 7, "secret == 'a'", "")]),
    ("{= today.date('%') =}", &[("bad-date-pattern", 1, 15, "'%'", "")]),
    // Warnings
    ("{= if true =}a{= else =}b{= end =}", &[("dead-branch", 1, 15, "{= else =}", "")]),
    ("{= if night and false =}a{= end =}", &[("dead-branch", 1, 1, "{= if night and false =}", "")]),
    (
        "{= if not false =}a{= else if night =}b{= end =}",
        &[("dead-branch", 1, 20, "{= else if night =}", "")],
    ),
    ("{= if false then 1 else 2 =}", &[("dead-branch", 1, 18, "1", "")]),
    (
        "{= match web =}{= case 'flask' =}{= case 'stdlib' =}{= else =}x{= end =}",
        &[("dead-branch", 1, 53, "{= else =}", "")],
    ),
    ("{= for x in [] =}{= end =}", &[("dead-branch", 1, 13, "[]", "")]),
    // Several at once, in order, and one mistake is reported once
    (
        "{= peir.uper + 1 =}\n{= pier.uper =}\n{= end =}",
        &[
            ("unknown-name", 1, 4, "peir", ""),
            ("unknown-view", 2, 9, "uper", ""),
            ("stray-tag", 3, 1, "{= end =}", ""),
        ],
    ),
    (
        "{= if peir =}{= for x in peirs.y =}{= x.z =}{= end =}{= end =}",
        &[("unknown-name", 1, 7, "peir", ""), ("unknown-name", 1, 26, "peirs", "")],
    ),
    ("{= if ! =}a{= end =}", &[("bad-character", 1, 7, "!", "")]),
    ("{= for x in =}{= x =}{= end =}", &[("unexpected", 1, 13, "=}", ""), ("unknown-name", 1, 18, "x", "")]),
    ("\u{feff}{= x =}", &[("unknown-name", 1, 4, "x", "")]),
    ("\u{5d0}\u{5d1} {= x =}", &[("unknown-name", 1, 7, "x", "")]),
    ("a\r\n{= x =}\r\n", &[("unknown-name", 2, 4, "x", "")]),
];

#[test]
fn every_finding_has_its_place_and_a_way_out() {
    let world = World::new();
    let mut wrong = Vec::new();
    for (source, expected) in CASES {
        let found = world.compiled(source, |compiled| compiled.findings);
        let shown: Vec<_> = found.iter().map(|finding| summary(&world, source, finding)).collect();
        let as_expected = found.len() == expected.len()
            && found.iter().zip(*expected).all(|(finding, (code, line, column, text, words))| {
                let position = finding.position(text_of(&world, source, finding));
                finding.code.as_str() == *code
                    && (position.line, position.column) == (*line, *column)
                    && finding.span.of(text_of(&world, source, finding)) == *text
                    && format!("{} {}", finding.message, finding.help).contains(words)
            });
        if !as_expected {
            wrong.push(format!("{source:?}\n  found    {shown:?}\n  expected {expected:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

fn text_of<'a>(world: &'a World, source: &'a str, finding: &Finding) -> &'a str {
    let fragment = finding.file.strip_prefix("fragments/").and_then(|name| world.fragments.get(name));
    fragment.map_or(source, |(_, text)| text)
}

fn summary(world: &World, source: &str, finding: &Finding) -> String {
    let text = text_of(world, source, finding);
    let place = finding.position(text);
    let under = finding.span.of(text);
    format!(
        "{}:{}:{} {under:?} {} / {}",
        finding.code, place.line, place.column, finding.message, finding.help
    )
}

#[test]
fn free_text_wants_quoting_where_there_is_a_syntax() {
    let mut world = World::new();
    let (unquoted, wrong, fine) = (Some("unquoted-text"), Some("wrong-quoting"), None);
    let cases = [
        ("a.json", "{= note_text =}", unquoted),
        ("a.toml", "{= note_text.lower =}", unquoted),
        ("a.yml", "{= if night then note_text else pier =}", unquoted),
        ("pom.xml", "{= note_text + pier =}", unquoted),
        ("run.sh", "{= let x = note_text =}{= x =}", unquoted),
        ("make.cmd", "{= note_text.lines.first =}", unquoted),
        ("Makefile", "{= [note_text].join('') =}", unquoted),
        ("a.mk", "{= user.name =}", unquoted),
        ("a.rs", "{= note_text =}", unquoted),
        (".env.sample", "A={= note_text =}", unquoted),
        ("Containerfile", "LABEL a={= note_text =}", unquoted),
        ("a.json", "{= note_text.json =}", fine),
        ("a.toml", "{= note_text.snake =}", fine),
        ("a.json", "{= pier =}{= note_text.len =}{= web =}", fine),
        ("a.txt", "{= note_text =}", fine),
        ("a.txt", "{= note_text.java =}", fine),
        // A comment of one line takes free text of one line.
        ("a.py", "  # by {= user.name =}", fine),
        ("a.py", "  # {= note_text =}", unquoted),
        ("a.py", "#!{= user.name =}", unquoted),
        ("a.go", "x := 1 // by {= user.name =}", fine),
        ("a.go", "x := \"a // {= user.name =}", unquoted),
        ("a.java", "a();\n * @author {= user.name =}", fine),
        ("a.py", "x = {= note_text.json =}", wrong),
        ("a.py", "x = {= pier.json =}", wrong),
        ("a.py", "x = '<b>{= pier.xml =}</b>'", fine),
        ("a.js", "x = {= note_text.json =}", fine),
        ("a.ts", "x = {= note_text.python =}", wrong),
        ("a.go", "x := {= [note_text.rust].join('') =}", wrong),
        ("a.html", "<p>{= note_text.markdown =}</p>", wrong),
        ("a.html", "<p>{= note_text.xml =}</p>", fine),
        ("a.yaml", "a: {= note_text.json =}", fine),
        ("Makefile", "\techo {= note_text.shell.make =}", fine),
        ("Makefile", "\techo {= note_text.make.shell =}", wrong),
        ("a.ini", "a = {= note_text.toml =}", wrong),
    ];
    for (file, source, expected) in cases {
        world.file = file.to_owned();
        let codes = world.codes(source);
        assert!(codes.iter().all(|code| code.severity() == Severity::Warning));
        assert_eq!(codes.first().map(|code| code.as_str()), expected, "{file} {source}");
    }
    world.local = true;
    assert!(world.codes("{= secret =}").is_empty());
}
