//! What holds of every recast, whatever the mold and the owner did.
#![allow(clippy::unwrap_used)]

mod common;

use common::{journals, mold, session, write};
use proptest::collection::{btree_map, vec};
use proptest::prelude::*;
use std::collections::BTreeMap;
use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::path::Path;
use tempfile::TempDir;
use tinmold_mold::Mold;
use tinmold_project::answers::{Answers, Offers};
use tinmold_project::plan::{Limits, Plan};
use tinmold_project::recast::{Decided, OldVersion, Recast, Recasting, UndoStore, Wishes};
use tinmold_project::record::{self, Recorded};

/// The files of a version by path, with their texts.
type Files = BTreeMap<String, String>;

/// A mold of these files. Tags would be mistakes: the texts have none.
fn version(number: u32, files: &Files) -> Mold {
    let head = format!(
        "[mold]\nname = \"ferry-board\"\nversion = \"{number}.0.0\"\nsummary = \"A mold of the tests\"\n"
    );
    let bodies: Vec<(String, &str)> =
        files.iter().map(|(path, text)| (format!("body/{path}"), text.as_str())).collect();
    let bodies: Vec<(&str, &str)> = bodies.iter().map(|(path, text)| (path.as_str(), *text)).collect();
    mold(&head, &bodies)
}

fn answers(mold: &Mold) -> Answers {
    session(mold, &[], Offers::default()).finish().unwrap()
}

fn cast(mold: &Mold, folder: &Path) -> Recorded {
    let answers = answers(mold);
    let plan = Plan::new(mold, &answers, &Limits::default()).unwrap().verify().unwrap();
    write(&plan, folder, &()).unwrap();
    record::open(folder).unwrap()
}

/// Plans a recast with everything decided for the owner.
fn planned(recorded: &Recorded, old: Option<&Mold>, new: &Mold) -> Recast {
    let old = old.map(|mold| OldVersion { mold, parts: &[], answers: answers(mold) });
    let digest = new.package.digest().unwrap();
    let recasting = Recasting::new(recorded, old, (new, digest), &[], Limits::default());
    let wishes = Wishes { all: Some(Decided::Mine), ..Wishes::default() };
    recasting.plan(&answers(new), &wishes).unwrap()
}

/// Every file below a folder, with its permissions.
fn content(folder: &Path) -> BTreeMap<String, (u32, Vec<u8>)> {
    fn list(folder: &Path, root: &Path, all: &mut BTreeMap<String, (u32, Vec<u8>)>) {
        for entry in fs::read_dir(folder).unwrap().flatten() {
            let path = entry.path();
            if path.is_dir() {
                list(&path, root, all);
            } else {
                let mode = fs::metadata(&path).unwrap().permissions().mode();
                let name = path.strip_prefix(root).unwrap().display().to_string();
                all.insert(name, (mode, fs::read(&path).unwrap()));
            }
        }
    }
    let mut all = BTreeMap::new();
    list(folder, folder, &mut all);
    all
}

fn text() -> impl Strategy<Value = String> {
    vec(prop_oneof!["ferry [a-e]", "pier [a-e]", "quay", ""], 0..9)
        .prop_map(|lines| lines.iter().map(|line| format!("{line}\n")).collect())
}

fn files() -> impl Strategy<Value = Files> {
    btree_map("([ab]/)?[c-h]\\.(txt|md)", text(), 0..6)
}

/// What the owner does to a file of this number: nothing, more lines, other permissions, or away with it.
#[derive(Clone, Debug)]
enum Edit {
    Lines(usize, usize),
    Mode,
    Remove,
    Rename,
    Own(String),
}

fn edits() -> impl Strategy<Value = Vec<Edit>> {
    let edit = prop_oneof![
        4 => (0..9_usize, 0..9_usize).prop_map(|(file, line)| Edit::Lines(file, line)),
        1 => Just(Edit::Mode),
        1 => Just(Edit::Remove),
        1 => Just(Edit::Rename),
        2 => "([ab]/)?[c-h]\\.(txt|md)".prop_map(Edit::Own),
    ];
    vec(edit, 0..5)
}

/// Edits a project; returns a mark for each line that is the owner's.
fn edit(folder: &Path, edits: &[Edit]) -> Vec<String> {
    let mut marks = Vec::new();
    for (number, edit) in edits.iter().enumerate() {
        let there: Vec<String> =
            content(folder).into_keys().filter(|path| !path.starts_with(".tinmold")).collect();
        let mark = format!("# mine {number}");
        let pick = |at: usize| there.get(at % there.len().max(1)).map(|path| folder.join(path));
        match edit {
            Edit::Lines(file, line) => {
                let Some(path) = pick(*file) else { continue };
                let text = fs::read_to_string(&path).unwrap();
                let mut lines: Vec<&str> = text.lines().collect();
                lines.insert(line % (lines.len() + 1), &mark);
                fs::write(&path, lines.join("\n") + "\n").unwrap();
                marks.push(mark);
            }
            Edit::Mode => {
                let Some(path) = pick(number) else { continue };
                fs::set_permissions(path, fs::Permissions::from_mode(0o755)).unwrap();
            }
            Edit::Remove => {
                let Some(path) = pick(number) else { continue };
                let text = fs::read_to_string(&path).unwrap();
                marks.retain(|mark| !text.contains(mark.as_str()));
                fs::remove_file(path).unwrap();
            }
            Edit::Rename => {
                let Some(path) = pick(number) else { continue };
                fs::rename(path, folder.join(format!("renamed-{number}.txt"))).unwrap();
            }
            Edit::Own(path) => {
                let path = folder.join(path);
                if path.exists() {
                    continue;
                }
                fs::create_dir_all(path.parent().unwrap()).unwrap();
                fs::write(path, format!("{mark}\n")).unwrap();
                marks.push(mark);
            }
        }
    }
    marks
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    #[test]
    fn a_recast_keeps_what_is_the_owners_and_can_be_undone(
        old in files(),
        new in files(),
        edits in edits(),
        knows_old in any::<bool>(),
    ) {
        // Durable writes are slow on a disk.
        let place = TempDir::new_in("/dev/shm").or_else(|_| TempDir::new()).unwrap();
        let folder = place.path().join("out");
        let (old, new) = (version(1, &old), version(2, &new));
        let recorded = cast(&old, &folder);
        let marks = edit(&folder, &edits);
        let before = content(&folder);

        // To the same version and answers nothing changes.
        let same = planned(&recorded, Some(&old), &old);
        prop_assert!(same.changes_nothing(), "{:?}", same.files);
        prop_assert_eq!(&same.record.digests, &recorded.digests);
        prop_assert_eq!(&same.record.casting, &recorded.casting);

        let recast = planned(&recorded, knows_old.then_some(&old), &new);
        prop_assert!(recast.decisions.is_empty(), "{:?}", recast.decisions);
        prop_assert_eq!(&content(&folder), &before);
        let store = UndoStore::new(place.path().join("undo"));
        recast.write(Some(&store), &journals(&folder), &()).unwrap();
        let after = content(&folder);
        let all: String =
            after.values().map(|(_, bytes)| String::from_utf8_lossy(bytes).into_owned()).collect();
        for mark in &marks {
            prop_assert_eq!(all.lines().filter(|line| line == mark).count(), 1, "{}: {:?}", mark, recast.files);
        }

        // Once more changes nothing.
        let recorded = record::open(&folder).unwrap();
        prop_assert_eq!(&recorded.digests, &recast.record.digests);
        let again = planned(&recorded, Some(&new), &new);
        prop_assert!(again.changes_nothing(), "{:?}", again.files);
        prop_assert_eq!(&again.record.casting, &recorded.casting);

        store.undo(&folder).unwrap().write(&journals(&folder), &()).unwrap();
        prop_assert_eq!(&content(&folder), &before);
    }
}
