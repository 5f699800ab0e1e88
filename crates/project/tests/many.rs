//! Casts of many files, in parallel, with remembered tags.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;
use common::{session, write};
use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};
use tempfile::TempDir;
use tinmold_mold::package::open_folder;
use tinmold_mold::{Mold, Package, PackageError};
use tinmold_platform::digest::{digest_of, read_digests};
use tinmold_project::answers::Offers;
use tinmold_project::plan::{Limits, Plan, PlanError, Rendered};
use tinmold_project::verify::VerifiedPlan;
use tinmold_project::write::{Observer, WriteError};

const MANIFEST: &str = "[mold]\nname = \"fleet\"\nversion = \"1.0.0\"\nsummary = \"x\"\n\
    [[question]]\nkey = \"pier\"\nask = \"?\"\nkind = \"text\"\ndefault = \"Gull Point\"\n\
    [[question]]\nkey = \"berths\"\nask = \"?\"\nkind = \"texts\"\ndefault = [\"a\", \"b\"]\n\
    [[question]]\nkey = \"night\"\nask = \"?\"\nkind = \"flag\"\ndefault = false\n\
    [[files]]\nmatch = \"**/*.raw\"\ncopy = true\n\
    [[files]]\nmatch = \"**/left-*\"\nwhen = \"night\"\n\
    [[files]]\nmatch = \"**/{= b =}.txt\"\neach = \"b in berths\"\n\
    [[files]]\nmatch = \"**/*.c\"\nmarks = [\"<%\", \"%>\"]\n";

/// The kinds of files in the mold: name, content, output; `None` without output.
const KINDS: &[(&str, &str, Option<&str>)] = &[
    ("plain.md", "no tag\r\n", Some("no tag\r\n")),
    ("value.md", "from {= pier =}, {= pier.snake =}\n", Some("from Gull Point, gull_point\n")),
    (
        "choice.sh",
        "a\n# {= if pier.len > 3 =}\n  {= pier =}\n# {= else =}\nno\n# {= end =}\nz\n",
        Some("a\n  Gull Point\nz\n"),
    ),
    ("loop.md", "{= for b in berths =}{= b =}{= between =}-{= end =} {= pier =}", Some("a-b Gull Point")),
    (
        "data.json",
        "{ \"pier\": {= pier.json =},\n# {= if night =}\n\"x\": 1,\n# {= end =}\n}",
        Some("{ \"pier\": \"Gull Point\"\n}"),
    ),
    (
        "marks.c",
        "char *pier = <% pier.c %>; /* {= pier =} */",
        Some("char *pier = \"Gull Point\"; /* {= pier =} */"),
    ),
    ("copied.raw", "{= pier", Some("{= pier")),
    ("left-out.md", "{= pier =}", None),
    (
        "note.md",
        "{= note a {= =}{= \"=}\" =}|{= 'as' =}{= as-is =}{= pier =}{= end =}",
        Some("=}|as{= pier =}"),
    ),
];

/// A mold of so many files, in folders of fifty.
fn write_mold(root: &Path, files: usize) -> BTreeMap<String, &'static str> {
    let mut expected = BTreeMap::new();
    fs::create_dir_all(root).unwrap();
    fs::write(root.join("mold.toml"), MANIFEST).unwrap();
    for number in 0..files {
        let (name, holds, out) = KINDS[number % KINDS.len()];
        let path = format!("Deck {}/{number}-{name}", number / 50).replace("-left", "/left");
        let at = root.join("body").join(&path);
        fs::create_dir_all(at.parent().unwrap()).unwrap();
        fs::write(at, holds).unwrap();
        expected.extend(out.map(|out| (path, out)));
    }
    fs::write(root.join("body/{= b =}.txt"), "{= b =} of {= pier =}").unwrap();
    expected.extend([("a.txt".to_owned(), "a of Gull Point"), ("b.txt".to_owned(), "b of Gull Point")]);
    expected
}

fn with_plan<T>(package: Package, then: impl FnOnce(&VerifiedPlan<'_>) -> T) -> T {
    let mold = Mold::load(package).unwrap_or_else(|error| panic!("{error:?}"));
    let answers = session(&mold, &[], Offers::default()).finish().unwrap();
    then(&Plan::new(&mold, &answers, &Limits::default()).unwrap().verify().unwrap())
}

/// The files below a folder, without the record, by path.
fn held(root: &Path) -> BTreeMap<String, Vec<u8>> {
    let mut held = BTreeMap::new();
    let mut folders = vec![root.to_owned()];
    while let Some(folder) = folders.pop() {
        for entry in fs::read_dir(folder).unwrap() {
            let path: PathBuf = entry.unwrap().path();
            let inside = path.strip_prefix(root).unwrap().to_str().unwrap().to_owned();
            if path.is_dir() && inside != ".tinmold" {
                folders.push(path);
            } else if path.is_file() {
                held.insert(inside, fs::read(path).unwrap());
            }
        }
    }
    held
}

/// Stores the progress, and stops after a number of files.
struct Watcher {
    told: AtomicUsize,
    stop_after: usize,
}

impl Observer for Watcher {
    fn wrote(&self, done: usize, of: usize) {
        assert!(done <= of);
        self.told.fetch_max(done, Ordering::Relaxed);
    }

    fn is_cancelled(&self) -> bool {
        self.told.load(Ordering::Relaxed) >= self.stop_after
    }
}

#[test]
fn every_file_comes_out_as_it_does_alone() {
    let place = TempDir::new().unwrap();
    let root = place.path().join("mold");
    // A few files are compiled each; for many the tags are remembered.
    for files in [20, 700] {
        let expected = write_mold(&root, files);
        let (new, there) =
            (place.path().join(format!("new-{files}")), place.path().join(format!("there-{files}")));
        fs::create_dir(&there).unwrap();
        let watcher = Watcher { told: AtomicUsize::new(0), stop_after: usize::MAX };
        with_plan(open_folder(&root).unwrap(), |plan| {
            assert_eq!(write(plan, &new, &watcher).unwrap().files, expected.len());
            assert_eq!(watcher.told.load(Ordering::Relaxed), expected.len());
            write(plan, &there, &()).unwrap();
            let sizes = plan.sizes().unwrap();
            for (entry, size) in plan.entries.iter().zip(sizes) {
                let mut alone = Vec::new();
                if matches!(plan.render(entry, &mut alone).unwrap(), Rendered::AsIs) {
                    alone = expected[&*entry.path].into();
                }
                assert_eq!(
                    (&*String::from_utf8_lossy(&alone), size),
                    (expected[&*entry.path], alone.len() as u64)
                );
            }
        });
        let came = held(&new);
        let texts: BTreeMap<String, &str> =
            came.iter().map(|(path, bytes)| (path.clone(), std::str::from_utf8(bytes).unwrap())).collect();
        assert_eq!(texts, expected);
        assert_eq!(held(&there), came);
        // The record holds the digests of the files, and of the mold.
        let record = |root: &Path, name| fs::read_to_string(root.join(".tinmold").join(name)).unwrap();
        let digests = read_digests(&record(&new, "files.sha256")).unwrap();
        let computed = came.iter().map(|(path, bytes)| (path.clone(), digest_of(bytes))).collect();
        assert_eq!(digests, computed);
        assert_eq!(record(&there, "files.sha256"), record(&new, "files.sha256"));
        let whole = open_folder(&root).unwrap().digest().unwrap().to_string();
        for root in [&new, &there] {
            assert!(record(root, "casting.toml").contains(&whole));
        }
    }
}

#[test]
fn the_record_names_every_file_however_large_and_copied_ones_last() {
    let place = TempDir::new().unwrap();
    let root = place.path().join("mold");
    fs::create_dir_all(root.join("body")).unwrap();
    fs::write(root.join("mold.toml"), MANIFEST).unwrap();
    // Large rendered files, then copied ones, in turns; one output is larger than all others.
    for number in 0..320 {
        let (end, text) = match number % 32 {
            0..22 => ("md", format!("{{= pier =}} {number}\n").repeat(1500 + number)),
            22 => ("txt", format!("{{= for a in berths =}}{}{{= end =}}", "x".repeat(300_000))),
            _ => ("raw", format!("{{= {number}")),
        };
        fs::write(root.join(format!("body/{number:03}.{end}")), text).unwrap();
    }
    let out = place.path().join("board");
    let written = with_plan(open_folder(&root).unwrap(), |plan| write(plan, &out, &()).unwrap());
    let came = held(&out);
    assert_eq!((written.files, came.len()), (320, 320));
    assert_eq!(written.bytes, came.values().map(|bytes| bytes.len() as u64).sum::<u64>());
    let digests = read_digests(&fs::read_to_string(out.join(".tinmold/files.sha256")).unwrap()).unwrap();
    assert_eq!(digests, came.iter().map(|(path, bytes)| (path.clone(), digest_of(bytes))).collect());
    let whole = open_folder(&root).unwrap().digest().unwrap().to_string();
    assert!(fs::read_to_string(out.join(".tinmold/casting.toml")).unwrap().contains(&whole));
}

#[test]
fn mistakes_of_many_files_are_all_told_and_nothing_stays() {
    let place = TempDir::new().unwrap();
    let (root, out) = (place.path().join("mold"), place.path().join("out/board"));
    write_mold(&root, 400);
    let broken = [
        ("a.md", "{= pier.snake =}{= gull =}", "unknown-name"),
        ("b.json", "{= pier.json =} 2", "malformed-output"),
        ("c.md", "{= if pier.len > 3 =}x", "unclosed-block"),
        ("d.md", "{= pier.snake =}\n{= pier.len / (pier.len - 10) =}", "division-by-zero"),
    ];
    for (at, (name, text, _)) in broken.iter().enumerate() {
        fs::write(root.join(format!("body/Deck {at}/{name}")), text).unwrap();
    }
    let nothing = || fs::read_dir(place.path()).unwrap().count() == 1;
    let told = with_plan(open_folder(&root).unwrap(), |plan| write(plan, &out, &()).unwrap_err());
    let WriteError::Plan(PlanError::Faulty(found)) = told else { panic!("{told}") };
    let found: Vec<(&str, &str)> = found
        .iter()
        .map(|finding| (finding.file.rsplit('/').next().unwrap(), finding.code.as_str()))
        .collect();
    assert_eq!(found, broken.map(|(name, _, code)| (name, code)));
    assert!(nothing());
    for (at, (name, ..)) in broken.iter().enumerate() {
        fs::remove_file(root.join(format!("body/Deck {at}/{name}"))).unwrap();
    }
    // The write is stopped, or a file disappears after the plan was made.
    let watcher = Watcher { told: AtomicUsize::new(0), stop_after: 100 };
    let told = with_plan(open_folder(&root).unwrap(), |plan| write(plan, &out, &watcher).unwrap_err());
    assert!(matches!(told, WriteError::Cancelled) && nothing(), "{told}");
    for name in ["303-plain.md", "303-copied.raw"] {
        let (path, _) = (
            root.join("body/Deck 6").join(name),
            fs::write(root.join("body/Deck 6").join(name), "x").unwrap(),
        );
        let package = open_folder(&root).unwrap();
        fs::remove_file(path).unwrap();
        let told = with_plan(package, |plan| write(plan, &out, &()).unwrap_err());
        let is_unreadable = match &told {
            WriteError::Plan(PlanError::Faulty(found)) => found[0].code.as_str() == "unreadable-file",
            WriteError::Package(PackageError::Io { path, .. }) | WriteError::Io { path, .. } => {
                path.ends_with(name)
            }
            _ => false,
        };
        assert!(is_unreadable, "{told}");
        assert!(nothing());
    }
}

#[cfg(unix)]
#[test]
fn a_file_is_taken_as_it_is_when_it_is_read() {
    use std::os::unix::fs::PermissionsExt;
    let place = TempDir::new().unwrap();
    let root = place.path().join("mold");
    write_mold(&root, 100);
    let package = open_folder(&root).unwrap();
    let changed =
        [("Deck 0/0-plain.md", "longer than it was ".repeat(500)), ("Deck 1/54-plain.md", String::new())];
    for (path, text) in &changed {
        fs::write(root.join("body").join(path), text).unwrap();
    }
    fs::set_permissions(root.join("body/Deck 0/2-choice.sh"), fs::Permissions::from_mode(0o700)).unwrap();
    let out = place.path().join("board");
    with_plan(package, |plan| write(plan, &out, &()).unwrap());
    for (path, text) in changed {
        assert_eq!(fs::read_to_string(out.join(path)).unwrap(), text);
    }
    let mode = |path: &str| fs::metadata(out.join(path)).unwrap().permissions().mode() & 0o777;
    assert_eq!((mode("Deck 0/2-choice.sh"), mode("Deck 0/1-value.md")), (0o755, 0o644));
    let recorded = fs::read_to_string(out.join(".tinmold/casting.toml")).unwrap();
    assert!(recorded.contains(&open_folder(&root).unwrap().digest().unwrap().to_string()));
}

#[test]
fn files_of_all_lengths_go_through_the_same_buffers() {
    const LENGTHS: [usize; 7] = [0, 1, 2047, 16 * 1024, 16 * 1024 + 1, 300_000, 600_000];
    let place = TempDir::new().unwrap();
    let (root, out) = (place.path().join("mold"), place.path().join("out"));
    fs::create_dir_all(root.join("body")).unwrap();
    fs::write(root.join("mold.toml"), MANIFEST).unwrap();
    let mut expected = BTreeMap::new();
    for number in 0..147_usize {
        // Every length follows every other one.
        let length = LENGTHS[(number * (number / 7 % 6 + 1)) % 7];
        let filler = number.to_string().repeat(length / number.to_string().len() + 1);
        let path = format!("deck-{}/quay/{number}.txt", number / 13);
        let at = root.join("body").join(&path);
        fs::create_dir_all(root.join("body").join(format!("deck-{}/empty", number / 13))).unwrap();
        fs::create_dir_all(at.parent().unwrap()).unwrap();
        let (tag, value) = if number % 2 == 0 { ("{= pier =}", "Gull Point") } else { ("", "") };
        fs::write(&at, format!("{tag}{}", &filler[..length])).unwrap();
        expected.insert(path, format!("{value}{}", &filler[..length]).into_bytes());
    }
    with_plan(open_folder(&root).unwrap(), |plan| {
        assert_eq!(write(plan, &out, &()).unwrap().files, expected.len());
        assert_eq!(write(plan, &out, &()).unwrap().same, expected.len());
    });
    assert!(held(&out) == expected, "what came out is not what the mold says");
    for deck in 0..12 {
        assert!(fs::read_dir(out.join(format!("deck-{deck}/empty"))).unwrap().next().is_none());
    }
    let list = fs::read_to_string(out.join(".tinmold/files.sha256")).unwrap();
    let digests = expected.iter().map(|(path, bytes)| (path.clone(), digest_of(bytes))).collect();
    assert_eq!(read_digests(&list), Ok(digests));
}
