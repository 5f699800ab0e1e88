//! Shelves of strangers: servers, listings, caches and repositories that are not what they seem.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use common::{Place, pack, run_in};
use std::fs;
use std::io::{BufRead, BufReader, Read, Write};
use std::net::{TcpListener, TcpStream};
use std::os::unix::fs::symlink;
use std::process::{Child, Command, Stdio};
use std::time::Duration;

/// A server, which ends with the test.
struct Serving(Child);

impl Drop for Serving {
    fn drop(&mut self) {
        self.0.kill().ok();
        self.0.wait().ok();
    }
}

/// Starts a server of the folder `shelf` with at most `files` open files; returns it with its URL.
fn serve(place: &Place, files: u32) -> (Serving, String) {
    let line = format!(
        "ulimit -n {files}; exec {} shelf serve shelf --listen 127.0.0.1:0",
        env!("CARGO_BIN_EXE_tinmold")
    );
    let mut command = place.command_of("sh".as_ref());
    let mut server = Serving(command.args(["-c", &line]).stderr(Stdio::piped()).spawn().unwrap());
    let mut said = BufReader::new(server.0.stderr.take().unwrap());
    let mut lines = String::new();
    while !lines.contains("/index.json") {
        assert!(said.read_line(&mut lines).unwrap() > 0, "{lines}");
    }
    // What it says later is not read, and must not stop it.
    std::thread::spawn(move || std::io::copy(&mut said, &mut std::io::sink()));
    let url = lines.split("http://").nth(1).unwrap().split("index.json").next().unwrap();
    (server, format!("http://{url}"))
}

#[test]
fn downloads_at_the_same_time_are_no_tampering() {
    let place = Place::new();
    let noise: String = (0..400_000_u32)
        .map(|n| char::from(b'a' + (n.wrapping_mul(2_654_435_761) >> 27) as u8 % 26))
        .collect();
    place.mold("", &[("body/a", &noise)]);
    pack(&place);
    let (server, url) = serve(&place, 200);
    place.run(&["shelf", "add", "piers", &url]).says(0, &[]);
    for turn in 0..4 {
        let _ = fs::remove_dir_all(place.path(".home/cache/tinmold/files"));
        place.run(&["shelf", "refresh"]).says(0, &[]);
        let cast = |number: usize| {
            let mut command = place.command();
            let folder = format!("out{turn}-{number}");
            command.args(["cast", "piers/m", &folder, "--unattended", "--quiet"]).stderr(Stdio::piped());
            command.spawn().unwrap()
        };
        let all: Vec<Child> = (0..20).map(cast).collect();
        for one in all {
            let output = one.wait_with_output().unwrap();
            assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
        }
    }
    drop(server);
}

#[test]
fn a_shelf_is_served_in_spite_of_its_clients() {
    let place = Place::new();
    place.mold("", &[("body/a", "x")]);
    pack(&place);
    let (server, url) = serve(&place, 40);
    let address = url.trim_start_matches("http://").trim_end_matches('/').to_owned();
    let connect = || TcpStream::connect(&address).unwrap();
    let say = |text: &str| {
        let mut stream = connect();
        let _ = stream.write_all(text.as_bytes());
        stream
    };
    // A header that is too long is refused, and a body that never comes keeps no one.
    let mut long = say(&format!("GET / HTTP/1.1\r\nHost: x\r\nX: {}\r\n\r\n", "x".repeat(200_000)));
    long.set_read_timeout(Some(Duration::from_secs(60))).unwrap();
    let mut status = [0; 12];
    let _ = long.read_exact(&mut status);
    assert!(!status.ends_with(b"200"), "{}", String::from_utf8_lossy(&status));
    let unfinished = say("GET /index.json HTTP/1.1\r\nHost: x\r\nContent-Length: 1000\r\n\r\nabc");
    // More silent, slow and half-sent clients than there are descriptors.
    let mut held: Vec<TcpStream> = (0..60).map(|_| connect()).collect();
    held.extend((0..30).map(|_| say("GET /index.json HTTP/1.1\r\nHos")));
    held.push(unfinished);
    // Each ends in time: what is asked then is answered.
    let mut refreshed = false;
    place.run(&["shelf", "add", "piers", &url]);
    for _ in 0..40 {
        refreshed = place.run(&["shelf", "add", "piers", &url]).code != 1;
        if refreshed {
            break;
        }
        std::thread::sleep(Duration::from_secs(1));
    }
    assert!(refreshed, "the server does not answer");
    place.run(&["cast", "piers/m", "--unattended"]).says(0, &[]);
    drop(held);
    drop(server);
}

#[test]
fn a_cache_is_healed_and_cleaned() {
    let place = Place::new();
    place.mold("", &[("body/a", "x")]);
    pack(&place);
    let (server, url) = serve(&place, 200);
    place.run(&["shelf", "add", "piers", &url]).says(0, &[]);
    place.run(&["cast", "piers/m", "first", "--unattended"]).says(0, &[]);
    let cache = ".home/cache/tinmold";
    let files = |kind: &str| -> Vec<String> {
        let all = place.listing(&format!("{cache}/{kind}")).into_iter();
        all.filter(|path| !path.ends_with('/')).map(|path| format!("{cache}/{kind}/{path}")).collect()
    };
    // Times that no clock has, and of the future.
    for time in ["18446744073709551615", "99999999999", "9223372036854775807"] {
        for path in files("notes") {
            let note: serde_json::Value = serde_json::from_str(&place.read(&path)).unwrap();
            let now = note["fetched"].as_u64().unwrap().to_string();
            place.write(&path, place.read(&path).replace(&now, time));
        }
        place.run(&["find"]).says(0, &[]);
        place.run(&["shelf", "list"]).says(0, &[]);
    }
    // Directories, pipes and links in place of files.
    for (turn, kind) in ["notes", "files", "catalogues", "partial"].into_iter().cycle().take(12).enumerate() {
        for path in files(kind) {
            let at = place.path(&path);
            fs::remove_file(&at).unwrap();
            match turn / 4 {
                0 => fs::create_dir_all(at.join("x")).unwrap(),
                1 => assert!(Command::new("mkfifo").arg(&at).status().unwrap().success()),
                _ => symlink("/dev/zero", &at).unwrap(),
            }
        }
        let mut limited = place.command_of("timeout".as_ref());
        let folder = format!("out{turn}");
        limited.args(["60", env!("CARGO_BIN_EXE_tinmold"), "cast", "piers/m", &folder, "--unattended"]);
        place.finish(&mut limited).says(0, &[]);
    }
    // What is not needed goes, and what is needed stays.
    let old = |path: &str| {
        let long_ago = std::time::SystemTime::now() - Duration::from_secs(200 * 86400);
        fs::File::open(place.path(path)).unwrap().set_modified(long_ago).unwrap();
    };
    place.write(&format!("{cache}/partial/left"), "part").write(&format!("{cache}/files/aa/bb"), "old");
    files("files").iter().chain(&files("partial")).chain(&files("notes")).for_each(|path| old(path));
    let before = place.listing(cache);
    place.run(&["shelf", "clean", "--dry-run"]).says(0, &["1 would go"]);
    assert_eq!(place.listing(cache), before);
    place.run(&["shelf", "clean"]).says(0, &["1 removed"]);
    drop(server);
    assert_eq!(files("partial"), [""; 0]);
    assert!(!place.path(&format!("{cache}/files/aa/bb")).exists());
    place.run(&["find", "--offline"]).says(0, &["piers"]);
}

#[test]
fn a_server_that_drips_holds_no_one_who_has_a_copy() {
    let place = Place::new();
    place.mold("", &[("body/a", "x")]);
    pack(&place);
    let (server, url) = serve(&place, 200);
    place.run(&["shelf", "add", "piers", &url]).says(0, &[]);
    let config = place.read(".home/config/tinmold/config.toml") + "[network]\nfresh-hours = 0\n";
    place.write(".home/config/tinmold/config.toml", config);
    drop(server);
    let address = url.trim_start_matches("http://").trim_end_matches('/');
    let dripping = TcpListener::bind(address).unwrap();
    std::thread::spawn(move || {
        for stream in dripping.incoming() {
            std::thread::spawn(move || {
                let mut stream = stream.unwrap();
                let head = "HTTP/1.1 200 OK\r\nContent-Length: 100000\r\n\r\n";
                let _ = stream.write_all(head.as_bytes());
                while stream.write_all(b" ").is_ok() {
                    std::thread::sleep(Duration::from_millis(500));
                }
            });
        }
    });
    let mut limited = place.command_of("timeout".as_ref());
    limited.args(["120", env!("CARGO_BIN_EXE_tinmold"), "find", "tests"]);
    place.finish(&mut limited).says(0, &["piers"]);
}

#[test]
fn where_nothing_is_new_in_a_repository_nothing_is_fetched() {
    let place = Place::new();
    place.mold("", &[("body/a", "x")]);
    let git = |args: &[&str]| {
        let user = ["-c", "user.name=Ada", "-c", "user.email=ada@saltmarsh.example"];
        run_in(&place, "m", "git", &[&user[..], args].concat()).says(0, &[])
    };
    git(&["init", "--quiet"]);
    git(&["add", "--all"]);
    git(&["commit", "--quiet", "--message", "First"]);
    git(&["tag", "v1.0.0"]);
    let url = format!("file://{}", place.path("m").display());
    place.run(&["shelf", "add", "piers", &url, "--as", "git"]).says(0, &[]);
    let copies = place.listing(".home/cache/tinmold/git");
    let copy = place.path(&format!(".home/cache/tinmold/git/{}", copies[0]));
    let fetched = || fs::metadata(copy.join("FETCH_HEAD")).unwrap().modified().unwrap();
    let packs = || fs::read_dir(copy.join("objects/pack")).unwrap().count();
    let (before, held) = (fetched(), packs());
    place.run(&["shelf", "refresh"]).says(0, &[]);
    assert_eq!((fetched(), packs()), (before, held));
    for version in ["1.1.0", "1.2.0", "1.3.0"] {
        let manifest = place.read("m/mold.toml");
        let line = manifest.lines().find(|line| line.starts_with("version")).unwrap();
        place.write("m/mold.toml", manifest.replace(line, &format!("version = \"{version}\"")));
        git(&["commit", "--quiet", "--all", "--message", version]);
        git(&["tag", &format!("v{version}")]);
        place.run(&["shelf", "refresh"]).says(0, &[]);
    }
    assert_ne!(fetched(), before);
    assert!(packs() <= held, "the copy is repacked");
    place.run(&["cast", "piers/m", "--unattended"]).says(0, &[]);
    place.run(&["cast", "piers/m@1.1.0", "old", "--unattended"]).says(0, &[]);
    // The record names no path of this machine.
    place.run(&["cast", &url, "direct", "--unattended"]).says(0, &[]);
    assert!(!place.read("direct/.tinmold/casting.toml").contains(&place.path("").display().to_string()));
}

#[test]
fn a_record_travels_and_its_mold_is_kept() {
    let place = Place::new();
    let person = "[user]\nname = Ada Ferry\nemail = ada@saltmarsh.example\n";
    place.write(".home/gitconfig", person);
    place.mold(
        "[[finish]]\nname = \"own\"\nrun = [\"touch\", \"ran\"]\n",
        &[("body/a", "{= user.name =} email")],
    );
    let record = |folder: &str| place.read(&format!("{folder}/.tinmold/casting.toml"));
    let here = place.path("").canonicalize().unwrap().display().to_string();
    place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
    assert!(!record("out").contains(&here) && !record("out").contains("@saltmarsh"), "{}", record("out"));
    // An address of mail is recorded where the mold uses it: in a file, a name, a fragment or the manifest.
    for (at, text) in [
        ("body/b", "{= user . email =}"),
        ("body/{= user.email =}", "x"),
        ("fragments/f", "{= user.email =}"),
    ] {
        let place = Place::new();
        place
            .write(".home/gitconfig", person)
            .mold("", &[(at, text), ("body/c", "{= place \"f\" =}"), ("fragments/g", "")]);
        if !at.starts_with("fragments") {
            place.write("m/body/c", "");
        }
        place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
        assert!(place.read("out/.tinmold/casting.toml").contains("ada@saltmarsh.example"), "{at}");
    }
    // In one repository the way from the project to the mold is recorded.
    fs::create_dir_all(place.path("team/projects")).unwrap();
    run_in(&place, "", "cp", &["-r", "m", "team/mold"]).says(0, &[]);
    run_in(&place, "team", "git", &["init", "--quiet"]).says(0, &[]);
    place.run(&["cast", "./team/mold", "team/projects/out", "--unattended"]).says(0, &[]);
    assert!(
        record("team/projects/out").contains("address = \"../../mold\""),
        "{}",
        record("team/projects/out")
    );
    fs::rename(place.path("team"), place.path("moved")).unwrap();
    place.run(&["finish", "--dir", "moved/projects/out"]).says(0, &["touch ran"]);
    // Nothing outside the repository is taken for the mold.
    let text = record("moved/projects/out").replace("../../mold", "../../../m");
    place.write("moved/projects/out/.tinmold/casting.toml", text);
    fs::remove_dir_all(place.path(".home/state")).unwrap();
    place.run(&["finish", "--dir", "moved/projects/out"]).says(1, &["repository"]);
    // The mold is kept, and used when it cannot be had any more; a damaged copy is not.
    place.run(&["cast", "./m", "again", "--unattended"]).says(0, &[]);
    fs::rename(place.path("m"), place.path("n")).unwrap();
    place.run(&["finish", "--dir", "again"]).says(0, &["touch ran", "kept"]);
    let kept = place.listing(".home/state/tinmold/molds");
    assert_eq!(kept.len(), 1, "{kept:?}");
    let copy = format!(".home/state/tinmold/molds/{}", kept[0]);
    fs::copy(place.path(&copy), place.path("copy.tar.gz")).unwrap();
    place.write("n/body/a", "changed");
    place.run(&["pack", "./n", "--to", "."]).says(0, &[]);
    fs::copy(place.path("m-1.0.0.tar.gz"), place.path(&copy)).unwrap();
    place.run(&["finish", "--dir", "again"]).says(1, &[]);
    assert!(!place.path(&copy).exists());
}
