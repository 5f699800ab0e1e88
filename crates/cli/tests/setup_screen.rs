//! Setting up a project on one screen, in terminals of several sizes.
#![allow(clippy::unwrap_used)]

mod common;

use common::{DOWN, Place, Terminal, UP, WRITE};
use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::process::Command;

const NAMED: &str =
    "[[question]]\nkey = \"name\"\nask = \"Name\"\nkind = \"text\"\nform = \"kebab\"\ndefault = \"tides\"\n";

/// Writes, and waits for the end.
fn writes(terminal: &mut Terminal) {
    terminal.types(WRITE).sees("Write it?").types("\r").sees("Written:");
    assert_eq!(terminal.ends(), 0);
}

/// Sends a signal to the program.
fn signal(terminal: &Terminal, name: &str) {
    let sent = Command::new("kill").args(["-s", name, &terminal.process().to_string()]).status();
    assert!(sent.unwrap().success());
}

#[test]
fn somebody_new_casts_a_service_with_a_database() {
    for (columns, rows) in [(120, 40), (80, 24), (60, 20)] {
        let place = Place::new();
        let git = "[user]\nname = Osier\nemail = osier@saltmarsh.example\n";
        place.write(".home/gitconfig", git);
        let args = ["cast", "python-service", "--skip-preflight"];
        let mut terminal = place.terminal_with(&args, (columns, rows), &[]);
        terminal.sees("Service name").types("harbor-times").sees("into harbor-times").goes_to("Database");
        // What an option changes is seen before it is taken.
        terminal.types("\r").sees("taken").types(DOWN).types(DOWN).sees("+3 ~12").sees("A server");
        if columns < 100 {
            terminal.types("\t");
        }
        terminal.sees("With PostgreSQL").sees("5 as before").sees("accounts.py").sees("68 lines");
        if columns < 100 {
            terminal.types("\t").sees("Database");
        }
        terminal.types(UP).types("\r").loses("taken").sees("SQLite").sees("yours");
        // Back to the name, which all that follows it follows.
        terminal
            .types("\x1b")
            .goes_to("Service name")
            .types("\x7f\x7f\x7f\x7f\x7fboard")
            .sees("into harbor-board");
        terminal.goes_to("Python module").sees("harbor_board");
        // A step that is not wanted.
        terminal.goes_to("■ Start a git").types(" ").sees("□ Start a git").goes_to("■ Prove that its tests");
        terminal.types(" ").sees("□ Prove that its tests").goes_to("Write it").types("\r");
        terminal.sees("files, ").sees("into harbor-board").types("\r").sees("make run");
        assert_eq!(terminal.ends(), 0, "{columns}");
        // The scrollback tells what was decided, by its labels.
        terminal.sees("make run");
        if rows >= 40 {
            terminal.sees("Service name  harbor-board").sees("Database      SQLite");
        }
        assert!(!place.path("harbor-board/.git").exists());
        assert!(place.read("harbor-board/src/harbor_board/database.py").contains("sqlite"));
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
    writes(&mut terminal);
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
    writes(&mut terminal);
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
    writes(&mut terminal);
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
    writes(&mut terminal);
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
    writes(&mut terminal);
}

#[test]
fn what_was_given_is_kept_for_the_next_time() {
    let place = Place::new();
    let more = "[[question]]\nkey = \"token\"\nask = \"Token\"\nkind = \"text\"\nsecret = true\noptional = true\n\
        [[files]]\nmatch = \".env\"\nlocal = true\n";
    let files =
        [("body/a", "{= name =}"), ("body/.env", "T={= token.shell =}"), ("body/.gitignore", ".env\n")];
    place.mold(&format!("{NAMED}{more}"), &files);
    let drafts = || -> Vec<_> {
        let all = fs::read_dir(place.path(".home/state/tinmold/drafts"));
        all.into_iter().flatten().map(|entry| entry.unwrap().path()).collect()
    };
    // Left by its keys, by Ctrl-C, by a signal, and by a terminal that is closed.
    // The terminal of the last one is another program's, which dies.
    let program = env!("CARGO_BIN_EXE_tinmold");
    let inner = format!(
        "import pty; pty.spawn(['sh', '-c', 'stty rows 40 cols 100; echo $$ >pid; exec {program} cast ./m'])"
    );
    for way in ["esc", "ctrl-c", "TERM", "HUP", "close"] {
        let mut terminal = match way {
            "close" => place.terminal_of("python3", &["-c", &inner], (100, 40), &[]),
            _ => place.terminal(&["cast", "./m"]),
        };
        terminal.sees("Name").types(&format!("tide-{}!", way.to_lowercase())).sees("yours").goes_to("Token");
        terminal.types("s3cret-of-tern-quay").sees("•••").rests();
        assert!(!terminal.screen().contains("s3cret"));
        match way {
            "esc" => {
                terminal.types("\x1b").sees("Esc again leaves").types("\x1b").sees("Leave without writing?");
                terminal
                    .types("\r")
                    .loses("Leave without")
                    .types("\x1b")
                    .sees("Leave without")
                    .types(DOWN)
                    .types("\r");
                terminal.sees("Your answers are kept, without the secrets").sees("Left without writing");
                assert_eq!(terminal.ends(), 0);
            }
            "ctrl-c" => {
                terminal.types("\x03").sees("Your answers are kept");
                assert_eq!(terminal.ends(), 130);
            }
            "close" => {
                signal(&terminal, "KILL");
                terminal.ends();
                let state = || fs::read_to_string(format!("/proc/{}/stat", place.read("pid").trim()));
                let is_over = || state().map_or(true, |state| state.contains(") Z "));
                while !is_over() {
                    std::thread::sleep(std::time::Duration::from_millis(20));
                }
            }
            signal_name => {
                signal(&terminal, signal_name);
                assert_eq!(terminal.ends(), 130, "{way}");
                assert!(!terminal.with(|screen| screen.alternate_screen()));
            }
        }
        let all = drafts();
        let kept = fs::read_to_string(&all[0]).unwrap();
        assert!(
            kept.contains(&format!("tide-{}!", way.to_lowercase())) && !kept.contains("s3cret"),
            "{way} {kept}"
        );
        assert_eq!(fs::metadata(&all[0]).unwrap().permissions().mode() & 0o777, 0o600);
        // It is offered, and begun anew here.
        let mut terminal = place.terminal(&["cast", "./m"]);
        terminal
            .sees("There is a draft of this mold")
            .types(DOWN)
            .types("\r")
            .loses("There is a draft")
            .types("\x1b");
        assert_eq!(terminal.ends(), 0);
        assert!(drafts().is_empty(), "{way}");
    }
    // What stands in a pane is kept too.
    let mut terminal = place.terminal(&["cast", "./m"]);
    terminal
        .sees("Name")
        .types("\x05")
        .sees("a text of lines")
        .types("-in-a-pane")
        .sees("-in-a-pane")
        .types("\x03");
    assert_eq!(terminal.ends(), 130);
    assert!(fs::read_to_string(&drafts()[0]).unwrap().contains("tides-in-a-pane"));
    fs::remove_file(&drafts()[0]).unwrap();
    let mut terminal = place.terminal(&["cast", "./m"]);
    terminal.sees("Name").types("harbor").sees("draft kept").types("\x03");
    assert_eq!(terminal.ends(), 130);
    let mut terminal = place.terminal(&["cast", "./m"]);
    terminal
        .sees("Go on with these answers")
        .types("\r")
        .sees("harbor")
        .sees("1 answer taken from last time");
    writes(&mut terminal);
    assert_eq!((place.read("out/a"), drafts().len()), ("harbor".into(), 0));
}

#[test]
fn the_terminal_comes_back_whatever_happens() {
    let place = Place::new();
    let flag = "[[question]]\nkey = \"night\"\nask = \"Night ferries\"\nkind = \"flag\"\n";
    place.mold(&format!("{NAMED}{flag}"), &[("body/a", "{= name =} {= night =}\n")]);
    let mut terminal = place.terminal_with(&["cast", "./m"], (120, 30), &[("NO_COLOR", "1")]);
    terminal.sees("What comes out").sees("── a ");
    // No colour, and what has the focus is still told.
    let coloured = terminal.with(|screen| {
        (0..30)
            .flat_map(|y| (0..120).map(move |x| (y, x)))
            .any(|(y, x)| screen.cell(y, x).is_some_and(|cell| cell.fgcolor() != vt100::Color::Default))
    });
    assert!(!coloured && terminal.screen().contains("▸ Name"));
    // Smaller: one pane at a time; larger: both.
    terminal.resize(60, 20).loses("What comes out").sees("▸ Name").types("\t").sees("What comes out");
    terminal.types("\t").resize(120, 40).sees("▸ Name").sees("What comes out").rests();
    // The mouse: a click goes to a row, another opens it, and a click takes an option.
    let click = |column: u16, row: u16| format!("\x1b[<0;{column};{row}M\x1b[<0;{column};{row}m");
    terminal
        .types(&click(10, 4))
        .sees("▸ Night")
        .types(&click(10, 4))
        .sees("taken")
        .types(&click(12, 5))
        .sees("yours");
    terminal.types("\x1b[<64;10;10M").rests();
    // Stopped, the shell has the terminal; called on, the screen is there again.
    let is_stopped = |terminal: &Terminal| {
        let state = fs::read_to_string(format!("/proc/{}/stat", terminal.process())).unwrap_or_default();
        state.rsplit(") ").next().is_some_and(|rest| rest.starts_with('T'))
    };
    for way in ["key", "TSTP"] {
        match way {
            "key" => drop(terminal.types("\x1a")),
            name => signal(&terminal, name),
        }
        while !is_stopped(&terminal) {
            std::thread::sleep(std::time::Duration::from_millis(10));
        }
        while terminal.with(|screen| screen.alternate_screen()) {
            std::thread::sleep(std::time::Duration::from_millis(10));
        }
        signal(&terminal, "CONT");
        terminal.sees("What comes out").sees("Night ferries");
    }
    writes(&mut terminal);
    assert_eq!(place.read("out/a"), "tides true\n");
}

#[test]
fn odd_texts_keep_their_columns() {
    let place = Place::new();
    let label = "\u{5e9}\u{5dc}\u{5d5}\u{5dd} \u{6f6e}\u{6c50}\u{8868} e\u{301}";
    let question = format!(
        "[[question]]\nkey = \"q\"\nask = \"{label}\"\nkind = \"text\"\ndefault = \"{}\"\n",
        "\u{6f6e}".repeat(80)
    );
    place.mold(
        &question,
        &[("body/a", "{= q =}\n"), ("body/\u{6f6e}/\u{5d0}", "\u{5d0}\u{5d1} (x)\t\u{1f6a2}\n")],
    );
    for (columns, rows) in [(120, 40), (60, 20), (20, 6), (4, 2), (1, 1)] {
        let mut terminal = place.terminal_with(&["cast", "./m"], (columns, rows), &[]);
        if columns >= 60 {
            terminal.sees("m 1.0.0");
        }
        terminal.rests().types("\x1bxy\t\r\t\x13\r\x1b\x1b").rests().types("\x03");
        assert!([0, 130].contains(&terminal.ends()), "{columns}");
    }
    fs::remove_dir_all(place.path(".home")).unwrap();
    let mut terminal = place.terminal_with(&["cast", "./m", "again"], (120, 40), &[]);
    writes(terminal.sees("default"));
    assert_eq!(place.read("again/a"), "\u{6f6e}".repeat(80) + "\n");
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
    writes(&mut terminal);
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
    terminal.sees("What comes out").types(WRITE).sees("Write it?");
    place.write("q/a", "came since\n");
    terminal.types("\r").sees("nothing was written");
    assert_eq!((terminal.ends(), place.read("q/a")), (4, "came since\n".into()));
    // A write that fails loses no answer, and an archive that is there is told before.
    let mut terminal = place.terminal_with(&["cast", "./m", "q/a/b"], (100, 30), &[]);
    terminal.sees("What comes out").types("harbor").types(WRITE).sees("Nothing can be written").types("\x03");
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
