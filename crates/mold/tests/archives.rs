//! Molds in archives, which are untrusted.
#![allow(clippy::unwrap_used)]

use flate2::Compression;
use flate2::write::GzEncoder;
use proptest::prelude::*;
use std::fs;
use tempfile::TempDir;
use tinmold_mold::package::{
    ArchiveError, Content, File, Origin, Package, PackageError, built_in, built_in_names, open_archive, pack,
};
use tinmold_platform::digest::digest_of;

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

fn opened(place: &TempDir, bytes: &[u8]) -> Result<Vec<String>, PackageError> {
    let path = place.path().join("m.tar.gz");
    fs::write(&path, bytes).unwrap();
    Ok(open_archive(&path)?.files.into_iter().map(|file| file.path).collect())
}

#[test]
fn an_archive_made_to_harm_is_refused() {
    use tar::EntryType::{Block, Directory, Fifo, Link, Regular, Symlink};
    let place = TempDir::new().unwrap();
    let manifest = ("m/mold.toml", Regular, HEAD);
    type Entries<'a> = &'a [(&'a str, tar::EntryType, &'a str)];
    type Case<'a> = (Entries<'a>, fn(&ArchiveError) -> bool);
    let cases: &[Case<'_>] = &[
        (&[manifest, ("m/../../x", Regular, "x")], |e| matches!(e, ArchiveError::Outside(_))),
        (&[manifest, ("/etc/x", Regular, "x")], |e| matches!(e, ArchiveError::Outside(_))),
        (&[manifest, ("m//x", Regular, "x")], |e| matches!(e, ArchiveError::Outside(_))),
        (&[manifest, ("m\\..\\x", Regular, "x")], |e| matches!(e, ArchiveError::Outside(_))),
        (&[manifest, ("m/pipe", Fifo, "")], |e| matches!(e, ArchiveError::Special(_))),
        (&[manifest, ("m/disk", Block, "")], |e| matches!(e, ArchiveError::Special(_))),
        (&[manifest, ("m/hard", Link, "x")], |e| matches!(e, ArchiveError::Special(_))),
        (&[manifest, ("m/a", Regular, "x"), ("m/a", Regular, "y")], |e| matches!(e, ArchiveError::Twice(_))),
        (&[manifest, ("other/a", Regular, "x")], |e| matches!(e, ArchiveError::SeveralRoots)),
        (&[("mold.toml", Regular, HEAD)], |e| matches!(e, ArchiveError::SeveralRoots)),
        (&[("m/a", Regular, "x")], |e| matches!(e, ArchiveError::NoManifest)),
        (&[], |e| matches!(e, ArchiveError::SeveralRoots)),
    ];
    for (entries, is_reason) in cases {
        let names: Vec<&str> = entries.iter().map(|entry| entry.0).collect();
        match opened(&place, &archive(entries)) {
            Err(PackageError::Archive { reason, .. }) => assert!(is_reason(&reason), "{names:?}: {reason}"),
            other => unreachable!("{names:?}: {other:?}"),
        }
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
    // An archive that unpacks to too much is stopped in time.
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
    let text = |text: &'static str| Content::Held(text.as_bytes().into());
    let files = [
        ("body/a", text("x"), 0o644),
        ("body/link", Content::Link("a".into()), 0o777),
        ("body/none", Content::EmptyFolder, 0o755),
        ("fragments/f", text("y"), 0o644),
        ("mold.toml", text(HEAD), 0o644),
    ];
    let files = files.map(|(path, content, mode)| File::new(path.to_owned(), content, mode));
    let mold = Package::new(Origin::BuiltIn("m".into()), files.into()).unwrap();
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
fn the_digests_of_the_shelf_are_those_of_its_files() {
    for name in built_in_names() {
        for file in built_in(name).unwrap().files {
            assert_eq!(file.digest().unwrap(), digest_of(&file.read().unwrap()), "{name}: {}", file.path);
        }
    }
}
