//! The shape of a manifest: every mistake is found at once, with its position.
#![allow(clippy::unwrap_used)]

use tinmold_mold::manifest::{ShapeError, ShapeErrorKind as Kind, read_manifest, read_part_manifest};

const HEAD: &str = "[mold]\nname = 'm'\nversion = '1.0.0'\nsummary = 'x'\n";

/// The kind and the text of each mistake.
fn mistakes(source: &str) -> Vec<(Kind, &str)> {
    let errors = read_manifest(source).map(drop).expect_err(source);
    let shown = |ShapeError { span, kind }: ShapeError| (kind, &source[span]);
    errors.into_iter().map(shown).collect()
}

#[test]
fn a_manifest_that_is_right_has_no_mistake() {
    let source = format!(
        "{HEAD}released = 2026-11-23\ntags = ['http']\n[notation]\nmarks = ['<%', '%>']\n\
         [[question]]\nkey = 'a'\nask = 'A'\nkind = 'some-of'\ndefault = ['x']\n[[question.option]]\nvalue = 'x'\nwith = {{ n = 1, t = 'y', f = true }}\n\
         [derive]\nb = '{{= a.len =}}'\nc = {{ is = '1 + 1' }}\n[[files]]\nmatch = '**'\nowner = 'you'\nholds = 'jsonc'\n\
         [[need]]\ntool = 'make'\nget = {{ debian = 'apt install make' }}\n[[finish]]\nname = 'go'\nrun = ['make']\nminutes = 3\n\
         [preset.small]\nanswers = {{ a = [] }}\n[[tour]]\npath = 'a'\nsays = 'b'\n[next]\nlines = ['make']\n"
    );
    let manifest = read_manifest(&source).unwrap();
    assert_eq!((manifest.mold.name.get_ref().as_str(), manifest.question.len()), ("m", 1));
    assert!(
        read_part_manifest(
            "[part]\nname = 'p'\nsummary = 'x'\n[[joint]]\nfile = 'a'\nname = 'b'\nlines = []\n"
        )
        .is_ok()
    );
}

#[test]
fn all_mistakes_come_at_once_in_their_order() {
    let source = "[mold]\nname = 'm'\nversion = '1.0.0'\nsummary = 'x'\ntags = 'http'\ncolour = 'blue'\n\
        [[question]]\nkey = 'a'\nask = 7\nkind = 'txt'\n[[question]]\nask = 'B'\nkind = 'flag'\n\
        [[files]]\nmatch = ['a']\nowner = 'me'\n[[finish]]\nname = 'go'\nrun = ['make', 3]\nminutes = 'soon'\n";
    let found = mistakes(source);
    let texts: Vec<&str> = found.iter().map(|(_, text)| *text).collect();
    let expected = ["'http'", "colour", "7", "'txt'", "[[question]]", "['a']", "'me'", "3", "'soon'"];
    assert_eq!(texts, expected, "{found:#?}");
    assert_eq!(found[0].0, Kind::WrongType { wanted: "a list of texts", found: "a text" });
    assert!(
        matches!(&found[1].0, Kind::UnknownKey { key, known } if key == "colour" && known.contains(&"tags"))
    );
    assert!(
        matches!(&found[3].0, Kind::UnknownWord { word, known } if word == "txt" && known.contains(&"text"))
    );
    assert_eq!(found[4].0, Kind::MissingKey("key"));
}

#[test]
fn odd_manifests_are_mistakes_with_a_place() {
    let cases = [
        ("", ""),
        ("name = 'm'\n", "name"),
        ("[mold\n", ""),
        ("mold = 3\n", "3"),
        ("[[mold]]\nname = 'm'\n", ""),
        ("\u{feff}[mold]\nname = []\nversion = '1'\nsummary = 'x'\n", "[]"),
        ("[mold]\nname = 'm'\nname = 'n'\n", ""),
    ];
    for (source, text) in cases {
        let found = mistakes(source);
        let there = |(_, place): &(Kind, &str)| text.is_empty() || *place == text;
        assert!(found.iter().any(there), "{source:?}: {found:?}");
        // No key is named twice among those that are known.
        for (kind, _) in found {
            if let Kind::UnknownKey { mut known, .. } = kind {
                let all = known.len();
                known.sort_unstable();
                known.dedup();
                assert_eq!(known.len(), all, "{source:?}: {known:?}");
            }
        }
    }
}

#[test]
fn a_number_that_does_not_fit_is_a_mistake_wherever_it_is() {
    let huge = "99999999999999999999";
    let question =
        |line: &str| format!("{HEAD}[[question]]\nkey = 'a'\nask = '?'\nkind = 'integer'\n{line}\n");
    let range = Kind::OutOfRange { least: i64::MIN, most: i64::MAX };
    for line in [
        format!("default = {huge}"),
        format!("min = {huge}"),
        format!("hidden = -{huge}"),
        format!("default = [1, {huge}]"),
        format!("[[question.option]]\nvalue = 'x'\nwith = {{ n = {huge} }}"),
        format!("[preset.p]\nanswers = {{ a = {huge} }}"),
    ] {
        let source = question(&line);
        let found = mistakes(&source);
        assert_eq!(found.len(), 1, "{line}: {found:?}");
        assert!(found[0].0 == range && found[0].1.trim_start_matches('-') == huge, "{line}: {found:?}");
    }
    let source = question("default = 0x7fff_ffff_ffff_ffff");
    assert!(read_manifest(&source).is_ok());
    assert_eq!(mistakes(&question("length = 70000"))[0].0, Kind::OutOfRange { least: 0, most: 65535 });
}
