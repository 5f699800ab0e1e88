//! Remote shelves: fetched, cached, fetched again, and never trusted.
#![allow(clippy::unwrap_used, clippy::panic)]

#[path = "common/molds.rs"]
mod molds;
#[path = "common/server.rs"]
mod server;

use molds::{archives, fetched, hasty, mold, network, offline};
use server::{Server, answer, path};
use std::fs;
use std::io::{Read, Write};
use std::path::Path;
use std::process::Command;
use std::sync::{Arc, Mutex};
use std::time::Duration;
use tempfile::TempDir;
use tinmold_shelf::{
    Address, Cache, DownloadObserver, GitShelf, INDEX_FILE, IndexShelf, Network, NetworkSettings, Shelves,
    read_index,
};

/// The notes of downloads.
#[derive(Default)]
struct Heard(Mutex<Vec<String>>);

struct Ear(Arc<Heard>);

impl DownloadObserver for Ear {
    fn note(&self, line: &str) {
        self.0.0.lock().unwrap().push(line.to_owned());
    }
}

#[test]
fn a_shelf_over_http_is_kept_and_asked_again() {
    let place = TempDir::new().unwrap();
    let folder = place.path().join("served");
    let index = archives(&folder, &[("ferry-board", "1.0.0"), ("ferry-board", "1.1.0"), ("tides", "0.1.0")]);
    fs::write(folder.join(INDEX_FILE), &index).unwrap();
    // The index is sent in full once, then as unchanged; the second archive breaks off and is
    // resumed; then the server fails.
    let server = Server::start(move |number, request| {
        let name = path(request).trim_start_matches("/molds/");
        let body = fs::read(folder.join(name)).unwrap_or_default();
        if number >= 7 {
            return answer("503 Busy", "Retry-After: 0\r\n", "");
        }
        match name {
            "index.json" if request.contains("if-none-match: \"i1\"") => answer("304 Same", "", ""),
            "index.json" => answer("200 OK", "ETag: \"i1\"\r\n", body),
            "ferry-board-1.1.0.tar.gz"
                if request.contains("range: bytes=100-\r\n") && request.contains("if-range: \"b\"") =>
            {
                let range =
                    format!("Content-Range: bytes 100-{}/{}\r\nETag: \"b\"\r\n", body.len() - 1, body.len());
                answer("206 Partial", &range, &body[100..])
            }
            "ferry-board-1.1.0.tar.gz" => {
                answer("200 OK", &format!("ETag: \"b\"\r\nContent-Length: {}\r\n", body.len()), &body[..100])
            }
            _ => answer("404 Not Found", "", ""),
        }
    });
    let heard = Arc::new(Heard::default());
    let on = |settings: NetworkSettings| {
        let cache = Some(Cache::new(place.path().join("cache")));
        let network = Arc::new(Network::new(settings, cache, Box::new(Ear(Arc::clone(&heard)))));
        let shelf = IndexShelf::new("piers", &format!("{}molds", server.url), None, Arc::clone(&network));
        Shelves::with(vec![Box::new(shelf)], network)
    };
    assert!(fetched(&on(offline()), "tides").unwrap_err().contains("Offline"));
    assert_eq!(fetched(&on(hasty()), "piers/ferry-board").as_deref(), Ok("piers/ferry-board@1.1.0"));
    let asked: Vec<String> = server.asked().iter().map(|request| path(request).to_owned()).collect();
    assert_eq!(
        asked,
        ["/molds/index.json", "/molds/ferry-board-1.1.0.tar.gz", "/molds/ferry-board-1.1.0.tar.gz"]
    );
    // A fresh listing is not requested again, and a cached archive is not fetched again.
    let fresh = NetworkSettings { fresh: Duration::from_secs(99), ..hasty() };
    assert_eq!(fetched(&on(fresh.clone()), "ferry-board@1").as_deref(), Ok("piers/ferry-board@1.1.0"));
    assert_eq!(server.asked().len(), 3);
    assert_eq!(on(hasty()).list(None).0[1].len(), 2);
    assert!(server.asked().len() == 4 && server.asked()[3].contains("if-none-match"));
    // A file with a wrong digest is removed and fetched again; if the server fails, the cache is
    // used.
    let files = place.path().join("cache/files");
    for entry in
        fs::read_dir(&files).unwrap().flat_map(|folder| fs::read_dir(folder.unwrap().path()).unwrap())
    {
        let path = entry.unwrap().path();
        if fs::metadata(&path).unwrap().len() < 2000 && !fs::read(&path).unwrap().starts_with(b"{") {
            fs::write(path, "damaged").unwrap();
        }
    }
    let without = NetworkSettings { offline: true, ..fresh };
    assert!(fetched(&on(without), "ferry-board").unwrap_err().contains("Offline"));
    assert_eq!(fetched(&on(hasty()), "ferry-board@1.1.0").as_deref(), Ok("piers/ferry-board@1.1.0"));
    assert_eq!(heard.0.lock().unwrap().len(), 0, "{:?}", heard.0.lock().unwrap());
    let asked = server.asked().len();
    assert_eq!(fetched(&on(hasty()), "ferry-board").as_deref(), Ok("piers/ferry-board@1.1.0"));
    assert_eq!(server.asked().len(), asked + 1, "what is kept does, and nobody waits for another try");
    let said = heard.0.lock().unwrap().last().cloned().unwrap();
    assert!(said.contains("piers") && said.contains("503"), "{said}");
}

/// One shelf, as an index at this URL.
fn piers(place: &TempDir, url: &str, settings: NetworkSettings) -> Shelves {
    let network = network(place.path(), settings);
    let shelf = IndexShelf::new("piers", url, None, Arc::clone(&network));
    Shelves::with(vec![Box::new(shelf)], network)
}

#[test]
fn what_a_bad_server_sends_is_never_kept() {
    let served = TempDir::new().unwrap();
    let index = archives(served.path(), &[("ferry-board", "1.0.0"), ("tides", "1.0.0")]);
    let archive = |name: &str| fs::read(served.path().join(format!("{name}-1.0.0.tar.gz"))).unwrap();
    let (board, tides) = (archive("ferry-board"), archive("tides"));
    // The tides' archive under the board's name and digest.
    let swapped = {
        let digest_of = |index: &str, name: &str| {
            read_index(index).unwrap().into_iter().find(|entry| entry.name == name).unwrap().versions[0]
                .sha256
                .clone()
        };
        index.replace(&digest_of(&index, "ferry-board"), &digest_of(&index, "tides"))
    };
    let ok = |body: &[u8]| answer("200 OK", "", body);
    // The case, the responses for the index and for the archive, and what the error names.
    type Case<'a> = (&'a str, Vec<u8>, Vec<u8>, &'a [&'a str]);
    let cases: Vec<Case<'_>> = vec![
        ("gone", answer("404 Not Found", "", ""), vec![], &["Status(404"]),
        ("private", answer("401 No", "", ""), vec![], &["Status(401"]),
        ("in trouble", answer("500 Oops", "", ""), vec![], &["Status(500"]),
        ("silent", vec![], vec![], &["Unreachable"]),
        ("hangs up", b"HTTP".to_vec(), vec![], &["Network"]),
        ("no HTTP", b"SSH-2.0-OpenSSH\r\n\r\n".to_vec(), vec![], &["Network"]),
        ("in a circle", answer("302 Found", "Location: /index.json\r\n", ""), vec![], &["Redirects"]),
        ("to a file", answer("302 Found", "Location: file:///etc/passwd\r\n", ""), vec![], &["Network"]),
        (
            "too short",
            answer("200 OK", "Content-Length: 999999\r\n", &index),
            vec![],
            &["Network", "index.json"],
        ),
        ("huge", answer("200 OK", "Content-Length: 99999999999\r\n", ""), vec![], &["TooLarge(536870912)"]),
        ("a page", ok(b"<!doctype html>"), vec![], &["NotAnIndex"]),
        ("not UTF-8", ok(b"{\"\xff"), vec![], &["NotUtf8"]),
        ("cut", ok(&index.as_bytes()[..index.len() / 2]), vec![], &["NotAnIndex"]),
        ("newer", ok(b"{\"tinmold-index\": 7}"), vec![], &["Newer(7)"]),
        (
            "climbing",
            ok(index.replace("\"ferry-board\"", "\"../board\"").as_bytes()),
            vec![],
            &["BadEntry", "../board"],
        ),
        ("other archive", ok(index.as_bytes()), ok(&tides), &["Tampered", "Digest"]),
        ("other mold", ok(swapped.as_bytes()), ok(&tides), &["Tampered", "Mold(", "tides 1.0.0"]),
        ("archive gone", ok(index.as_bytes()), answer("404 Not Found", "", ""), &["Status(404"]),
        (
            "archive huge",
            ok(index.as_bytes()),
            answer("200 OK", "Content-Length: 999999999\r\n", "x"),
            &["TooLarge(268435456)"],
        ),
        (
            "archive cut",
            ok(index.as_bytes()),
            answer("200 OK", "Content-Length: 9999\r\n", &board[..50]),
            &["Network"],
        ),
    ];
    for (what, to_index, to_archive, words) in cases {
        let place = TempDir::new().unwrap();
        let (good, good_board) = (index.clone(), board.clone());
        // First all is well, then it is bad.
        let bad = Arc::new(Mutex::new(false));
        let turned = Arc::clone(&bad);
        let server = Server::start(move |_, request| {
            let is_index = path(request).ends_with("index.json");
            match (*turned.lock().unwrap(), is_index) {
                (false, true) => answer("200 OK", "", &good),
                (false, false) => answer("200 OK", "", &good_board),
                (true, true) => to_index.clone(),
                (true, false) => to_archive.clone(),
            }
        });
        *bad.lock().unwrap() = true;
        let error = fetched(&piers(&place, &server.url, hasty()), "ferry-board").expect_err(what);
        assert!(words.iter().all(|words| error.contains(words)), "{what}: {error}");
        assert!(
            fetched(&piers(&place, &server.url, offline()), "ferry-board").is_err(),
            "{what}: something was kept"
        );
        *bad.lock().unwrap() = false;
        assert_eq!(
            fetched(&piers(&place, &server.url, hasty()), "ferry-board").as_deref(),
            Ok("piers/ferry-board@1.0.0"),
            "{what}"
        );
        if what == "other mold" {
            // Its index is one, and replaces the good one.
            continue;
        }
        // A valid cached copy stays, whatever the server sends later.
        *bad.lock().unwrap() = true;
        let shelves = piers(&place, &server.url, hasty());
        assert_eq!(
            fetched(&shelves, "ferry-board@1.0.0").as_deref(),
            Ok("piers/ferry-board@1.0.0"),
            "{what}"
        );
        assert_eq!(
            fetched(&piers(&place, &server.url, offline()), "ferry-board").as_deref(),
            Ok("piers/ferry-board@1.0.0"),
            "{what}"
        );
    }
    let place = TempDir::new().unwrap();
    for (url, words) in [
        ("http://127.0.0.1:1/", "Unreachable"),
        ("http://pier.invalid/", "http://pier.invalid/index.json"),
        ("http://a b/", "BadUrl"),
    ] {
        let error = fetched(&piers(&place, url, hasty()), "ferry-board").unwrap_err();
        assert!(error.contains(words), "{error}");
    }
}

#[test]
fn archives_are_fetched_by_their_url() {
    let served = TempDir::new().unwrap();
    archives(served.path(), &[("ferry-board", "1.0.0")]);
    let archive = fs::read(served.path().join("ferry-board-1.0.0.tar.gz")).unwrap();
    let server = Server::start(move |number, request| match path(request) {
        "/b.tar.gz" if number < 1 => {
            answer("200 OK", "Last-Modified: Mon, 23 Nov 2026 10:00:00 GMT\r\n", &archive)
        }
        "/b.tar.gz" if request.contains("if-modified-since: mon, 23 nov 2026") => answer("304 Same", "", ""),
        "/bad.tar.gz" => answer("200 OK", "", "not an archive"),
        _ => answer("404 Not Found", "", ""),
    });
    let place = TempDir::new().unwrap();
    let on = |settings: NetworkSettings| Shelves::with(Vec::new(), network(place.path(), settings));
    let url = format!("{}b.tar.gz", server.url);
    let origin = fetched(&on(hasty()), &url).unwrap();
    let pinned = origin.strip_prefix(&format!("{url}#sha256=")).unwrap().to_owned();
    assert_eq!(fetched(&on(hasty()), &url), Ok(origin.clone()));
    assert_eq!(server.asked().len(), 2);
    // A pinned and cached archive needs no server.
    assert_eq!(fetched(&on(hasty()), &origin), Ok(origin.clone()));
    assert_eq!(fetched(&on(offline()), &url), Ok(origin.clone()));
    assert_eq!(server.asked().len(), 2);
    let other = format!("{url}#sha256={}", pinned.replace(|c: char| c.is_ascii_digit(), "a"));
    for (url, words) in [
        (other, "Tampered"),
        (format!("{}bad.tar.gz", server.url), "Archive"),
        (format!("{}none.tar.gz", server.url), "Status(404"),
    ] {
        let error = fetched(&on(hasty()), &url).expect_err(words);
        assert!(error.contains(words), "{error}");
    }
}

/// Runs git in a directory, without the user's settings.
fn git(folder: &Path, arguments: &[&str]) {
    let mut command = Command::new("git");
    command.args([
        "-c",
        "user.name=T",
        "-c",
        "user.email=t@saltmarsh.example",
        "-c",
        "init.defaultBranch=main",
    ]);
    let output = command
        .args(arguments)
        .current_dir(folder)
        .env("GIT_CONFIG_GLOBAL", "/dev/null")
        .env("GIT_CONFIG_NOSYSTEM", "1")
        .output()
        .unwrap();
    assert!(output.status.success(), "{arguments:?}: {}", String::from_utf8_lossy(&output.stderr));
}

fn release(folder: &Path, tag: &str) {
    git(folder, &["add", "--all"]);
    git(folder, &["commit", "--quiet", "--allow-empty", "--message", tag]);
    git(folder, &["tag", tag]);
}

#[test]
fn a_repository_is_a_shelf_and_its_tags_are_versions() {
    let place = TempDir::new().unwrap();
    let repository = |name: &str| {
        let folder = place.path().join(name);
        fs::create_dir_all(&folder).unwrap();
        git(&folder, &["init", "--quiet"]);
        let url = format!("file://{}", folder.display());
        (folder, url)
    };
    let heard = Arc::new(Heard::default());
    let on = |url: &str, settings: NetworkSettings| {
        let cache = Some(Cache::new(place.path().join("cache")));
        let network = Arc::new(Network::new(settings, cache, Box::new(Ear(Arc::clone(&heard)))));
        Shelves::with(vec![Box::new(GitShelf::new("piers", url, Arc::clone(&network)))], network)
    };
    // One mold, a version a tag, with and without a v; a tag that the manifest contradicts is left out.
    let (folder, one) = repository("one");
    mold(&folder, "ferry-board", "1.0.0", "");
    std::os::unix::fs::symlink("file", folder.join("body/link")).unwrap();
    release(&folder, "v1.0.0");
    mold(&folder, "ferry-board", "1.1.0", "");
    release(&folder, "1.1.0");
    git(&folder, &["tag", "v1.2.0"]);
    git(&folder, &["tag", "nightly"]);
    assert_eq!(fetched(&on(&one, hasty()), "ferry-board").as_deref(), Ok("piers/ferry-board@1.1.0"));
    assert!(heard.0.lock().unwrap()[0].contains("v1.2.0"));
    let package = on(&one, offline()).fetch(&Address::parse("piers/ferry-board@1.0").unwrap()).unwrap();
    let paths: Vec<&str> = package.files.iter().map(|file| file.path.as_str()).collect();
    assert_eq!(paths, ["body/file", "body/link", "mold.toml"]);
    assert_eq!(&*package.file("body/file").unwrap().read().unwrap(), b"ferry-board 1.0.0");
    // A fresh listing that lacks a version is fetched again; archives that are gone are made again.
    mold(&folder, "ferry-board", "2.0.0", "");
    release(&folder, "ferry-board-2.0.0");
    fs::remove_dir_all(place.path().join("cache/files")).unwrap();
    std::thread::sleep(Duration::from_millis(2100));
    let fresh = NetworkSettings { fresh: Duration::from_secs(99), ..hasty() };
    assert_eq!(fetched(&on(&one, fresh), "ferry-board@2").as_deref(), Ok("piers/ferry-board@2.0.0"));
    assert_eq!(fetched(&on(&one, hasty()), "ferry-board@1.0.0").as_deref(), Ok("piers/ferry-board@1.0.0"));
    // Several molds, of their own versions; and without a shelf, by the URL.
    let (folder, many) = repository("many.git");
    for (inside, name, version) in
        [("a/board", "board", "1.0.0"), ("tides", "tides", "0.2.0"), ("a/b/c", "deep", "1.0.0")]
    {
        mold(&folder.join(inside), name, version, "");
    }
    release(&folder, "v7.0.0");
    mold(&folder.join("tides"), "tides", "0.3.0", "");
    release(&folder, "tides/v0.3.0");
    let (catalogues, broken) = on(&many, hasty()).list(None);
    assert_eq!((catalogues[1].names().collect::<Vec<_>>(), broken), (vec!["board", "tides"], vec![]));
    let nothing = on(&one, hasty());
    for (address, expected) in [
        (format!("{many}/tides"), Ok(format!("{many}/tides@0.3.0"))),
        (format!("{many}/tides@v0.2.0"), Ok(format!("{many}/tides@0.2.0"))),
        (many.clone(), Err("SeveralMolds")),
        (format!("{many}/ferry"), Err("NoSuchMold")),
        (format!("{many}/board@3"), Err("UnknownVersion")),
    ] {
        match (fetched(&nothing, &address), expected) {
            (Ok(origin), Ok(expected)) => assert_eq!(origin, expected),
            (Err(error), Err(words)) => assert!(error.contains(words), "{error}"),
            (found, expected) => panic!("{address}: {found:?} and not {expected:?}"),
        }
    }
    let (empty, without) = repository("empty");
    fs::write(empty.join("file"), "").unwrap();
    release(&empty, "v1.0.0");
    let (double, twice) = repository("double");
    mold(&double.join("a"), "board", "1.0.0", "");
    mold(&double.join("b"), "board", "1.0.0", "");
    release(&double, "v1.0.0");
    let (tagless, newest) = repository("tagless");
    mold(&tagless, "board", "0.1.0", "");
    git(&tagless, &["add", "--all"]);
    git(&tagless, &["commit", "--quiet", "--message", "x"]);
    assert_eq!(fetched(&on(&newest, hasty()), "board").as_deref(), Ok("piers/board@0.1.0"));
    let none = format!("file://{}/none", place.path().display());
    for (url, words) in [
        (without, "NoMold"),
        (twice, "Twice"),
        (none, "Git("),
        ("ext::sh -c touch% /tmp/x".to_owned(), "Git("),
        ("--upload-pack=touch".to_owned(), "Git("),
    ] {
        let error = fetched(&on(&url, hasty()), "board").expect_err(words);
        assert!(error.contains(words), "{error}");
    }
}

/// Starts a server behind TLS with a certificate of an unknown authority; returns its URL and the
/// authority's certificate in PEM.
fn behind_tls(index: String) -> (String, String) {
    let key = rcgen::KeyPair::generate().unwrap();
    let mut authority = rcgen::CertificateParams::new(Vec::new()).unwrap();
    authority.is_ca = rcgen::IsCa::Ca(rcgen::BasicConstraints::Unconstrained);
    let pem = authority.self_signed(&key).unwrap().pem();
    let issuer = rcgen::Issuer::new(authority, key);
    let own = rcgen::KeyPair::generate().unwrap();
    let names = vec!["127.0.0.1".to_owned()];
    let certificate = rcgen::CertificateParams::new(names).unwrap().signed_by(&own, &issuer).unwrap();
    let provider = Arc::new(rustls::crypto::ring::default_provider());
    let config =
        rustls::ServerConfig::builder_with_provider(provider).with_safe_default_protocol_versions().unwrap();
    let private = rustls::pki_types::PrivateKeyDer::try_from(own.serialize_der()).unwrap();
    let config =
        config.with_no_client_auth().with_single_cert(vec![certificate.der().clone()], private).unwrap();
    let config = Arc::new(config);
    let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let url = format!("https://{}/", listener.local_addr().unwrap());
    std::thread::spawn(move || {
        for stream in listener.incoming() {
            let connection = rustls::ServerConnection::new(Arc::clone(&config)).unwrap();
            let mut stream = rustls::StreamOwned::new(connection, stream.unwrap());
            // A client that does not trust it hangs up.
            let mut piece = [0; 4096];
            if stream.read(&mut piece).is_ok() {
                let _ = stream.write_all(&answer("200 OK", "", &index));
                stream.conn.send_close_notify();
                let _ = stream.flush();
            }
        }
    });
    (url, pem)
}

#[test]
fn an_authority_of_ones_own_is_trusted_where_it_is_named() {
    let place = TempDir::new().unwrap();
    let index = archives(&place.path().join("a"), &[("tides", "1.0.0")]);
    let (url, pem) = behind_tls(index);
    let file = place.path().join("ca.pem");
    fs::write(&file, pem).unwrap();
    fs::write(place.path().join("none.pem"), "nothing").unwrap();
    let listed = |certificates: Vec<&str>| {
        let certificates = certificates.into_iter().map(|name| place.path().join(name)).collect();
        let (catalogues, broken) =
            piers(&place, &url, NetworkSettings { certificates, ..hasty() }).list(None);
        (catalogues.len(), format!("{broken:?}"))
    };
    for (certificates, words) in
        [(vec![], "piers"), (vec!["none.pem"], "none.pem"), (vec!["gone.pem"], "gone.pem")]
    {
        let (count, broken) = listed(certificates);
        assert!(count == 1 && broken.contains(words) && broken.contains("piers"), "{broken}");
    }
    assert_eq!(listed(vec!["ca.pem"]), (2, "[]".to_owned()));
}
