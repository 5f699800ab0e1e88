//! Input without bounds, and output that a terminal could take for commands.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use common::Place;
use std::fs;

#[test]
fn what_is_too_large_is_refused_before_it_is_read() {
    let grow = |place: &Place, path: &str| {
        let file = fs::File::options().create(true).append(true).open(place.path(path)).unwrap();
        file.set_len(3 << 30).unwrap();
    };
    let many = |one: &dyn Fn(usize) -> String, count: usize| (0..count).map(one).collect::<String>();
    let question = |at: usize| format!("[[question]]\nkey=\"q{at}\"\nask=\"?\"\nkind=\"flag\"\n");
    // 10^12 rounds in which nothing comes out, and as many calls of an empty fragment.
    let list = format!("{{= let l = \"{}\".split(\",\") =}}", "a,".repeat(9_999));
    let rounds = |inner: &str| {
        let open = "{= for a in l =}{= for b in l =}{= for c in l =}";
        format!("{list}{open}{inner}{{= end =}}{{= end =}}{{= end =}}")
    };
    let each = "[[files]]\nmatch = \"{= n =}\"\neach = \"n in names.split(',')\"\n";
    let names = format!("[derive]\nnames = \"{}\"\n", many(&|at| format!("{at},"), 120_000));
    let limited = |place: &Place, args: &[&str]| {
        // 700 MiB of address space and 40 seconds: this machine may be busy.
        let line = format!("ulimit -v 700000; exec timeout 40 {} \"$@\"", env!("CARGO_BIN_EXE_tinmold"));
        let mut command = place.command_of("sh".as_ref());
        place.finish(command.args(["-c", &line, "sh"]).args(args)).code
    };
    let limits = "[limits]\nbytes = 20000000\n";
    for (manifest, files, large) in [
        (String::new(), vec![("body/a", "x".to_owned())], Some("m/body/a")),
        ("[[files]]\nmatch = \"a\"\ncopy = true\n".into(), vec![("body/a", "x".into())], Some("m/body/a")),
        (
            String::new(),
            vec![("fragments/f", "x".into()), ("body/a", "{= place \"f\" =}".into())],
            Some("m/fragments/f"),
        ),
        (String::new(), vec![("body/a", "x".into())], Some("m/mold.toml")),
        (many(&question, 100_000), vec![("body/a", "x".into())], None),
        (
            format!("[derive]\n{}", many(&|at| format!("d{at}={{is=\"1\"}}\n"), 50_000)),
            vec![("body/a", "x".into())],
            None,
        ),
        (String::new(), vec![("body/a", rounds(""))], None),
        (String::new(), vec![("body/a", rounds("{= between =}"))], None),
        (String::new(), vec![("body/a", rounds("{= place \"e\" =}")), ("fragments/e", String::new())], None),
        (format!("{names}{each}"), vec![("body/{= n =}", "x".into())], None),
    ] {
        let place = Place::new();
        let files: Vec<(&str, &str)> = files.iter().map(|(path, text)| (*path, text.as_str())).collect();
        place.mold(&manifest, &files).write(".home/config/tinmold/config.toml", limits);
        if let Some(path) = large {
            grow(&place, path);
        }
        let code = limited(&place, &["cast", "./m", "--unattended"]);
        let what = manifest.get(..80).unwrap_or(&manifest);
        assert!(code == 5 && !place.path("out").exists(), "{code}: {large:?} {what}");
        assert!([0, 5].contains(&limited(&place, &["check", "./m"])), "{large:?} {what}");
    }
    // An answer sheet, and a record.
    let place = Place::new();
    place.mold("[[question]]\nkey = \"l\"\nask = \"?\"\nkind = \"texts\"\n", &[("body/a", "{= l.len =}")]);
    place.write("sheet.toml", format!("l = [{}]", "\"a\",".repeat(5_000_000)));
    assert_eq!(limited(&place, &["cast", "./m", "--unattended", "--sheet", "sheet.toml"]), 2);
    place.run(&["cast", "./m", "--unattended"]).says(0, &[]);
    grow(&place, "out/.tinmold/files.sha256");
    assert_eq!(limited(&place, &["status", "out"]), 1);
}

#[test]
fn output_is_whole_or_an_error_and_steers_no_terminal() {
    let place = Place::new();
    let odd = "\u{1b}[2J\u{9b}2J\u{202e}x\u{61c}y\u{200f}z\u{ad}\u{e0041}\u{7f}";
    let text: String = odd.chars().map(|c| format!("\\U{:08x}", u32::from(c))).collect();
    let manifest = format!(
        "tags = [\"{text}\"]\n[[question]]\nkey = \"q\"\nask = \"{text}\"\nhelp = \"{text}\"\nkind = \"text\"\ndefault = \"{text}\"\n\
         [[finish]]\nname = \"s\"\nlabel = \"{text}\"\nrun = [\"true\", \"{text}\"]\n[next]\nlines = [\"{text}\"]\n\
         [[tour]]\npath = \"a\"\nsays = \"{text}\"\n"
    );
    place.mold(&manifest, &[("body/a", "{= q =}"), ("README.md", odd)]);
    let manifest = place.read("m/mold.toml").replace("A mold of the tests", &text);
    place.write("m/mold.toml", manifest);
    place.run(&["cast", "./m", "--unattended"]).says(0, &[]);
    let all: [&[&str]; 18] = [
        &["--help"],
        &["--version"],
        &["cast", "--help"],
        &["find"],
        &["find", "--format", "json"],
        &["show", "./m"],
        &["show", "./m", "--format", "json"],
        &["show", "./m", "--format", "json-schema"],
        &["show", "./m", "--sheet"],
        &["preflight", "python-service", "--format", "json"],
        &["status", "out"],
        &["status", "out", "--format", "json"],
        &["cast", "./m", "x", "--dry-run", "--unattended"],
        &["cast", "./m", "x", "--dry-run", "--unattended", "--format", "json"],
        &["check", "./m", "--format", "json"],
        &["check", "./m", "--format", "sarif"],
        &["assay", "name", "--mold", "python-library", "--unattended", "--format", "json"],
        &["shelf", "list", "--format", "json"],
    ];
    for args in all {
        let ran = place.run(args);
        let printed = format!("{}{}", ran.out, ran.err);
        let steering = printed.chars().find(|c| odd.contains(*c) && !"[2Jxyz".contains(*c));
        assert_eq!(steering, None, "{args:?}: {printed:?}");
        // A full disk is an error, and a reader that goes away is none.
        let full = fs::File::options().write(true).open("/dev/full").unwrap();
        let output = place.command().args(args).stdout(full).output().unwrap();
        assert_eq!(output.status.code(), Some(1), "{args:?}");
        let (reader, writer) = std::io::pipe().unwrap();
        drop(reader);
        let output = place.command().args(args).stdout(writer).output().unwrap();
        let error = String::from_utf8_lossy(&output.stderr).into_owned();
        assert!(matches!(output.status.code(), Some(0)) && !error.contains("error"), "{args:?}: {error}");
    }
}
