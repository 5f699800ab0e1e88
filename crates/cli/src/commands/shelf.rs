//! `tinmold shelf`: the shelves that are known, and those that one makes.

use crate::args::{Format, ShelfArgs, ShelfCommand, ShelfKind};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::global::GlobalOptions;
use crate::settings::{Settings, ShelfPlace, is_shelf_name};
use crate::state;
use crate::stop::Stop;
use crate::text::style::{FAINT, GOOD, NAME, WARN, grouped, result, result_document, safe, size};
use serde_json::{Value as Json, json};
use std::fmt::Write as _;
use std::fs;
use std::io::Write as _;
use std::path::{Path, PathBuf};
use tinmold_shelf::{
    BUILT_IN, Cleaned, FolderIndex, INDEX_FILE, MOST_KEPT, Server, Shelf, ShelfError, clean,
    duration_in_words, index_folder, refuse_secret,
};

pub fn run(shelf: &ShelfArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    match &shelf.command {
        ShelfCommand::Add { name, place, kind, summary, token_env } => {
            let place = placed(place, *kind, token_env.as_deref())?;
            Ok(add(name, &place, summary.as_deref(), global)?)
        }
        ShelfCommand::Drop { name } => {
            Settings::drop_shelf(name)?;
            if !global.quiet {
                say!("Dropped {}; its files are where they were.", safe(name));
            }
            Ok(Exit::Done)
        }
        ShelfCommand::List { format } => Ok(list(*format, global)?),
        ShelfCommand::Refresh { names } => Ok(refresh(names, global)?),
        ShelfCommand::Clean { dry_run, format } => Ok(clean_up(*dry_run, *format, global)?),
        ShelfCommand::Index { folder } => Ok(index(folder, global.quiet)?),
        ShelfCommand::Serve { folder, listen } => Ok(serve(folder, listen, global)?),
    }
}

/// Infers the location of a shelf from what the user typed.
fn placed(text: &str, kind: Option<ShelfKind>, token_env: Option<&str>) -> Result<ShelfPlace, Failure> {
    let wrong = |reason: String| Failure::new(Exit::Usage, reason);
    let is_url = text.contains("://");
    let by_ssh = !Path::new(text).exists()
        && text.split_once(':').is_some_and(|(host, _)| host.contains('@') && !host.contains('/'));
    let kind = kind.unwrap_or({
        let is_git = by_ssh || (is_url && (text.ends_with(".git") || !text.starts_with("http")));
        if is_git {
            ShelfKind::Git
        } else if is_url {
            ShelfKind::Index
        } else {
            ShelfKind::Folder
        }
    });
    refuse_secret(text).map_err(|error| Failure::from(ShelfError::from(error)))?;
    if token_env.is_some() && kind != ShelfKind::Index {
        return Err(wrong(
            "--token-env is for the index of a shelf; git has its own credential store".into(),
        ));
    }
    let absolute = || {
        Path::new(text)
            .canonicalize()
            .map_err(|error| wrong(format!("cannot read the folder {text}: {error}")))
    };
    Ok(match kind {
        ShelfKind::Folder => ShelfPlace::Folder(absolute()?),
        ShelfKind::Git if is_url || by_ssh => ShelfPlace::Git(text.to_owned()),
        ShelfKind::Git => ShelfPlace::Git(absolute()?.display().to_string()),
        ShelfKind::Index if !text.starts_with("https://") && !text.starts_with("http://") => {
            return Err(wrong(format!(
                "{text:?} is not the URL of an index: that begins with https:// or http://"
            )));
        }
        ShelfKind::Index => ShelfPlace::Index(text.to_owned(), token_env.map(str::to_owned)),
    })
}

fn add(
    name: &str,
    place: &ShelfPlace,
    summary: Option<&str>,
    global: GlobalOptions,
) -> Result<Exit, Failure> {
    if !is_shelf_name(name) {
        let message = format!("{name:?} cannot be the name of a shelf");
        return Err(Failure::new(Exit::Usage, message).help("use letters, digits and -, as in saltmarsh"));
    }
    let config = Settings::read()?;
    if config.has_shelf(name) {
        let message = format!("there is a shelf {name:?} already");
        return Err(Failure::new(Exit::Usage, message)
            .help(format!("choose another name, or: tinmold shelf drop {name}")));
    }
    let shelf = config.shelf(name, place, global);
    // A shelf that was never asked cannot be checked offline, and may be fine.
    let listing = if global.offline && !matches!(place, ShelfPlace::Folder(_)) {
        None
    } else {
        shelf.refresh()?;
        Some(shelf.list()?)
    };
    Settings::add_shelf(name, place, summary)?;
    if !global.quiet {
        let molds = listing.as_ref().map_or("not read yet".into(), |listing| molds(listing.catalogue.len()));
        say!("{GOOD}Added{GOOD:#} {}: {molds} in {}", safe(name), safe(&shelf.place()));
    }
    for note in listing.map(|listing| listing.skipped).unwrap_or_default() {
        not_read(&note.to_string());
    }
    Ok(Exit::Done)
}

fn molds(number: usize) -> String {
    if number == 1 { "1 mold".into() } else { format!("{} molds", grouped(number)) }
}

fn not_read(reason: &str) {
    say!("{WARN}not read:{WARN:#} {}", safe(reason));
}

/// What is on the shelf in the program.
const BUILT_IN_SUMMARY: &str =
    "Services, programs, libraries and sites in seven languages, and a mold of your own";

/// A shelf in the list.
struct Line {
    name: String,
    place: String,
    molds: Option<usize>,
    age: String,
    summary: String,
    trouble: Option<String>,
}

fn list(format: Format, global: GlobalOptions) -> Result<Exit, Failure> {
    let settings = Settings::read()?;
    let shelves = settings.shelves(global);
    let mut lines = Vec::new();
    for shelf in shelves.iter() {
        let (molds, trouble) = match shelf.list() {
            Ok(listing) => {
                listing.skipped.iter().for_each(|note| not_read(&format!("shelf {}: {note}", shelf.name())));
                (Some(listing.catalogue.len()), None)
            }
            Err(error) => (None, Some(error.to_string())),
        };
        let age = shelf.age().map_or_else(String::new, |age| format!("asked {} ago", duration_in_words(age)));
        let mut summaries = settings.shelf_summaries();
        let summary = summaries.find(|(name, _)| *name == shelf.name()).map(|(_, summary)| summary);
        let summary = match summary {
            None if shelf.name() == BUILT_IN => BUILT_IN_SUMMARY,
            summary => summary.unwrap_or_default(),
        };
        let (name, place, summary) = (shelf.name().into(), shelf.place(), summary.to_owned());
        lines.push(Line { name, place, molds, age, summary, trouble });
    }
    match format {
        Format::Json => {
            let lines: Vec<Json> = lines
                .iter()
                .map(|line| {
                    json!({
                        "name": line.name,
                        "place": line.place,
                        "molds": line.molds,
                        "summary": line.summary,
                        "trouble": line.trouble,
                    })
                })
                .collect();
            result_document("shelves-1", json!({ "shelves": lines }));
        }
        Format::Text => {
            let mut out = String::new();
            let counted = |line: &Line| line.molds.map_or("not there".into(), molds);
            let names = lines.iter().map(|line| line.name.len()).max().unwrap_or(0);
            let counts = lines.iter().map(|line| counted(line).len()).max().unwrap_or(0);
            for line in &lines {
                let _ = writeln!(
                    out,
                    "{NAME}{:<names$}{NAME:#}  {:>counts$}  {FAINT}{}{}{FAINT:#}",
                    safe(&line.name),
                    counted(line),
                    safe(&line.place),
                    if line.age.is_empty() { String::new() } else { format!(", {}", line.age) }
                );
                if !line.summary.is_empty() {
                    let _ = writeln!(out, "{:names$}  {}", "", safe(&line.summary));
                }
            }
            result(out);
        }
    }
    let troubles: Vec<&String> = lines.iter().filter_map(|line| line.trouble.as_ref()).collect();
    for trouble in &troubles {
        say!("{WARN}not there:{WARN:#} {}", safe(trouble));
    }
    Ok(if troubles.is_empty() { Exit::Done } else { Exit::Failed })
}

fn refresh(names: &[String], global: GlobalOptions) -> Result<Exit, Failure> {
    let shelves = Settings::read()?.shelves(global);
    for name in names {
        shelves.named(name)?;
    }
    let wanted = |shelf: &&dyn Shelf| names.is_empty() || names.iter().any(|name| name == shelf.name());
    let mut exit = Exit::Done;
    for shelf in shelves.iter().filter(wanted) {
        match shelf.refresh().and_then(|()| shelf.list()) {
            Ok(listing) => {
                if !global.quiet {
                    say!("{}: {}", safe(shelf.name()), molds(listing.catalogue.len()));
                }
                listing.skipped.iter().for_each(|note| not_read(&format!("shelf {}: {note}", shelf.name())));
            }
            Err(error) => {
                let kept =
                    shelf.age().map(|age| format!("; what was there {} ago stays", duration_in_words(age)));
                let text = format!("{error}{}", kept.unwrap_or_default());
                say!("{WARN}not refreshed:{WARN:#} {}", safe(&text));
                exit = Exit::Failed;
            }
        }
    }
    Ok(exit)
}

fn indexed(folder: &Path) -> Result<FolderIndex, Failure> {
    if !folder.is_dir() {
        return Err(Failure::new(Exit::Usage, format!("there is no folder {}", folder.display()))
            .help("make it, and put archives in it: tinmold pack MOLD --to FOLDER"));
    }
    let index = index_folder(folder)?;
    index.skipped.iter().for_each(|note| not_read(&note.to_string()));
    Ok(index)
}

fn index(folder: &Path, quiet: bool) -> Result<Exit, Failure> {
    let FolderIndex { text: index, molds: number, .. } = indexed(folder)?;
    let place: PathBuf = folder.join(INDEX_FILE);
    let failed = |error: std::io::Error| {
        Failure::new(Exit::Failed, format!("cannot write {}: {error}; nothing was written", place.display()))
    };
    let is_same = fs::read(&place).is_ok_and(|there| there == index.as_bytes());
    if !is_same {
        let mut staged = tempfile::NamedTempFile::new_in(folder).map_err(failed)?;
        staged.write_all(index.as_bytes()).map_err(failed)?;
        // A web server under another account must be able to read it.
        #[cfg(unix)]
        {
            use std::os::unix::fs::PermissionsExt;
            staged.as_file().set_permissions(fs::Permissions::from_mode(0o644)).map_err(failed)?;
        }
        staged.persist(&place).map_err(|error| failed(error.error))?;
    }
    if !quiet {
        let done = if is_same { "As it was:" } else { "Indexed:" };
        say!(
            "{GOOD}{done}{GOOD:#} {NAME}{}{NAME:#} ({}, {})",
            safe(&place.display().to_string()),
            molds(number),
            size(index.len() as u64)
        );
    }
    Ok(Exit::Done)
}

/// Says what the cache and the kept molds hold, and removes what is not needed.
fn clean_up(is_dry: bool, format: Format, global: GlobalOptions) -> Result<Exit, Failure> {
    let settings = Settings::read()?;
    let shelves = settings.shelves(global);
    let places: Vec<String> = shelves.iter().map(|shelf| shelf.place()).collect();
    let mut lines = Vec::new();
    if let Some(cache) = Settings::cache() {
        for Cleaned { what, kept, removed } in clean(&cache, &places, is_dry) {
            lines.push((what, (kept.entries, kept.bytes), (removed.entries, removed.bytes)));
        }
    }
    if let Some(molds) = state::kept_molds() {
        let (number, bytes) = molds.extent();
        let removed = if is_dry { (0, 0) } else { molds.shrink(MOST_KEPT, None) };
        lines.push(("kept molds of your projects", (number - removed.0, bytes - removed.1), removed));
    }
    if format == Format::Json {
        let extent = |(entries, bytes): (usize, u64)| json!({ "entries": entries, "bytes": bytes });
        let lines: Vec<Json> = lines
            .iter()
            .map(|(what, kept, removed)| {
                json!({ "what": what, "kept": extent(*kept), "removed": extent(*removed) })
            })
            .collect();
        result_document("clean-1", json!({ "dry-run": is_dry, "stores": lines }));
        return Ok(Exit::Done);
    }
    let word = if is_dry { "would go" } else { "removed" };
    let mut out = String::new();
    for (what, kept, removed) in &lines {
        let _ = writeln!(
            out,
            "{what:<27}  {:>5} kept, {:>9}   {:>5} {word}, {:>9}",
            kept.0,
            size(kept.1),
            removed.0,
            size(removed.1)
        );
    }
    result(out);
    Ok(Exit::Done)
}

fn serve(folder: &Path, listen: &str, global: GlobalOptions) -> Result<Exit, Failure> {
    let number = indexed(folder)?.molds;
    let server = Server::listen(folder, listen).map_err(|error| {
        Failure::new(Exit::Failed, error.to_string())
            .help("name another place: --listen 127.0.0.1:0 takes any free port")
    })?;
    let address = server.address().map_or_else(|| listen.to_owned(), |address| address.to_string());
    if !global.quiet {
        say!("{GOOD}Serving{GOOD:#} {} of {}", molds(number), safe(&folder.display().to_string()));
        say!("  at {NAME}http://{address}/{INDEX_FILE}{NAME:#}");
        say!("  add it with: tinmold shelf add NAME http://{address}/");
        say!("{FAINT}New archives in the folder are seen at once. Ctrl-C ends it.{FAINT:#}");
    }
    let verbose = global.verbose;
    let served = server.run(&|asked, status| {
        if verbose || status >= 500 {
            say!("{status} {}", safe(asked));
        }
    });
    match served {
        Ok(()) => Ok(Exit::Done),
        Err(error) => Err(Failure::new(Exit::Failed, format!("cannot serve: {error}"))),
    }
}
