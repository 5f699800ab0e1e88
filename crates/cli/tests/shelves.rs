//! Shelves on the command line: packed, added, searched, cast from, dropped.
#![allow(clippy::unwrap_used)]

mod common;
#[path = "../../shelf/tests/common/server.rs"]
mod server;

use common::{Place, WRITE};
use server::{Server, answer, path};
use std::fs;
use std::io::{BufRead, BufReader, Read};
use std::process::Stdio;
use tinmold_mold::package::built_in_names;

#[test]
fn a_mold_goes_on_a_shelf_and_is_cast_from_it() {
    let place = Place::new();
    place.mold(
        "released = 2026-08-20\n[[finish]]\nname = \"mark\"\nrun = [\"touch\", \"marked\"]\ntick = true\n",
        &[("body/a", "{= mold.version =}")],
    );
    fs::create_dir(place.path("shelf")).unwrap();
    place.write(".home/config/tinmold/config.toml", "# mine\n[limits]\nfiles = 9 # enough\n");
    place.run(&["pack", "./m", "--to", "shelf"]).says(0, &["Packed: shelf/m-1.0.0.tar.gz", "sha256 "]);
    place.run(&["pack", "./m", "--to", "shelf"]).says(0, &[]);
    place.write("m/body/a", "changed {= mold.version =}");
    place.run(&["pack", "./m", "--to", "shelf"]).says(4, &["raise `version`"]);
    place.write("m/body/a", "{= nope =}");
    place.run(&["pack", "./m", "--to", "shelf"]).says(5, &[]);
    place.run(&["shelf", "add", "piers", "nowhere"]).says(2, &[]);
    place.run(&["shelf", "add", "a/b", "shelf"]).says(2, &[]);
    place.run(&["shelf", "add", "built-in", "shelf"]).says(2, &[]);
    place.run(&["shelf", "add", "piers", "shelf"]).says(0, &[]);
    place.run(&["shelf", "add", "piers", "shelf"]).says(2, &[]);
    let config = place.read(".home/config/tinmold/config.toml");
    assert!(
        config.starts_with("# mine\n[limits]\nfiles = 9 # enough\n") && config.contains("[[shelf]]"),
        "{config}"
    );
    place.run(&["shelf", "list"]).says(0, &[&format!("built-in  {} molds", built_in_names().count())]);
    let found = place.run(&["find", "tests", "--only", "shelf=piers"]).says(0, &["1 mold"]);
    assert!(!found.out.contains("python"), "{}", found.out);
    place.run(&["find", "--limit", "1"]).says(0, &[]);
    let json = place.run(&["find", "--only", "shelf=piers", "--format", "json"]).says(0, &[]);
    let json: serde_json::Value = serde_json::from_str(&json.out).unwrap();
    assert_eq!(
        (json["found"].as_u64(), json["molds"][0]["address"].as_str()),
        (Some(1), Some("piers/m@1.0.0"))
    );
    place.run(&["find", "zeppelin"]).says(1, &[]);
    place.run(&["find", "--only", "shelf=peirs"]).says(2, &[]);
    // A mold on a shelf is a stranger's.
    place.run(&["cast", "m@1", "a", "--unattended", "--finish", "all"]).says(6, &["from piers/m@1.0.0"]);
    place.run(&["cast", "piers/m", "a", "--unattended"]).says(0, &[]);
    assert_eq!(place.read("a/a"), "1.0.0");
    assert!(place.read("a/.tinmold/casting.toml").contains("address = \"piers/m@1.0.0\""));
    place.run(&["finish", "--dir", "a"]).says(0, &[]);
    place.run(&["cast", "shelf/m-1.0.0.tar.gz", "b", "--unattended"]).says(0, &["Written: b"]);
    place.run(&["cast", "m@2", "c", "--unattended"]).says(2, &[]);
    place.write("shelf/bad.tar.gz", "not an archive");
    place.run(&["find"]).says(0, &["python-service"]);
    place.run(&["cast", "shelf/bad.tar.gz"]).says(5, &[]);
    place.run(&["shelf", "drop", "pires"]).says(2, &[]);
    place.run(&["shelf", "drop", "piers"]).says(0, &[]);
    assert_eq!(place.read(".home/config/tinmold/config.toml"), "# mine\n[limits]\nfiles = 9 # enough\n");
    // The shelf is gone; the mold was kept at the cast.
    place.run(&["finish", "--dir", "a"]).says(0, &["touch marked"]);
}

/// A folder with two versions of one mold and one of another, as archives.
fn archives(place: &Place) {
    fs::create_dir(place.path("shelf")).unwrap();
    for (name, version) in [("m", "1.0.0"), ("m", "1.1.0"), ("tides", "0.1.0")] {
        place.mold(
            "language = [\"lua\"]\nkind = [\"web\"]\n[[question]]\nkey = \"pier\"\nask = \"Which pier?\"\nkind = \"text\"\ndefault = \"Gull Point\"\n",
            &[("body/a", "{= pier =} {= mold.version =}")],
        );
        let manifest =
            place.read("m/mold.toml").replace("\"m\"", &format!("\"{name}\"")).replace("1.0.0", version);
        place.write("m/mold.toml", manifest);
        place.run(&["pack", "./m", "--to", "shelf"]).says(0, &[]);
    }
}

#[test]
fn an_index_over_http_is_a_shelf_with_and_without_a_network() {
    let place = Place::new();
    archives(&place);
    place.run(&["shelf", "index", "nowhere"]).says(2, &["tinmold pack MOLD"]);
    place.run(&["shelf", "index", "shelf"]).says(0, &[]);
    let index = place.read("shelf/index.json");
    place.run(&["shelf", "index", "shelf"]).says(0, &[]);
    // A file that is not a mold is skipped and reported; an archive that is gone leaves the index.
    place.write("shelf/bad-1.0.0.tar.gz", "nothing");
    place.run(&["shelf", "index", "shelf"]).says(0, &[]);
    assert_eq!(place.read("shelf/index.json"), index);
    let folder = place.path("shelf");
    let server = Server::start(move |_, request| {
        let file = fs::read(folder.join(path(request).trim_start_matches('/')));
        match (
            request.contains("authorization: bearer tide-token\r\n")
                || request.contains("authorization: basic bwu6c2vjcmv0\r\n"),
            file,
        ) {
            (false, _) => answer("401 Unauthorized", "", ""),
            (true, Ok(file)) => answer("200 OK", "", file),
            (true, Err(_)) => answer("404 Not Found", "", ""),
        }
    });
    let url = server.url.as_str();
    for (arguments, told) in [
        (vec!["add", "piers", url], "401"),
        (vec!["add", "piers", url, "--token-env", "PIERS_TOKEN"], "PIERS_TOKEN"),
    ] {
        place.run(&[vec!["shelf"], arguments].concat()).says(1, &[told]);
    }
    for (arguments, told) in [
        (vec!["add", "piers", "http://me:x@127.0.0.1/"], ".netrc"),
        (vec!["add", "piers", "ftp.example", "--as", "index"], "https://"),
        (vec!["add", "piers", "shelf", "--token-env", "X"], "git"),
        (vec!["refresh", "peirs"], "peirs"),
    ] {
        place.run(&[vec!["shelf"], arguments].concat()).says(2, &[told]);
    }
    let with_token =
        |arguments: &[&str]| place.finish(place.command().args(arguments).env("PIERS_TOKEN", "tide-token"));
    with_token(&["shelf", "add", "piers", url, "--token-env", "PIERS_TOKEN"]).says(0, &[]);
    assert!(!place.read(".home/config/tinmold/config.toml").contains("tide-token"));
    // A token is sent over secure connections only.
    place.write(
        ".home/config/tinmold/config.toml",
        "[[shelf]]\nname = \"far\"\nindex = \"http://piers.example/\"\ntoken-env = \"PIERS_TOKEN\"\n",
    );
    with_token(&["shelf", "refresh"]).says(1, &[]);
    place.write(
        ".home/config/tinmold/config.toml",
        format!("[network]\nfresh-hours = 0\n[[shelf]]\nname = \"piers\"\nindex = \"{url}\"\n"),
    );
    place.write(".home/.netrc", "machine 127.0.0.1 login me password secret\n");
    place.run(&["shelf", "refresh", "piers"]).says(0, &[]);
    place.run(&["show", "piers/m"]).says(0, &["1.1.0", "1.0.0"]);
    place.run(&["cast", "m@1.0", "a", "--unattended"]).says(0, &["Written: a"]);
    assert_eq!(place.read("a/a"), "Gull Point 1.0.0");
    assert!(place.read("a/.tinmold/casting.toml").contains("address = \"piers/m@1.0.0\""));
    // Without the network, and without the server, what is kept serves.
    let asked = server.asked().len();
    place.run(&["cast", "m@1.0", "b", "--unattended", "--offline"]).says(0, &["Written: b"]);
    place.run(&["cast", "tides", "c", "--unattended", "--offline"]).says(1, &["tides-0.1.0.tar.gz"]);
    assert_eq!(server.asked().len(), asked);
    fs::remove_file(place.path("shelf/index.json")).unwrap();
    let found = place.run(&["find", "tides"]).says(0, &["404", "tides  0.1.0"]);
    assert!(!format!("{}{}", found.out, found.err).contains("secret"));
    let shown = place.run(&["show", "piers/m"]).says(0, &[]);
    assert_eq!(shown.err.matches("note: shelf piers").count(), 1, "it is said once: {}", shown.err);
    place.run(&["shelf", "refresh"]).says(1, &[]);
    place.run(&["shelf", "list"]).says(0, &["asked "]);
    place.run(&["status", "a"]).says(0, &["piers/m@1.0.0"]);
    let archive = format!("{url}tides-0.1.0.tar.gz");
    place.run(&["cast", &archive, "d", "--unattended"]).says(0, &["Written: d"]);
    assert!(place.read("d/.tinmold/casting.toml").contains("tides-0.1.0.tar.gz#sha256="));
    place.run(&["cast", &archive, "e", "--unattended", "--offline"]).says(0, &["Written: e"]);
}

#[test]
fn the_configuration_may_be_wrong() {
    let place = Place::new();
    for (text, told) in [
        ("[[shelf]]\nname = \"a\"\n", "\"a\""),
        ("[[shelf]]\nname = \"a\"\nfolder = \"x\"\ngit = \"y\"\n", "\"a\""),
        ("[[shelf]]\nname = \"a/b\"\nfolder = \"x\"\n", "\"a/b\""),
        ("[[shelf]]\nname = \"a\"\nfolder = \"x\"\n[[shelf]]\nname = \"a\"\nfolder = \"y\"\n", "\"a\""),
        ("[[shelf]]\nname = \"a\"\ngit = \"x\"\ntoken-env = \"T\"\n", "token-env"),
        ("[[shelf]]\nname = \"a\"\nindex = \"https://me:pw@x.example/\"\n", "token-env"),
        ("[network]\nofline = true\n", "line 2, column 1"),
        ("[network]\nfresh-hours = -1\n", "line 2, column 15"),
        ("[[shelf]\n", "line 1, column"),
    ] {
        place.write(".home/config/tinmold/config.toml", text);
        place.run(&["find"]).says(1, &[told, "config.toml"]);
    }
    // A file that cannot be read is not replaced either.
    let config = place.path(".home/config/tinmold/config.toml");
    fs::write(&config, b"# p\xefer\n").unwrap();
    fs::create_dir_all(place.path("shelf")).unwrap();
    place.run(&["shelf", "add", "piers", "shelf"]).says(1, &["config.toml"]);
    assert_eq!(fs::read(&config).unwrap(), b"# p\xefer\n");
}

#[test]
fn a_folder_is_served_as_a_shelf() {
    let place = Place::new();
    archives(&place);
    place.run(&["shelf", "serve", "shelf", "--listen", "nowhere"]).says(1, &["--listen 127.0.0.1:0"]);
    let mut command = place.command();
    command.args(["shelf", "serve", "shelf", "--listen", "127.0.0.1:0", "--verbose"]).stderr(Stdio::piped());
    let mut serving = command.spawn().unwrap();
    let mut said = BufReader::new(serving.stderr.take().unwrap());
    let mut lines = String::new();
    while !lines.contains("/index.json") {
        assert!(said.read_line(&mut lines).unwrap() > 0, "{lines}");
    }
    let at = lines.find("http://").unwrap();
    let url = lines[at..].split("index.json").next().unwrap();
    place.run(&["shelf", "add", "piers", url]).says(0, &[]);
    place.run(&["cast", "piers/m", "a", "--unattended"]).says(0, &["Written: a"]);
    // A new archive is seen at once; what is no archive of the folder is not there.
    fs::copy(place.path("shelf/m-1.1.0.tar.gz"), place.path("shelf/copy.tar.gz")).unwrap();
    fs::remove_file(place.path("shelf/tides-0.1.0.tar.gz")).unwrap();
    place.run(&["shelf", "refresh"]).says(0, &[]);
    place.run(&["shelf", "refresh"]).says(0, &[]);
    for path in ["../m/mold.toml.tar.gz", "%2e%2e/m.tar.gz", "nothing.tar.gz"] {
        place.run(&["cast", &format!("{url}{path}"), "x", "--unattended"]).says(2, &["404"]);
    }
    serving.kill().unwrap();
    serving.wait().unwrap();
    let mut rest = String::new();
    said.read_to_string(&mut rest).unwrap();
    assert!(
        rest.contains("200 /index.json") && rest.contains("304 /index.json") && rest.contains("404 /"),
        "{rest}"
    );
}

#[test]
fn somebody_chooses_among_all_shelves() {
    let place = Place::new();
    archives(&place);
    place.run(&["shelf", "add", "piers", "shelf"]).says(0, &[]);
    place.run(&["cast"]).says(2, &["tinmold find"]);
    let all = built_in_names().count() + 2;
    let found = |number: usize| format!("{number} of {all} molds");
    let mut terminal = place.terminal(&["cast"]);
    terminal.sees(&format!("Choose a mold  {all} molds")).sees("It asks");
    terminal.types("tdies").sees(&found(1)).sees("▸ tides").sees("Which pier?");
    terminal.types("\u{15}").sees(&format!("Choose a mold  {all} molds"));
    // Left narrows: a language opens into its kinds.
    terminal
        .types("lua")
        .sees(&found(2))
        .types("\x1b[D")
        .sees("Narrow by")
        .sees("▸ language")
        .types("\r")
        .sees("▸ lua");
    terminal.types("\x1b[C").sees("▸ web").types("\r").sees("Only: language lua, kind web").sees(&found(2));
    // Right shows the versions, and an older one is taken.
    terminal.types("\x1b[C").sees("▸ 1.1.0").types("\x1b[B").sees("▸ 1.0.0").types("\r");
    terminal
        .sees("Which pier?")
        .types("Tern Quay")
        .types(WRITE)
        .sees("Write it?")
        .types("\r")
        .sees("Written");
    assert_eq!(terminal.ends(), 0);
    assert_eq!(place.read("out/a"), "Tern Quay 1.0.0");
    // From the form, Esc goes back to the list as it was.
    let mut terminal = place.terminal(&["cast"]);
    terminal.sees("Choose a mold").types("tides").sees(&found(1)).types("\r").sees("What comes out");
    terminal.types("\x1b").loses("What comes out").sees("Find: tides");
    terminal.types("\x1b").sees("Left without writing");
    assert_eq!(terminal.ends(), 0);
    // It is first now; leaving writes nothing.
    let mut terminal = place.terminal(&["cast"]);
    terminal.sees("▸ m").sees("used lately").types("zeppelin").sees("No mold matches").types("\x1b");
    assert_eq!(terminal.ends(), 0);
    assert!(
        terminal.screen().contains("Left without writing") && !terminal.screen().contains("Choose a mold")
    );
    assert_eq!(place.terminal(&["cast"]).sees("▸ m").types("\x03").ends(), 130);
    // In plain lines: a page, words that narrow, a number.
    let said = place.run_with(&["--plain", "cast"], "zeppelin\ntides\n").says(3, &[]);
    assert!(said.err.contains("Question 1 of 1: Which pier?"), "{}", said.err);
    place.run_with(&["--plain", "cast"], "lua\n2\nGull Point\nno\n").says(0, &[]);
    place.run_with(&["--plain", "cast"], "").says(2, &[]);
}

#[test]
fn proxies_are_used_as_the_usual_variables_say() {
    let place = Place::new();
    let proxy = Server::start(|_, _| answer("502 Bad Gateway", "", ""));
    let mut command = place.command();
    command.args(["shelf", "add", "far", "http://piers.example/"]);
    command.env("http_proxy", &proxy.url).env_remove("no_proxy").env_remove("NO_PROXY");
    place.finish(&mut command).says(1, &[]);
    assert!(proxy.asked()[0].contains("piers.example"), "{:?}", proxy.asked());
}
