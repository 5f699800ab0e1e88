//! Outputs are well-formed and within limits, and an interrupted write is recovered with care.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;
use common::{journal_folder, journals, mold, session, write};
use std::fs;
use std::io::Read;
use std::path::{Path, PathBuf};
use tempfile::TempDir;
use tinmold_mold::package::open_folder;
use tinmold_mold::{Content, File, Mold, PackageError};
use tinmold_notation::{Finding, Position};
use tinmold_platform::digest::digest_of;
use tinmold_platform::root_dir::RootDir;
use tinmold_project::answers::Offers;
use tinmold_project::plan::{Limits, Plan, PlanError};
use tinmold_project::verify::VerifyError;
use tinmold_project::write::{
    ArchiveFormat, Choice, Journals, Recovered, Unrecovered, WriteError, inspect, pending, recover,
    write_archive,
};

const MANIFEST: &str = "[[question]]\nkey = \"pier\"\nask = \"?\"\nkind = \"text\"\ndefault = \"tide\"\n\
    [[question]]\nkey = \"night\"\nask = \"?\"\nkind = \"flag\"\n";

/// Returns the findings that stop the cast of a mold with these answers.
fn stopped(manifest: &str, files: &[(&str, &str)], given: &[(&str, &str)], limits: &Limits) -> Vec<Finding> {
    let mold = mold(&format!("{MANIFEST}{manifest}"), files);
    let answers = session(&mold, given, Offers::default()).finish().unwrap();
    let plan = match Plan::new(&mold, &answers, limits) {
        Ok(plan) => plan,
        Err(PlanError::Faulty(found)) => return found,
        Err(error) => panic!("{error}"),
    };
    match plan.verify() {
        Ok(plan) => match plan.sizes() {
            Ok(_) => Vec::new(),
            Err(PlanError::Faulty(found)) => found,
            Err(error) => panic!("{error}"),
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
        ("a.json", "{\n# {= if not night =}\n\"a\": 1\n\"b\": 2\n# {= end =}\n}", "3:6"),
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
        ("body/a.json", "{= as it is", "copy = true", true),
        ("body/a.json", "{\"a\": 1", "", false),
        ("body/a.json", "{\"a\": 1", "parse = false", true),
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

#[test]
fn a_mold_that_changes_after_its_digest_is_not_cast() {
    let files = [("a.txt", "{= today =}"), ("raw.txt", "as it is"), ("blob", "\0\u{1}")];
    for changed in ["a.txt", "raw.txt", "blob"] {
        let place = TempDir::new().unwrap();
        let folder = place.path().join("m");
        fs::create_dir_all(folder.join("body")).unwrap();
        let manifest = "[mold]\nname = \"m\"\nversion = \"1.0.0\"\nsummary = \"s\"\n\
            [[files]]\nmatch = \"raw.txt\"\ncopy = true\n";
        fs::write(folder.join("mold.toml"), manifest).unwrap();
        for (path, text) in files {
            fs::write(folder.join("body").join(path), text).unwrap();
        }
        let mold = Mold::load(open_folder(&folder).unwrap()).unwrap();
        mold.package.digest().unwrap();
        let answers = session(&mold, &[], Offers::default()).finish().unwrap();
        let plan = Plan::new(&mold, &answers, &Limits::default()).unwrap().verify().unwrap();
        fs::write(folder.join("body").join(changed), "evil").unwrap();
        let to = place.path().join("out");
        let written = write(&plan, &to, &());
        let is_refused = matches!(
            written,
            Err(WriteError::Package(PackageError::Changed(_))
                | WriteError::Plan(PlanError::Package(PackageError::Changed(_))))
        );
        assert!(is_refused && !to.exists(), "{changed}: {written:?}");
        let file = place.path().join("out.zip");
        assert!(write_archive(&plan, &file, ArchiveFormat::Zip, "out", None, &journals(&file), &()).is_err());
        assert!(!file.exists());
    }
}

/// A project with a write that was killed, and the journals beside it.
struct Killed {
    place: TempDir,
    root: PathBuf,
}

impl Killed {
    /// Makes the staging directory `.tinmold/stage-x` with these files of the project.
    fn new(files: &[(&str, &str)]) -> Self {
        let place = TempDir::new().unwrap();
        let root = place.path().canonicalize().unwrap().join("casting");
        for folder in ["new", "old"] {
            fs::create_dir_all(root.join(".tinmold/stage-x").join(folder)).unwrap();
        }
        for (path, text) in files {
            let path = root.join(path);
            fs::create_dir_all(path.parent().unwrap()).unwrap();
            fs::write(path, text).unwrap();
        }
        Self { place, root }
    }

    fn identity(path: &Path) -> String {
        let found = RootDir::open(path).unwrap().itself().unwrap().identity;
        format!("{{\"device\":{},\"inode\":{}}}", found.device, found.inode)
    }

    /// Writes the journal: its beginning and these lines.
    fn journal(&self, lines: &[&str]) {
        let bytes: Vec<String> = self.root.to_str().unwrap().bytes().map(|byte| byte.to_string()).collect();
        let begin = format!(
            "{{\"begin\":{{\"format\":2,\"kind\":\"existing\",\"root\":{{\"Unix\":[{}]}},\"identity\":{},\
             \"stage\":\".tinmold/stage-x\",\"makes_own\":true}}}}\n",
            bytes.join(","),
            Self::identity(&self.root)
        );
        let staged = Self::identity(&self.root.join(".tinmold/stage-x"));
        let lines: String = lines.iter().map(|line| line.replace("STAGED", &staged) + "\n").collect();
        let folder = journal_folder(&self.root);
        fs::create_dir_all(&folder).unwrap();
        fs::write(folder.join("1.jsonl"), begin + &lines).unwrap();
    }

    fn recover(&self) -> Vec<Recovered> {
        let (recovered, unrecovered) = recover(&journals(&self.root), &[&self.root]);
        assert!(unrecovered.is_empty(), "{unrecovered:?}");
        recovered
    }

    fn text(&self, path: &str) -> Option<String> {
        fs::read_to_string(self.root.join(path)).ok()
    }
}

/// A line of a journal with these moves: path, text before, text after.
fn moves(folders: &str, steps: &[(&str, Option<&str>, Option<&str>)]) -> String {
    let digest = |text: &Option<&str>| {
        text.map_or("null".to_owned(), |text| format!("\"{}\"", digest_of(text.as_bytes())))
    };
    let steps: Vec<String> = steps
        .iter()
        .map(|(path, was, new)| {
            format!("{{\"path\":\"{path}\",\"was\":{},\"new\":{}}}", digest(was), digest(new))
        })
        .collect();
    format!("{{\"moves\":{{\"folders\":[{folders}],\"steps\":[{}]}}}}", steps.join(","))
}

#[test]
fn what_somebody_changed_since_a_kill_stays() {
    let (new, old) = (Some("new"), Some("old"));
    let steps = [
        ("made", None, new),
        ("made-changed", None, new),
        ("d/replaced", old, new),
        ("changed", old, new),
        ("no-copy", old, new),
        ("waits", None, new),
    ];
    let killed = Killed::new(&[
        ("made", "new"),
        ("made-changed", "mine"),
        ("d/replaced", "new"),
        (".tinmold/stage-x/old/d/replaced", "old"),
        ("changed", "mine"),
        (".tinmold/stage-x/old/changed", "old"),
        ("changed.before-cast", "taken"),
        // Not the copy that the journal lists.
        ("no-copy", "new"),
        (".tinmold/stage-x/old/no-copy", "another"),
        (".tinmold/stage-x/new/waits", "new"),
    ]);
    fs::create_dir(killed.root.join("e")).unwrap();
    killed.journal(&["{\"staged\":STAGED}", &moves("\"d\",\"e\"", &steps)]);
    let left = vec![
        ("no-copy".to_owned(), None),
        ("changed".to_owned(), Some("changed.before-cast-2".to_owned())),
        ("made-changed".to_owned(), None),
    ];
    assert_eq!(killed.recover(), [Recovered::Undone(killed.root.clone(), left)]);
    let expected = [
        ("made", None),
        ("made-changed", Some("mine")),
        ("d/replaced", Some("old")),
        ("changed", Some("mine")),
        ("changed.before-cast", Some("taken")),
        ("changed.before-cast-2", Some("old")),
        ("no-copy", Some("new")),
        ("waits", None),
    ];
    for (path, text) in expected {
        assert_eq!(killed.text(path).as_deref(), text, "{path}");
    }
    assert!(!killed.root.join("e").exists() && !killed.root.join(".tinmold").exists());
    assert_eq!(killed.recover(), []);
}

#[test]
fn a_kill_at_the_very_beginning_or_end_leaves_nothing() {
    let gone = moves("", &[("d/e/gone", Some("x"), None)]);
    let all = ["{\"staged\":STAGED}", &gone, "\"done\""];
    for lines in [&all[..0], &all[..1], &all[..]] {
        let killed = Killed::new(&[("d/mine", "mine")]);
        fs::create_dir_all(killed.root.join("d/e")).unwrap();
        killed.journal(lines);
        assert_eq!(killed.recover(), [Recovered::Finished(killed.root.clone())], "{lines:?}");
        assert!(!killed.root.join(".tinmold").exists() && killed.root.join("d/mine").exists());
        // A folder that a file went from is part of the work, and any other is not.
        assert_eq!(killed.root.join("d/e").exists(), lines.len() < 3);
        assert_eq!(killed.recover(), []);
    }
    // A line that did not reach the disk is not there.
    let killed = Killed::new(&[("made", "new")]);
    killed.journal(&["{\"staged\":STAGED}", &moves("", &[("made", None, Some("new"))])]);
    let path = journal_folder(&killed.root).join("1.jsonl");
    let text = fs::read_to_string(&path).unwrap();
    fs::write(&path, &text[..text.len() - 1]).unwrap();
    assert_eq!(killed.recover(), [Recovered::Finished(killed.root.clone())]);
    assert_eq!(killed.text("made").as_deref(), Some("new"));
}

#[test]
fn only_what_a_journal_of_the_users_lists_is_touched() {
    // A staging directory that no journal lists, or another one than the journal's.
    let killed = Killed::new(&[(".tinmold/stage-x/old/a", "a"), (".tinmold/pending/journal.json", "{}")]);
    assert_eq!(killed.recover(), []);
    killed.journal(&["{\"staged\":{\"device\":1,\"inode\":1}}"]);
    killed.recover();
    assert_eq!(killed.text(".tinmold/stage-x/old/a").as_deref(), Some("a"));
    // A link on the way is not followed.
    let killed = Killed::new(&[(".tinmold/stage-x/old/link/victim", "evil")]);
    fs::create_dir(killed.place.path().join("elsewhere")).unwrap();
    fs::write(killed.place.path().join("elsewhere/victim"), "good").unwrap();
    #[cfg(unix)]
    std::os::unix::fs::symlink("../elsewhere", killed.root.join("link")).unwrap();
    for steps in [
        [("link/victim", Some("evil"), Some("good"))],
        [("../elsewhere/victim", Some("evil"), Some("good"))],
        [("/tmp/victim", None, Some("good"))],
    ] {
        killed.journal(&["{\"staged\":STAGED}", &moves("", &steps)]);
        let (recovered, unrecovered) = recover(&journals(&killed.root), &[&killed.root]);
        assert_eq!((recovered.len(), unrecovered.len()), (0, 1), "{steps:?}");
    }
    let victim = killed.place.path().join("elsewhere/victim");
    assert_eq!(fs::read_to_string(victim).unwrap(), "good");
    // A project that was moved is named, and recovered only when the user says so.
    let killed = Killed::new(&[("made", "new")]);
    killed.journal(&["{\"staged\":STAGED}", &moves("", &[("made", None, Some("new"))])]);
    let moved = killed.root.with_file_name("moved");
    fs::rename(&killed.root, &moved).unwrap();
    fs::create_dir(&killed.root).unwrap();
    for near in [&moved, &killed.root] {
        let (recovered, unrecovered) = recover(&journals(&killed.root), &[near]);
        assert!(recovered.is_empty() && matches!(unrecovered[..], [Unrecovered::Moved { .. }]));
    }
    assert!(moved.join("made").exists());
    let mut pending = pending(&journals(&killed.root), &moved);
    assert_eq!((&pending[0].folder, &pending[0].paths), (&moved, &vec!["made".to_owned()]));
    let expected = Recovered::Undone(moved.clone(), Vec::new());
    assert_eq!(pending.remove(0).recover().unwrap(), Some(expected));
    assert!(!moved.join("made").exists() && !moved.join(".tinmold").exists());
}

#[cfg(unix)]
#[test]
fn without_a_private_state_directory_only_new_folders_are_written() {
    use std::os::unix::fs::PermissionsExt;
    let place = TempDir::new().unwrap();
    let mold = mold("", &[("body/a", "a")]);
    let answers = session(&mold, &[], Offers::default()).finish().unwrap();
    let plan = Plan::new(&mold, &answers, &Limits::default()).unwrap().verify().unwrap();
    let open = place.path().join("open");
    fs::create_dir(&open).unwrap();
    fs::set_permissions(&open, fs::Permissions::from_mode(0o777)).unwrap();
    fs::write(place.path().join("file"), "x").unwrap();
    for (number, journals) in
        [None, Some(open), Some(place.path().join("file/x"))].into_iter().map(Journals::new).enumerate()
    {
        let (new, old) =
            (place.path().join(format!("new{number}")), place.path().join(format!("old{number}")));
        fs::create_dir(&old).unwrap();
        let write = |folder: &Path| plan.write(&inspect(&plan, folder).unwrap(), &[], &journals, &());
        assert!(matches!(write(&old), Err(WriteError::State(_))));
        assert_eq!(fs::read_dir(&old).unwrap().count(), 0);
        write(&new).unwrap();
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
    let pack =
        |present| write_archive(&plan, &file, ArchiveFormat::TarGz, "board", present, &journals(&file), &());
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
