//! `tinmold find`: search the shelves.

use crate::args::{FindArgs, Format};
use crate::config::Config;
use crate::exit::Exit;
use crate::failure::Failure;
use crate::given;
use crate::show::{FAINT, NAME, WARN, count, grouped, result, safe};
use serde_json::{Value as Json, json};
use std::fmt::Write;
use std::io::IsTerminal;
use tinmold_core::shelf::{Catalogue, Entry, Hit, Release, Search, age_of_day, search};
use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

/// How wide a table is where no terminal says so.
const USUAL_WIDTH: usize = 100;

pub fn run(find: &FindArgs) -> Result<Exit, Failure> {
    let shelves = Config::read()?.shelves();
    if let Some(shelf) = &find.shelf {
        shelves.named(shelf)?;
    }
    let (catalogues, broken) = shelves.list(find.shelf.as_deref());
    let text = |said: &Option<String>| said.clone().unwrap_or_default();
    let wanted = Search {
        words: find.words.clone(),
        language: text(&find.language),
        kind: text(&find.kind),
        tag: text(&find.tag),
        owner: text(&find.owner),
        shelf: String::new(),
    };
    let catalogues: Vec<&Catalogue> = catalogues.iter().collect();
    let hits = search(&catalogues, &wanted);
    for reason in &broken {
        anstream::eprintln!("{WARN}not read:{WARN:#} {}", safe(reason));
    }
    let shown =
        hits.iter().take(find.limit).map(|hit| Row::of(&catalogues, hit)).collect::<Result<Vec<_>, _>>()?;
    match find.format {
        Format::Json => result(format!("{:#}\n", as_json(&shown, hits.len()))),
        Format::Text => {
            let width = if std::io::stdout().is_terminal() {
                crossterm::terminal::size().map_or(USUAL_WIDTH, |(columns, _)| usize::from(columns))
            } else {
                USUAL_WIDTH
            };
            result(as_text(&shown, hits.len(), width));
        }
    }
    Ok(if hits.is_empty() { Exit::Failed } else { Exit::Done })
}

/// A mold that was found, with its shelf.
pub struct Row {
    pub shelf: String,
    pub entry: Entry,
}

impl Row {
    /// Reads what a hit is.
    pub fn of(catalogues: &[&Catalogue], hit: &Hit) -> Result<Self, Failure> {
        let catalogue = catalogues[hit.catalogue];
        let entry = catalogue.entry(hit.row).map_err(|error| {
            let message = format!("what is kept of the shelf {} cannot be read: {error}", catalogue.shelf);
            Failure::new(Exit::Failed, message).help(format!("tinmold shelf refresh {}", catalogue.shelf))
        })?;
        Ok(Self { shelf: catalogue.shelf.clone(), entry })
    }

    /// How old its newest release is, in words; empty if it has no date.
    pub fn age(&self, today: &str) -> String {
        age_of_day(&self.entry.newest().released, today).unwrap_or_default()
    }
}

fn as_text(shown: &[Row], found: usize, width: usize) -> String {
    if found == 0 {
        return "No mold matches. Fewer words find more; `tinmold find` alone shows all.\n".into();
    }
    let today = given::today();
    let several = shown.iter().any(|row| row.shelf != shown[0].shelf);
    let name = |row: &Row| {
        if several { format!("{}/{}", row.shelf, row.entry.name) } else { row.entry.name.clone() }
    };
    let version = |row: &Row| row.entry.newest().version.to_string();
    let widest = |text: &dyn Fn(&Row) -> String| shown.iter().map(|row| text(row).width()).max().unwrap_or(0);
    let names = widest(&name).min(width / 2);
    let versions = widest(&version).min(width / 6);
    let ages = widest(&|row| row.age(&today));
    let mut out = String::new();
    for row in shown {
        let left = width.saturating_sub(names + versions + ages + 6);
        let _ = writeln!(
            out,
            "{NAME}{}{NAME:#}  {}  {FAINT}{}{FAINT:#}  {}",
            cut(&name(row), names),
            cut(&version(row), versions),
            cut(&row.age(&today), ages),
            cut(&row.entry.summary, left).trim_end()
        );
    }
    if shown.len() < found {
        let more = grouped(found - shown.len());
        let _ = writeln!(out, "{FAINT}and {more} more: say more words, or --limit {found}{FAINT:#}");
    } else {
        let _ = writeln!(out, "{FAINT}{}{FAINT:#}", count(found, "mold"));
    }
    out
}

/// A text that is exactly so many columns wide.
pub fn cut(text: &str, width: usize) -> String {
    let text = safe(text);
    let wide = text.width();
    if wide <= width {
        return text + &" ".repeat(width - wide);
    }
    let mut out = String::new();
    let mut used = 1;
    for c in text.chars() {
        used += c.width().unwrap_or(0);
        if used > width {
            break;
        }
        out.push(c);
    }
    out.push('…');
    let used = out.width();
    out + &" ".repeat(width.saturating_sub(used))
}

fn as_json(shown: &[Row], of: usize) -> Json {
    let molds: Vec<Json> = shown
        .iter()
        .map(|Row { shelf, entry }| {
            let newest = entry.newest();
            json!({
                "address": entry.address(shelf, newest),
                "shelf": shelf,
                "name": entry.name,
                "version": newest.version.to_string(),
                "released": newest.released,
                "summary": entry.summary,
                "owner": entry.owner,
                "language": entry.language,
                "kind": entry.kind,
                "tags": entry.tags,
                "asks": entry.asks,
                "versions": versions(entry),
            })
        })
        .collect();
    json!({ "molds": molds, "found": of })
}

/// The versions of a mold, as data.
pub fn versions(entry: &Entry) -> Vec<Json> {
    let one = |release: &Release| json!({ "version": release.version.to_string(), "released": release.released, "size": release.size });
    entry.versions.iter().map(one).collect()
}
