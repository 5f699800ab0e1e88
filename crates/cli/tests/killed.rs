//! A cast that is killed, meets another one, or is refused by the system: nothing is lost or
//! half-written.
#![cfg(target_os = "linux")]
#![allow(clippy::unwrap_used)]

mod common;
use common::Place;
use std::collections::BTreeMap;
use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::process::{Command, Stdio};
use std::thread;
use std::time::{Duration, Instant};

/// The number of kills in each test.
const KILLS: u32 = 150;
const FILES: usize = 80;

fn fleet() -> Place {
    let place = Place::in_memory();
    place.mold("", &[]);
    for number in 0..FILES {
        let text = format!("ferry {number} of {{= mold.name =}}\n").repeat(20);
        place.write(&format!("m/body/d{}/{number}.txt", number % 7), text);
    }
    place
}

/// The content of every file; directories have none.
fn content(place: &Place, inside: &str) -> BTreeMap<String, Vec<u8>> {
    let read = |path: &String| fs::read(place.path(&format!("{inside}/{path}"))).unwrap_or_default();
    place.listing(inside).into_iter().map(|path| (path.clone(), read(&path))).collect()
}

/// Pseudo-random numbers, the same in every run.
struct Chance(u64);

impl Chance {
    fn below(&mut self, most: u64) -> u64 {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) % most
    }
}

/// Returns true once a journal lists moves.
fn has_moves(place: &Place) -> bool {
    let journals = fs::read_dir(place.path(".home/state/tinmold/journals")).into_iter().flatten();
    journals
        .flatten()
        .any(|entry| fs::read_to_string(entry.path()).is_ok_and(|text| text.contains("\"moves\"")))
}

/// Starts the program and kills it `delay` after its start, or after its moves began; returns true if it
/// was still running.
fn kill_after(place: &Place, args: &[&str], delay: Duration, in_moves: bool) -> bool {
    let mut child = place.command().args(args).stderr(Stdio::null()).spawn().unwrap();
    while in_moves && !has_moves(place) && child.try_wait().unwrap().is_none() {
        thread::sleep(Duration::from_micros(50));
    }
    thread::sleep(delay);
    let running = child.try_wait().unwrap().is_none();
    child.kill().unwrap();
    child.wait().unwrap();
    running
}

#[test]
fn killed_at_any_instant_a_new_folder_is_whole_or_not_there() {
    let place = fleet();
    let args = ["cast", "./m", "out", "--unattended"];
    let begun = Instant::now();
    place.run(&args).says(0, &[]);
    let whole_time = begun.elapsed().as_micros() as u64;
    let whole = content(&place, "out");
    let (mut chance, mut at_work, mut swept, mut absent) = (Chance(7), 0, 0, 0);
    for _ in 0..KILLS {
        let _ = fs::remove_dir_all(place.path("out"));
        let delay = Duration::from_micros(chance.below(whole_time * 6 / 5));
        at_work += u32::from(kill_after(&place, &args, delay, false));
        absent += u32::from(!place.path("out").exists());
        if place.path("out").exists() {
            assert_eq!(content(&place, "out"), whole);
        }
        // The next command here clears up.
        let ran = place.run(&["status"]).says(2, &[]);
        swept += u32::from(ran.err.contains("which an interrupted run left"));
        let stray: Vec<_> = place.listing("").into_iter().filter(|path| path.contains("stage")).collect();
        assert!(stray.is_empty(), "{stray:?}");
    }
    assert!(at_work > KILLS / 20 && absent > KILLS / 40 && swept > 0, "{at_work} {absent} {swept}");
}

#[test]
fn killed_at_any_instant_a_folder_that_was_there_comes_back_or_is_complete() {
    let place = fleet();
    let fill = |place: &Place| {
        let _ = fs::remove_dir_all(place.path("out"));
        for number in (0..FILES).step_by(2) {
            place.write(&format!("out/d{}/{number}.txt", number % 7), format!("mine {number}"));
        }
        place.write("out/own/notes.txt", "mine");
    };
    fill(&place);
    let before = content(&place, "out");
    let args = ["cast", "./m", "out", "--unattended", "--if-present", "replace"];
    let begun = Instant::now();
    place.run(&args).says(0, &[]);
    let whole_time = begun.elapsed().as_micros() as u64;
    let after = content(&place, "out");
    assert_ne!(before, after);
    let (mut chance, mut undone, mut complete) = (Chance(11), 0, 0);
    for turn in 0..KILLS {
        fill(&place);
        // At any instant of the whole run, and of the part that moves files.
        let (most, in_moves) = if turn % 2 == 0 { (whole_time, false) } else { (whole_time / 12, true) };
        kill_after(&place, &args, Duration::from_micros(chance.below(most)), in_moves);
        let ran = place
            .finish(place.command().args(["status", "--format", "json"]).current_dir(place.path("out/own")));
        undone += u32::from(ran.err.contains("was undone"));
        let now = content(&place, "out");
        complete += u32::from(now == after);
        if now != after {
            assert_eq!(now, before);
        }
    }
    assert!(undone > KILLS / 50 && complete > 0 && complete < KILLS, "{undone} {complete}");
}

#[test]
fn killed_at_any_instant_a_fit_is_whole_or_taken_back() {
    let place = fleet();
    place.write("m/parts/pier/part.toml", "[part]\nname = \"pier\"\nsummary = \"One more pier\"\n");
    let mut manifest = place.read("m/parts/pier/part.toml");
    for number in 0..FILES {
        let path = format!("m/body/d{}/{number}.txt", number % 7);
        place.write(&path, place.read(&path) + "# joint: piers (tinmold)\n");
        manifest += &format!(
            "[[joint]]\nfile = \"d{}/{number}.txt\"\nname = \"piers\"\nlines = [\"Tern Quay\"]\n",
            number % 7
        );
        place.write(&format!("m/parts/pier/body/piers/{number}.txt"), format!("pier {number}\n"));
    }
    place.write("m/parts/pier/part.toml", manifest);
    place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
    let ways =
        [["fit", "pier", "--dir", "out", "--unattended"], ["fit", "--undo", "--dir", "out", "--unattended"]];
    let without = content(&place, "out");
    let begun = Instant::now();
    place.run(&ways[0]).says(0, &[]);
    let whole_time = begun.elapsed().as_micros() as u64;
    let with = content(&place, "out");
    let (mut chance, mut undone, mut turned) = (Chance(13), 0, 0);
    for turn in 0..KILLS {
        let is_fitted = content(&place, "out") == with;
        let (most, in_moves) = if turn % 2 == 0 { (whole_time, false) } else { (whole_time / 12, true) };
        kill_after(
            &place,
            &ways[usize::from(is_fitted)],
            Duration::from_micros(chance.below(most)),
            in_moves,
        );
        let ran = place.finish(place.command().arg("status").current_dir(place.path("out"))).says(0, &[]);
        undone += u32::from(ran.err.contains("was undone"));
        let now = content(&place, "out");
        let (before, after) = if is_fitted { (&with, &without) } else { (&without, &with) };
        turned += u32::from(now == *after);
        assert!(now == *before || now == *after, "{turn}: {:?}", now.keys());
    }
    assert!(undone > KILLS / 50 && turned > 0 && turned < KILLS, "{undone} {turned}");
}

/// Every file with its permissions; directories without.
fn with_modes(place: &Place, inside: &str) -> BTreeMap<String, (u32, Vec<u8>)> {
    let mode = |path: &String| {
        let found = fs::metadata(place.path(&format!("{inside}/{path}"))).unwrap();
        if found.is_dir() { 0 } else { found.permissions().mode() }
    };
    content(place, inside).into_iter().map(|(path, bytes)| (path.clone(), (mode(&path), bytes))).collect()
}

#[test]
fn killed_at_any_instant_a_recast_is_whole_or_taken_back() {
    let place = fleet();
    let name = "[[question]]\nkey = \"fleet\"\nask = \"Fleet\"\nkind = \"text\"\ndefault = \"gulls\"\n";
    place.mold(
        name,
        &[("body/fleet/{= fleet =}/terns.txt", "terns of {= fleet =}\n"), ("body/run", "#!/bin/sh\n")],
    );
    place.run(&["cast", "./m", "out", "--unattended"]).says(0, &[]);
    // The owner's own, beside what the mold made.
    for number in 0..FILES / 4 {
        place.write(&format!("out/fleet/gulls/own/{number}.txt"), format!("mine {number}\n"));
        let path = format!("out/d{}/{number}.txt", number % 7);
        place.write(&path, format!("mine\n{}", place.read(&path)));
    }
    // The next version: some files change, some go, some come, and one becomes a program.
    let manifest = place.read("m/mold.toml").replace("1.0.0", "2.0.0");
    place.write("m/mold.toml", manifest);
    for number in 0..FILES {
        let path = format!("m/body/d{}/{number}.txt", number % 7);
        match number % 3 {
            0 => drop(place.write(&path, place.read(&path) + "the last ferry\n")),
            1 if number >= FILES / 4 => fs::remove_file(place.path(&path)).unwrap(),
            _ => drop(place.write(&format!("m/body/new/{number}.txt"), format!("{number}\n"))),
        }
    }
    fs::set_permissions(place.path("m/body/run"), fs::Permissions::from_mode(0o755)).unwrap();
    let ways: [&[&str]; 2] = [
        &["recast", "out", "--unattended", "--set", "fleet=terns"],
        &["recast", "out", "--undo", "--unattended"],
    ];
    let without = with_modes(&place, "out");
    let begun = Instant::now();
    place.run(ways[0]).says(0, &[]);
    let whole_time = begun.elapsed().as_micros() as u64;
    let with = with_modes(&place, "out");
    assert!(with.contains_key("fleet/terns/own/1.txt") && with["run"].0 & 0o111 != 0, "{:?}", with.keys());
    let (mut chance, mut undone, mut turned) = (Chance(17), 0, 0);
    for turn in 0..2 * KILLS {
        let is_recast = with_modes(&place, "out") == with;
        let (most, in_moves) = if turn % 2 == 0 { (whole_time, false) } else { (whole_time / 8, true) };
        let way = ways[usize::from(is_recast)];
        kill_after(&place, way, Duration::from_micros(chance.below(most)), in_moves);
        let ran = place.finish(place.command().arg("status").current_dir(place.path("out"))).says(0, &[]);
        undone += u32::from(ran.err.contains("was undone"));
        let now = with_modes(&place, "out");
        let (before, after) = if is_recast { (&with, &without) } else { (&without, &with) };
        turned += u32::from(now == *after);
        assert!(now == *before || now == *after, "{turn}: {:?}", now.keys());
    }
    assert!(undone > KILLS / 25 && turned > 0 && turned < 2 * KILLS, "{undone} {turned}");
}

#[test]
fn of_two_casts_into_one_place_one_wins() {
    let place = fleet();
    for turn in 0..8 {
        let folder = format!("out{turn}");
        let start = || {
            let mut command = place.command();
            command.args(["cast", "./m", &folder, "--unattended"]).stderr(Stdio::piped());
            command.spawn().unwrap()
        };
        let both = [start(), start()].map(|child| child.wait_with_output().unwrap());
        let codes = both.each_ref().map(|output| output.status.code().unwrap());
        let said = both.each_ref().map(|output| String::from_utf8_lossy(&output.stderr).into_owned());
        assert!(codes.contains(&0), "{codes:?} {said:?}");
        // The other one came at the same time, or while the first was at work.
        assert!(codes.iter().all(|code| [0, 4].contains(code)), "{codes:?} {said:?}");
        assert_eq!(content(&place, &folder).len(), FILES + 7 + 3);
    }
    // A locked directory is not written into.
    fs::create_dir(place.path("held")).unwrap();
    let held = fs::File::open(place.path("held")).unwrap();
    held.lock().unwrap();
    place.run(&["cast", "./m", "held", "--unattended"]).says(4, &["held"]);
    drop(held);
    place.run(&["cast", "./m", "held", "--unattended"]).says(0, &[]);
}

/// Runs a shell line in a mount namespace of its own; `$T` is the program and `$M` the mold.
fn in_namespace(place: &Place, line: &str) -> common::Ran {
    let environment = place.command();
    let mut command = Command::new("unshare");
    command.args(["-rm", "sh", "-c", line]).current_dir(place.path(""));
    for (variable, value) in environment.get_envs() {
        if let Some(value) = value {
            command.env(variable, value);
        }
    }
    command.env("T", env!("CARGO_BIN_EXE_tinmold")).env("M", place.path("m"));
    place.finish(&mut command)
}

#[test]
fn what_the_system_refuses_leaves_everything_as_it_was() {
    let place = fleet();
    place.run(&["cast", "./m", &"x".repeat(300), "--unattended"]).says(1, &[]);
    // Without mount namespaces no disk can be filled.
    if !Command::new("unshare").args(["-rm", "true"]).status().is_ok_and(|status| status.success()) {
        common::left_out("full and read-only disks", "mount namespaces (unshare -rm)");
        return;
    }
    fs::create_dir(place.path("disk")).unwrap();
    let small = "mount -t tmpfs -o size=300k none disk && ";
    let cast = "$T cast $M disk/out --unattended; echo code $?; find disk -type f";
    // A full disk, with nothing there and with something there.
    let ran = in_namespace(&place, &format!("{small}{cast}")).says(0, &[]);
    assert_eq!(ran.out, "code 1\n");
    let into = "mkdir disk/out && echo mine > disk/out/a && $T cast $M disk/out --unattended; echo code $?; find disk -type f";
    let ran = in_namespace(&place, &format!("{small}{into}")).says(0, &[]);
    assert_eq!(ran.out, "code 1\ndisk/out/a\n");
    // A disk that is for reading only.
    let ran = in_namespace(&place, &format!("mount -t tmpfs -o ro none disk && {cast}")).says(0, &[]);
    assert_eq!(ran.out, "code 1\n");
    // Another file system in the middle of the destination.
    let other = "mkdir -p disk/out/d3 && echo mine > disk/out/a && mount -t tmpfs none disk/out/d3 && \
        $T cast $M disk/out --unattended; echo code $?; find disk -type f";
    let ran = in_namespace(&place, &format!("mount -t tmpfs none disk && {other}")).says(0, &[]);
    assert_eq!(ran.out, "code 1\ndisk/out/a\n");
    // A working directory that is gone.
    let gone = "mkdir gone && cd gone && rmdir ../gone && $T cast $M out --unattended; echo code $?";
    let ran = in_namespace(&place, gone).says(0, &[]);
    assert_eq!(ran.out, "code 1\n");
}

#[test]
fn without_permission_nothing_is_written() {
    let place = fleet();
    place.write("closed/out/mine", "mine");
    for folder in ["closed", "closed/out"] {
        fs::set_permissions(place.path(folder), fs::Permissions::from_mode(0o555)).unwrap();
    }
    fs::set_permissions(place.path(""), fs::Permissions::from_mode(0o755)).unwrap();
    // Root may write everywhere: the program then runs as another user.
    let program = place.path("tinmold");
    fs::copy(env!("CARGO_BIN_EXE_tinmold"), &program).unwrap();
    let is_root = place.finish(Command::new("id").arg("-u")).out.trim() == "0";
    if is_root && !common::has("setpriv") {
        common::left_out("a cast without permissions, as root", "setpriv");
        return;
    }
    for folder in ["closed/new", "closed/out"] {
        let mut command = if is_root {
            let mut command = place.command_of("setpriv".as_ref());
            command.args(["--reuid=65534", "--regid=65534", "--clear-groups"]).arg(&program);
            command
        } else {
            place.command_of(&program)
        };
        command.args(["cast", "./m", folder, "--unattended"]);
        place.finish(&mut command).says(1, &[]);
        assert_eq!(place.listing("closed"), ["out/", "out/mine"]);
    }
    fs::set_permissions(place.path("closed/out"), fs::Permissions::from_mode(0o755)).unwrap();
    fs::set_permissions(place.path("closed"), fs::Permissions::from_mode(0o755)).unwrap();
}
