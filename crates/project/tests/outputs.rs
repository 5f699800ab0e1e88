//! Outputs are well-formed and within limits, and an interrupted write is recovered with care.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;
use common::{mold, session, write};
use std::fs;
use std::io::Read;
use std::path::Path;
use tempfile::TempDir;
use tinmold_mold::{Content, File, Mold};
use tinmold_notation::{Finding, Position};
use tinmold_platform::digest::digest_of;
use tinmold_project::answers::Offers;
use tinmold_project::plan::{Limits, Plan, PlanError};
use tinmold_project::verify::VerifyError;
use tinmold_project::write::{ArchiveFormat, Choice, Recovered, WriteError, recover_inside, write_archive};

const MANIFEST: &str = "[[question]]\nkey = \"pier\"\nask = \"?\"\nkind = \"text\"\ndefault = \"tide\"\n\
    [[question]]\nkey = \"night\"\nask = \"?\"\nkind = \"flag\"\n";

/// Returns the findings that stop the cast of a mold with these answers.
fn stopped(manifest: &str, files: &[(&str, &str)], given: &[(&str, &str)], limits: &Limits) -> Vec<Finding> {
    let mold = mold(&format!("{MANIFEST}{manifest}"), files);
    let answers = session(&mold, given, Offers::default()).finish().unwrap();
    let plan = match Plan::new(&mold, &answers, limits) {
        Ok(plan) => plan,
        Err(PlanError::Faulty(found)) => return found,
    };
    match plan.verify() {
        Ok(plan) => match plan.sizes() {
            Ok(_) => Vec::new(),
            Err(PlanError::Faulty(found)) => found,
        },
        Err(VerifyError::Faulty(found)) => found,
        Err(error) => panic!("{error}"),
    }
}

#[test]
fn what_is_malformed_is_found_with_both_places() {
    // The file, its body, the position in the body as line:column.
    let cases: &[(&str, &str, &str)] = &[
        ("a.json", "{\n \"a\": {= pier =}\n}", "2:10"),
        ("a.json", "{\n# {= if not night =}\n\"a\": 1\n\"b\": 2\n# {= end =}\n}", "4:1"),
        ("a.json", "", "1:1"),
        ("a.json", "{\"a\": 1} // no", "1:10"),
        ("a.json", "[1, {= if night =}2{= end =}, 3]", "1:29"),
        ("tsconfig.json", "{ // yes\n \"a\" 1 }", "2:6"),
        (".vscode/settings.json", "{'a': 1}", "1:2"),
        ("a.toml", "a = 1\n# {= pier =}\na = 2\n", "3:1"),
        ("a.toml", "a = {= pier =}", "1:8"),
        ("a.yaml", "a: [1\nb: 2", "2:2"),
        ("a.yml", "a: b\n\tc: d", "1:4"),
        ("a.xml", "<a>\n  <b>{= pier =}</a>", "2:16"),
        ("a.svg", "plain", "1:1"),
        ("a.json", "\u{feff}{\"a\": tide}", "1:8"),
        ("a.json", "{= place 'f' =}", "1:1"),
    ];
    for (path, body, place) in cases {
        let files = [
            (format!("body/{path}"), *body),
            ("fragments/f".into(), "[1 2]"),
            ("body/b".into(), "{= place 'f' =}"),
        ];
        let files: Vec<(&str, &str)> = files.iter().map(|(path, text)| (path.as_str(), *text)).collect();
        let found = stopped("", &files, &[], &Limits::default());
        assert_eq!(found.len(), 1, "{path} {body:?}: {found:?}");
        assert_eq!((found[0].code.as_str(), &*found[0].file), ("malformed-output", &*format!("body/{path}")));
        let Position { line, column } = Position::of(body, found[0].span.start as usize);
        assert_eq!(format!("{line}:{column}"), *place, "{body:?}: {}", found[0].message);
    }
}

#[test]
fn what_is_well_formed_passes_and_a_mold_can_say_what_a_file_holds() {
    let fine = [
        ("a.json", "{\"a\": [1, 2,{= if night =} 3{= end =}],}"),
        ("a.jsonc", "{ // a\n \"a\": 1, /* b */ }"),
        ("tsconfig.build.json", "{ // a\n \"a\": 1 }"),
        ("x/.devcontainer/a.json", "// a\n{}"),
        ("a.toml", "[a]\nb = \"{= pier =}\"\n"),
        ("a.yaml", "on: [push]\n---\n- &a !tag b\n- *a\n"),
        ("b.yaml", ""),
        ("a.xml", "<?xml version=\"1.0\"?><!DOCTYPE a><a b=\"{= pier.xml =}\"/>"),
        ("a.txt", "{\"a\": "),
    ];
    let files: Vec<(String, &str)> =
        fine.iter().map(|(path, text)| (format!("body/{path}"), *text)).collect();
    let files: Vec<(&str, &str)> = files.iter().map(|(path, text)| (path.as_str(), *text)).collect();
    assert_eq!(stopped("", &files, &[], &Limits::default()), []);
    // The mold's `holds` overrides the name, for rendered and for copied files.
    let cases = [
        ("body/a.json", "{{ other }}", "holds = \"text\"", true),
        ("body/a.json", "{} // a", "holds = \"jsonc\"", true),
        ("body/a.rc", "{", "holds = \"json\"", false),
        ("body/a.rc", "[1, ]", "holds = \"json\"", true),
        ("body/a.json", "{= as it is", "copy = true", false),
        ("body/a.json", "{= as it is", "copy = true\nholds = \"text\"", true),
        ("body/a.json", "{\"a\": \"{= as it is\"}", "copy = true", true),
    ];
    for (path, text, rule, passes) in cases {
        let rule = format!("[[files]]\nmatch = \"{}\"\n{rule}\n", &path[5..]);
        let found = stopped(&rule, &[(path, text)], &[], &Limits::default());
        assert_eq!(found.is_empty(), passes, "{path} {rule}: {found:?}");
    }
}

#[test]
fn a_cast_has_its_limits() {
    let small = Limits { files: 3, bytes: 4000 };
    let each = "[[question]]\nkey = \"piers\"\nask = \"?\"\nkind = \"texts\"\n[[files]]\nmatch = \"*\"\neach = \"p in piers\"\n";
    let files = [("body/{= p =}", "x")];
    assert_eq!(stopped(each, &files, &[("piers", "a,b,c")], &small), []);
    let found = stopped(each, &files, &[("piers", "a,b,c,d")], &small);
    assert_eq!(found[0].code.as_str(), "too-many-files");
    let copied = "x".repeat(1500);
    let copy = "[[files]]\nmatch = \"*\"\ncopy = true\n";
    assert_eq!(stopped(copy, &[("body/a", &copied), ("body/b", &copied)], &[], &small), []);
    let three = [("body/a", copied.as_str()), ("body/b", &copied), ("body/c", &copied)];
    assert_eq!(stopped(copy, &three, &[], &small)[0].code.as_str(), "too-many-bytes");
    assert_eq!(stopped("", &three, &[], &small)[0].code.as_str(), "limit-reached");
}

/// A write that was killed: its journal, and what it staged and kept.
fn left_behind(root: &Path, journal: &str, files: &[(&str, &str)]) {
    let work = root.join(".tinmold/pending");
    fs::create_dir_all(work.join("new")).unwrap();
    fs::write(work.join("journal.json"), journal).unwrap();
    for (path, text) in files {
        let path = root.join(path);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    }
}

#[test]
fn what_somebody_changed_since_a_kill_stays() {
    let place = TempDir::new().unwrap();
    let root = place.path();
    let (new, old) = (digest_of(b"new"), digest_of(b"old"));
    let step = |path: &str, was: &str| format!("{{\"path\":\"{path}\",\"was\":{was},\"new\":\"{new}\"}}");
    let old = format!("\"{old}\"");
    let steps = [
        step("made", "null"),
        step("made-changed", "null"),
        step("d/replaced", &old),
        step("changed", &old),
        step("waits", "null"),
    ];
    let journal = format!("{{\"format\":1,\"folders\":[\"d\",\"e\"],\"steps\":[{}]}}", steps.join(","));
    let work = ".tinmold/pending";
    let files = [
        ("made", "new"),
        ("made-changed", "mine"),
        ("d/replaced", "new"),
        (&format!("{work}/old/d/replaced"), "old"),
        ("changed", "mine"),
        (&format!("{work}/old/changed"), "old"),
        (&format!("{work}/new/waits"), "new"),
    ];
    left_behind(root, &journal, &files);
    fs::create_dir(root.join("e")).unwrap();
    let recovered = recover_inside(root).unwrap();
    let left = vec!["changed".to_owned(), "made-changed".to_owned()];
    assert_eq!(recovered, Some(Recovered::Undone(root.to_owned(), left)));
    let read = |path: &str| fs::read_to_string(root.join(path)).ok();
    let expected = [
        ("made", None),
        ("made-changed", Some("mine")),
        ("d/replaced", Some("old")),
        ("changed", Some("mine")),
        ("changed.before-cast", Some("old")),
        ("waits", None),
    ];
    for (path, text) in expected {
        assert_eq!(read(path).as_deref(), text, "{path}");
    }
    assert!(!root.join("e").exists() && !root.join(".tinmold").exists());
    assert_eq!(recover_inside(root).unwrap(), None);
}

#[test]
fn a_kill_at_the_very_beginning_or_end_leaves_nothing() {
    let gone = "{\"format\":1,\"folders\":[],\"steps\":[{\"path\":\"d/e/gone\",\"was\":\"0\",\"new\":null}]}";
    for (work, journal) in [("", ""), ("/pending", ""), ("/pending/new", ""), ("/pending", gone)] {
        let place = TempDir::new().unwrap();
        let root = place.path();
        fs::create_dir_all(root.join("d/e")).unwrap();
        fs::write(root.join("d/mine"), "mine").unwrap();
        fs::create_dir_all(root.join(format!(".tinmold{work}"))).unwrap();
        if !journal.is_empty() {
            fs::write(root.join(".tinmold/pending/done.json"), journal).unwrap();
        }
        assert_eq!(recover_inside(root).unwrap(), Some(Recovered::Finished(root.to_owned())), "{work}");
        assert!(!root.join(".tinmold").exists() && root.join("d/mine").exists());
        // A folder that a file went from is part of the work, and any other is not.
        assert_eq!(root.join("d/e").exists(), journal.is_empty());
        assert_eq!(recover_inside(root).unwrap(), None);
    }
}

#[test]
fn a_journal_is_not_believed() {
    let step = |path: &str| {
        format!(
            "{{\"format\":1,\"folders\":[],\"steps\":[{{\"path\":\"{path}\",\"was\":\"0\",\"new\":\"1\"}}]}}"
        )
    };
    let cases = [
        "{".to_owned(),
        "{\"format\":7,\"folders\":[],\"steps\":[]}".to_owned(),
        "{\"format\":1,\"folders\":[\"../x\"],\"steps\":[]}".to_owned(),
        step("../victim"),
        step("/etc/passwd"),
        step(".git/hooks/post-checkout"),
        step(".tinmold/pending/x"),
        step("link/victim"),
    ];
    for journal in cases {
        let place = TempDir::new().unwrap();
        let root = place.path().join("casting");
        let evil = [
            (".tinmold/pending/old/victim", "evil"),
            (".tinmold/pending/old/link/victim", "evil"),
            (".tinmold/pending/old/.git/hooks/post-checkout", "evil"),
            ("../victim", "good"),
            ("../elsewhere/victim", "good"),
        ];
        left_behind(&root, &journal, &evil);
        #[cfg(unix)]
        std::os::unix::fs::symlink("../elsewhere", root.join("link")).unwrap();
        let refused = matches!(recover_inside(&root), Err(WriteError::Record(_)));
        assert!(refused, "{journal} is believed");
        for path in ["victim", "elsewhere/victim"] {
            assert_eq!(fs::read_to_string(place.path().join(path)).unwrap(), "good");
        }
        assert!(!root.join(".git").exists());
    }
}

#[cfg(unix)]
#[test]
fn an_archive_holds_what_a_folder_would() {
    use std::os::unix::fs::PermissionsExt;
    let place = TempDir::new().unwrap();
    let manifest = "[[files]]\nmatch = \"raw\"\ncopy = true\n[[files]]\nmatch = \".env\"\nlocal = true\n";
    let files = [
        ("body/run.sh", "#!/bin/sh\n"),
        ("body/raw", "{= raw"),
        ("body/.env", "K=1"),
        ("body/.gitignore", ".env\n"),
    ];
    let mut package = common::package(manifest, &files);
    package.files.push(File::new("body/link", Content::Link("raw".into()), 0o777));
    package.files.push(File::new("body/hollow", Content::EmptyFolder, 0o755));
    let script = package.files.iter_mut().find(|file| file.path.ends_with(".sh")).unwrap();
    *script = File::new(script.path.clone(), script.content.clone(), 0o755);
    package.files.sort_by(|a, b| a.path.cmp(&b.path));
    let mold = Mold::load(package).unwrap();
    let answers = session(&mold, &[], Offers::default()).finish().unwrap();
    let plan = Plan::new(&mold, &answers, &Limits::default()).unwrap().verify().unwrap();
    let folder = place.path().join("board");
    write(&plan, &folder, &()).unwrap();
    let file = place.path().join("board.tar.gz");
    let pack = |present| write_archive(&plan, &file, ArchiveFormat::TarGz, "board", present, &());
    let written = pack(None).unwrap();
    assert_eq!((written.files, written.local), (4, vec![".env".to_owned()]));
    assert!(matches!(pack(None), Err(WriteError::ArchiveExists(_))));
    assert_eq!(pack(Some(Choice::Keep)).unwrap().kept.len(), 1);
    let bytes = fs::read(&file).unwrap();
    let mut archive = tar::Archive::new(flate2::read::GzDecoder::new(bytes.as_slice()));
    let mut seen = Vec::new();
    for entry in archive.entries().unwrap() {
        let mut entry = entry.unwrap();
        let path = entry.path().unwrap().display().to_string();
        let header = entry.header().clone();
        // The date of the answers, at midnight, and no user.
        assert_eq!(
            (header.mtime().unwrap(), header.uid().unwrap(), header.gid().unwrap()),
            (1_795_392_000, 0, 0)
        );
        let at = folder.join(path.strip_prefix("board/").unwrap());
        match header.entry_type() {
            tar::EntryType::Regular => {
                let mut held = Vec::new();
                entry.read_to_end(&mut held).unwrap();
                assert_eq!(held, fs::read(&at).unwrap(), "{path}");
                assert_eq!(
                    header.mode().unwrap(),
                    fs::metadata(&at).unwrap().permissions().mode() & 0o777,
                    "{path}"
                );
            }
            tar::EntryType::Symlink => {
                assert_eq!(fs::read_link(&at).unwrap(), entry.link_name().unwrap().unwrap());
            }
            _ => assert!(at.is_dir(), "{path}"),
        }
        seen.push(path);
    }
    let expected =
        [".gitignore", "hollow/", "link", "raw", "run.sh", ".tinmold/casting.toml", ".tinmold/files.sha256"];
    assert_eq!(seen, expected.map(|path| format!("board/{path}")));
    for (name, format) in [
        ("a.zip", Some(ArchiveFormat::Zip)),
        ("A.TGZ", Some(ArchiveFormat::TarGz)),
        ("a.tar", None),
        ("zip", None),
    ] {
        assert_eq!(ArchiveFormat::of_path(name.as_ref()), format, "{name}");
    }
}
