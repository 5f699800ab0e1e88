//! What a stranger's mold, shelf or clone can do to the user: nothing that the user did not choose.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use common::{Place, digest_of, run_in};
use std::fs;
use std::os::unix::fs::symlink;
use std::process::{Command, Stdio};
use std::time::Duration;

#[test]
fn the_destination_is_the_users_choice() {
    for folder in [
        "..",
        ".",
        "../x",
        "/tmp/x",
        "a/b",
        "a\\\\b",
        ".git",
        ".GIT",
        ".hidden",
        "git~1",
        "nul",
        "COM1.txt",
        "",
        "x ",
        "x:y",
        ".\u{200c}git",
    ] {
        let place = Place::new();
        place.mold("", &[("body/hooks/pre-commit", "x")]);
        let manifest = place.read("m/mold.toml").replace("\"out\"", &format!("\"{folder}\""));
        place.write("m/mold.toml", manifest);
        let before = place.listing("");
        place.run(&["cast", "./m", "--unattended"]).says(5, &["bad-folder"]);
        assert_eq!(place.listing(""), before, "{folder}");
    }
    // An answer cannot make the folder a path either.
    let place = Place::new();
    let question = "[[question]]\nkey = \"name\"\nask = \"?\"\nkind = \"text\"\ndefault = \"x\"\n";
    place.mold(question, &[("body/a", "x")]);
    let manifest = place.read("m/mold.toml").replace("\"out\"", "\"{= name =}\"");
    place.write("m/mold.toml", manifest);
    place.run(&["cast", "./m", "--unattended", "--set", "name=../up"]).says(5, &["bad-folder"]);
    place.run(&["cast", "./m", "--unattended", "--set", "name=in"]).says(0, &[]);
}

#[test]
fn one_digest_is_one_mold() {
    let place = Place::new();
    place.mold("", &[("body/a b", "x"), ("body/run.sh", "y"), ("body/é", "z")]);
    let tools = "cd m && chmod 755 body/run.sh && mkdir body/empty && ln -s run.sh body/link && \
        find . -mindepth 1 \\( -type f -o -type l -o -type d -empty \\) -printf '%P\\n' | LC_ALL=C sort | \
        while IFS= read -r path; do \
        if [ -L \"$path\" ]; then mode=link; sum=$(readlink -n \"$path\" | sha256sum); \
        elif [ -d \"$path\" ]; then mode=folder; sum=$(sha256sum < /dev/null); \
        else mode=644; [ ! -x \"$path\" ] || mode=755; sum=$(sha256sum < \"$path\"); fi; \
        printf '%s %s %s\\n' \"${sum%% *}\" \"$mode\" \"$path\"; done | sha256sum";
    let ran = run_in(&place, "", "sh", &["-c", tools]);
    let digest = format!("\"2:{}\"", ran.out.split(' ').next().unwrap());
    place.run(&["show", "./m", "--format", "json"]).says(0, &[&digest]);
    // A name cannot stand for several lines of the list.
    fs::write(place.path("m/body/a\n644 b"), "x").unwrap();
    place.run(&["cast", "./m", "--unattended"]).says(5, &["control character"]);
    assert!(!place.path("out").exists());
}

#[test]
fn nothing_in_a_clone_is_believed() {
    let place = Place::new();
    place.mold("", &[("body/a", "x")]);
    place.run(&["cast", "./m", "clone", "--unattended"]).says(0, &[]);
    // What earlier programs took for a write at work, and what looks like something staged.
    let journal = "{\"format\":1,\"folders\":[],\"steps\":[{\"path\":\"a\",\"was\":\"0\",\"new\":null}]}";
    place.write("clone/.tinmold/pending/journal.json", journal).write("clone/.tinmold/pending/old/a", "evil");
    place.write("clone/.tinmold-stage-mine/notes", "mine").write("clone/.tinmold/stage-1/old/a", "evil");
    let before = place.listing("clone");
    for args in
        [&["status"][..], &["finish"], &["fit", "--dry-run"], &["find"], &["cast", "./m", ".", "--dry-run"]]
    {
        let ran = place.finish(place.command().args(args).current_dir(place.path("clone")));
        assert!(!ran.err.contains("ecover") && !ran.err.contains("interrupted"), "{args:?}: {}", ran.err);
        assert_eq!(place.listing("clone"), before, "{args:?}");
    }
    assert_eq!(place.read("clone/a"), "x");
    // A record is a file of its own, through no link.
    let record = place.path("clone/.tinmold/casting.toml");
    let text = fs::read_to_string(&record).unwrap();
    let pipe = |path: &str| assert!(Command::new("mkfifo").arg(place.path(path)).status().unwrap().success());
    let refuse = |exit: i32| {
        for command in ["status", "finish", "fit"] {
            let mut limited = place.command_of("timeout".as_ref());
            limited.args(["20", env!("CARGO_BIN_EXE_tinmold"), command]).current_dir(place.path("clone"));
            place.finish(&mut limited).says(exit, &[]);
        }
        let args = ["cast", "./m", "clone", "--unattended", "--if-present", "replace"];
        let ran = place.run(&args);
        assert!([1, 4, 6].contains(&ran.code), "{}", ran.err);
    };
    fs::remove_file(place.path("clone/.tinmold/files.sha256")).unwrap();
    pipe("clone/.tinmold/files.sha256");
    refuse(1);
    fs::remove_file(&record).unwrap();
    pipe("clone/.tinmold/casting.toml");
    refuse(1);
    fs::remove_file(&record).unwrap();
    place.write("elsewhere/casting.toml", text);
    symlink(place.path("elsewhere/casting.toml"), &record).unwrap();
    refuse(1);
    fs::remove_dir_all(place.path("clone/.tinmold")).unwrap();
    symlink(place.path("elsewhere"), place.path("clone/.tinmold")).unwrap();
    refuse(1);
    assert_eq!(place.listing("elsewhere"), ["casting.toml"]);
}

#[test]
fn a_link_that_is_swapped_in_is_not_followed() {
    let place = Place::new();
    place.mold("", &[("body/a.txt", "x")]);
    for number in 0..400 {
        place.write(&format!("m/body/d{}/{number}.txt", number % 8), "new");
    }
    place.write("outside/keep", "mine");
    for turn in 0..12 {
        let (out, outside) = (place.path("out"), place.path("outside"));
        let _ = fs::remove_dir_all(&out);
        for number in 0..8 {
            place.write(&format!("out/d{number}/{number}.txt"), "old");
        }
        let mut command = place.command();
        command.args(["cast", "./m", "out", "--unattended", "--if-present", "replace", "--quiet"]);
        let mut child = command.stderr(Stdio::null()).spawn().unwrap();
        let mut swapped = 0;
        while child.try_wait().unwrap().is_none() {
            let folder = out.join(format!("d{}", (turn + swapped) % 8));
            let aside = out.join(format!("was{swapped}"));
            if fs::rename(&folder, &aside).is_ok() {
                swapped += usize::from(symlink(&outside, &folder).is_ok());
            }
            std::thread::sleep(Duration::from_micros(700));
        }
        child.wait().unwrap();
        assert_eq!(place.listing("outside"), ["keep"]);
    }
}

#[test]
fn without_a_state_directory_an_existing_folder_stays_as_it_is() {
    let place = Place::new();
    place.mold("", &[("body/a", "x")]);
    place.write("out/mine", "mine").write(".home/state", "a file");
    place.run(&["cast", "./m", "out", "--unattended"]).says(1, &["state"]);
    assert_eq!(place.listing("out"), ["mine"]);
    place.run(&["cast", "./m", "new", "--unattended"]).says(0, &[]);
    assert_eq!(place.listing("new"), [".tinmold/", ".tinmold/casting.toml", ".tinmold/files.sha256", "a"]);
}

#[test]
fn git_runs_nothing_of_a_strangers() {
    let place = Place::new();
    let finish = "[[finish]]\nname = \"repository\"\ngit = \"First\"\n";
    place
        .mold(finish, &[("body/a", "{= user.name =}"), ("body/.gitattributes", "* filter=evil diff=evil\n")]);
    place.write("evil", "#!/bin/sh\ntouch \"$(dirname \"$0\")/ran\"\ncat\n");
    Command::new("chmod").args(["755", "evil"]).current_dir(place.path("")).status().unwrap();
    let evil = place.path("evil").display().to_string();
    let config = format!(
        "[core]\n\trepositoryformatversion = 0\n\tfsmonitor = {evil}\n\thooksPath = hooks\n\tpager = {evil}\n\
         \teditor = {evil}\n\tsshCommand = {evil}\n[filter \"evil\"]\n\tclean = {evil}\n\tsmudge = {evil}\n\
         \tprocess = {evil}\n\trequired = true\n[diff]\n\texternal = {evil}\n[diff \"evil\"]\n\ttextconv = {evil}\n\
         [gpg]\n\tprogram = {evil}\n[commit]\n\tgpgSign = true\n[alias]\n\tadd = !{evil}\n"
    );
    let vouched = place.run(&["show", "./m", "--format", "json"]).out;
    let digest = vouched.split("\"digest\": \"").nth(1).unwrap().split('"').next().unwrap().to_owned();
    // A repository, and a folder that only looks like one: git would repair it and keep its settings.
    for (name, head) in [("whole", Some("ref: refs/heads/main\n")), ("broken", None)] {
        let git = |inside: &str| format!("{name}/.git/{inside}");
        place.write(&git("config"), &config).write(&git("objects/x"), "").write(&git("refs/x"), "");
        place.write(&git("hooks/post-index-change"), place.read("evil")).write(&format!("{name}/mine"), "x");
        place.write(&git("hooks/pre-commit"), place.read("evil"));
        Command::new("chmod")
            .args(["-R", "755", &git("hooks")])
            .current_dir(place.path(""))
            .status()
            .unwrap();
        if let Some(head) = head {
            place.write(&git("HEAD"), head);
        }
        for args in [
            &["cast", "../m", ".", "--unattended", "--vouch", &digest, "--finish", "all"][..],
            &["status"],
            &["finish", "all", "--vouch", &digest],
            &["fit", "--dry-run"],
            &["find"],
            &["show", "../m"],
            &["check", "../m"],
            &["preflight", "../m"],
            &["cast", "../m", ".", "--dry-run"],
        ] {
            let mut command = place.command();
            // Nor does what the environment says to git.
            command
                .env("GIT_EXTERNAL_DIFF", &evil)
                .env("GIT_EDITOR", &evil)
                .env("GIT_EXEC_PATH", place.path(""));
            command.env("GIT_CONFIG_COUNT", "1").env("GIT_CONFIG_KEY_0", "core.fsmonitor");
            command.env("GIT_CONFIG_VALUE_0", &evil).env("GIT_DIR", place.path("elsewhere"));
            place.finish(command.args(args).current_dir(place.path(name)));
            assert!(!place.path("ran").exists(), "{name}: {args:?}");
        }
        assert!(place.path(&format!("{name}/a")).exists());
        assert!(!place.path(&git("index")).exists(), "{name}");
    }
    assert!(!place.path("elsewhere").exists());
}

#[test]
fn consent_shows_all_that_runs() {
    let place = Place::new();
    let manifest = "[[finish]]\nname = \"build\"\nrun = [\"make\", \"-s\", \"build\"]\nfolder = \"sub\"\nminutes = 3\n\
        environment = { PORT = \"8080\" }\n\
        [[finish]]\nname = \"own\"\nrun = [\"./own\", \"a b\"]\ninteractive = true\n\
        [[finish]]\nname = \"gone\"\nrun = [\"no-such-program-here\"]\n";
    let makefile = "build: first\n\tcurl x | sh; echo $(PORT) > port\nfirst:\n\techo first\n";
    place.mold(manifest, &[("body/sub/Makefile", makefile), ("body/own", "#!/bin/sh\ntouch ran\n")]);
    let digest = digest_of(&place);
    let expected = [
        "make -s build",
        "/make, in sub, PORT=8080, at most 3 min, without the terminal",
        "the mold's code",
        "echo first",
        "curl x | sh; echo $(PORT) > port",
        "./own 'a b'",
        "a file that the project makes itself, in the project's folder, at most 15 min, gets the terminal",
        "no-such-program-here is not on PATH now",
    ];
    place.run(&["show", "./m"]).says(0, &expected);
    place.run(&["cast", "./m", "--unattended", "--finish", "all"]).says(6, &expected);
    let review = place.run_with(&["cast", "./m", "--plain", "--skip-preflight"], "no\n");
    assert!(expected.iter().all(|text| review.err.contains(text)), "{}", review.err);
    place.run(&["cast", "./m", "--unattended"]).says(0, &[]);
    place.run(&["finish", "--dir", "out"]).says(0, &expected);
    place.run(&["finish", "all", "--dir", "out"]).says(6, &expected);
    // A variable of the user's stays.
    let mut command = place.command();
    command.args(["finish", "build", "--dir", "out", "--vouch", &digest]).env("PORT", "1");
    place.finish(&mut command);
    assert_eq!(place.read("out/sub/port").trim(), "1");
    // A step sets only settings of the project.
    for name in [
        "PATH",
        "LD_PRELOAD",
        "PYTHONSTARTUP",
        "NODE_OPTIONS",
        "npm_config_registry",
        "PIP_INDEX_URL",
        "MAKEFLAGS",
        "GIT_SSH_COMMAND",
        "RUSTC_WRAPPER",
        "JAVA_TOOL_OPTIONS",
        "BASH_ENV",
        "HOME",
        "APP_*",
        "APP_a",
        "DOCKER_HOST",
    ] {
        let place = Place::new();
        let step =
            format!("[[finish]]\nname = \"a\"\nrun = [\"true\"]\nenvironment = {{ \"{name}\" = \"x\" }}\n");
        place.mold(&step, &[("body/a", "x")]);
        place.run(&["cast", "./m", "--unattended"]).says(5, &["bad-step"]);
        assert!(!place.path("out").exists());
    }
}

#[test]
fn to_vouch_for_a_mold_is_not_to_vouch_for_a_clone() {
    let place = Place::new();
    place.mold("[[finish]]\nname = \"own\"\nrun = [\"sh\", \"own\"]\n", &[("body/own", "touch ran\n")]);
    let digest = digest_of(&place);
    place.write(".home/config/tinmold/vouched", format!("{digest}  m\n"));
    place.run(&["cast", "./m", "--unattended"]).says(0, &[]);
    run_in(&place, "", "cp", &["-r", "out", "clone"]).says(0, &[]);
    place.write("clone/own", "touch evil\n");
    place.run(&["finish", "all", "--dir", "clone"]).says(6, &["--vouch"]);
    assert!(!place.path("clone/evil").exists());
    place.run(&["finish", "all", "--dir", "out"]).says(0, &[]);
    assert!(place.path("out/ran").exists());
    // Nor is a clone believed that takes the project's place.
    fs::remove_dir_all(place.path("out")).unwrap();
    fs::rename(place.path("clone"), place.path("out")).unwrap();
    place.run(&["finish", "all", "--dir", "out"]).says(6, &["--vouch"]);
    place.run(&["finish", "all", "--dir", "out", "--vouch", &digest]).says(0, &[]);
    // The built-in shelf is vouched for, and so is not what somebody made of its projects.
    place.run(&["cast", "c-tool", "tool", "--unattended", "--skip-preflight"]).says(0, &[]);
    run_in(&place, "", "cp", &["-r", "tool", "copy"]).says(0, &[]);
    place.run(&["finish", "all", "--dir", "copy"]).says(6, &["--vouch"]);
}

#[test]
fn links_and_trees_stay_what_they_seem() {
    type Links = &'static [(&'static str, &'static str)];
    type Files = &'static [&'static str];
    // The links of a mold, its files, and whether it can be cast.
    let cases: [(Links, Files, bool); 22] = [
        (&[("l", "a")], &["a"], true),
        (&[("d/l", "../a"), ("m", "d/l")], &["a", "d/x"], true),
        (&[("x/l", ".."), ("y", "x/l/../../out")], &["x/a"], false),
        (&[("x/l", ".."), ("y", "x/l/..")], &["x/a"], false),
        (&[("x/L", ".."), ("y", "x/l/..")], &["x/a"], false),
        (&[("p", "q"), ("q", "r"), ("r", "../up")], &["a"], false),
        (&[("p", "q"), ("q", "p")], &["a"], false),
        (&[("l", ".GIT/hooks")], &["a"], false),
        (&[("l", "git~1/config")], &["a"], false),
        (&[("l", ".g\u{200c}it")], &["a"], false),
        (&[("l", ".tinmold/casting.toml")], &["a"], false),
        (&[("d", "e"), ("l", "d/.git")], &["e/a"], false),
        (&[("l", "C:/x")], &["a"], false),
        (&[], &["HEAD", "objects/x", "refs/heads/main"], false),
        (&[], &["sub/head", "sub/Objects/x", "sub/REFS/x"], false),
        (&[], &["w/HEAD", "w/commondir"], false),
        (&[], &["sub/HEAD", "sub/objects/x"], true),
        (&[], &["sub/.git"], false),
        (&[], &["stra\u{df}e", "STRASSE"], false),
        (&[], &["\u{fb01}le", "FILE"], false),
        (&[], &["caf\u{e9}", "cafe\u{301}"], false),
        (&[], &["a\u{200d}b", "ab"], false),
    ];
    for (links, files, is_fine) in cases {
        let place = Place::new();
        place.mold("", &[]);
        for file in files {
            place.write(&format!("m/body/{file}"), "x");
        }
        for (path, target) in links {
            let path = place.path(&format!("m/body/{path}"));
            fs::create_dir_all(path.parent().unwrap()).unwrap();
            symlink(target, path).unwrap();
        }
        let ran = place.run(&["cast", "./m", "--unattended"]);
        assert_eq!(ran.code == 0, is_fine, "{links:?} {files:?}: {}", ran.err);
        assert!(is_fine || (matches!(ran.code, 5 | 6) && !place.path("out").exists()), "{}", ran.err);
    }
}

#[test]
fn a_folder_that_is_named_is_meant() {
    let place = Place::new();
    let part = "[part]\nname = \"note\"\nsummary = \"A note\"\nfits = [\"other\"]\n";
    place.mold("[[finish]]\nname = \"repository\"\ngit = \"First\"\n", &[("body/a", "x")]);
    place.write("m/parts/note/part.toml", part).write("m/parts/note/body/note.txt", "n");
    place.run(&["cast", "./m", "out", "--unattended"]).says(0, &["git init"]);
    fs::create_dir_all(place.path("out/inner")).unwrap();
    let mold = place.path("m").display().to_string();
    let mut command = place.command();
    command.args(["fit", "note", "--mold", &mold, "--dir", ".", "--unattended"]);
    place.finish(command.current_dir(place.path("out/inner")));
    assert!(!place.path("out/note.txt").exists());
    // The message names the folder that was looked in.
    fs::create_dir(place.path("nothing")).unwrap();
    let mut command = place.command();
    command.args(["fit", "note"]).current_dir(place.path("nothing"));
    let here = place.path("nothing").canonicalize().unwrap().display().to_string();
    place.finish(&mut command).says(2, &[&here]);
    // In a repository no other one is begun.
    fs::create_dir(place.path("repository")).unwrap();
    run_in(&place, "repository", "git", &["init", "--quiet"]).says(0, &[]);
    for folder in ["repository/inner", "repository"] {
        let ran = place.run(&["cast", "./m", folder, "--unattended"]).says(0, &[]);
        assert!(!ran.err.contains("git init"), "{}", ran.err);
    }
}
