//! `tinmold settings`: every setting, its value and where it comes from; changes one.

use crate::args::{Format, SettingsArgs};
use crate::exit::Exit;
use crate::global::GlobalOptions;
use crate::settings::Settings;
use crate::settings::edit::Key;
use crate::settings::listed::{ListedSetting, Source};
use crate::state;
use crate::stop::Stop;
use crate::text::style::{BOLD, FAINT, GOOD, NAME, count, result, result_document, safe};
use serde_json::{Value as Json, json};
use std::fmt::Write;
use std::path::PathBuf;

pub fn run(args: &SettingsArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    if args.forget {
        let forgotten = state::forget_answers();
        if !global.quiet {
            say!("{GOOD}Forgotten:{GOOD:#} {} with answers and used molds.", count(forgotten, "file"));
        }
        return Ok(Exit::Done);
    }
    let Some(name) = &args.setting else {
        let all = Settings::read()?.listed(global.offline)?;
        match args.format {
            Format::Text => result(as_text(&all)),
            Format::Json => result_document("settings-1", as_json(&all)),
        }
        return Ok(Exit::Done);
    };
    let key = Key::parse(name)?;
    if args.reset || args.value.is_some() {
        Settings::change(&key, args.value.as_deref())?;
    }
    let (table, name) = key.parts();
    let all = Settings::read()?.listed(global.offline)?;
    let one = all.into_iter().find(|setting| setting.table == table && setting.name == name);
    match (args.format, one) {
        (Format::Json, one) => result_document("settings-1", as_json(&one.into_iter().collect::<Vec<_>>())),
        (Format::Text, Some(one)) => result(line(&one, 0)),
        (Format::Text, None) => say!("{} is not set.", safe(&format!("{table}.{name}"))),
    }
    Ok(Exit::Done)
}

/// Returns a setting on a line, with its name padded to `width` columns.
fn line(setting: &ListedSetting, width: usize) -> String {
    let source = match setting.source {
        Source::Default => "default".to_owned(),
        Source::File(line) => format!("config.toml, line {line}"),
        Source::CommandLine => "--offline".to_owned(),
    };
    format!(
        "{NAME}{:width$}{NAME:#}  {}  {FAINT}({source}){FAINT:#}\n",
        safe(&setting.key()),
        safe(&setting.value)
    )
}

/// The directories that the program writes to, each with what it holds.
fn places() -> Vec<(&'static str, &'static str, Option<PathBuf>)> {
    vec![
        ("file", "the settings above", Settings::path()),
        ("vouched", "molds whose steps you allowed for good", state::vouched_path()),
        ("state", "remembered answers, undo, logs, kept molds", state::folder()),
        ("cache", "listings and molds of shelves; may be deleted", Settings::cache_folder()),
    ]
}

fn as_text(all: &[ListedSetting]) -> String {
    let width = all.iter().map(|setting| setting.key().chars().count()).max().unwrap_or(0);
    let mut out = String::new();
    for setting in all {
        out += &line(setting, width);
        if !setting.does.is_empty() {
            let _ = writeln!(out, "{FAINT}    {}{FAINT:#}", safe(&setting.does));
        }
    }
    let _ = writeln!(out, "\n{BOLD}Where they are{BOLD:#}");
    for (name, holds, path) in places() {
        let Some(path) = path else { continue };
        let note = if path.exists() { "" } else { ", not there yet" };
        let path = safe(&path.display().to_string());
        let _ = writeln!(out, "  {name:8} {NAME}{path}{NAME:#}\n{FAINT}           {holds}{note}{FAINT:#}");
    }
    out += "\nTo change one: tinmold settings network.offline true\n";
    out
}

fn as_json(all: &[ListedSetting]) -> Json {
    let settings: Vec<Json> = all
        .iter()
        .map(|setting| {
            let (source, line) = match setting.source {
                Source::Default => ("default", None),
                Source::File(line) => ("file", Some(line)),
                Source::CommandLine => ("command-line", None),
            };
            json!({
                "setting": setting.key(), "value": setting.value, "source": source, "line": line, "does": setting.does,
            })
        })
        .collect();
    let path = |path: Option<PathBuf>| path.map(|path| path.display().to_string());
    let mut paths = serde_json::Map::new();
    paths.extend(places().into_iter().map(|(name, _, place)| (name.to_owned(), json!(path(place)))));
    json!({ "settings": settings, "paths": paths })
}
