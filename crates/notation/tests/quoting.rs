//! The quoting views, held against the languages' own readers.
#![allow(clippy::unwrap_used)]

mod common;
use common::World;
use proptest::prelude::*;
use std::io::Write;
use std::process::{Command, Stdio};
use tinmold_notation::Value;

fn rendered(source: &str, text: &str) -> String {
    let mut world = World::new();
    let id = world.scope.find("pier").unwrap();
    world.values.set(&world.scope, id, Value::Text(text.to_owned())).unwrap();
    world.render(source).unwrap()
}

/// Texts that break out of careless quoting.
const ODD: &[&str] = &[
    "",
    "plain",
    "it's \"odd\"",
    "back\\slash\\",
    "$(touch pwned) `touch pwned` ${HOME} $HOME $$",
    "a\nb\r\nc\td",
    "#hash %percent% ^caret & | < > ( ) ; !",
    "{= x =} {{ y }} \\N{DASH} \\x41 \\u0041 \\101",
    "??/ ??= trigraphs",
    "\u{1f6a2} \u{645}\u{631} \u{202e}turned\u{202c} \u{2028}line\u{2029}",
    "\u{1}\u{7f}\u{85}\u{feff}",
    "*a* _b_ [c](d) <e> `f`",
    "- list\n# heading",
];

/// Returns the output of a program for a script on standard input.
fn said(program: &str, args: &[&str], script: &str) -> String {
    let mut child = Command::new(program)
        .args(args)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap_or_else(|error| unreachable!("{program}: {error}"));
    child.stdin.take().unwrap().write_all(script.as_bytes()).unwrap();
    let output = child.wait_with_output().unwrap();
    assert!(output.status.success(), "{program} refuses:\n{script}");
    String::from_utf8(output.stdout).unwrap()
}

#[test]
fn shells_read_back_one_word() {
    for text in ODD {
        let script = format!("printf '%s' {}", rendered("{= pier.shell =}", text));
        assert_eq!(said("sh", &[], &script), *text);
    }
    assert_eq!(rendered("{= pier.shell =}", "a\0b"), "'ab'");
}

#[test]
fn python_reads_back_the_literal() {
    for text in ODD {
        let script =
            format!("import sys; sys.stdout.buffer.write({}.encode())", rendered("{= pier.python =}", text));
        assert_eq!(said("python3", &["-"], &script), *text);
    }
}

#[test]
fn node_reads_back_the_literal() {
    // Where there is no Node.js, the rules below hold it.
    if Command::new("node").arg("--version").output().is_err() {
        return;
    }
    for text in ODD {
        let script = format!("process.stdout.write({})", rendered("{= pier.javascript =}", text));
        assert_eq!(said("node", &["-"], &script), *text);
    }
}

#[test]
fn make_reads_back_the_line() {
    for text in ODD {
        let quoted = rendered("{= pier.make =}", text);
        assert!(!quoted.contains('\n'));
        let script = format!("TEXT := {quoted}\nall:\n\t@printf '%s' \"$$TEXT\"\nexport TEXT\n");
        // Make has no way to write a line break or a tab, nor white space at the end of a line.
        let expected: String = text.chars().map(|c| if c.is_control() { ' ' } else { c }).collect();
        assert_eq!(said("make", &["-s", "-f", "-"], &script).trim(), expected.trim(), "{quoted}");
    }
}

#[test]
fn languages_without_a_reader_here_get_what_their_rules_say() {
    let cases: &[(&str, &str, &str)] = &[
        ("rust", "a\"b\\\n\u{7}\u{202e}", r#""a\"b\\\n\u{7}\u{202e}""#),
        ("java", "a\"b\\\n\u{7}1\u{202e}", r#""a\"b\\\n\0071\u202e""#),
        ("c", "a\"b\\\n\u{7}1??/\u{202e}", r#""a\"b\\\n\0071?\?/\342\200\256""#),
        ("batch", "100% a&b \"c\" ^d\ne", "100%% a^&b 'c' ^^d e"),
        ("go", "a\"b\\\n\u{7}\u{202e}$", r#""a\"b\\\n\u0007\u202e$""#),
        ("env", "a $b \"c\" #", "'a $b \"c\" #'"),
        ("env", "it's $b\nc", r#""it's \$b\nc""#),
        ("ini", "calm sea, 50 % = half", "calm sea, 50 % = half"),
        ("ini", " a;b\n", "\" a;b \""),
        ("container", "a \"b\" $HOME\n", r#""a \"b\" \$HOME ""#),
        ("javascript", "</script>\u{2028}'", r#""\u003c/script>\u2028'""#),
        ("markdown", "# a *b* <c>\n1. d", "\\# a \\*b\\* \\<c\\> 1. d"),
        ("markdown", "12. x", "12\\. x"),
        ("markdown", "- x", "\\- x"),
        ("xml", "a<b>&\"'\u{1}\u{ffff}\r", "a&lt;b&gt;&amp;&quot;&#39;\u{fffd}\u{fffd}&#13;"),
    ];
    for (view, text, expected) in cases {
        assert_eq!(rendered(&format!("{{= pier.{view} =}}"), text), *expected, "{view} {text:?}");
    }
}

#[test]
fn words_are_split_alike_everywhere() {
    let cases: &[(&str, [&str; 7])] = &[
        (
            "gull point",
            ["Gull Point", "Gull point", "gull_point", "gull-point", "gullPoint", "GullPoint", "GULL_POINT"],
        ),
        (
            "HTTPServer2go",
            [
                "Http Server2go",
                "Http server2go",
                "http_server2go",
                "http-server2go",
                "httpServer2go",
                "HttpServer2go",
                "HTTP_SERVER2GO",
            ],
        ),
        (
            "already_snake-and kebab",
            [
                "Already Snake And Kebab",
                "Already snake and kebab",
                "already_snake_and_kebab",
                "already-snake-and-kebab",
                "alreadySnakeAndKebab",
                "AlreadySnakeAndKebab",
                "ALREADY_SNAKE_AND_KEBAB",
            ],
        ),
        (
            "\u{e9}t\u{e9} d'o\u{f9}",
            [
                "\u{c9}t\u{e9} D O\u{f9}",
                "\u{c9}t\u{e9} d o\u{f9}",
                "\u{e9}t\u{e9}_d_o\u{f9}",
                "\u{e9}t\u{e9}-d-o\u{f9}",
                "\u{e9}t\u{e9}DO\u{f9}",
                "\u{c9}t\u{e9}DO\u{f9}",
                "\u{c9}T\u{c9}_D_O\u{d9}",
            ],
        ),
        ("", ["", "", "", "", "", "", ""]),
    ];
    let views = ["title", "sentence", "snake", "kebab", "camel", "pascal", "constant"];
    for (text, expected) in cases {
        for (view, expected) in views.iter().zip(expected) {
            assert_eq!(rendered(&format!("{{= pier.{view} =}}"), text), *expected, "{text:?}.{view}");
        }
    }
}

proptest! {
    #[test]
    fn manifests_read_back_what_was_quoted(text in any::<String>()) {
        let toml: toml::Table = rendered("text = {= pier.toml =}\n", &text).parse().unwrap();
        prop_assert_eq!(toml["text"].as_str(), Some(text.as_str()));
        let yaml: std::collections::BTreeMap<String, String> =
            serde_saphyr::from_str(&rendered("text: {= pier.yaml =}\n", &text)).unwrap();
        prop_assert_eq!(&yaml["text"], &text);
        let listed: Vec<String> = serde_saphyr::from_str(&rendered("- {= pier.yaml =}\n- x\n", &text)).unwrap();
        prop_assert_eq!(&listed[0], &text);
    }
}
