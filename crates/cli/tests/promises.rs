//! What molds promise as products: under stress, after fits, when something fails.
#![allow(clippy::unwrap_used)]

mod common;
use common::{Place, answer, cast, has, left_out, run_in, wait_until};
use std::io::{Read, Write};
use std::net::{TcpListener, TcpStream};
use std::process::{Command, Stdio};
use std::time::Duration;

/// A request, and the statuses with which the services in Python, Go, Java (the JDK's server, Spring Boot), on
/// Node.js (its own server, Express, Fastify) and in Rust (axum, Actix Web) answer it.
fn requests() -> Vec<(String, [u16; 9])> {
    let json = "Host: x\r\nConnection: close\r\nContent-Type: application/json\r\n";
    let chunks = format!("10000\r\n{}\r\n", "1".repeat(65536)).repeat(1280);
    let smuggled = "GET /health HTTP/1.1\r\nHost: x\r\n\r\n";
    let get = |path: &str| format!("GET {path} HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n");
    let post = |rest: String| format!("POST /notes HTTP/1.1\r\n{json}{rest}");
    vec![
        (get("/health"), [200; 9]),
        (get("/health").replace("GET", "HEAD"), [200; 9]),
        (get("/nothing"), [404; 9]),
        (get("/notes").replace("GET", "DELETE"), [405; 9]),
        (post("Content-Length: 21\r\n\r\n{\"text\": \"Buy paint\"}".into()), [201; 9]),
        (
            post("Content-Length: 12\r\n\r\n{\"text\":\"a\"}".into())
                .replace("application/json", "text/plain"),
            [415; 9],
        ),
        (post("Content-Length: 4\r\n\r\n{\"t}".into()), [400; 9]),
        (post("Content-Length: 2\r\n\r\n[]".into()), [422, 422, 400, 400, 400, 400, 400, 422, 422]),
        (
            post(format!("Content-Length: 4\r\nTransfer-Encoding: chunked\r\n\r\n0\r\n\r\n{smuggled}")),
            [411, 400, 400, 0, 400, 400, 400, 400, 400],
        ),
        (post(format!("Content-Length: 0\r\nContent-Length: 9\r\n\r\n{smuggled}")), [400; 9]),
        (post("Content-Length: +5\r\n\r\nabcde".into()), [400; 9]),
        (
            post(format!("Transfer-Encoding: chunked\r\n\r\n{chunks}")),
            [411, 413, 413, 413, 413, 413, 413, 413, 413],
        ),
        (post("Content-Length: 83886080\r\n\r\n".into()), [413, 0, 0, 413, 413, 413, 413, 413, 413]),
        (get(&format!("/{}", "a".repeat(70_000))), [414, 431, 404, 400, 431, 431, 431, 414, 400]),
    ]
}

#[cfg(unix)]
#[test]
fn a_service_stands_what_strangers_send() {
    let place = Place::new();
    let services = [
        ("python-service", "python3", ""),
        ("go-service", "go", ""),
        ("java-service", "javac", "web=jdk"),
        ("java-service", "javac", "web=spring"),
        ("node-service", "node", "web=node"),
        ("node-service", "node", "web=express language=ts"),
        ("node-service", "node", "web=fastify database=sqlite"),
        ("rust-service", "cargo", "database=sqlite"),
        ("rust-service", "cargo", "web=actix"),
    ];
    for (at, (name, tool, answer_of)) in services.into_iter().enumerate() {
        // .ci/registries says that packages can be had.
        let is_fetched = tool != "javac" && matches!(answer_of, "" | "web=node")
            || std::env::var_os("TINMOLD_REGISTRIES").is_some();
        if !has(tool) || !is_fetched {
            left_out(
                &format!("{name} {answer_of} under stress"),
                if is_fetched { tool } else { "a registry" },
            );
            continue;
        }
        let mold = &format!("{name}{at}");
        let answers: Vec<&str> = answer_of.split(' ').filter(|answer| !answer.is_empty()).collect();
        cast(&place, name, mold, &answers);
        run_in(&place, mold, "make", &["-s", "build"]).says(0, &[]);
        let port = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
        let mut make = Command::new("make");
        make.args(["-s", "run"]).current_dir(place.path(mold)).env("PORT", port.to_string());
        let mut service = make.stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap();
        let is_open = || TcpStream::connect(("127.0.0.1", port)).is_ok();
        wait_until(300, &format!("{mold} does not start"), is_open);
        for (request, statuses) in requests() {
            // Some wait for the body, and answer once it is late.
            let Some(status) = Some(statuses[at]).filter(|status| *status > 0) else { continue };
            let got = answer(port, request.as_bytes()).unwrap();
            let head = &request[..request.len().min(200)];
            // The answer to a body that is still sent may be lost with its connection.
            let is_lost = got.is_empty() && request.len() > 65536;
            assert!(got.contains(&format!(" {status} ")) || is_lost, "{mold} {head:?}: {got}");
            assert!(got.matches("HTTP/1.").count() <= 1, "{mold} {head:?} is two requests: {got}");
            assert!(status != 405 || got.to_lowercase().contains("allow: ") && got.contains("POST"), "{got}");
            assert!(!request.starts_with("HEAD") || got.ends_with("\r\n\r\n"), "{got}");
        }
        // Asked to stop, it cuts what is half sent, and leaves no process behind.
        let mut half = TcpStream::connect(("127.0.0.1", port)).unwrap();
        half.write_all(b"POST /notes HTTP/1.1\r\nHost: x\r\nContent-Length: 10\r\n\r\n").unwrap();
        half.set_read_timeout(Some(Duration::from_secs(60))).unwrap();
        answer(port, b"GET /health HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n").unwrap();
        let stopped = Command::new("kill").arg(service.id().to_string()).status().unwrap();
        assert!(stopped.success());
        let mut bytes = Vec::new();
        let _ = half.read_to_end(&mut bytes);
        let rest = String::from_utf8_lossy(&bytes);
        assert!(!rest.contains(" 201 "), "the half-sent request is taken: {rest}");
        service.wait().unwrap();
        wait_until(20, &format!("{mold}: a process is left behind"), || !is_open());
    }
}

#[test]
fn a_mold_stands_alone_once_it_is_packed() {
    let place = Place::in_memory();
    let top = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    std::fs::create_dir(place.path("shelf")).unwrap();
    for mold in [
        "python-service",
        "python-site",
        "docs-site",
        "go-service",
        "java-service",
        "java-library",
        "node-service",
        "web-app",
        "rust-service",
        "rust-cli",
        "c-tool",
    ] {
        let source = top.join("molds").join(mold);
        place.run(&["pack", source.to_str().unwrap(), "--to", "shelf"]).says(0, &[]);
    }
    place.run(&["shelf", "add", "ours", "shelf"]).says(0, &[]);
    for (mold, answer) in [
        ("python-service", "web=flask"),
        ("python-site", "extras=ci,container"),
        ("docs-site", "languages=en,fr"),
        ("go-service", "licence=MIT"),
        ("java-service", "modules=several"),
        ("java-library", "libraries=gson,jspecify"),
        ("node-service", "manager=yarn"),
        ("web-app", "view=vue"),
        ("rust-service", "database=sqlite"),
        ("rust-cli", "extras=ci,release"),
        ("c-tool", "build=cmake"),
    ] {
        cast(&place, &format!("built-in/{mold}"), &format!("{mold}/tides"), &[answer]);
        cast(&place, &format!("ours/{mold}"), &format!("packed-{mold}/tides"), &[answer]);
        let texts = |folder: &str| -> Vec<(String, String)> {
            let files = place.listing(folder).into_iter();
            let files = files.filter(|path| !path.ends_with('/') && !path.starts_with(".tinmold"));
            // What is minted differs.
            let files = files.filter(|path| path != ".env");
            files.map(|path| (place.read(&format!("{folder}/{path}")), path)).collect()
        };
        assert_eq!(texts(&format!("{mold}/tides")), texts(&format!("packed-{mold}/tides")), "{mold}");
    }
}

#[test]
fn a_minted_key_is_known_to_the_project_alone() {
    let place = Place::in_memory();
    let key = |folder: &str| -> String {
        let mut command = place.command();
        command.args(["cast", "python-site", folder, "--unattended", "--skip-preflight"]);
        command.args(["--log", "log", "--set", "database=postgres"]).env("TINMOLD_LOG", "trace");
        let ran = place.finish(&mut command).says(0, &[]);
        let settings = place.read(&format!("{folder}/.env"));
        let line = settings.lines().find_map(|line| line.strip_prefix("SECRET_KEY="));
        let key = line.unwrap().to_owned();
        assert!(key.len() == 50 && key.chars().all(|c| c.is_ascii_alphanumeric()), "{key}");
        assert!(!format!("{}{}{}", ran.out, ran.err, place.read("log")).contains(&key));
        for file in place.listing(folder).iter().filter(|path| !path.ends_with('/') && *path != ".env") {
            assert!(!place.read(&format!("{folder}/{file}")).contains(&key), "{file}");
        }
        key
    };
    assert_ne!(key("one"), key("two"));
    // What is refused is told before what would have been made of it.
    let languages = ["cast", "docs-site", "d", "--unattended", "--set", "languages="];
    place.run(&languages).says(2, &["languages"]);
    let readme = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../README.md")).unwrap();
    for name in tinmold_mold::package::built_in_names() {
        assert!(readme.contains(&format!("| `{name}` |")), "the README does not list {name}");
    }
}

#[test]
fn a_failed_setup_is_not_taken_for_done() {
    let place = Place::new();
    for (mold, answers, ready) in [
        ("python-service", &["web=flask"][..], ".venv/ready"),
        ("python-library", &[], ".venv/ready"),
        ("python-site", &[], ".venv/ready"),
        ("docs-site", &["tool=sphinx"], ".venv/ready"),
        ("node-service", &["web=express"], "node_modules/.ready"),
        ("web-app", &["view=vue"], "node_modules/.ready"),
        ("rust-service", &[], "Cargo.lock"),
        ("rust-cli", &[], "Cargo.lock"),
    ] {
        cast(&place, mold, mold, answers);
        let make = |target: &str| {
            let mut make = Command::new("make");
            // No package can be had.
            make.args(["-s", target]).current_dir(place.path(mold)).env("PIP_NO_INDEX", "1");
            make.env("npm_config_offline", "true").env("npm_config_cache", place.path("none"));
            make.env("CARGO_NET_OFFLINE", "true").env("CARGO_HOME", place.path("none"));
            place.finish(&mut make)
        };
        for target in ["setup", "setup", "test"] {
            let failed = make(target);
            assert_eq!(failed.code, 2, "{mold} {target}: {}{}", failed.out, failed.err);
            assert!(!place.path(&format!("{mold}/{ready}")).exists(), "{mold} {target}");
        }
        make("clean").says(0, &[]);
        let folder = ready.split_once('/').map_or(ready, |(folder, _)| folder);
        assert!(!place.path(&format!("{mold}/{folder}")).exists());
    }
}

#[test]
fn workflows_and_settings_are_careful() {
    let place = Place::in_memory();
    for (mold, answers) in [
        ("python-service", &["web=fastapi", "database=sqlite", "extras=ci,container,compose,updates"][..]),
        (
            "python-service",
            &["web=flask", "database=postgres", "manager=uv", "extras=ci,container,compose,updates"],
        ),
        ("python-service", &["extras=ci,container,updates"]),
        ("python-library", &["extras=ci,release,updates"]),
        ("python-site", &["database=postgres", "extras=ci,container,compose,updates"]),
        ("docs-site", &["tool=mkdocs", "extras=ci,deploy,versions,container,updates"]),
        (
            "java-service",
            &["web=spring", "database=postgres", "modules=several", "extras=ci,container,compose,updates"],
        ),
        ("java-service", &["database=h2", "extras=ci,container,compose,updates"]),
        (
            "node-service",
            &["web=fastify", "features=tokens", "database=postgres", "extras=ci,container,compose,updates"],
        ),
        ("node-service", &["language=ts", "manager=pnpm", "database=sqlite", "extras=ci,container,compose"]),
        ("java-library", &["publishing=central", "extras=ci,updates"]),
        ("java-app", &["build=maven", "modules=several", "extras=ci,container,updates"]),
        ("go-cli", &["arguments=cobra", "extras=ci,container,updates"]),
        ("rust-service", &["database=postgres", "extras=ci,container,compose,updates"]),
        ("rust-cli", &["extras=ci,release,container,updates"]),
        ("c-tool", &["build=cmake", "tests=cmocka", "extras=lint,ci,container,updates"]),
    ] {
        let folder = format!("{mold}{}", answers.concat().len());
        cast(&place, mold, &folder, answers);
        let files = place.listing(&folder);
        let workflows: Vec<_> = files.iter().filter(|file| file.starts_with(".github/workflows/")).collect();
        assert!(workflows.iter().any(|file| file.ends_with(".yml")), "{files:?}");
        for file in workflows.iter().filter(|file| file.ends_with(".yml")) {
            let text = place.read(&format!("{folder}/{file}"));
            let flow: serde_json::Value = serde_saphyr::from_str(&text).unwrap();
            assert!(flow["permissions"].is_object() && flow["concurrency"].is_object(), "{text}");
            assert!(flow["permissions"].as_object().unwrap().values().all(|what| what == "read"), "{text}");
            assert!(
                flow["on"]["push"]["branches"].is_array() || flow["on"]["push"]["tags"].is_array(),
                "{text}"
            );
            for job in flow["jobs"].as_object().unwrap().values() {
                assert!(job["timeout-minutes"].is_u64(), "{text}");
                let mut uses =
                    job["steps"].as_array().unwrap().iter().filter_map(|step| step["uses"].as_str());
                assert!(uses.all(|action| action.contains("@v") || action.contains("@release/v")), "{text}");
            }
        }
        // What the code reads from the environment is told, and so is what compose wants.
        let readme = place.read(&format!("{folder}/README.md"));
        let module = folder.replace('-', "_");
        if let Some(settings) = files.iter().find(|file| **file == format!("src/{module}/settings.py")) {
            let code = place.read(&format!("{folder}/{settings}"));
            let quoted: Vec<_> = code
                .split(['(', '.'])
                .filter_map(|piece| piece.strip_prefix('"')?.split_once('"'))
                .map(|(name, _)| name)
                .filter(|name| !name.is_empty() && name.chars().all(|c| c.is_ascii_uppercase() || c == '_'))
                .filter(|name| !matches!(*name, "DEBUG" | "INFO" | "NAME" | "BACKEND" | "OPTIONS"))
                .collect();
            for name in quoted {
                assert!(readme.contains(&format!("`{name}`")), "{folder}: {name} is not told");
            }
        }
        let keys = |file: &str| -> Vec<String> {
            let text = place.read(&format!("{folder}/{file}"));
            let lines = text.lines().filter_map(|line| line.split_once('='));
            lines.map(|(key, _)| key.to_owned()).filter(|key| !key.starts_with('#')).collect()
        };
        if files.contains(&".env".to_owned()) {
            let example = keys(".env.example");
            assert!(keys(".env").iter().all(|key| example.contains(key)), "{folder}: {example:?}");
            assert!(place.read(&format!("{folder}/.gitignore")).lines().any(|line| line == ".env"));
        }
        if files.contains(&"compose.yaml".to_owned()) {
            let compose = place.read(&format!("{folder}/compose.yaml"));
            for wanted in compose.match_indices("${").map(|(at, _)| &compose[at + 2..]) {
                let (name, rest) = wanted.split_once(':').unwrap();
                assert!(rest.starts_with('?') && keys(".env").contains(&name.to_owned()), "{folder}: {name}");
            }
        }
    }
}

#[test]
fn pages_are_ordered_checked_and_found() {
    if !has("python3") {
        left_out("the pages of docs-site are built", "python3");
        return;
    }
    let place = Place::new();
    cast(&place, "docs-site", "d", &["languages=en,de", "address=https://docs.example.com/ferries/"]);
    let make = |target: &str| run_in(&place, "d", "make", &["-s", target]);
    make("test").says(0, &[]);
    let site = |file: &str| place.read(&format!("d/build/site/{file}"));
    assert!(site("sitemap.xml").contains("<loc>https://docs.example.com/ferries/en/</loc>"));
    assert!(site("404.html").contains("href=\"/ferries/de/\""));
    let found: serde_json::Value = serde_json::from_str(&site("en/search.json")).unwrap();
    let titles = |found: &serde_json::Value| -> Vec<String> {
        found.as_array().unwrap().iter().map(|page| page["title"].as_str().unwrap().to_owned()).collect()
    };
    let first = titles(&found);
    assert!(first.len() > 4, "{first:?}");
    // Pages that change their places are read in the new order, forwards and backwards.
    let guide = place.path("d/pages/en/guide");
    std::fs::rename(guide.join("1-first-steps.html"), guide.join("3-first-steps.html")).unwrap();
    for page in ["index.html", "guide/index.html", "guide/2-write-a-page.html"] {
        let text = place.read(&format!("d/pages/en/{page}")).replace("1-first-steps", "3-first-steps");
        place.write(&format!("d/pages/en/{page}"), text);
    }
    make("test").says(0, &[]);
    let second = titles(&serde_json::from_str(&site("en/search.json")).unwrap());
    assert_ne!(first, second);
    let order = |titles: &[String], one: &str| titles.iter().position(|title| title == one).unwrap();
    assert!(order(&first, "First steps") < order(&first, "Write a page"));
    assert!(order(&second, "First steps") > order(&second, "Write a page"));
    // Every mistake is told with its page, and is an error.
    let page = "d/pages/de/index.html";
    let whole = place.read(page);
    for (added, told) in [
        ("<p><a href=\"gone.html\">x</a></p>", "gone.html leads nowhere"),
        ("<p><a href=\"#gone\">x</a></p>", "#gone leads nowhere"),
        ("<p><a href=\"/ferries/fr/\">x</a></p>", "/ferries/fr/ leads nowhere"),
        ("<p><img src=\"quay.png\" alt=\"\"></p>", "quay.png leads nowhere"),
    ] {
        place.write(page, format!("{whole}{added}\n"));
        make("test").says(2, &["de/index.html", told]);
    }
    for good in [
        "<h2>Ebbe & Flut</h2><p><a href=\"#ebbe-flut\">x</a></p>",
        "<p><a href=\"https://example.com/\">x</a></p>",
    ] {
        place.write(page, format!("{whole}{good}\n"));
        make("test").says(0, &[]);
    }
    place.write(page, "<p>No heading</p>\n");
    make("build").says(2, &["index.html", "begins with a heading"]);
}

#[test]
fn versions_stand_beside_the_newest_pages() {
    if !has("python3") || !has("git") {
        left_out("versions of docs-site are built", "python3 or git");
        return;
    }
    let place = Place::new();
    cast(&place, "docs-site", "d", &["extras=versions"]);
    let git = |args: &[&str]| {
        let mut git = Command::new("git");
        git.args(["-c", "user.name=Osier", "-c", "user.email=osier@saltmarsh.example"]).args(args);
        git.current_dir(place.path("d")).env("GIT_CONFIG_GLOBAL", "/dev/null");
        place.finish(&mut git).says(0, &[]).out
    };
    git(&["init", "--quiet"]);
    let page = "d/pages/en/index.html";
    let first = place.read(page);
    // Versions are numbers, the newest first; other tags are none.
    for (tag, heading) in [("v1.9", "Nine"), ("v1.10", "Ten"), ("v2-draft", "Draft"), ("quay", "Quay")] {
        place.write(page, format!("{first}<h2>{heading}</h2>\n"));
        git(&["add", "--all"]);
        git(&["commit", "--quiet", "--message", tag]);
        git(&["tag", tag]);
    }
    place.write(page, format!("{first}<h2>Newest</h2>\n"));
    run_in(&place, "d", "make", &["-s", "versions"]).says(0, &["2 versions"]);
    let site = |file: &str| place.read(&format!("d/build/site/{file}"));
    for (folder, heading) in [("v1.9/", "Nine"), ("v1.10/", "Ten"), ("", "Newest")] {
        let built = site(&format!("{folder}en/index.html"));
        let others = ["Nine", "Ten", "Draft", "Quay", "Newest"].into_iter().filter(|one| *one != heading);
        assert!(built.contains(&format!(">{heading}</h2>")), "{folder}");
        for other in others {
            assert!(!built.contains(&format!(">{other}</h2>")), "{folder} has {other}");
        }
    }
    let list = site("versions.html");
    assert!(list.find("v1.10").unwrap() < list.find("v1.9").unwrap() && !list.contains("draft"), "{list}");
    assert_eq!(git(&["worktree", "list"]).lines().count(), 1);
    assert!(!place.path("d/build/site/v2-draft").exists());
}
