//! Lines at joints.
#![allow(clippy::unwrap_used, clippy::panic)]

use tinmold_project::fit::joint::{Put, put};

#[test]
fn lines_go_in_above_their_joint_once() {
    let put = |text: &str, lines: &[&str], sorted| {
        let lines: Vec<String> = lines.iter().map(|line| (*line).to_owned()).collect();
        put(text, "routes", &lines, sorted)
    };
    let cases: &[(&str, &[&str], bool, &str)] = &[
        ("a\n  # joint: routes (tinmold)\n", &["b"], false, "a\n  b\n  # joint: routes (tinmold)\n"),
        (
            "\t/* joint: routes (tinmold) */\n",
            &["if x {\n    y;\n}"],
            false,
            "\tif x {\n\t\ty;\n\t}\n\t/* joint: routes (tinmold) */\n",
        ),
        (
            "a\n\t\tb\n<!-- joint: routes (tinmold) -->",
            &["x\n  y\n    z"],
            false,
            "a\n\t\tb\nx\n\ty\n\t\tz\n<!-- joint: routes (tinmold) -->",
        ),
        (
            "a\r\n-- joint: routes (tinmold)\r\n",
            &["b", "c"],
            false,
            "a\r\nb\r\nc\r\n-- joint: routes (tinmold)\r\n",
        ),
        ("\u{feff}# joint: routes (tinmold)", &["b"], false, "\u{feff}b\n# joint: routes (tinmold)"),
        (
            "use a;\n\n# joint: routes (tinmold)\n",
            &["use b;"],
            false,
            "use a;\nuse b;\n\n# joint: routes (tinmold)\n",
        ),
        // In order among the lines above, up to a blank line or another indentation.
        (
            "zoo\n\nb\nd\n# joint: routes (tinmold)\n",
            &["c", "a"],
            true,
            "zoo\n\na\nb\nc\nd\n# joint: routes (tinmold)\n",
        ),
        ("  z\nb\n# joint: routes (tinmold)\n", &["a"], true, "  z\na\nb\n# joint: routes (tinmold)\n"),
        // Lines that exist, however indented, are not added again; the rest is.
        (
            "    b\n# joint: routes (tinmold)\n",
            &["b", "c", "  "],
            false,
            "    b\nc\n# joint: routes (tinmold)\n",
        ),
        // Other names are other joints.
        (
            "# joint: routes-more (tinmold)\n# joint: routes (tinmold)\n",
            &["a"],
            false,
            "# joint: routes-more (tinmold)\na\n# joint: routes (tinmold)\n",
        ),
    ];
    for (text, lines, sorted, expected) in cases {
        let Put::Changed(new) = put(text, lines, *sorted) else { panic!("{text:?} stays") };
        assert_eq!(new, *expected);
        assert_eq!(put(&new, lines, *sorted), Put::Same, "{text:?}");
    }
    assert_eq!(
        put(
            "# joints: routes (tinmold)\n# joint: (tinmold)\n# joint: routes\n# myjoint: routes (tinmold)\n",
            &["a"],
            false
        ),
        Put::NoJoint
    );
    assert_eq!(
        put("# joint: routes (tinmold)\n\n# joint: routes (tinmold)\n", &["a"], false),
        Put::Several(vec![1, 3])
    );
}
