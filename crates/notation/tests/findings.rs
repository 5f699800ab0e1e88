//! Findings of the checker: their codes, positions and ways out.

#![allow(clippy::unwrap_used)]

mod common;
use common::World;
use tinmold_notation::{Finding, Severity};

/// The source, and for each finding its code, line, column, underlined text, and a part of the
/// message or help.
type Case = (&'static str, &'static [(&'static str, usize, usize, &'static str, &'static str)]);

const CASES: &[Case] = &[
    // Tags and tokens
    ("a {= pier", &[("unclosed-tag", 1, 3, "{=", "close it with `=}`")]),
    ("a\n  {= note x", &[("unclosed-tag", 2, 3, "{=", "")]),
    ("{= 'a =} {= pier =}", &[("unclosed-text", 1, 4, "'", "end the text with `'`")]),
    ("{= 'a\\qb' =}", &[("bad-escape", 1, 6, "\\q", "\\u{…}")]),
    ("{= '\\u{110000}' =}", &[("bad-escape", 1, 5, "\\u{110000}", "")]),
    ("{= '\\u{zz}' =}", &[("bad-escape", 1, 5, "\\u{zz}", "")]),
    ("{= night && pier =}", &[("bad-character", 1, 10, "&", "`and`")]),
    ("{= !night =}", &[("bad-character", 1, 4, "!", "`not`")]),
    ("{= pier|upper =}", &[("bad-character", 1, 8, "|", "a dot")]),
    ("{= pi\u{e9}r =}", &[("bad-character", 1, 6, "\u{e9}", "ASCII")]),
    ("{= 99999999999999999999 =}", &[("number-too-big", 1, 4, "99999999999999999999", "64 bits")]),
    ("{= 9223372036854775808 =}", &[("number-too-big", 1, 4, "9223372036854775808", "")]),
    ("{= =}", &[("unexpected", 1, 4, "=}", "expected a value")]),
    ("{= pier = 'x' =}", &[("unexpected", 1, 9, "=", "compared with `==`")]),
    ("{= pier(1) =}", &[("unexpected", 1, 8, "(", "only views take arguments")]),
    ("{= (berths =}", &[("unexpected", 1, 12, "=}", "`)`")]),
    ("{= [1, 2 =}", &[("unexpected", 1, 10, "=}", "`,` or `]`")]),
    ("{= pier. =}", &[("unexpected", 1, 10, "=}", "view or field")]),
    ("{= 1 < 2 < 3 =}", &[("unexpected", 1, 10, "<", "one comparison")]),
    ("{= if night then 'a' =}", &[("unexpected", 1, 22, "=}", "`else`")]),
    ("{= for in piers =}{= end =}", &[("unexpected", 1, 11, "piers", "`in`")]),
    ("{= for p of piers =}{= end =}", &[("unexpected", 1, 10, "of", "`in`")]),
    ("{= let = 1 =}", &[("unexpected", 1, 8, "=", "a name")]),
    ("{= place head =}", &[("unexpected", 1, 10, "head", "in quotes")]),
    ("{= match web =}{= case web =}{= end =}", &[("unexpected", 1, 24, "web", "written out")]),
    ("{= as-is x =}{= pier =}{= end =}", &[("unexpected", 1, 4, "as-is x =}", "takes nothing")]),
    ("{= a == not b =}", &[("unexpected", 1, 9, "not", "a value")]),
    // Blocks
    ("{= if night =}a", &[("unclosed-block", 1, 1, "{= if night =}", "`end`")]),
    ("{= for p in piers =}{= if night =}a{= end =}", &[("unclosed-block", 1, 1, "{= for p in piers =}", "")]),
    ("a{= end =}", &[("stray-tag", 1, 2, "{= end =}", "too many")]),
    ("{= else =}", &[("stray-tag", 1, 1, "{= else =}", "inside an `if`")]),
    ("{= if night =}{= else =}{= else =}{= end =}", &[("stray-tag", 1, 25, "{= else =}", "once")]),
    (
        "{= if night =}{= else =}{= else if night =}{= end =}",
        &[("stray-tag", 1, 25, "{= else if night =}", "before its `else`")],
    ),
    ("{= case 'a' =}", &[("stray-tag", 1, 1, "{= case 'a' =}", "inside a `match`")]),
    ("{= between =}", &[("stray-tag", 1, 1, "{= between =}", "inside a `for`")]),
    ("{= between ',' =}", &[("stray-tag", 1, 1, "{= between ',' =}", "inside a `for`")]),
    (
        "{= for p in piers =}{= between =}{= between ',' =}{= end =}",
        &[("stray-tag", 1, 34, "{= between ',' =}", "")],
    ),
    (
        "{= match web =}x{= case 'flask', 'stdlib' =}{= end =}",
        &[("stray-tag", 1, 1, "{= match web =}", "first `case`")],
    ),
    // Names
    ("{= let pier = 1 =}", &[("hidden-name", 1, 8, "pier", "another name")]),
    ("{= let a = 1 =}{= let a = 2 =}", &[("hidden-name", 1, 23, "a", "")]),
    ("{= for p, p in piers =}{= end =}", &[("hidden-name", 1, 11, "p", "")]),
    ("{= for p in piers =}{= for p in piers =}{= end =}{= end =}", &[("hidden-name", 1, 28, "p", "")]),
    ("{= place 'head' given pier = 1 =}", &[("hidden-name", 1, 23, "pier", "every fragment sees")]),
    ("{= place 'head' given x = 1, x = 2 =}", &[("hidden-name", 1, 30, "x", "twice")]),
    ("{= let user = 1 =}", &[("reserved-word", 1, 8, "user", "")]),
    ("{= place 'head' given if = 1 =}", &[("reserved-word", 1, 23, "if", "")]),
    (
        "{= peir =} {= zebra =}",
        &[
            ("unknown-name", 1, 4, "peir", "did you mean `pier`?"),
            ("unknown-name", 1, 15, "zebra", "texts stand in quotes"),
        ],
    ),
    ("{= if night =}{= let a = 1 =}{= end =}{= a =}", &[("unknown-name", 1, 42, "a", "")]),
    ("{= project =}", &[("unknown-name", 1, 4, "project", "`project.dir`")]),
    ("{= mold.nam =}", &[("unknown-name", 1, 9, "nam", "did you mean `name`?")]),
    ("{= system =}", &[("out-of-place", 1, 4, "system", "renders alike everywhere")]),
    ("{= for p in piers =}{= between =}{= q =}{= end =}", &[("unknown-name", 1, 37, "q", "")]),
    // Views, fields, fragments
    ("{= pier.uper =}", &[("unknown-view", 1, 9, "uper", "did you mean `upper`?")]),
    ("{= pier.first =}", &[("unknown-view", 1, 9, "first", "a view of lists")]),
    ("{= berths.upper =}", &[("unknown-view", 1, 11, "upper", "a view of texts")]),
    ("{= pier.date('%Y') =}", &[("unknown-view", 1, 9, "date", "only `today`")]),
    ("{= pier.upper() =}", &[("wrong-arguments", 1, 9, "upper", "no arguments")]),
    ("{= pier.indent =}", &[("wrong-arguments", 1, 9, "indent", "one argument")]),
    ("{= pier.replace('a', 'b', 'c') =}", &[("wrong-arguments", 1, 9, "replace", "2 arguments")]),
    ("{= pier.indent('2') =}", &[("wrong-type", 1, 16, "'2'", "takes an integer")]),
    ("{= pier.has(1) =}", &[("wrong-type", 1, 13, "1", "takes a text")]),
    ("{= piers.has(1) =}", &[("wrong-type", 1, 14, "1", "takes a text")]),
    ("{= extras.has('cy') =}", &[("not-an-option", 1, 15, "'cy'", "did you mean `ci`?")]),
    ("{= web.upper =}", &[("unknown-field", 1, 8, "upper", "`.value.upper`")]),
    ("{= web.pakage =}", &[("unknown-field", 1, 8, "pakage", "did you mean `package`?")]),
    ("{= web.label(1) =}", &[("wrong-arguments", 1, 8, "label", "no arguments")]),
    ("{= place 'hed' =}", &[("unknown-fragment", 1, 10, "'hed'", "did you mean `head`?")]),
    ("{= place 'calls' given stops = 1 =}", &[("wrong-type", 1, 13, "stops", "goes over a list")]),
    ("{= place 'calls' =}", &[("unknown-name", 1, 13, "stops", "")]),
    // Types
    ("{= if pier =}{= end =}", &[("wrong-type", 1, 7, "pier", "ask it something")]),
    ("{= if piers =}{= end =}", &[("wrong-type", 1, 7, "piers", "`.empty`")]),
    ("{= not berths =}", &[("wrong-type", 1, 8, "berths", "compare it")]),
    ("{= night and pier =}", &[("wrong-type", 1, 14, "pier", "")]),
    (
        "{= pier + berths =}",
        &[("wrong-type", 1, 4, "pier + berths", "`+` does not fit a text and an integer")],
    ),
    ("{= web + 'x' =}", &[("wrong-type", 1, 4, "web + 'x'", "`.value`")]),
    ("{= pier * 2 =}", &[("wrong-type", 1, 4, "pier * 2", "for integers")]),
    ("{= -pier =}", &[("wrong-type", 1, 5, "pier", "`-` takes an integer")]),
    ("{= pier < berths =}", &[("wrong-type", 1, 4, "pier < berths", "have an order")]),
    ("{= night < true =}", &[("wrong-type", 1, 4, "night < true", "")]),
    ("{= pier == berths =}", &[("wrong-type", 1, 4, "pier == berths", "one type")]),
    ("{= pier in 'gull' =}", &[("wrong-type", 1, 4, "pier in 'gull'", "`.has(…)`")]),
    ("{= berths in piers =}", &[("wrong-type", 1, 4, "berths in piers", "")]),
    ("{= [pier, berths].len =}", &[("wrong-type", 1, 11, "berths", "one type")]),
    ("{= [piers].len =}", &[("wrong-type", 1, 5, "piers", "cannot stand in a list")]),
    (
        "{= if night then pier else berths =}",
        &[("wrong-type", 1, 4, "if night then pier else berths", "one type")],
    ),
    ("{= for c in pier =}{= end =}", &[("wrong-type", 1, 13, "pier", "`.lines`")]),
    ("{= let x = [] =}", &[("wrong-type", 1, 12, "[]", "empty list")]),
    ("{= match night =}{= case 'a' =}{= end =}", &[("wrong-type", 1, 10, "night", "use `if`")]),
    ("{= match berths =}{= case 'a' =}{= else =}{= end =}", &[("wrong-type", 1, 27, "'a'", "another type")]),
    ("{= match piers =}{= else =}{= end =}", &[("wrong-type", 1, 10, "piers", "`in`")]),
    ("{= piers =}", &[("list-put-in", 1, 4, "piers", "join it")]),
    ("{= extras.take(1) =}", &[("list-put-in", 1, 4, "extras.take(1)", "")]),
    // Options
    ("{= if web == 'flaks' =}{= end =}", &[("not-an-option", 1, 14, "'flaks'", "did you mean `flask`?")]),
    ("{= if 'cy' in extras =}{= end =}", &[("not-an-option", 1, 7, "'cy'", "")]),
    (
        "{= if web in ['flask', 'x'] =}{= end =}",
        &[("not-an-option", 1, 24, "'x'", "its options are `stdlib`, `flask`")],
    ),
    ("{= match web =}{= case 'x' =}{= else =}{= end =}", &[("not-an-option", 1, 24, "'x'", "")]),
    (
        "{= match web =}{= case 'flask' =}{= end =}",
        &[("missing-case", 1, 1, "{= match web =}", "leaves out `stdlib`")],
    ),
    (
        "{= match unasked =}{= case 'flask', 'stdlib' =}{= end =}",
        &[("missing-else", 1, 1, "{= match unasked =}", "not always asked")],
    ),
    (
        "{= match pier =}{= case 'a' =}{= end =}",
        &[("missing-else", 1, 1, "{= match pier =}", "a text needs an `else`")],
    ),
    ("{= match berths =}{= case 1, 1 =}{= else =}{= end =}", &[("repeated-case", 1, 30, "1", "")]),
    // Secrets, dates
    ("{= secret =}", &[("minted-outside-local", 1, 4, "secret", "`local`")]),
    ("{= let x = secret.upper + 'a' =}{= x =}", &[("minted-outside-local", 1, 36, "x", "")]),
    ("{= if secret == 'a' =}{= end =}", &[("minted-outside-local", 1, 7, "secret == 'a'", "in a condition")]),
    ("{= today.date('%') =}", &[("bad-date-pattern", 1, 15, "'%'", "strftime")]),
    // Warnings
    ("{= if true =}a{= else =}b{= end =}", &[("dead-branch", 1, 15, "{= else =}", "always holds")]),
    (
        "{= if night and false =}a{= end =}",
        &[("dead-branch", 1, 1, "{= if night and false =}", "never holds")],
    ),
    (
        "{= if not false =}a{= else if night =}b{= end =}",
        &[("dead-branch", 1, 20, "{= else if night =}", "")],
    ),
    ("{= if false then 1 else 2 =}", &[("dead-branch", 1, 18, "1", "")]),
    (
        "{= match web =}{= case 'flask' =}{= case 'stdlib' =}{= else =}x{= end =}",
        &[("dead-branch", 1, 53, "{= else =}", "every option")],
    ),
    ("{= for x in [] =}{= end =}", &[("dead-branch", 1, 13, "[]", "always empty")]),
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
    (
        "{= for x in =}{= x =}{= end =}",
        &[("unexpected", 1, 13, "=}", "a value"), ("unknown-name", 1, 18, "x", "")],
    ),
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
    let cases: &[(&str, &str, bool)] = &[
        ("a.json", "{= note_text =}", true),
        ("a.toml", "{= note_text.lower =}", true),
        ("a.yml", "{= if night then note_text else pier =}", true),
        ("pom.xml", "{= note_text + pier =}", true),
        ("run.sh", "{= let x = note_text =}{= x =}", true),
        ("make.cmd", "{= note_text.lines.first =}", true),
        ("Makefile", "{= [note_text].join('') =}", true),
        ("a.mk", "{= user.name =}", true),
        ("a.json", "{= note_text.json =}", false),
        ("a.toml", "{= note_text.snake =}", false),
        ("a.json", "{= pier =}{= note_text.len =}{= web =}", false),
        ("a.txt", "{= note_text =}", false),
        ("a.rs", "{= note_text =}", false),
    ];
    for (file, source, warned) in cases {
        world.file = (*file).to_owned();
        let codes: Vec<_> = world.codes(source).iter().map(|code| code.as_str()).collect();
        assert_eq!(codes.contains(&"unquoted-text"), *warned, "{file} {source}");
        assert!(world.codes(source).iter().all(|code| code.severity() == Severity::Warning));
    }
    world.local = true;
    assert!(world.codes("{= secret =}").is_empty());
}
