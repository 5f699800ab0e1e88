//! The built-in molds that serve: they answer where they say, and are started again after a change.
#![allow(clippy::unwrap_used)]

mod common;
use common::{Place, answer, cast, has, left_out, run_in, wait_until};
use std::net::{TcpListener, TcpStream};
use std::process::{Command, Stdio};

#[test]
fn the_service_answers_where_it_says() {
    let place = Place::new();
    // A free port; the service gets it as an answer.
    let port = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
    place
        .run(&["cast", "python-service", "s", "--unattended", "--set", &format!("port={port}")])
        .says(0, &[]);
    // Requests to the service, made with Python's standard library; it is then stopped cleanly.
    let script = format!(
        "import json, os, signal, subprocess, sys, time, urllib.request\n\
         environment = {{**os.environ, 'LOG_FORMAT': 'json'}}\n\
         service = subprocess.Popen(['make', '-s', 'run'], stderr=subprocess.PIPE, text=True, start_new_session=True, env=environment)\n\
         try:\n\
         \x20 first = json.loads(service.stderr.readline())\n\
         \x20 assert first['message'] == 'listening on http://127.0.0.1:{port}', first\n\
         \x20 ask = lambda path: json.load(urllib.request.urlopen('http://127.0.0.1:{port}' + path, timeout=10))\n\
         \x20 assert ask('/health') == {{'status': 'running'}}\n\
         \x20 assert ask('/notes') == []\n\
         finally:\n\
         \x20 os.killpg(service.pid, signal.SIGTERM)\n\
         rest = service.stderr.read()\n\
         assert '\"message\": \"stopped\"' in rest, rest\n"
    );
    run_in(&place, "s", "python3", &["-c", &script]).says(0, &[]);
}

#[test]
fn what_serves_answers_and_is_started_again_after_a_change() {
    // Repeats the request for up to a minute, also after a change of the sources; then ends the
    // service in any case.
    let script = "import os, pathlib, signal, subprocess, sys, time, urllib.request\n\
        target, port, path, text, file, old, new = sys.argv[1:]\n\
        environment = {**os.environ, 'PORT': port, 'CARGO_TARGET_DIR': os.path.abspath('built')}\n\
        service = subprocess.Popen(['make', '-s', target], stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL, start_new_session=True, env=environment)\n\
        def answers(text):\n\
        \x20 found = None\n\
        \x20 for turn in range(600):\n\
        \x20   try:\n\
        \x20     found = urllib.request.urlopen(f'http://127.0.0.1:{port}{path}', timeout=5).read().decode()\n\
        \x20     if text in found: return\n\
        \x20   except OSError:\n\
        \x20     pass\n\
        \x20   time.sleep(0.1)\n\
        \x20 sys.exit(f'no {text!r} in {found!r}')\n\
        try:\n\
        \x20 answers(text)\n\
        \x20 if target != 'run':\n\
        \x20   time.sleep(1.1)\n\
        \x20   source = pathlib.Path(file)\n\
        \x20   assert old in source.read_text(), source.read_text()\n\
        \x20   source.write_text(source.read_text().replace(old, new, 1))\n\
        \x20   answers(new)\n\
        finally:\n\
        \x20 os.killpg(service.pid, signal.SIGTERM)\n\
        \x20 service.wait(20)\n";
    let place = Place::new();
    for (mold, tool, answers, paths, text, [file, old, new]) in [
        (
            "node-service",
            "node",
            "",
            ["/health"; 2],
            "running",
            ["src/health/health.js", "running", "afloat"],
        ),
        (
            "rust-service",
            "cargo",
            "database=sqlite",
            ["/health"; 2],
            "running",
            ["src/health.rs", "running", "afloat"],
        ),
        (
            "web-app",
            "node",
            "",
            ["/missing"; 2],
            ">Nothing here",
            ["pages/missing.html", ">Nothing here", ">No page"],
        ),
        ("docs-site", "python3", "", ["/en/"; 2], "<h1", ["pages/en/index.html", "Welcome", "Harbour"]),
    ] {
        // .ci/registries says that packages can be had.
        let is_fetched = mold != "rust-service" || std::env::var_os("TINMOLD_REGISTRIES").is_some();
        if !has(tool) || !is_fetched {
            left_out(&format!("{mold} is served"), if is_fetched { tool } else { "a registry" });
            continue;
        }
        let answers: Vec<_> = answers.split(',').filter(|answer| !answer.is_empty()).collect();
        cast(&place, mold, mold, &answers);
        for (target, path) in ["run", "live"].into_iter().zip(paths) {
            let port = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
            let args = ["-c", script, target, &port.to_string(), path, text, file, old, new];
            run_in(&place, mold, "python3", &args).says(0, &[]);
        }
    }
}

#[cfg(unix)]
#[test]
fn an_app_and_its_service_work_together() {
    if !has("node") {
        left_out("an app and its service are started", "node");
        return;
    }
    let place = Place::new();
    // Folders have spaces and foreign letters.
    let app = "F\u{e4}hren von heute/ferries";
    cast(&place, "web-app", app, &["service=service"]);
    cast(&place, "node-service", &format!("{app}/service"), &[]);
    for target in ["setup", "build", "lint", "test"] {
        run_in(&place, app, "make", &[target]).says(0, &["-C service"]);
    }
    let asked = |port, path| {
        let request = format!("GET {path} HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n");
        answer(port, request.as_bytes()).unwrap_or_default()
    };
    for target in ["run", "live"] {
        let [port, api] = [(); 2].map(|()| TcpListener::bind("127.0.0.1:0").unwrap());
        let [port, api] = [port, api].map(|listener| listener.local_addr().unwrap().port());
        let mut make = Command::new("make");
        make.args(["-s", target]).current_dir(place.path(app)).env("PORT", port.to_string());
        make.env("API", format!("http://127.0.0.1:{api}")).stdout(Stdio::null()).stderr(Stdio::null());
        let mut make = make.spawn().unwrap();
        wait_until(60, target, || asked(port, "/api/health").contains("running"));
        assert!(asked(port, "/").contains("<h1>Notes</h1>"), "{target}");
        assert!(Command::new("kill").arg(make.id().to_string()).status().unwrap().success());
        make.wait().unwrap();
        let is_closed = |port| TcpStream::connect(("127.0.0.1", port)).is_err();
        wait_until(60, target, || is_closed(port) && is_closed(api));
    }
    run_in(&place, app, "make", &["clean"]).says(0, &["-C service"]);
}
