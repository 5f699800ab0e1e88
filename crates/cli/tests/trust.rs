//! What a stranger's mold, shelf or clone can do to the user: nothing that the user did not choose.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use common::{Place, WRITE, run_in};
use std::fs;
use std::io::{BufRead, BufReader, Read, Write};
use std::net::{TcpListener, TcpStream};
use std::os::unix::fs::{PermissionsExt, symlink};
use std::process::{Child, Command, Stdio};
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
fn secrets_stay_out_of_git_by_gits_own_rules() {
    let secret =
        "[[question]]\nkey = \"key\"\nkind = \"minted\"\n[[files]]\nmatch = \".env\"\nlocal = true\n";
    let body = [("body/.env", "K={= key =}\n"), ("body/.gitignore", "/.env\n"), ("body/a", "x")];
    let git = |place: &Place, inside: &str, args: &[&str]| {
        place.finish(place.command_of("git".as_ref()).args(args).current_dir(place.path(inside))).says(0, &[])
    };
    // Files in the repository before, where the project is cast, whether git tracks `.env`, and the exit.
    type Files = &'static [(&'static str, &'static str)];
    let cases: [(Files, &str, bool, i32); 16] = [
        (&[("own", "x")], ".", false, 0),
        (&[(".gitignore", "target\n")], ".", false, 6),
        (&[(".gitignore", "target\n.env\n")], ".", false, 0),
        (&[(".gitignore", "{.env,x}\n")], ".", false, 6),
        (&[(".gitignore", ".env\t\n")], ".", false, 6),
        (&[(".gitignore", ".env\n!.env\n")], ".", false, 6),
        (&[(".gitignore", "x\n"), (".git/info/exclude", ".env\n")], ".", false, 0),
        (&[(".gitignore", "/.env\n"), (".env", "K=old\n")], ".", true, 6),
        (&[(".gitignore", "!.env\n"), ("p/own", "x")], "p", false, 0),
        (&[("p/.gitignore", "!.env\n"), (".gitignore", ".env\n")], "p", false, 6),
        (&[("p/.gitignore", "own\n"), (".gitignore", "p\n")], "p", false, 0),
        (&[("p/.gitignore", "own\n"), (".gitignore", "/.env\n")], "p", false, 6),
        (&[("Dockerfile", "COPY . .\n")], ".", false, 6),
        (&[("Dockerfile", "COPY . .\n"), (".dockerignore", "{.env}\n")], ".", false, 6),
        (&[("Dockerfile", "COPY . .\n"), (".dockerignore", "*.env\n")], ".", false, 0),
        (&[(".containerignore", ".git\n")], ".", false, 6),
    ];
    for choice in ["keep", "aside"] {
        for (files, folder, is_tracked, exit) in cases {
            let place = Place::new();
            place.mold(secret, &body);
            // The user's own ignore file is not the project's.
            place.write(".home/ignore", ".env\n");
            place.write(
                ".home/gitconfig",
                format!("[core]\nexcludesFile = {}\n", place.path(".home/ignore").display()),
            );
            fs::create_dir_all(place.path("r")).unwrap();
            fs::create_dir_all(place.path("r").join(folder)).unwrap();
            git(&place, "r", &["init", "--quiet"]);
            for (path, text) in files {
                place.write(&format!("r/{path}"), text);
            }
            if is_tracked {
                git(&place, "r", &["add", "--force", ".env"]);
            }
            let before = place.listing("r");
            let mold = place.path("m").display().to_string();
            let mut command = place.command();
            command.args(["cast", &mold, ".", "--unattended", "--if-present", choice]);
            let ran = place.finish(command.current_dir(place.path("r").join(folder))).says(exit, &[]);
            let what = format!("{choice} {files:?} {folder}: {}", ran.err);
            if exit == 0 {
                git(&place, "r", &["add", "--all"]);
                let added = git(&place, "r", &["ls-files"]).out;
                assert!(!added.lines().any(|path| path.ends_with(".env")), "{what} {added}");
            } else {
                assert_eq!(place.listing("r"), before, "{what}");
            }
        }
    }
    // In a terminal, the line is offered as a change of the user's file, which is never cut.
    let large = "target\n".repeat(800_000);
    for (before, exit, after) in
        [("target\r\n", 0, "target\r\n/.env\r\n"), ("target", 0, "target\n/.env\n"), (&*large, 1, &*large)]
    {
        let place = Place::new();
        place.mold(secret, &body);
        place.write("r/.gitignore", before).write("r/own", "x");
        git(&place, "r", &["init", "--quiet"]);
        let mut terminal = place.terminal(&["cast", "./m", "r", "--if-present", "keep"]);
        terminal.sees("□ add /.env to .gitignore").types(WRITE).sees("This line is needed first").types("\r");
        terminal.sees("■ add /.env").types(WRITE).sees("Write it?").types("\r");
        assert_eq!(terminal.ends(), exit);
        assert!(place.read("r/.gitignore") == after, "{exit}");
        assert_eq!(place.path("r/.env").exists(), exit == 0);
    }
    // A step that takes the cover away gets nothing committed, and no answer from the environment.
    let place = Place::new();
    let steps = "[[finish]]\nname = \"uncover\"\nrun = [\"sh\", \"-c\", \"rm .gitignore; env > seen\"]\n\
        [[finish]]\nname = \"repository\"\ngit = \"First\"\n";
    place.mold(&format!("{secret}{steps}"), &body);
    let user = "[user]\nname = Ada\nemail = ada@saltmarsh.example\n";
    place.write(".home/gitconfig", user);
    let digest = digest_of(&place);
    let mut command = place.command();
    command.args(["cast", "./m", "out", "--unattended", "--finish", "all", "--vouch", &digest]);
    place.finish(command.env("TINMOLD_ANSWER_TOKEN", "s3cret-of-tern-quay")).says(0, &[]);
    assert_eq!(git(&place, "out", &["ls-files", ".env", "a"]).out, "a\n");
    assert!(!place.read("out/seen").contains("s3cret"));
    // A container does not get it either.
    let place = Place::new();
    place.mold(secret, &[&body[..], &[("body/Containerfile", "COPY . .\n")]].concat());
    place.run(&["cast", "./m", "--unattended"]).says(6, &[".containerignore"]);
    place.run(&["check", "./m"]).says(5, &["uncovered-secret"]);
}

#[test]
fn a_typed_secret_goes_into_local_files_only() {
    let place = Place::new();
    let manifest = "[[question]]\nkey = \"token\"\nask = \"Token\"\nkind = \"text\"\nsecret = true\nmin = 4\n\
        [[question]]\nkey = \"pier\"\nask = \"Pier\"\nkind = \"text\"\ndefault = \"Gull Point\"\n\
        [[question]]\nkey = \"key\"\nkind = \"minted\"\nlength = 20\n\
        [derive]\nurl = \"x://{= token =}:{= key =}@pier\"\nlength = { is = \"token.len\" }\n\
        [[files]]\nmatch = \".env\"\nlocal = true\n[[finish]]\nname = \"echo\"\nrun = [\"echo\", \"{= pier =}\"]\n";
    let env = "U={= url =}\nT={= token =}\nN={= length =}\n{= for c in [token] =}L={= c =}{= end =}\n";
    place.mold(manifest, &[("body/.env", env), ("body/.gitignore", "/.env\n"), ("body/a", "{= pier =}")]);
    let secret = "s3cret-of-tern-quay";
    let set = format!("token={secret}");
    let log = place.path("log").display().to_string();
    let leaks = |place: &Place, what: &str| {
        for path in place.listing("").iter().filter(|path| !path.ends_with('/') && !path.ends_with("/.env")) {
            let bytes = fs::read(place.path(path)).unwrap_or_default();
            assert!(!String::from_utf8_lossy(&bytes).contains(secret), "{what}: {path}");
        }
    };
    let quiet = |ran: common::Ran| {
        assert!(!ran.out.contains(secret) && !ran.err.contains(secret), "{}{}", ran.out, ran.err);
        ran
    };
    place.run(&["cast", "./m", "--unattended"]).says(3, &["token"]);
    quiet(place.run(&["cast", "./m", "--unattended", "--set", "token=ab\u{7}"])).says(2, &["token"]);
    let dry = ["cast", "./m", "--unattended", "--dry-run", "--set", &set];
    quiet(place.run(&dry)).says(0, &[]);
    quiet(place.run(&[&dry[..], &["--format", "json"]].concat())).says(0, &[]);
    let shown = quiet(place.run(&[&dry[..], &["--show", ".env"]].concat())).says(0, &["T=********"]);
    assert!(shown.out.contains("U=x://********:********************@pier"), "{}", shown.out);
    let cast =
        ["cast", "./m", "out", "--unattended", "--set", &set, "--save-sheet", "sheet.toml", "--log", &log];
    let ran = place.finish(place.command().args(cast).env("TINMOLD_LOG", "trace"));
    quiet(ran).says(0, &[]);
    let env = place.read("out/.env");
    let minted = env.split(&format!("{secret}:")).nth(1).unwrap().split('@').next().unwrap();
    assert_eq!(env, format!("U=x://{secret}:{minted}@pier\nT={secret}\nN={}\nL={secret}\n", secret.len()));
    assert_eq!(minted.len(), 20);
    assert_eq!(fs::metadata(place.path("out/.env")).unwrap().permissions().mode() & 0o777, 0o600);
    leaks(&place, "cast");
    // Neither is needed again.
    for args in [&["finish"][..], &["status"], &["fit", "--dry-run"]] {
        let ran = place.finish(place.command().args(args).current_dir(place.path("out")));
        assert!(!ran.err.contains("token") && !ran.err.contains(secret), "{args:?} {}", ran.err);
    }
    // On a terminal it is masked, in both kinds of prompts.
    for plain in [&[][..], &["--plain"]] {
        let mut terminal = place.terminal(&[&["cast", "./m", "typed", "--skip-preflight"], plain].concat());
        terminal.sees("Token").types(&format!("{secret}\r")).sees("Pier").types("\r");
        if plain.is_empty() {
            terminal.types(WRITE).sees("Write it?").types("\r");
        } else {
            terminal.sees("Write it?").types("yes\r");
        }
        let screen = terminal.sees("Written").screen();
        assert_eq!(terminal.ends(), 0);
        assert!(!screen.contains(secret), "{screen}");
        assert!(place.read("typed/.env").contains(secret));
        fs::remove_dir_all(place.path("typed")).unwrap();
        leaks(&place, "typed");
    }
    // Wherever it would get out, the mold is at fault.
    let refuse = |manifest: &str, files: &[(&str, &str)]| {
        let place = Place::new();
        let key =
            "[[question]]\nkey = \"token\"\nask = \"?\"\nkind = \"text\"\nsecret = true\noptional = true\n";
        place.mold(&format!("{key}{manifest}"), files);
        place.run(&["cast", "./m", "--unattended"]).says(5, &[]);
        assert!(!place.path("out").exists());
    };
    for text in [
        "{= token =}",
        "{= token.len =}",
        "{= for c in token.lines =}x{= end =}",
        "{= if token == \"a\" =}b{= end =}",
    ] {
        refuse("", &[("body/a", text)]);
    }
    refuse("", &[("body/{= token =}", "x")]);
    refuse("[[files]]\nmatch = \"a{= c =}\"\neach = \"c in token.lines\"\n", &[("body/a{= c =}", "x")]);
    refuse("[next]\nlines = [\"{= token =}\"]\n", &[("body/a", "x")]);
    refuse("[[finish]]\nname = \"a\"\nrun = [\"echo\", \"{= token =}\"]\n", &[("body/a", "x")]);
    refuse(
        "[[question]]\nkey = \"b\"\nask = \"?\"\nkind = \"text\"\ndefault = \"{= token =}\"\n",
        &[("body/a", "x")],
    );
    refuse("[[question]]\nkey = \"b\"\nask = \"?\"\nkind = \"flag\"\nsecret = true\n", &[("body/a", "x")]);
}

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

/// Packs the mold `m` into the folder `shelf`.
fn pack(place: &Place) {
    fs::create_dir_all(place.path("shelf")).unwrap();
    place.run(&["pack", "./m", "--to", "shelf"]).says(0, &[]);
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

/// Returns the digest of the mold `m`.
fn digest_of(place: &Place) -> String {
    let shown = place.run(&["show", "./m", "--format", "json"]).out;
    let shown: serde_json::Value = serde_json::from_str(&shown).unwrap();
    shown["digest"].as_str().unwrap().to_owned()
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
