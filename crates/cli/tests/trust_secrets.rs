//! Secrets of a project: where they may be, and who sees them.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use common::{Place, WRITE, digest_of};
use std::fs;
use std::os::unix::fs::PermissionsExt;

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
