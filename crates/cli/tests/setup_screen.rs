//! Setting up a project on one screen, in terminals of several sizes.
#![allow(clippy::unwrap_used)]

mod common;

use common::{DOWN, NAMED, Place, UP, WRITE};
use std::fs;
use std::os::unix::fs::PermissionsExt;

#[test]
fn somebody_new_casts_a_site_with_a_database() {
    for (columns, rows) in [(120, 40), (80, 24), (60, 20)] {
        let place = Place::new();
        let git = "[user]\nname = Osier\nemail = osier@saltmarsh.example\n";
        place.write(".home/gitconfig", git);
        let args = ["cast", "python-site", "--skip-preflight"];
        let mut terminal = place.terminal_with(&args, (columns, rows), &[]);
        terminal.sees("Site name").types("harbor-times").sees("into harbor-times").goes_to("Database");
        // What an option changes is seen before it is taken.
        terminal.types("\r").sees("taken").types(DOWN).sees("~").sees("A server");
        if columns < 100 {
            terminal.types("\t");
        }
        terminal.sees("With PostgreSQL").sees("41 as before").sees("conftest.py").sees("import os");
        if columns < 100 {
            terminal.types("\t").sees("Database");
        }
        terminal.types(UP).types("\r").loses("taken").sees("SQLite").sees("yours");
        // Back to the name, which all that follows it follows.
        terminal
            .types("\x1b")
            .goes_to("Site name")
            .types("\x7f\x7f\x7f\x7f\x7fboard")
            .sees("into harbor-board");
        terminal.goes_to("Python module").sees("harbor_board");
        // Steps that are not wanted.
        for step in ["Fetch the packages", "Make the tables", "Start a git", "Prove that its tests"] {
            terminal.goes_to(&format!("■ {step}")).types(" ").sees(&format!("□ {step}"));
        }
        terminal.goes_to("Write it").types("\r");
        terminal.sees("files, ").sees("into harbor-board").types("\r").sees("make run");
        assert_eq!(terminal.ends(), 0, "{columns}");
        // The scrollback tells what was decided, by its labels.
        terminal.sees("make run");
        if rows >= 40 {
            terminal.sees("Site name  harbor-board");
        }
        assert!(!place.path("harbor-board/.git").exists());
        assert!(place.read("harbor-board/src/harbor_board/settings.py").contains("sqlite"));
    }
}

#[test]
fn a_refusal_is_told_at_once_and_nothing_is_written_with_it() {
    let place = Place::new();
    let mut terminal = place.terminal(&["cast", "python-service", "--skip-preflight"]);
    terminal.sees("Service name").goes_to("Python module").types("class");
    terminal.sees("`class` is a keyword of Python").sees("`class_`").sees("`classes` would do");
    terminal.types(DOWN).rests().types(WRITE).sees("This answer is still needed").sees("1 answer needed");
    // What was typed is still there, and can be mended, undone and done again.
    terminal.types("es").sees("classes").loses("is a keyword").types("\x02").sees("is a keyword");
    terminal.types("\x02").loses("is a keyword").sees("my_service").types("\x02").sees("nothing to undo");
    terminal.types("\x06").sees("is a keyword").types("\x06").loses("is a keyword").goes_to("Port");
    terminal
        .types("70000")
        .sees("a port is a number from 1 to 65535")
        .types("\x04")
        .sees("8000")
        .loses("70000");
    terminal.writes();
    assert!(place.path("my-service/src/classes").exists());
}

/// A mold with sixty libraries in four groups.
fn libraries(place: &Place) {
    let options: String = (0..60)
        .map(|at| {
            let group = ["Times", "Piers", "Tickets", "Crews"][at / 15];
            let more = match at {
                3 => "requires = [\"lib1\"]\n",
                5 => "excludes = [\"lib1\"]\n",
                _ => "",
            };
            format!("[[question.option]]\nvalue = \"lib{at}\"\nlabel = \"Library {at}\"\nnote = \"for {group}\"\ngroup = \"{group}\"\n{more}")
        })
        .collect();
    let question = "[[question]]\nkey = \"libraries\"\nask = \"Libraries\"\nkind = \"some-of\"\n";
    let body = "{= libraries.join('+') =}";
    place.mold(&format!("{NAMED}{question}{options}"), &[("body/a", body)]);
}

#[test]
fn sixty_libraries_are_narrowed_ticked_and_left() {
    let place = Place::new();
    libraries(&place);
    let mut terminal = place.terminal_with(&["cast", "./m"], (80, 24), &[]);
    terminal.sees("Libraries").goes_to("Libraries").types("\r").sees("60 to choose from").sees("Times");
    // What a tick forces is named; one undo takes back all of it.
    terminal.types("library 3").sees("15 of 60").types("\r").sees("Ticked with it: Library 1.");
    terminal
        .sees("2 options ticked (1 hidden): Library 1, Library 3")
        .types("\x02")
        .sees("Nothing is ticked");
    terminal.types("\x06").sees("2 options ticked").types("\x15").sees("60 to choose from");
    // What is ticked stays in sight, also what the words hide.
    terminal.types("crews").sees("15 of 60").sees("2 options ticked (2 hidden)").types(DOWN).types(" ");
    terminal.sees("3 options ticked (2 hidden): Library 1, Library 3, Library 46");
    terminal.types("\x15library 5").sees("▸ □ Library 5").types("\r");
    terminal.sees("No longer ticked: Library 1, Library 3").sees("2 options ticked");
    terminal.types("\x1b").loses("Narrow").sees("Library 5, Library 46");
    terminal.writes();
    assert_eq!(place.read("out/a"), "lib5+lib46");
}

#[test]
fn a_pasted_text_of_several_lines_opens_a_pane() {
    let place = Place::new();
    let questions = "[[question]]\nkey = \"notes\"\nask = \"Notes\"\nkind = \"text\"\noptional = true\n\
        [[question]]\nkey = \"piers\"\nask = \"Piers\"\nkind = \"texts\"\n";
    let files = [("body/a", "{= notes =}"), ("body/b", "{= piers.join('|') =}")];
    place.mold(&format!("{NAMED}{questions}"), &files);
    place.write("ed", "#!/bin/sh\nprintf 'Heron, Stairs\\n' >> \"$1\"\n");
    fs::set_permissions(place.path("ed"), fs::Permissions::from_mode(0o755)).unwrap();
    let editor = place.path("ed").display().to_string();
    let mut terminal =
        place.terminal_with(&["cast", "./m"], (100, 30), &[("EDITOR", &editor), ("VISUAL", "")]);
    // A line is pasted into the line; keys in it are no commands.
    terminal.sees("Name").types("\x1b[200~harbor\x1b[201~").sees("harbor").goes_to("Notes");
    terminal.types("\x1b[200~from Gull Point\r\nto Tern Quay\r\n\x1b[201~").sees("a text of lines");
    terminal.sees("1 from Gull Point").sees("2 to Tern Quay").types("\x1b").sees("from Gull Point … 2 lines");
    terminal.goes_to("Piers").types("\r").sees("one a line").types("Gull Point").types("\x0f");
    terminal.sees("2 Heron, Stairs").types("\x1b").sees("Gull Point, Heron, Stairs");
    terminal.writes();
    assert_eq!(place.read("out/a").trim_end(), "from Gull Point\nto Tern Quay");
    assert_eq!(place.read("out/b"), "Gull Point|Heron, Stairs");
}

#[test]
fn a_thousand_files_are_looked_at_and_written() {
    let place = Place::new();
    let option = "[[question]]\nkey = \"night\"\nask = \"Night ferries\"\nkind = \"flag\"\n\
        [[files]]\nmatch = \"night/*\"\nwhen = \"night\"\n";
    place.mold(
        &format!("{NAMED}{option}"),
        &[("body/plain", "{= name =}\n{= if night =}\nnight\n{= end =}\n")],
    );
    for at in 0..1_000 {
        let folder = if at < 600 { "night" } else { "day" };
        place.write(&format!("m/body/{folder}/f{at:04}"), "# {= name =}\n");
    }
    let mut terminal = place.terminal(&["cast", "./m"]);
    terminal
        .sees("401 files")
        .goes_to("Night ferries")
        .types("\r")
        .sees("+600 ~1")
        .types(UP)
        .sees("With yes");
    terminal.types("\t").sees("the form").types("\x1b[H").sees("── night/f0000").types("\x1b[F").sees("+1");
    terminal.sees("+ night").types("\t").types("\r").sees("1001 files");
    terminal.writes();
    assert_eq!(place.listing("out/night").len(), 600);
}

#[test]
fn a_missing_tool_unticks_the_steps_that_need_it() {
    let place = Place::new();
    let manifest = "[[need]]\ntool = \"ferry-loader\"\nwhy = \"loads ferries\"\nget = { linux = \"ask at Gull Point\", macos = \"ask at Gull Point\" }\n\
        [[finish]]\nname = \"load\"\nlabel = \"Load\"\ntick = true\nrun = [\"ferry-loader\"]\n\
        [[finish]]\nname = \"sail\"\nlabel = \"Sail\"\ntick = true\nrun = [\"true\"]\nafter = [\"load\"]\n\
        [[finish]]\nname = \"wave\"\nlabel = \"Wave\"\ntick = true\nrun = [\"true\"]\n";
    place.mold(&format!("{NAMED}{manifest}"), &[("body/a", "x")]);
    let vouch = place.run(&["show", "./m", "--format", "json"]).out;
    let digest = vouch.split("\"digest\": \"").nth(1).unwrap().split('"').next().unwrap();
    let mut terminal = place.terminal(&["cast", "./m", "--vouch", digest]);
    terminal.sees("! ferry-loader: missing").sees("get it: ask at Gull Point").sees("ferry-loader missing");
    terminal
        .sees("□ Load  lacks ferry-loader")
        .sees("□ Sail  lacks ferry-loader")
        .sees("■ Wave")
        .sees("1 step will run");
    terminal.goes_to("□ Load").sees("This machine lacks ferry-loader").types(" ").sees("the step may fail");
    terminal.sees("■ Load").types(" ").sees("□ Load");
    terminal.writes();
}

#[test]
fn help_tells_all_and_options_take_each_other_back() {
    let place = Place::new();
    let long = "A pier where ferries call at every tide, in every weather, by day and by night. ".repeat(3);
    let option = |value: &str, more: &str| {
        format!(
            "[[question.option]]\nvalue = \"{value}\"\nlabel = \"Pier {value}\"\nnote = \"{long}\"\n{more}"
        )
    };
    let question = format!(
        "[[question]]\nkey = \"piers\"\nask = \"Piers\"\nhelp = \"Where it calls.\"\nkind = \"some-of\"\n{}{}{}",
        option("gull", ""),
        option("tern", "requires = [\"gull\"]\n"),
        option("osier", "excludes = [\"gull\"]\nmore = \"https://piers.example/osier\"\n"),
    );
    let each = "[[files]]\nmatch = \"gull\"\nwhen = \"'gull' in piers\"\n";
    let files = [("body/a", "{= piers.join('+') =}\n"), ("body/gull", "x\n")];
    place.mold(&format!("{question}{each}"), &files);
    let mut terminal = place.terminal_with(&["cast", "./m"], (80, 24), &[]);
    // Two lines of a note stand below the option, all of it in the help.
    terminal
        .sees("Where it calls.")
        .types("\r")
        .sees("(all: ?)")
        .types("?")
        .sees("https://piers.example/osier");
    terminal.types(" ").sees("Ctrl-S").types("\x1b").loses("piers.example").types("\r").sees("□ Pier gull");
    terminal
        .types(DOWN)
        .sees("▸ □ Pier tern")
        .types(" ")
        .sees("Ticked with it: Pier gull")
        .sees("■ Pier gull");
    terminal.types(DOWN).sees("▸ □ Pier osier").sees("−1 ~1").types(" ");
    terminal
        .sees("No longer ticked: Pier gull, Pier tern")
        .types("\x02")
        .sees("■ Pier tern")
        .sees("□ Pier osier");
    // What the tick taken back would change is told too.
    terminal.types(UP).types(UP).sees("▸ ■ Pier gull").types("\t").sees("Without Pier gull").sees("− gull");
    terminal.types("\t").types("\r").loses("□ Pier osier");
    terminal.writes();
    assert_eq!((place.read("out/a"), place.path("out/gull").exists()), ("gull+tern\n".into(), true));
}

#[test]
fn files_that_are_there_are_decided_together_and_steps_of_the_mold_told_with_them() {
    let place = Place::new();
    place.mold(NAMED, &[("body/a", "{= name =}\n"), ("body/b/c", "new\n"), ("body/d", "same\n")]);
    place.write("p/a", "old\n").write("p/b/c", "old\n").write("p/d", "same\n").write("p/own", "mine\n");
    let mut terminal = place.terminal_with(&["cast", "./m", "p"], (60, 20), &[]);
    terminal
        .sees("Name")
        .goes_to("a ")
        .sees("not decided")
        .types("\t")
        .sees("− old")
        .sees("+ tides")
        .types("\t");
    terminal.types("\r").sees("mine stays").types(DOWN).types(DOWN).types("a").loses("not decided");
    terminal.goes_to("Write it").sees("1 file just so already").types("\r").sees("Write it?").types("\r");
    terminal.sees("kept your a; the new one is a.from-mold").sees("c.from-mold");
    assert_eq!(terminal.ends(), 0);
    assert_eq!((place.read("p/a"), place.read("p/a.from-mold")), ("old\n".into(), "tides\n".into()));
    assert_eq!((place.read("p/b/c.from-mold"), place.read("p/own")), ("new\n".into(), "mine\n".into()));
    // What came after the decision is not overwritten unseen.
    place.write("q/own", "x");
    let mut terminal = place.terminal_with(&["cast", "./m", "q"], (100, 30), &[]);
    terminal.sees("What comes out").types("harbor").sees("yours").types(WRITE).sees("Write it?");
    place.write("q/a", "came since\n");
    terminal.types("\r").sees("Your answers are kept").sees("nothing was written");
    assert_eq!((terminal.ends(), place.read("q/a")), (4, "came since\n".into()));
    // A write that fails loses no answer, and an archive that is there is told before.
    let mut terminal = place.terminal_with(&["cast", "./m", "q/a/b"], (100, 30), &[]);
    terminal.sees("Go on with these answers").types("\r").sees("harbor").types(WRITE);
    terminal.sees("Nothing can be written").types("\x03");
    assert_eq!(terminal.ends(), 130);
    place.write("z.zip", "x");
    let mut terminal = place.terminal_with(&["cast", "./m", "--archive", "z.zip"], (100, 30), &[]);
    terminal.sees("Go on with these answers").types("\r").sees("harbor").sees("z.zip exists").types("\x03");
    assert_eq!((terminal.ends(), place.read("z.zip")), (130, "x".into()));
}

#[test]
fn a_part_is_set_up_on_the_same_screen() {
    let place = Place::new();
    let part = "[part]\nname = \"quay\"\nsummary = \"One more quay\"\n[[question]]\nkey = \"quay\"\nask = \"Quay\"\nkind = \"text\"\nform = \"kebab\"\n\
        [[joint]]\nfile = \"list.txt\"\nname = \"quays\"\nlines = [\"{= quay =}\"]\n";
    let files = [
        ("body/list.txt", "# quays\n# joint: quays (tinmold)\n"),
        ("parts/quay/part.toml", part),
        ("parts/quay/body/{= quay =}.txt", "Quay {= quay =}\n"),
    ];
    place.mold(NAMED, &files);
    place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
    let mut terminal = place.terminal_with(&["fit", "quay", "--dir", "out"], (80, 24), &[]);
    // An answer without a default is needed, and told so.
    terminal.sees("Quay").sees("needed").types(WRITE).sees("This answer is still needed").types("tern");
    terminal
        .sees("yours")
        .types("\t")
        .sees("list.txt")
        .sees("tern.txt")
        .goes_to_file("", 0)
        .types(UP)
        .types(UP);
    terminal.sees("── list.txt").sees("+ tern").types("\t").sees("draft kept").types("\x03");
    assert_eq!(terminal.ends(), 130);
    let mut terminal = place.terminal_with(&["fit", "quay", "--dir", "out"], (80, 24), &[]);
    terminal
        .sees("Go on with these answers")
        .types("\r")
        .sees("tern")
        .types(WRITE)
        .sees("Write it?")
        .types("\r");
    terminal.sees("Fitted: quay tern");
    assert_eq!(terminal.ends(), 0);
    assert_eq!(place.read("out/list.txt"), "# quays\ntern\n# joint: quays (tinmold)\n");
    // The same again changes nothing, and asks nothing.
    let mut terminal = place.terminal_with(&["fit", "quay", "tern", "--dir", "out"], (80, 24), &[]);
    terminal.sees("Nothing to do");
    assert_eq!(terminal.ends(), 0);
}
