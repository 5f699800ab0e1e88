//! `tinmold prove`: molds are cast in many ways, and what they name as proofs runs.
#![allow(clippy::unwrap_used)]

mod common;
use common::{Place, digest_of, wait_until};
use serde_json::Value;
use std::process::{Command, Stdio};

const QUESTIONS: &str = r#"
[[question]]
key = "web"
ask = "Web layer"
kind = "one-of"
default = "none"
option = [{ value = "none" }, { value = "flask" }]
[[question]]
key = "night"
ask = "At night too?"
kind = "flag"
[[question]]
key = "about"
ask = "What is it for?"
kind = "text"
form = "plain"
default = "tides"
[[question]]
key = "port"
ask = "Port"
kind = "integer"
form = "port"
default = 8000
"#;

const STEPS: &str = r#"
[[finish]]
name = "build"
run = ["sh", "build.sh"]
[[finish]]
name = "tests"
run = ["sh", "tests.sh"]
after = ["build"]
proof = true
offered = false
[[finish]]
name = "fetched"
run = ["sh", "build.sh"]
when = "night"
network = true
proof = true
"#;

const FILES: [(&str, &str); 4] = [
    ("body/build.sh", "echo built {= about.shell =} >built.txt\n"),
    (
        "body/tests.sh",
        "{= match web case 'none' then 'true' case 'flask' then 'true' =}\ntest -f built.txt\n",
    ),
    ("body/port.txt", "{= port =}{= night =}\n"),
    ("parts/pier/body/{= pier =}.txt", "{= pier =}\n"),
];

const PART: (&str, &str) = (
    "parts/pier/part.toml",
    "[part]\nname = 'pier'\nsummary = 'x'\n[[question]]\nkey = 'pier'\nask = '?'\nkind = 'text'\nform = 'kebab'\n",
);

/// A place with the mold `m`, and the option that vouches for it.
fn place(more: &[(&str, &str)]) -> (Place, String) {
    let place = Place::new();
    place.mold(&format!("{QUESTIONS}{STEPS}"), &[FILES.as_slice(), &[PART], more].concat());
    let vouch = vouch(&place);
    (place, vouch)
}

/// The digest of the mold as it is now, which a refusal tells.
fn vouch(place: &Place) -> String {
    let refused = place.run(&["prove", "./m"]).says(6, &["sh build.sh", "sh tests.sh", "--vouch"]);
    refused.err.split("--vouch ").nth(1).unwrap().split_whitespace().next().unwrap().to_owned()
}

fn json(out: &str) -> Value {
    let value: Value = serde_json::from_str(out).unwrap();
    value["molds"][0].clone()
}

#[test]
fn every_set_is_built_once() {
    let (place, vouch) = place(&[]);
    let prove = |more: &[&str], code: i32| {
        let ran = place.run(&[&["prove", "./m", "--vouch", &vouch, "--format", "json"], more].concat());
        json(&ran.says(code, &[]).out)
    };
    let first = prove(&[], 0);
    let sets = first["sets"].as_array().unwrap();
    assert!(sets.len() >= 6, "{first}");
    let names = |set: &Value| -> Vec<String> {
        let all = set["targets"].as_array().unwrap().iter();
        all.map(|it| {
            format!("{}{}", it["name"].as_str().unwrap(), if it["with-parts"] == true { "+" } else { "" })
        })
        .collect()
    };
    assert_eq!(names(&sets[0]), ["cast", "build", "tests", "fit pier", "build+", "tests+"]);
    assert!(sets.iter().any(|set| names(set).contains(&"fetched+".to_owned())));
    assert!(
        sets.iter().any(|set| set["answers"]["set"]["about"].as_str().is_some_and(|it| it.contains('"')))
    );
    let before = |proof: &Value| {
        proof["sets"].as_array().unwrap().iter().filter(|it| it["proven-before"] == true).count()
    };
    assert!(before(&first) <= 1);
    assert_eq!(before(&prove(&[], 0)), sets.len());
    assert_eq!(before(&prove(&["--again"], 0)), 0);
    // Without a network, a part of it can be proven.
    let offline = prove(&["--offline", "--again"], 0);
    let skipped = |set: &Value| set["targets"].as_array().unwrap().iter().any(|it| it["result"] == "skipped");
    assert!(offline["sets"].as_array().unwrap().iter().any(skipped));
    prove(&["--offline", "--strict"], 5);
    // Only what comes out otherwise is built again.
    place.write("m/body/port.txt", "{= port =}{= if night =}!{= end =}\n");
    let vouch = self::vouch(&place);
    let ran = place.run(&["prove", "./m", "--vouch", &vouch, "--format", "json"]);
    let again = json(&ran.says(0, &[]).out);
    assert!((1..sets.len()).contains(&before(&again)), "{again}");
}

#[test]
fn failures_are_put_together_and_made_small() {
    let tests =
        "{= if web == 'flask' =}echo no web in line {= port =}\nexit 3{= else =}test -f built.txt{= end =}\n";
    let (place, vouch) = place(&[("body/tests.sh", tests)]);
    let base = ["prove", "./m", "--vouch", &vouch, "--keep", "kept"];
    let ran = place.run(&[&base[..], &["--format", "json"]].concat()).says(5, &[]);
    let proof = json(&ran.out);
    let failures = proof["failures"].as_array().unwrap();
    assert_eq!(failures.len(), 1, "{failures:?}");
    assert_eq!(failures[0]["answers"]["set"], serde_json::json!({ "web": "flask" }));
    assert_eq!(
        (&failures[0]["target"]["name"], &failures[0]["target"]["why"]),
        (&"tests".into(), &"exit code 3".into())
    );
    assert!(failures[0]["again"].as_str().unwrap().contains("--set web=flask && cd tried && sh tests.sh"));
    let folder = failures[0]["folder"].as_str().unwrap();
    assert!(std::path::Path::new(folder).join("project/tests.sh").exists(), "{folder}");
    assert!(std::fs::read_to_string(format!("{folder}/logs/tests.log")).unwrap().contains("no web in line"));
    // Each project that serves something has a port of its own.
    let port = std::fs::read_to_string(format!("{folder}/project/port.txt")).unwrap();
    assert_ne!(port, "8000false\n");
    let ran = place.run(&[&base[..], &["--format", "junit", "--jobs", "1"]].concat()).says(5, &[]);
    let report = roxmltree::Document::parse(&ran.out).unwrap();
    let failed = report.descendants().filter(|node| node.has_tag_name("failure")).count();
    assert!(failed >= 2, "{}", ran.out);
    place
        .run(&base)
        .says(5, &["failed   tests: exit code 3", "| no web in line", "with web=flask", "alike", "fails"]);
}

#[test]
fn approved_outputs_must_come_out() {
    let place = Place::new();
    let manifest = format!(
        "{QUESTIONS}[[question]]\nkey = 'secret'\nkind = 'minted'\n[[files]]\nmatch = '.env'\nlocal = true\n"
    );
    let files = [
        ("body/a.txt", "of {= today =}\nfor {= user.name =}\n{= web =} {= night =} {= about =} {= port =}\n"),
        ("body/.env", "KEY={= secret =}\n"),
        ("body/.gitignore", "/.env\n"),
        ("proofs/usual/answers.toml", "web = 'flask'\nabout = 'it is \"odd\"'\n"),
    ];
    place.mold(&manifest, &files);
    let prove = |code: i32, words: &[&str]| {
        let vouch = ["prove", "./m", "--vouch"];
        let refused = place.run(&["prove", "./m"]);
        let digest =
            refused.err.split("--vouch ").nth(1).map_or("", |it| it.split_whitespace().next().unwrap());
        place.run(&[&vouch[..], &[digest]].concat()).says(code, words)
    };
    prove(5, &["proofs/usual: a.txt is new", "--approve"]);
    place.run(&["prove", "./m", "--approve"]).says(0, &["approved usual, 3 files"]);
    let approved = place.read("m/proofs/usual/tree/a.txt");
    assert_eq!(approved, "of 2000-01-01\nfor Ada Tern\nflask false it is \"odd\" 8000\n");
    prove(0, &[]);
    // The answers are tried by a check too.
    let ran = place.run(&["check", "./m", "--format", "json"]).says(0, &[]);
    assert_eq!(json(&ran.out)["findings"], serde_json::json!([]));
    place.write(
        "m/body/a.txt",
        "of {= today =}\nto {= user.name =}\n{= web =} {= night =} {= about =} {= port =}\n",
    );
    place.write("m/body/b.txt", "b\n");
    place.write("m/proofs/usual/tree/c.txt", "c\n");
    let words = [
        "a.txt:2, from body/a.txt:2:1",
        "- for Ada Tern",
        "+ to Ada Tern",
        "b.txt is new",
        "c.txt does not come out",
    ];
    prove(5, &words);
    place.write("m/proofs/usual/answers.toml", "web = 'flsk'\n");
    prove(5, &["proofs/usual: web"]);
    place.run(&["prove", "c-tool", "--approve"]).says(2, &[]);
}

#[test]
fn an_interrupted_proof_leaves_nothing_running() {
    let (place, vouch) =
        place(&[("body/tests.sh", "echo $$ >\"{= mold.name =}.pid\"\nexec sleep 300\n{= web =}\n")]);
    let mut command = place.command();
    command.args(["prove", "./m", "--vouch", &vouch, "--keep", "kept", "--jobs", "2"]);
    let mut running = command.stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap();
    let pids = || -> Vec<String> {
        let found = Command::new("find")
            .args([place.path("kept").to_str().unwrap(), "-name", "*.pid"])
            .output()
            .unwrap();
        let paths = String::from_utf8(found.stdout).unwrap();
        paths
            .lines()
            .filter_map(|path| std::fs::read_to_string(path).ok())
            .filter(|it| !it.is_empty())
            .collect()
    };
    wait_until(60, "the steps do not begin", || pids().len() >= 2);
    let started = pids();
    assert!(Command::new("kill").args(["-INT", &running.id().to_string()]).status().unwrap().success());
    assert_eq!(running.wait().unwrap().code(), Some(130));
    for pid in started {
        let alive = Command::new("kill").args(["-0", pid.trim()]).stderr(Stdio::null()).status().unwrap();
        assert!(!alive.success(), "{pid} still runs");
    }
}

#[test]
fn projects_of_an_earlier_version_are_brought_to_the_mold_and_proven() {
    let (place, _) = place(&[]);
    let git = |args: &[&str]| {
        let mut git = place.command_of("git".as_ref());
        git.args(["-c", "user.name=Odile", "-c", "user.email=odile@ferries.example"]).args(args);
        assert_eq!(place.finish(git.current_dir(place.path("m"))).code, 0, "{args:?}");
    };
    git(&["init", "--quiet"]);
    git(&["add", "."]);
    git(&["commit", "--quiet", "-m", "first"]);
    let next = place.read("m/mold.toml").replace("1.0.0", "2.0.0");
    place.write("m/mold.toml", &next);
    place.write("m/body/tests.sh", "test -f built.txt && test -s later.txt\n");
    place.write("m/body/later.txt", "{= web =}\n");
    let prove = |vouch: &str| {
        let ran = place.run(&["prove", "./m", "--from", "1.0.0", "--vouch", vouch, "--format", "json"]);
        let report: Value = serde_json::from_str(&ran.out).unwrap_or(Value::String(ran.err));
        (ran.code, report)
    };
    let (code, report) = prove(&digest_of(&place));
    assert_eq!(code, 0, "{report:#}");
    let names = |report: &Value| -> Vec<String> {
        let targets = report["molds"][0]["sets"][0]["targets"].as_array().unwrap().clone();
        targets.iter().map(|target| target["name"].as_str().unwrap().to_owned()).collect()
    };
    assert_eq!(names(&report)[..3], ["cast", "fit pier", "recast"], "{report:#}");
    // What only a recast breaks is found: the part has no file any more that it can be fitted with.
    std::fs::remove_dir_all(place.path("m/parts")).unwrap();
    let (code, report) = prove(&digest_of(&place));
    assert_eq!(code, 5, "{report:#}");
    place.run(&["prove", "./m", "--from", "0.7.0", "--vouch", &digest_of(&place)]).says(2, &["0.7.0"]);
}

#[test]
fn an_earlier_version_is_never_written_out_of_its_folder() {
    let (place, _) = place(&[]);
    let git = |args: &[&str]| {
        let mut git = place.command_of("git".as_ref());
        git.args(["-c", "user.name=Odile", "-c", "user.email=odile@ferries.example"]).args(args);
        let ran = place.finish(git.current_dir(place.path("m")));
        assert_eq!(ran.code, 0, "{args:?}: {}", ran.err);
        ran.out.trim().to_owned()
    };
    git(&["init", "--quiet"]);
    let written = |kind: &str, bytes: &[u8]| {
        place.write("object", bytes);
        git(&["hash-object", "-t", kind, "-w", "--literally", "../object"])
    };
    let tree = |entries: &[(&str, &str)]| {
        let entry = |(name, digest): &(&str, &str)| {
            let raw = (0..20).map(|at| u8::from_str_radix(&digest[2 * at..2 * at + 2], 16).unwrap());
            format!("{name}\0").into_bytes().into_iter().chain(raw).collect::<Vec<u8>>()
        };
        written("tree", &entries.iter().flat_map(entry).collect::<Vec<u8>>())
    };
    let name = format!("tinmold-escaped-{}", std::process::id());
    let outside = std::env::temp_dir().join(&name);
    let file = written("blob", b"evil");
    let link = written("blob", std::env::temp_dir().display().to_string().as_bytes());
    let evil = tree(&[(&format!("100644 {name}"), &file)]);
    let twice = tree(&[("40000 ..", &evil)]);
    for (version, body) in [
        ("0.5.0", tree(&[("40000 ..", &twice)])),
        ("0.6.0", tree(&[("120000 link", &link), ("40000 link", &evil)])),
    ] {
        let manifest = place.read("m/mold.toml").replace("1.0.0", version);
        let manifest = written("blob", manifest.as_bytes());
        let top = tree(&[("40000 body", &body), ("100644 mold.toml", &manifest)]);
        let commit = git(&["commit-tree", &top, "-m", version]);
        git(&["update-ref", "HEAD", &commit]);
        let vouch = digest_of(&place);
        place.run(&["prove", "./m", "--from", version, "--vouch", &vouch]).says(1, &[version, "body/"]);
        assert!(!outside.exists(), "{version}");
    }
}
