//! Where a text is not of its language: at the place where something was left out.
#![allow(clippy::unwrap_used)]

use tinmold_grammar::{Language, mistake};

/// A language, a text with `‸` where its mistake is found, and what is missing there.
const CASES: &[(Language, &str, Option<&str>)] = &[
    (Language::Python, "def berth(pier:‸\n    return pier\n\nx = 1\n", None),
    (Language::Python, "def a():\n    x = [1, 2‸\n    return x\n\ndef b():\n    pass\n", None),
    (Language::Python, "def a()‸\n    return x\n\ndef b():\n    pass\n", None),
    (Language::Python, "x = \"Gull\" ‸Point\"\ny = 2\n", None),
    (Language::Python, "if a:‸\ny = 2\n", None),
    (
        Language::Python,
        "class A:\n    def f(self):\n        return 1\n   ‸def g(self):\n        pass\n",
        None,
    ),
    (Language::JavaScript, "const x = {a: 1 b: 2‸};\nfoo();\n", None),
    (Language::JavaScript, "function a() {\n  if (x) ‸{\n    y();\n}\nfunction b() {}\n", Some("}")),
    (Language::Rust, "fn main() {\n    let x = 1‸\n    let y = 2;\n}\n", Some(";")),
    (Language::Rust, "fn main() {\n    println!(‸\"a);\n}\nfn b() {}\n", None),
    (Language::Java, "class A {\n    int x = 1‸\n    int y;\n}\n", Some(";")),
    (Language::Go, "package a\n\nfunc main() {\n\tx := []int‸{1, 2\n}\n", Some("}")),
    (Language::Shell, "if true; then\n  echo a\necho b‸\n", Some("fi")),
    (Language::C, "#ifdef __cplusplus\nextern \"C\" {\n#endif\nint a =‸ ;\n", Some("identifier")),
    (Language::C, "int main(void) {\n    return 0‸\n}\n", Some(";")),
    (Language::Html, "<p>a<b>c</p>\n‸<div>\n", None),
    (Language::Html, "<main><p>a</p>‸</mian></main>\n", None),
    (Language::Python, "import os\n\ndeff ‸a():\n    return 1\n\ndef b():\n    pass\n", None),
    (Language::Css, "a { color: red; \nb { }‸\n", Some("}")),
];

#[test]
fn a_mistake_is_where_something_was_left_out() {
    for (language, marked, missing) in CASES {
        let at = marked.find('‸').unwrap();
        let found = mistake(*language, &marked.replace('‸', "")).unwrap();
        assert_eq!((found.at, found.missing.as_deref()), (at, *missing), "{marked:?}");
    }
}

#[test]
fn what_is_well_formed_has_none() {
    let cases = [
        (Language::Python, "if a:\n    # nothing yet\n    pass\n\nx = (1 +\n  2)\nclass A: pass\n"),
        (Language::Python, "match x:\n    case 1: pass\n\ntry:\n    a()\nexcept* E as e:\n    ...\n"),
        (Language::TypeScriptElements, "const a = <T,>(x: T) => <p a={x!}>{...b}</p>;\n"),
        (
            Language::JavaScript,
            "export default async () => { for await (const x of y) { yield_(x ?? `${a}`) } }\n",
        ),
        (
            Language::Rust,
            "fn a<'x>(b: &'x str) -> impl Fn() + 'x { let Some(c) = d else { return }; move || e!(f) }\n",
        ),
        (Language::Shell, "set -eu\ncase \"$1\" in\n  a|b) echo \"${x:-$(y)}\" ;;\nesac\n"),
        (
            Language::C,
            "#ifdef __cplusplus\nextern \"C\" {\n#endif\nint a(void);\n#ifdef __cplusplus\n}\n#endif\n",
        ),
        (Language::Html, "<!doctype html>\n<ul><li>a<li>b</ul><br><img src=a>\n"),
    ];
    for (language, text) in cases {
        assert_eq!(mistake(language, text), None, "{text:?}");
    }
    // A deep text takes no stack.
    assert!(mistake(Language::Python, &"[".repeat(200_000)).is_some());
}
