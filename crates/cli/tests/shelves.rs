//! Shelves on the command line: packed, added, searched, cast from, dropped.
#![allow(clippy::unwrap_used)]

mod common;
use common::Place;
use std::fs;

#[test]
fn a_mold_goes_on_a_shelf_and_is_cast_from_it() {
    let place = Place::new();
    place.mold(
        "[[finish]]\nname = \"mark\"\nrun = [\"touch\", \"marked\"]\ntick = true\n",
        &[("body/a", "{= mold.version =}")],
    );
    fs::create_dir(place.path("shelf")).unwrap();
    place.write(".home/config/tinmold/config.toml", "# mine\n[limits]\nfiles = 9 # enough\n");
    place.run(&["pack", "./m", "--to", "shelf"]).says(0, &["Packed: shelf/m-1.0.0.tar.gz", "sha256 "]);
    place.run(&["pack", "./m", "--to", "shelf"]).says(0, &[]);
    place.write("m/body/a", "changed {= mold.version =}");
    place
        .run(&["pack", "./m", "--to", "shelf"])
        .says(4, &["is there already and is another archive", "raise `version`"]);
    place.write("m/body/a", "{= nope =}");
    place.run(&["pack", "./m", "--to", "shelf"]).says(5, &["nothing is called `nope`"]);
    place.run(&["shelf", "add", "piers", "nowhere"]).says(2, &["there is no folder nowhere"]);
    place.run(&["shelf", "add", "a/b", "shelf"]).says(2, &["cannot be the name of a shelf"]);
    place.run(&["shelf", "add", "built-in", "shelf"]).says(2, &["cannot be the name of a shelf"]);
    place.run(&["shelf", "add", "piers", "shelf"]).says(0, &["Added piers: 1 mold"]);
    place.run(&["shelf", "add", "piers", "shelf"]).says(2, &["there is a shelf \"piers\" already"]);
    let config = place.read(".home/config/tinmold/config.toml");
    assert!(
        config.starts_with("# mine\n[limits]\nfiles = 9 # enough\n") && config.contains("[[shelf]]"),
        "{config}"
    );
    place.run(&["shelf", "list"]).says(0, &["built-in  1 mold", "piers  1 mold"]);
    let found = place.run(&["find", "tests"]).says(0, &["m  1.0.0 ", "A mold of the tests", "1 mold"]);
    assert!(!found.out.contains("python"), "{}", found.out);
    place.run(&["find", "--limit", "1"]).says(0, &["and 1 more: say more words, or --limit 2"]);
    let json = place.run(&["find", "--shelf", "piers", "--format", "json"]).says(0, &[]);
    let json: serde_json::Value = serde_json::from_str(&json.out).unwrap();
    assert_eq!(
        (json["found"].as_u64(), json["molds"][0]["address"].as_str()),
        (Some(1), Some("piers/m@1.0.0"))
    );
    place.run(&["find", "zeppelin"]).says(1, &["No mold matches"]);
    place.run(&["find", "--shelf", "peirs"]).says(2, &["did you mean `piers`?"]);
    // What is on a shelf is a stranger's.
    place
        .run(&["cast", "m@1", "a", "--unattended", "--finish", "all"])
        .says(6, &["nobody vouches", "from piers/m@1.0.0"]);
    place.run(&["cast", "piers/m", "a", "--unattended"]).says(0, &["Still to do", "touch marked"]);
    assert_eq!(place.read("a/a"), "1.0.0");
    assert!(place.read("a/.tinmold/casting.toml").contains("address = \"piers/m@1.0.0\""));
    place.run(&["finish", "--dir", "a"]).says(0, &["Open", "touch marked"]);
    place.run(&["cast", "shelf/m-1.0.0.tar.gz", "b", "--unattended"]).says(0, &["Written: b"]);
    place.run(&["cast", "m@2", "c", "--unattended"]).says(2, &["no such version of \"m\""]);
    place.write("shelf/bad.tar.gz", "not an archive");
    place.run(&["find"]).says(0, &["not read:", "bad.tar.gz is no archive of a mold", "python-service"]);
    place.run(&["cast", "shelf/bad.tar.gz"]).says(5, &["is no archive of a mold"]);
    place.run(&["shelf", "drop", "pires"]).says(2, &["did you mean `piers`?"]);
    place.run(&["shelf", "drop", "piers"]).says(0, &["Dropped piers"]);
    assert_eq!(place.read(".home/config/tinmold/config.toml"), "# mine\n[limits]\nfiles = 9 # enough\n");
    place.run(&["finish", "--dir", "a"]).says(1, &["the mold of this casting cannot be had"]);
}
