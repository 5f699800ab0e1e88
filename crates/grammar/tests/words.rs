//! Every language has a grammar that knows its words.
#![allow(clippy::unwrap_used)]

use std::sync::atomic::AtomicUsize;
use tinmold_grammar::{LONGEST, Language, WordKind, words};

/// A file, its text, and some words of it.
type Case<'a> = (&'a str, &'a str, &'a [(&'a str, WordKind)]);

#[test]
fn every_language_knows_its_words() {
    use WordKind::{Comment, Constant, Keyword, Name, Text};
    let cases: &[Case] = &[
        (
            "a.py",
            "# tides\ndef next_ferry():\n    return \"Tern Quay\"\n",
            &[("# tides", Comment), ("def", Keyword), ("next_ferry", Name), ("\"Tern Quay\"", Text)],
        ),
        (
            "a.rs",
            "// tides\nfn berth() -> u8 { 4 }\n",
            &[("// tides", Comment), ("fn", Keyword), ("berth", Name)],
        ),
        ("a.js", "const pier = 'Gull Point'; // tides\n", &[("const", Keyword), ("'Gull Point'", Text)]),
        (
            "a.ts",
            "interface Pier { name: string }\nconst x = 'a';\n",
            &[("interface", Keyword), ("'a'", Text)],
        ),
        ("a.tsx", "const x = 'a'; // tides\n", &[("const", Keyword), ("// tides", Comment)]),
        ("A.java", "class Pier { int berths = 4; } // tides\n", &[("class", Keyword), ("4", Constant)]),
        (
            "a.go",
            "package piers\n// tides\nfunc Berth() int { return 4 }\n",
            &[("package", Keyword), ("4", Constant)],
        ),
        ("a.c", "// tides\nint berth(void) { return 4; }\n", &[("// tides", Comment), ("return", Keyword)]),
        ("a.html", "<!-- tides --><p class=\"pier\">x</p>\n", &[("p", Name), ("<!-- tides -->", Comment)]),
        ("a.css", "/* tides */ .pier { width: 4px; }\n", &[("/* tides */", Comment)]),
        ("a.sh", "# tides\nif true; then echo \"x\"; fi\n", &[("# tides", Comment), ("if", Keyword)]),
        ("a.json", "{\"pier\": 4}\n", &[("4", Constant)]),
        ("a.toml", "# tides\npier = \"x\"\n", &[("# tides", Comment), ("\"x\"", Text)]),
        ("a.yaml", "# tides\npier: 'x'\n", &[("# tides", Comment), ("'x'", Text)]),
    ];
    for (path, text, expected) in cases {
        let all = words(Language::of_path(path).unwrap(), text, &AtomicUsize::new(0));
        for (word, kind) in *expected {
            let found = all.iter().find(|found| text[found.bytes.clone()] == **word);
            assert_eq!(found.map(|found| found.kind), Some(*kind), "{path}: {word} in {all:?}");
        }
        let ordered = all.windows(2).all(|pair| pair[0].bytes.end <= pair[1].bytes.start);
        assert!(ordered, "{path}: {all:?}");
        assert!(words(Language::of_path(path).unwrap(), text, &AtomicUsize::new(1)).is_empty());
    }
    assert_eq!(Language::of_path("Makefile"), None);
    for hostile in ["\u{0}\u{7}(((([[[[{{{{", "\"\"\"", "\u{202e}é🚢\n"] {
        for (path, ..) in cases {
            let all = words(Language::of_path(path).unwrap(), hostile, &AtomicUsize::new(0));
            assert!(all.iter().all(|word| hostile.get(word.bytes.clone()).is_some()), "{path}");
        }
    }
    assert!(words(Language::Python, &"#\n".repeat(LONGEST), &AtomicUsize::new(0)).is_empty());
}
