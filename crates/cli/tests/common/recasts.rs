//! Versions of a mold, and a project that follows them.

use super::Place;
use serde_json::Value as Json;
use std::fs;
use std::os::unix::fs::PermissionsExt;

/// A file: its path and its text; without a text, none is there.
pub type File = (&'static str, Option<&'static str>);

/// Makes a version of the mold in the folder `m`.
pub fn version(place: &Place, version: &str, manifest: &str, files: &[(&str, &[u8])]) {
    let _ = fs::remove_dir_all(place.path("m"));
    let head = format!(
        "[mold]\nname = \"m\"\nversion = \"{version}\"\nsummary = \"A mold of the tests\"\nfolder = \"out\"\n"
    );
    place.write("m/mold.toml", format!("{head}{manifest}"));
    // A mold without files casts nothing.
    place.write("m/body/always", "the same in each version\n");
    for (path, bytes) in files {
        place.write(&format!("m/{path}"), bytes);
    }
}

/// Makes a version of the mold whose files are texts.
pub fn version_of_texts(place: &Place, number: &str, (manifest, files): (&str, &[File])) {
    let files = files.iter().filter_map(|(path, text)| Some((*path, text.as_ref()?.as_bytes())));
    version(place, number, manifest, &files.collect::<Vec<_>>());
}

/// Writes the files in a folder, and removes those without a text.
pub fn apply(place: &Place, folder: &str, files: &[File]) {
    for (path, text) in files {
        let path = format!("{folder}{path}");
        match text {
            Some(text) => drop(place.write(&path, text)),
            None => fs::remove_file(place.path(&path)).unwrap(),
        }
    }
}

/// What a recast says, a line each: `change path`, `undecided key`, `note kind path`; sorted.
pub fn said(report: &Json) -> Vec<String> {
    let list = |key: &str| report[key].as_array().cloned().unwrap_or_default();
    let text = |value: &Json, key: &str| value[key].as_str().unwrap_or("").to_owned();
    let files = list("files").into_iter().map(|file| {
        let from = file["from"].as_str().map_or_else(String::new, |from| format!(" from {from}"));
        format!("{} {}{from}", text(&file, "change"), text(&file, "path"))
    });
    let moves =
        list("moves").into_iter().map(|one| format!("folder {} to {}", text(&one, "from"), text(&one, "to")));
    let open = list("undecided").into_iter().map(|one| format!("undecided {}", text(&one, "key")));
    let notes = list("notes").into_iter().map(|note| {
        let what = [text(&note, "path"), text(&note, "key")].concat();
        format!("note {} {what}", text(&note, "kind"))
    });
    let mut all: Vec<String> = files.chain(moves).chain(open).chain(notes).collect();
    all.sort();
    all
}

/// Recasts the project, unattended; returns the exit code and the report, or what was said instead of one.
pub fn recast(place: &Place, args: &[&str]) -> (i32, Json) {
    let ran = place.run(&[&["recast", "out", "--unattended", "--format", "json"], args].concat());
    let report = serde_json::from_str(&ran.out).unwrap_or(Json::String(ran.err));
    (ran.code, report)
}

/// What [`said`] returns, without the notes.
pub fn said_changes(report: &Json) -> Vec<String> {
    said(report).into_iter().filter(|line| !line.starts_with("note")).collect()
}

/// Every file of the project with its permissions.
pub fn content(place: &Place) -> Vec<(String, u32, Vec<u8>)> {
    let files = place.listing("out").into_iter().filter(|path| !path.ends_with('/'));
    files
        .map(|path| {
            let whole = place.path(&format!("out/{path}"));
            let mode = fs::symlink_metadata(&whole).unwrap().permissions().mode();
            (path, mode, fs::read(whole).unwrap_or_default())
        })
        .collect()
}
