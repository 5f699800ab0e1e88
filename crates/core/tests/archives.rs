//! Molds in archives: nothing in them is believed. And what addresses mean.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;
use common::package;
use flate2::Compression;
use flate2::write::GzEncoder;
use proptest::prelude::*;
use semver::Version;
use std::fs;
use tempfile::TempDir;
use tinmold_shelf::address::{Address, Wanted};
use tinmold_mold::package::{Content, open_archive, pack};

/// An archive of these entries: path, kind, what it holds or points to.
fn archive(entries: &[(&str, tar::EntryType, &str)]) -> Vec<u8> {
    let mut builder = tar::Builder::new(GzEncoder::new(Vec::new(), Compression::fast()));
    for (path, kind, text) in entries {
        let mut header = tar::Header::new_gnu();
        header.set_entry_type(*kind);
        header.set_mode(0o644);
        // The crate's own ways refuse such paths.
        let name = &mut header.as_gnu_mut().unwrap().name;
        name[..path.len()].copy_from_slice(path.as_bytes());
        let bytes = if kind.is_file() { text.as_bytes() } else { b"" };
        if kind.is_symlink() {
            header.set_link_name_literal(text).unwrap();
        }
        header.set_size(bytes.len() as u64);
        header.set_cksum();
        builder.append(&header, bytes).unwrap();
    }
    builder.into_inner().unwrap().finish().unwrap()
}

const HEAD: &str = "[mold]\nname = \"m\"\nversion = \"1.0.0\"\nsummary = \"x\"\n";

fn opened(place: &TempDir, bytes: &[u8]) -> Result<Vec<String>, String> {
    let path = place.path().join("m.tar.gz");
    fs::write(&path, bytes).unwrap();
    let package = open_archive(&path).map_err(|error| error.to_string())?;
    Ok(package.files.into_iter().map(|file| file.path.to_string()).collect())
}

#[test]
fn an_archive_made_to_harm_is_refused() {
    use tar::EntryType::{Block, Directory, Fifo, Link, Regular, Symlink};
    let place = TempDir::new().unwrap();
    let manifest = ("m/mold.toml", Regular, HEAD);
    type Entries<'a> = &'a [(&'a str, tar::EntryType, &'a str)];
    let cases: &[(Entries<'_>, &str)] = &[
        (&[manifest, ("m/../../x", Regular, "x")], "leads out"),
        (&[manifest, ("/etc/x", Regular, "x")], "leads out"),
        (&[manifest, ("m//x", Regular, "x")], "leads out"),
        (&[manifest, ("m\\..\\x", Regular, "x")], "leads out"),
        (&[manifest, ("m/pipe", Fifo, "")], "neither a file"),
        (&[manifest, ("m/disk", Block, "")], "neither a file"),
        (&[manifest, ("m/hard", Link, "x")], "neither a file"),
        (&[manifest, ("m/a", Regular, "x"), ("m/a", Regular, "y")], "twice"),
        (&[manifest, ("other/a", Regular, "x")], "do not lie in one folder"),
        (&[("mold.toml", Regular, HEAD)], "do not lie in one folder"),
        (&[("m/a", Regular, "x")], "no mold.toml"),
        (&[], "do not lie in one folder"),
    ];
    for (entries, words) in cases {
        let error = opened(&place, &archive(entries)).expect_err(words);
        assert!(error.contains(words), "{error}, wanted {words}");
    }
    let fine = [
        manifest,
        ("m/body/", Directory, ""),
        ("m/body/a", Regular, "x"),
        ("m/body/l", Symlink, "/etc/passwd"),
    ];
    // A link that leads out is found when the mold is cast, as in a folder.
    assert_eq!(opened(&place, &archive(&fine)).unwrap(), ["body/a", "body/l", "mold.toml"]);
    let whole = archive(&fine);
    for cut in [0, 1, 10, whole.len() / 2, whole.len() - 9] {
        assert!(opened(&place, &whole[..cut]).is_err(), "{cut}");
    }
    // What unpacks to more than a mold may be stops in time.
    let mut bomb = tar::Builder::new(GzEncoder::new(Vec::new(), Compression::fast()));
    let mut header = tar::Header::new_gnu();
    header.set_size(300 << 20);
    header.set_cksum();
    let zeros = std::io::Read::take(std::io::repeat(0), 300 << 20);
    bomb.append_data(&mut header, "m/zeros", zeros).unwrap();
    let bomb = bomb.into_inner().unwrap().finish().unwrap();
    assert!(bomb.len() < 4 << 20);
    assert!(opened(&place, &bomb).is_err());
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn any_bytes_are_an_archive_or_an_error(mut bytes in prop::collection::vec(any::<u8>(), 0..300), at in 0_usize..400, byte: u8) {
        let place = TempDir::new().unwrap();
        let _ = opened(&place, &bytes);
        let mut whole = archive(&[("m/mold.toml", tar::EntryType::Regular, HEAD), ("m/body/a", tar::EntryType::Regular, "x")]);
        let at = at % whole.len();
        whole[at] = byte;
        let _ = opened(&place, &whole);
        bytes.truncate(0);
    }
}

#[test]
fn a_packed_mold_is_what_it_was() {
    let place = TempDir::new().unwrap();
    let mut mold = package(HEAD, &[("body/a", "x"), ("fragments/f", "y")]);
    mold.files.push(tinmold_mold::package::File::new("body/link", Content::Link("a".into()), 0o777));
    mold.files.push(tinmold_mold::package::File::new("body/none", Content::EmptyFolder, 0o755));
    mold.files.sort_by(|a, b| a.path.cmp(&b.path));
    let packed = || {
        let mut bytes = Vec::new();
        pack(&mold, "m-1.0.0", &mut bytes).unwrap();
        bytes
    };
    assert_eq!(packed(), packed());
    let path = place.path().join("m-1.0.0.tar.gz");
    fs::write(&path, packed()).unwrap();
    assert_eq!(open_archive(&path).unwrap().digest().unwrap(), mold.digest().unwrap());
}

#[test]
fn addresses_say_what_they_mean() {
    let named = |text: &str| match Address::parse(text) {
        Ok(Address::Named { shelf, name, version }) => (shelf.unwrap_or_default(), name, version),
        other => panic!("{text}: {other:?}"),
    };
    let takes = [
        ("a", "2.0.0", true),
        ("a", "2.0.0-rc.1", false),
        ("a@1", "1.9.3", true),
        ("a@1", "2.0.0", false),
        ("a@1", "1.9.3-rc.1", false),
        ("a@1.2", "1.2.9", true),
        ("a@1.2", "1.3.0", false),
        ("a@0.1", "0.1.7", true),
        ("a@1.2.3", "1.2.3", true),
        ("a@1.2.3", "1.2.4", false),
        ("s/a@2.0.0-rc.1", "2.0.0-rc.1", true),
    ];
    for (text, version, expected) in takes {
        let (shelf, name, wanted) = named(text);
        assert_eq!((shelf == "s", name.as_str()), (text.starts_with('s'), "a"));
        assert_eq!(wanted.takes(&Version::parse(version).unwrap()), expected, "{text} {version}");
    }
    assert_eq!(named("a").2, Wanted::Newest);
    for path in [".", "..", "./a", "../a@1", "/a", "~/a", "a/b/c", "a\\b", "C:\\a", "a.tar.gz", "a/"] {
        assert!(matches!(Address::parse(path), Ok(Address::Path(_))), "{path}");
    }
    for wrong in ["", "a@", "a@x", "a@1.x", "a@1.2.3.4", "@1", "s/@1"] {
        assert!(Address::parse(wrong).is_err(), "{wrong}");
    }
}
