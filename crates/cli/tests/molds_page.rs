//! docs/molds.md is correct: its examples form one mold that checks clean and casts as the page
//! says.
#![allow(clippy::unwrap_used)]

mod common;
use common::{DOWN, Place, WRITE};

fn place() -> Place {
    let page = include_str!("../../../docs/molds.md");
    let pieces = page.split("```toml mold\n").skip(1).map(|rest| rest.split("```").next().unwrap());
    let manifest: String = pieces.collect::<Vec<_>>().join("\n");
    let place = Place::new();
    place.write("ferry-board/mold.toml", manifest);
    for (path, text) in [
        (
            "src/{= module =}/board.py",
            "# {= title =} {= web.package =} {= port =} {= extras.join('+') =} {= busy =}\n",
        ),
        ("deploy/image", "x"),
        ("assets/logo", "logo as it is"),
        ("berths/{= berth =}.txt", "of {= berths.len =}\n"),
        (".env", "KEY={= session_key =}\n"),
        (".gitignore", ".env\n"),
    ] {
        place.write(&format!("ferry-board/body/{path}"), text);
    }
    place
}

#[test]
fn the_pieces_of_the_page_make_a_mold() {
    let place = place();
    place.run(&["check", "./ferry-board", "--strict"]).says(0, &[]);
    place.run(&["cast", "./ferry-board", "Gull Point", "--unattended"]).says(0, &[]);
    assert_eq!(
        place
            .listing("Gull Point")
            .into_iter()
            .filter(|path| !path.ends_with('/') && !path.starts_with(".tinmold"))
            .collect::<Vec<_>>(),
        [".env", ".gitignore", "assets/logo", "berths/A1.txt", "src/gull_point/board.py"]
    );
    assert_eq!(place.read("Gull Point/src/gull_point/board.py"), "# Gull Point  80 ci false\n");
    assert_eq!(place.read("Gull Point/.env").len(), "KEY=".len() + 40 + 1);
    let set = [
        "--set",
        "web=flask",
        "--set",
        "extras=compose,container",
        "--set",
        "berths=B4",
        "--set",
        "name=tide-board",
    ];
    place.run(&[&["cast", "./ferry-board", "--unattended"], &set[..]].concat()).says(0, &[]);
    assert_eq!(
        place.read("tide-board/src/tide_board/board.py"),
        "# Tide Board flask 8000 container+compose true\n"
    );
    assert!(
        place.path("tide-board/deploy/image").exists() && place.path("tide-board/berths/B4.txt").exists()
    );
    place.run(&["cast", "./ferry-board", "bare", "--unattended", "--preset", "bare"]).says(0, &[]);
    assert_eq!(place.read("bare/src/bare/board.py"), "# Bare  80  false\n");
    let wrong = ["--set", "berths=b4", "--set", "extras=compose", "--set", "module=class"];
    place.run(&[&["cast", "./ferry-board", "x", "--unattended"], &wrong[..]].concat()).says(2, &[]);
}

#[test]
fn a_person_ticks_options_and_sees_the_details() {
    let place = place();
    let mut terminal = place.terminal(&["cast", "./ferry-board", "tides"]);
    terminal.sees("Board name").sees("folder").goes_to("…").types("\r");
    terminal.goes_to("Python module").types("board").sees("yours").goes_to("Web layer").types("\r");
    terminal.types(DOWN).sees("Routes and request handling from Flask").types("\r").loses("taken");
    // Ticking the compose file ticks the container file that it requires, and says so.
    terminal.goes_to("Also add").types("\r").sees("Compose file with a");
    terminal.types(DOWN).types(DOWN).types(" ").sees("Ticked with it: Container file").types("\r");
    terminal
        .goes_to("Berths")
        .types("\r")
        .sees("one a line")
        .types("\x15")
        .types("b4\x1b")
        .sees("such as B4");
    terminal
        .types("\r")
        .sees("one a line")
        .types("\x7f\x7fB4\rC1\x1b")
        .sees("B4, C1")
        .sees("40 random letters");
    terminal
        .types("\t")
        .sees("the form")
        .types("\x1b[H")
        .sees("KEY=**********")
        .types(WRITE)
        .sees("Write it?")
        .types("\r");
    terminal.sees("Written:");
    assert_eq!(terminal.ends(), 0);
    assert_eq!(place.read("tides/src/board/board.py"), "# Tides flask 8000 ci+container+compose true\n");
}
