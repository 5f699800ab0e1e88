//! What a stranger's mold, shelf or clone can do to the user: nothing that the user did not choose.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use common::{Place, run_in};
use std::fs;

#[test]
fn the_destination_is_the_users_choice() {
    for folder in [
        "..", ".", "../x", "/tmp/x", "a/b", "a\\\\b", ".git", ".GIT", ".hidden", "git~1", "nul", "COM1.txt", "",
        "x ", "x:y", ".\u{200c}git",
    ] {
        let place = Place::new();
        place.mold("", &[("body/hooks/pre-commit", "x")]);
        let manifest = place.read("m/mold.toml").replace("\"out\"", &format!("\"{folder}\""));
        place.write("m/mold.toml", manifest);
        let before = place.listing("");
        place.run(&["cast", "./m", "--unattended"]).says(5, &["bad-folder"]);
        assert_eq!(place.listing(""), before, "{folder}");
    }
    // An answer cannot make the folder a path either.
    let place = Place::new();
    let question = "[[question]]\nkey = \"name\"\nask = \"?\"\nkind = \"text\"\ndefault = \"x\"\n";
    place.mold(question, &[("body/a", "x")]);
    let manifest = place.read("m/mold.toml").replace("\"out\"", "\"{= name =}\"");
    place.write("m/mold.toml", manifest);
    place.run(&["cast", "./m", "--unattended", "--set", "name=../up"]).says(5, &["bad-folder"]);
    place.run(&["cast", "./m", "--unattended", "--set", "name=in"]).says(0, &[]);
}

#[test]
fn one_digest_is_one_mold() {
    let place = Place::new();
    place.mold("", &[("body/a b", "x"), ("body/run.sh", "y"), ("body/é", "z")]);
    let tools = "cd m && chmod 755 body/run.sh && mkdir body/empty && ln -s run.sh body/link && \
        find . -mindepth 1 \\( -type f -o -type l -o -type d -empty \\) -printf '%P\\n' | LC_ALL=C sort | \
        while IFS= read -r path; do \
        if [ -L \"$path\" ]; then mode=link; sum=$(readlink -n \"$path\" | sha256sum); \
        elif [ -d \"$path\" ]; then mode=folder; sum=$(sha256sum < /dev/null); \
        else mode=644; [ ! -x \"$path\" ] || mode=755; sum=$(sha256sum < \"$path\"); fi; \
        printf '%s %s %s\\n' \"${sum%% *}\" \"$mode\" \"$path\"; done | sha256sum";
    let ran = run_in(&place, "", "sh", &["-c", tools]);
    let digest = format!("\"2:{}\"", ran.out.split(' ').next().unwrap());
    place.run(&["show", "./m", "--format", "json"]).says(0, &[&digest]);
    // A name cannot stand for several lines of the list.
    fs::write(place.path("m/body/a\n644 b"), "x").unwrap();
    place.run(&["cast", "./m", "--unattended"]).says(5, &["control character"]);
    assert!(!place.path("out").exists());
}
