//! Sources of molds and destinations of projects, and what the file system does to both.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;
use common::{session, write};
use std::fs;
use std::path::Path;
use std::sync::atomic::{AtomicUsize, Ordering};
use tempfile::TempDir;
use tinmold_mold::package::open_folder;
use tinmold_mold::{Mold, PackageError, built_in, built_in_names};
use tinmold_project::answers::Offers;
use tinmold_project::plan::{Limits, Plan, PlanError};
use tinmold_project::write::{Observer, WriteError};

fn write_mold(folder: &Path, files: usize) {
    fs::create_dir_all(folder.join("body/d")).unwrap();
    let manifest = "[mold]\nname = \"m\"\nversion = \"1.0.0\"\nsummary = \"x\"\n";
    fs::write(folder.join("mold.toml"), manifest).unwrap();
    for n in 0..files {
        fs::write(folder.join(format!("body/d/f{n}")), format!("{{= mold.name =}} {n}\n")).unwrap();
    }
}

fn cast(mold: &Mold, to: &Path, observer: &dyn Observer) -> Result<usize, WriteError> {
    let answers = session(mold, &[], Offers::default()).finish().unwrap();
    let plan = Plan::new(mold, &answers, &Limits::default()).unwrap().verify().unwrap();
    write(&plan, to, observer).map(|written| written.files)
}

/// Returns the names in a directory.
fn names(folder: &Path) -> Vec<String> {
    let mut names: Vec<_> = fs::read_dir(folder)
        .unwrap()
        .map(|entry| entry.unwrap().file_name().to_string_lossy().into_owned())
        .collect();
    names.sort();
    names
}

#[test]
fn every_built_in_mold_is_sound() {
    assert!(built_in_names().count() > 0);
    for name in built_in_names() {
        let mold = Mold::load(built_in(name).unwrap()).unwrap_or_else(|error| panic!("{name}: {error}"));
        assert_eq!(mold.name(), name);
        assert!(mold.package.file("README.md").is_some(), "{name} has no README.md");
        assert!((3..=5).contains(&mold.texts.tour.len()), "{name} shows {} places", mold.texts.tour.len());
        assert!(
            mold.questions.iter().filter(|q| q.is_asked()).all(|question| question.help.is_some()),
            "{name}"
        );
        for name in mold.parts() {
            let part = mold.part(name).unwrap();
            assert!(part.own_questions().all(|at| part.mold.questions[at].help.is_some()), "{name}");
        }
    }
    let error = built_in("pyton-service").unwrap_err();
    let near = |nearest: &str| nearest == "python-service";
    assert!(matches!(error, PackageError::Unknown { nearest: Some(nearest), .. } if near(&nearest)));
}

#[test]
fn a_folder_is_listed_in_the_order_of_its_paths() {
    // A slash sorts between other characters of names; few and many directories are listed alike.
    for many in [0, 30] {
        let place = TempDir::new().unwrap();
        write_mold(place.path(), 1);
        let mut expected = vec!["body/d/f0".to_owned(), "mold.toml".to_owned()];
        let more = (0..many).map(|number| format!("body/pier-{number}/gull/x"));
        let paths = ["Berth", "a!/x", "a-b/x", "a.txt", "a/b/x", "a/b-c", "a/b.d/x", "a0", "z/x"];
        for path in paths.map(|path| format!("body/{path}")).into_iter().chain(more).chain(["nets/x".into()])
        {
            let file = place.path().join(&path);
            fs::create_dir_all(file.parent().unwrap()).unwrap();
            fs::write(file, "x").unwrap();
            expected.push(path);
        }
        for path in ["body/a/b+", "body/empty", "body/empty-handed"] {
            fs::create_dir_all(place.path().join(path)).unwrap();
            expected.push(path.to_owned());
        }
        expected.sort();
        let listed = open_folder(place.path()).unwrap();
        assert_eq!(
            listed.files.iter().map(|file| &file.path).collect::<Vec<_>>(),
            expected.iter().collect::<Vec<_>>()
        );
    }
}

#[test]
fn folders_that_are_no_molds_are_told() {
    let place = TempDir::new().unwrap();
    assert!(matches!(open_folder(place.path()), Err(PackageError::NotAMold(_))));
    assert!(matches!(open_folder(&place.path().join("none")), Err(PackageError::NotAMold(_))));
    write_mold(place.path(), 1);
    assert_eq!(open_folder(place.path()).unwrap().files.len(), 2);
    #[cfg(unix)]
    {
        use std::os::unix::ffi::OsStringExt;
        let _socket = std::os::unix::net::UnixListener::bind(place.path().join("body/socket")).unwrap();
        assert!(matches!(open_folder(place.path()), Err(PackageError::Special(_))));
        fs::remove_file(place.path().join("body/socket")).unwrap();
        let odd = std::ffi::OsString::from_vec(vec![b'a', 0xff]);
        fs::write(place.path().join("body").join(&odd), "x").unwrap();
        assert!(matches!(open_folder(place.path()), Err(PackageError::NotUtf8(_))));
        fs::remove_file(place.path().join("body").join(&odd)).unwrap();
        // A folder that a link leads to is no folder of the mold.
        std::os::unix::fs::symlink("/", place.path().join("body/root")).unwrap();
        assert_eq!(open_folder(place.path()).unwrap().files.len(), 3);
    }
}

#[test]
fn a_casting_appears_whole_beside_nothing_else() {
    let place = TempDir::new().unwrap();
    write_mold(&place.path().join("m"), 300);
    let mold = Mold::load(open_folder(&place.path().join("m")).unwrap()).unwrap();
    assert_eq!(cast(&mold, &place.path().join("a/b/c"), &()).unwrap(), 300);
    assert_eq!(names(&place.path().join("a/b")), ["c"]);
    assert_eq!(fs::read_to_string(place.path().join("a/b/c/d/f299")).unwrap(), "m 299\n");
    assert_eq!(cast(&mold, &place.path().join("a/b/c"), &()).unwrap(), 0);
    fs::write(place.path().join("file"), "mine").unwrap();
    assert!(matches!(cast(&mold, &place.path().join("file"), &()), Err(WriteError::NotAFolder(_))));
    assert!(matches!(cast(&mold, &place.path().join("file/x"), &()), Err(WriteError::Io { .. })));
    assert_eq!(fs::read_to_string(place.path().join("file")).unwrap(), "mine");
    #[cfg(unix)]
    {
        // A link is not followed, wherever it leads.
        fs::create_dir(place.path().join("elsewhere")).unwrap();
        std::os::unix::fs::symlink("elsewhere", place.path().join("link")).unwrap();
        assert!(matches!(cast(&mold, &place.path().join("link"), &()), Err(WriteError::IsALink(_))));
        assert_eq!(names(&place.path().join("elsewhere")), Vec::<String>::new());
    }
    let long = place.path().join("x".repeat(300));
    assert!(matches!(cast(&mold, &long, &()), Err(WriteError::Io { .. })));
    assert_eq!(names(place.path()), ["a", "elsewhere", "file", "link", "m"]);
}

#[test]
fn what_goes_wrong_half_way_leaves_nothing() {
    let place = TempDir::new().unwrap();
    write_mold(&place.path().join("m"), 300);
    let mold = Mold::load(open_folder(&place.path().join("m")).unwrap()).unwrap();
    struct Impatient(AtomicUsize);
    impl Observer for Impatient {
        fn wrote(&self, done: usize, of: usize) {
            assert_eq!(of, 300);
            self.0.store(done, Ordering::Relaxed);
        }
        fn is_cancelled(&self) -> bool {
            self.0.load(Ordering::Relaxed) > 20
        }
    }
    let impatient = Impatient(AtomicUsize::new(0));
    assert!(matches!(cast(&mold, &place.path().join("new/out"), &impatient), Err(WriteError::Cancelled)));
    assert_eq!(names(place.path()), ["m"]);
    // A file that is gone, and one with a mistake, after the mold was loaded.
    fs::remove_file(place.path().join("m/body/d/f7")).unwrap();
    fs::write(place.path().join("m/body/d/f9"), "{= nope =}").unwrap();
    let Err(WriteError::Plan(error)) = cast(&mold, &place.path().join("new/out"), &()) else {
        panic!("a broken mold is cast")
    };
    let PlanError::Faulty(found) = error else { panic!("{error}") };
    let codes: Vec<_> = found.iter().map(|finding| finding.code.as_str()).collect();
    assert_eq!(codes, ["unreadable-file", "unknown-name"]);
    assert_eq!(names(place.path()), ["m"]);
}
