#![allow(clippy::unwrap_used)]

use super::*;
use std::fs;
use std::io::{Read, Write};
use std::os::unix::fs::symlink;

#[test]
fn no_operation_leaves_the_directory() {
    let place = tempfile::tempdir().unwrap();
    let (outside, inside) = (place.path().join("outside"), place.path().join("inside"));
    fs::create_dir_all(outside.join("deep")).unwrap();
    fs::write(outside.join("deep/secret"), "s").unwrap();
    fs::create_dir_all(inside.join("real")).unwrap();
    fs::write(inside.join("real/file"), "f").unwrap();
    symlink(&outside, inside.join("link")).unwrap();
    symlink("../outside/deep/secret", inside.join("secret")).unwrap();
    let root = RootDir::open(&inside).unwrap();
    for path in ["link/x", "link/deep/x", "link/deep/secret"] {
        let through = |error: Error| assert!(is_link_on_the_way(&error), "{path}: {error}");
        through(root.create(path, 0o644).map(drop).unwrap_err());
        through(root.open_file(path).map(drop).unwrap_err());
        through(root.make_directory(path, 0o755).unwrap_err());
        through(root.make_directories(path).unwrap_err());
        through(root.make_link("y", path).unwrap_err());
        through(root.rename("real/file", path).unwrap_err());
        through(root.rename_new("real/file", path).unwrap_err());
        through(root.hard_link("real/file", path).unwrap_err());
        through(root.remove_file(path).unwrap_err());
        through(root.find(path).map(drop).unwrap_err());
        through(Cursor::new(&root).create(path, 0o644).map(drop).unwrap_err());
    }
    for path in ["../outside/x", "/tmp/x", "real/../../outside/x", "real/..", ".", ""] {
        assert!(root.create(path, 0o644).is_err(), "{path}");
        assert!(root.remove_file(path).is_err(), "{path}");
    }
    assert!(is_link_on_the_way(&root.open_file("secret").map(drop).unwrap_err()));
    assert!(is_link_on_the_way(&RootDir::open(&inside.join("link")).map(drop).unwrap_err()));
    // A tree is removed without following its links.
    symlink(&outside, inside.join("real/link")).unwrap();
    fs::create_dir_all(inside.join("real/more/and/more")).unwrap();
    root.remove_tree("real").unwrap();
    assert_eq!(fs::read_to_string(outside.join("deep/secret")).unwrap(), "s");
    assert_eq!(root.find("real").unwrap(), None);
}

#[test]
fn what_is_made_is_there() {
    let place = tempfile::tempdir().unwrap();
    let root = RootDir::open(place.path()).unwrap();
    let mut cursor = Cursor::new(&root);
    for path in ["a/b/one", "a/b/two", "three"] {
        cursor.create(path, 0o755).unwrap().write_all(path.as_bytes()).unwrap();
    }
    cursor.make_link("b/one", "a/link").unwrap();
    let mut text = String::new();
    root.open_file("a/b/two").unwrap().read_to_string(&mut text).unwrap();
    assert_eq!(text, "a/b/two");
    assert_eq!(root.find("a/b/one").unwrap().unwrap().mode & 0o700, 0o700);
    assert_eq!(root.read_link("a/link").unwrap(), "b/one");
    root.create("a/own", 0o640).unwrap();
    assert_eq!(root.find("a/own").unwrap().unwrap().mode, 0o640);
    assert_eq!(root.create("three", 0o644).unwrap_err().kind(), ErrorKind::AlreadyExists);
    assert_eq!(root.create("none/f", 0o644).unwrap_err().kind(), ErrorKind::NotFound);
    assert_eq!(root.rename_new("a/b/one", "three").unwrap_err().kind(), ErrorKind::AlreadyExists);
    root.rename_new("a/b/one", "a/four").unwrap();
    let names: Vec<_> = root.list("a").unwrap().into_iter().map(|(name, _)| name).collect();
    assert_eq!(names, ["b", "four", "link", "own"]);
    assert_eq!(root.find("none/at/all").unwrap(), None);
}
