//! Leaving the setup screen, by whatever way: the terminal comes back, and what was given is kept.
#![allow(clippy::unwrap_used)]

mod common;

use common::{DOWN, NAMED, Place, Terminal};
use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::process::Command;

/// Sends a signal to the program.
fn signal(terminal: &Terminal, name: &str) {
    let sent = Command::new("kill").args(["-s", name, &terminal.process().to_string()]).status();
    assert!(sent.unwrap().success());
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
    // A text that is refused after a pause is kept, and what is asked is not clicked away or passed over.
    let mut terminal = place.terminal(&["cast", "./m"]);
    terminal.sees("Name").types("berths").sees("draft kept").types("!").sees("yours").types("\x03");
    assert_eq!(terminal.ends(), 130);
    for _ in 0..2 {
        let mut terminal = place.terminal(&["cast", "./m"]);
        terminal
            .sees("There is a draft")
            .types("\x1b[<0;10;4M\x1b[<0;10;4m")
            .rests()
            .sees("There is a draft");
        terminal.types("\x1b");
        assert_eq!(terminal.ends(), 0);
        assert!(fs::read_to_string(&drafts()[0]).unwrap().contains("berths!"));
    }
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
    terminal.writes();
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
    terminal.writes();
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
    terminal.sees("default").writes();
    assert_eq!(place.read("again/a"), "\u{6f6e}".repeat(80) + "\n");
}
