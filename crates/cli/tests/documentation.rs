//! The documentation is true: the reference is what the program says of itself, the lines of the guides run, and
//! its links lead somewhere.
#![allow(clippy::unwrap_used, clippy::panic)]

mod common;
use common::Place;
use serde_json::Value as Json;
use std::fmt::Write;
use std::fs;
use std::path::{Path, PathBuf};

fn docs() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs")
}

fn text(value: &Json) -> &str {
    value.as_str().unwrap_or_default()
}

fn all(value: &Json) -> &[Json] {
    value.as_array().map_or(&[], Vec::as_slice)
}

/// A cell of a table.
fn cell(text: &str) -> String {
    text.replace('|', "\\|").replace('\n', " ")
}

/// A text between backticks in a cell.
fn code(text: &str) -> String {
    let fence = if text.contains('`') { "``" } else { "`" };
    format!("{fence}{}{fence}", cell(text))
}

fn options(out: &mut String, heading: &str, arguments: &[Json]) {
    if arguments.is_empty() {
        return;
    }
    writeln!(out, "| {heading} | |\n|---|---|").unwrap();
    for argument in arguments {
        let value = argument["value"].as_str().map(|value| format!(" {value}")).unwrap_or_default();
        let name = match (argument["short"].as_str(), argument["long"].as_str()) {
            (Some(short), Some(long)) => format!("-{short}, --{long}{value}"),
            (None, Some(long)) => format!("--{long}{value}"),
            _ => value.trim().to_owned(),
        };
        let values: Vec<&str> = all(&argument["values"]).iter().map(|one| text(&one["value"])).collect();
        let values = if values.is_empty() { String::new() } else { format!(" ({})", values.join(", ")) };
        writeln!(out, "| {} | {}{values} |", code(&name), cell(text(&argument["does"]))).unwrap();
    }
    out.push('\n');
}

fn command(out: &mut String, one: &Json, level: &str) {
    let name = text(&one["name"]);
    writeln!(out, "{level} {name}\n\n{}.\n\n```text\n{}\n```\n", text(&one["about"]), text(&one["usage"]))
        .unwrap();
    options(out, "argument", all(&one["arguments"]));
    options(out, "option", all(&one["options"]));
    for example in all(&one["examples"]) {
        writeln!(out, "- {}: {}", code(text(&example["line"])), text(&example["does"])).unwrap();
    }
    out.push('\n');
    all(&one["commands"]).iter().for_each(|inner| command(out, inner, &format!("{level}#")));
}

fn reference(known: &Json) -> String {
    let mut out = String::from(
        "# Reference\n\nMade from the program itself, by `TINMOLD_WRITE=1 cargo test --test documentation`.\n\n## Commands\n\n",
    );
    for group in all(&known["groups"]) {
        writeln!(out, "**{}**\n", text(&group["group"])).unwrap();
        all(&group["commands"]).iter().for_each(|one| command(&mut out, one, "###"));
    }
    out += "### Options of every command\n\n";
    options(&mut out, "option", all(&known["shared-options"]));
    out += "## Exit codes\n\n| code | meaning |\n|---|---|\n";
    for exit in all(&known["exit-codes"]) {
        writeln!(out, "| {} | {} |", exit["code"], cell(text(&exit["means"]))).unwrap();
    }
    out += "\n## Views\n\nThe example is what the view makes of the text `Gull Point 2`.\n\n| on | view | gives | example |\n|---|---|---|---|\n";
    for view in all(&known["views"]) {
        let example = view["example"].as_str().map(code).unwrap_or_default();
        writeln!(
            out,
            "| {} | {} | {} | {example} |",
            text(&view["on"]),
            code(text(&view["view"])),
            text(&view["gives"])
        )
        .unwrap();
    }
    out += "\n## Forms\n\nThe example is the nearest legal answer to `Gull Point 2`.\n\n| form | a text is | example |\n|---|---|---|\n";
    for form in all(&known["forms"]) {
        let example = form["example"].as_str().map(code).unwrap_or_default();
        writeln!(out, "| {} | {} | {example} |", code(text(&form["form"])), cell(text(&form["about"])))
            .unwrap();
    }
    out += "\n## Codes\n\nEach code is explained, with a mistake that shows it, in [molds](molds.md#findings), [the notation](notation.md#findings) and [parts](parts.md#checking).\n\n| code | severity | meaning |\n|---|---|---|\n";
    for one in all(&known["codes"]) {
        writeln!(
            out,
            "| {} | {} | {} |",
            code(text(&one["code"])),
            text(&one["severity"]),
            cell(text(&one["about"]))
        )
        .unwrap();
    }
    out
}

#[test]
fn the_reference_is_what_the_program_says() {
    let place = Place::new();
    let known = place.run(&["help", "--format", "json"]).says(0, &[]).out;
    let known: Json = serde_json::from_str(&known).unwrap();
    let made = reference(&known);
    let path = docs().join("reference.md");
    if std::env::var_os("TINMOLD_WRITE").is_some() {
        fs::write(&path, &made).unwrap();
    }
    let stored = fs::read_to_string(&path).unwrap();
    let differs = made.lines().zip(stored.lines()).find(|(made, stored)| made != stored);
    assert!(made == stored, "docs/reference.md is stale: {differs:?}");
    // Every code is explained on a page.
    let pages =
        ["molds.md", "notation.md", "parts.md"].map(|page| fs::read_to_string(docs().join(page)).unwrap());
    for one in all(&known["codes"]) {
        let heading = format!("\n### {}\n", text(&one["code"]));
        assert!(pages.iter().any(|page| page.contains(&heading)), "{heading}");
    }
}

/// Runs the lines of a guide, one block after the other, in one shell.
fn follow(page: &str) {
    let guide = fs::read_to_string(docs().join(page)).unwrap();
    let blocks = guide.split("```sh\n").skip(1).map(|rest| rest.split("```").next().unwrap());
    let script: Vec<&str> = blocks.collect();
    assert!(script.len() >= 5, "{page} has {} blocks", script.len());
    let place = Place::in_memory();
    let folder = Path::new(env!("CARGO_BIN_EXE_tinmold")).parent().unwrap();
    let path = format!("{}:{}", folder.display(), std::env::var("PATH").unwrap());
    place.write(".home/gitconfig", "[user]\nname = Ada\nemail = ada@saltmarsh.example\n");
    let mut shell = place.command_of("bash".as_ref());
    shell.args(["--norc", "-euo", "pipefail", "-c", &script.join("\n")]).env("PATH", &path);
    place.finish(&mut shell).says(0, &[]);
    match page {
        "start.md" => assert!(place.read("ferries/.tinmold/casting.toml").contains("port = 8420")),
        "author.md" => assert_eq!(place.read("second/src/gull_point.toml"), "title = \"Gull Point\"\n"),
        "team.md" => {
            assert_eq!(place.read("team/tern-quay/SUPPORT.md"), "Call the crew desk at Heron Stairs.\n");
            assert!(place.read("team/tern-quay/README.md").ends_with("berth 4.\n"));
        }
        other => panic!("{other}"),
    }
}

#[test]
fn a_starter_can_follow_the_guide() {
    follow("start.md");
}

#[test]
fn an_author_can_follow_the_guide() {
    follow("author.md");
}

#[test]
fn a_team_can_follow_the_guide() {
    follow("team.md");
}

/// The anchor of a heading.
fn anchor(heading: &str) -> String {
    let kept = heading.to_lowercase();
    let kept = kept.chars().filter(|c| c.is_alphanumeric() || " -_".contains(*c));
    kept.map(|c| if c == ' ' { '-' } else { c }).collect()
}

#[test]
fn every_link_of_the_documentation_leads_somewhere() {
    let mut pages: Vec<PathBuf> = fs::read_dir(docs()).unwrap().map(|entry| entry.unwrap().path()).collect();
    pages.retain(|page| page.extension().is_some_and(|ending| ending == "md"));
    pages.extend(["README.md", "CONTRIBUTING.md"].map(|page| docs().join("..").join(page)));
    let (mut links, mut wrong) = (0, Vec::new());
    for page in &pages {
        let source = fs::read_to_string(page).unwrap();
        for link in source.split("](").skip(1).filter_map(|rest| rest.split(')').next()) {
            if link.contains("://") || link.contains(['{', ' ']) {
                continue;
            }
            links += 1;
            let (file, fragment) = link.split_once('#').unwrap_or((link, ""));
            let target = if file.is_empty() { page.clone() } else { page.parent().unwrap().join(file) };
            let text = fs::read_to_string(&target).unwrap_or_default();
            let has =
                |line: &str| line.starts_with('#') && anchor(line.trim_start_matches('#').trim()) == fragment;
            if !target.exists() || (!fragment.is_empty() && !text.lines().any(has)) {
                wrong.push(format!("{}: {link}", page.display()));
            }
        }
    }
    assert!(links > 100, "{links}");
    assert!(wrong.is_empty(), "{wrong:#?}");
    let readme = fs::read_to_string(docs().join("../README.md")).unwrap();
    assert!(readme.lines().count() <= 120, "README.md has {} lines", readme.lines().count());
}
