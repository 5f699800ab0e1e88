//! Directories, archives and digests.
#![allow(clippy::unwrap_used)]

use std::fs;
use std::io::{Read, Write};
use std::sync::atomic::{AtomicUsize, Ordering};
use tempfile::TempDir;
use tinmold_platform::digest::{Hasher, digest_of, digest_of_file};
use tinmold_platform::dir_handle::DirHandle;
use tinmold_platform::parallel;
use tinmold_platform::read_dir::{EntryKind, list};
use tinmold_platform::tarball::Tarball;

#[test]
fn many_files_of_a_directory_are_opened() {
    let place = TempDir::new().unwrap();
    let mut handle = DirHandle::default();
    for folder in ["a", "b", "a"] {
        fs::create_dir_all(place.path().join(folder)).unwrap();
        for number in 0..3 {
            let name = format!("f{number}");
            fs::write(place.path().join(folder).join(&name), format!("{folder}{number}")).unwrap();
            let mut text = String::new();
            let opened = handle.open(&place.path().join(folder), name.as_ref());
            opened.unwrap().read_to_string(&mut text).unwrap();
            assert_eq!(text, format!("{folder}{number}"));
        }
    }
    let missing = handle.open(&place.path().join("a"), "none".as_ref()).unwrap_err();
    assert_eq!(missing.kind(), std::io::ErrorKind::NotFound);
    let nowhere = handle.open(&place.path().join("c"), "f".as_ref()).unwrap_err();
    assert_eq!(nowhere.kind(), std::io::ErrorKind::NotFound);
}

#[cfg(unix)]
#[test]
fn a_listing_follows_no_link() {
    let place = TempDir::new().unwrap();
    fs::write(place.path().join("b"), "").unwrap();
    fs::create_dir(place.path().join("a")).unwrap();
    std::os::unix::fs::symlink("/", place.path().join("c")).unwrap();
    let _socket = std::os::unix::net::UnixListener::bind(place.path().join("d")).unwrap();
    let listed: Vec<_> = list(place.path())
        .unwrap()
        .into_iter()
        .map(|(name, kind)| (name.into_string().unwrap(), kind))
        .collect();
    let kinds = [EntryKind::Directory, EntryKind::File, EntryKind::Link, EntryKind::Special];
    let expected: Vec<_> = ["a", "b", "c", "d"].map(str::to_owned).into_iter().zip(kinds).collect();
    assert_eq!(listed, expected);
    assert!(list(&place.path().join("none")).is_err());
}

#[test]
fn archives_hold_the_same_bytes_on_every_run() {
    let write = || {
        let mut archive = Tarball::new(Vec::new(), 1_795_392_000);
        archive.folder("board").unwrap();
        archive.file("board/run.sh", 0o755, 3, &mut &b"ls\n"[..]).unwrap();
        archive.link("board/link", "run.sh").unwrap();
        archive.finish().unwrap()
    };
    let bytes = write();
    assert_eq!(bytes, write());
    let mut archive = tar::Archive::new(flate2::read::GzDecoder::new(bytes.as_slice()));
    let entries = archive.entries().unwrap().map(|entry| {
        let entry = entry.unwrap();
        let header = entry.header();
        assert_eq!((header.mtime().unwrap(), header.uid().unwrap()), (1_795_392_000, 0));
        (entry.path().unwrap().display().to_string(), header.mode().unwrap())
    });
    let entries: Vec<_> = entries.collect();
    let expected = [("board", 0o755), ("board/run.sh", 0o755), ("board/link", 0o777)];
    assert_eq!(entries, expected.map(|(path, mode)| (path.to_owned(), mode)));
    // A file that changed its length is an error, not an archive with a gap.
    for bytes in ["tide", "tide tables"] {
        let mut archive = Tarball::new(Vec::new(), 0);
        assert!(archive.file("a", 0o644, 10, &mut bytes.as_bytes()).is_err(), "{bytes}");
    }
}

#[test]
fn digests_are_those_of_the_whole() {
    let place = TempDir::new().unwrap();
    let path = place.path().join("f");
    for length in [0, 1, 55, 56, 64, 65, 4096, 1 << 20] {
        let bytes = "tide".repeat(length / 4 + 1).into_bytes()[..length].to_vec();
        fs::File::create(&path).unwrap().write_all(&bytes).unwrap();
        let mut pieces = Hasher::new();
        bytes.chunks(7).for_each(|piece| pieces.update(piece));
        assert_eq!(pieces.finish(), digest_of(&bytes), "{length}");
        assert_eq!(digest_of_file(&path).unwrap(), digest_of(&bytes), "{length}");
    }
    // FIPS 180-4, the example of one block.
    let abc = "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad";
    assert_eq!(digest_of(b"abc").to_string(), abc);
    assert!(digest_of_file(&place.path().join("none")).is_err());
}

#[test]
fn parallel_work_keeps_the_order() {
    let items: Vec<usize> = (0..5000).collect();
    let calls = AtomicUsize::new(0);
    let doubled = parallel::map(&items, |at, item| {
        calls.fetch_add(1, Ordering::Relaxed);
        assert_eq!(at, *item);
        item * 2
    });
    assert!(doubled.iter().enumerate().all(|(at, doubled)| *doubled == at * 2));
    assert_eq!(calls.into_inner(), items.len());
    let reused = parallel::map_with(&items, Vec::new, |buffer: &mut Vec<usize>, _, item| {
        buffer.push(*item);
        *item
    });
    assert_eq!(reused, items);
    assert_eq!(parallel::each(&items[..3], |item| item + 1), [1, 2, 3]);
    assert!(parallel::map(&[] as &[usize], |_, item| *item).is_empty());
}
