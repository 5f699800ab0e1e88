//! `tinmold find`: search the shelves.

use crate::args::{FindArgs, Format};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::flow::answer_sources::today;
use crate::global::GlobalOptions;
use crate::settings::Settings;
use crate::state;
use crate::stop::Stop;
use crate::text::style::{FAINT, NAME, WARN, count, grouped, json_text, raw, result, safe};
use crate::text::width::fit_width;
use serde_json::{Value as Json, json};
use std::fmt::Write;
use std::io::IsTerminal;
use tinmold_notation::did_you_mean;
use tinmold_shelf::{Catalogue, Entry, Facet, Hit, Release, Search, age_of_day, rows_of, search};
use unicode_width::UnicodeWidthStr;

mod categories;

/// The most molds in a table, unless `--limit` says so.
const USUAL_LIMIT: usize = 20;

pub fn run(args: &FindArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let shelves = Settings::read()?.shelves(global);
    let only = args.only.iter().map(|text| facet(text)).collect::<Result<Vec<_>, _>>()?;
    let shelf = only.iter().find(|(facet, _)| *facet == Facet::Shelf).map(|(_, name)| name.as_str());
    if let Some(shelf) = shelf {
        shelves.named(shelf).map_err(Failure::from)?;
    }
    let (catalogues, skipped) = shelves.list(shelf);
    for note in &skipped {
        say!("{WARN}not read:{WARN:#} {}", safe(&note.to_string()));
    }
    let catalogues: Vec<&Catalogue> = catalogues.iter().collect();
    let mut hits = search(&catalogues, &Search { words: args.words.clone(), only });
    used_first(&catalogues, &mut hits);
    if args.categories {
        categories::print(args.format, &catalogues, &hits);
    } else if args.format == Format::Json {
        stream(&catalogues, &hits[..hits.len().min(args.limit.unwrap_or(usize::MAX))], hits.len())?;
    } else if hits.is_empty() {
        result(categories::offered(&shelves)?);
    } else {
        let shown = hits.iter().take(args.limit.unwrap_or(USUAL_LIMIT));
        let shown = shown.map(|hit| Row::of(&catalogues, hit)).collect::<Result<Vec<_>, _>>()?;
        // What another program reads is not cut.
        let width = std::io::stdout().is_terminal().then(|| crossterm::terminal::size().ok()).flatten();
        result(as_text(&shown, hits.len(), width.map(|(columns, _)| usize::from(columns))));
    }
    Ok(if hits.is_empty() { Exit::Failed } else { Exit::Done })
}

/// Puts the molds that were used lately before others that match as well.
fn used_first(catalogues: &[&Catalogue], hits: &mut [Hit]) {
    let recent = rows_of(catalogues, &state::recent());
    if recent.is_empty() {
        return;
    }
    let rank =
        |hit: &Hit| recent.iter().position(|used| *used == (hit.catalogue, hit.row)).unwrap_or(recent.len());
    // They are sorted by score already, and stay so.
    hits.sort_by_key(|hit| (std::cmp::Reverse(hit.score), rank(hit)));
}

/// Reads `FACET=VALUE`.
fn facet(text: &str) -> Result<(Facet, String), Failure> {
    let names = || Facet::ALL.into_iter().map(Facet::name);
    let all = format!("the facets are {}", names().collect::<Vec<_>>().join(", "));
    let Some((name, value)) = text.split_once('=').filter(|(_, value)| !value.is_empty()) else {
        return Err(Failure::new(Exit::Usage, format!("--only {text:?} is not FACET=VALUE")).help(all));
    };
    match Facet::of_name(name) {
        Some(facet) => Ok((facet, value.to_owned())),
        None => {
            let message = format!("{name:?} is not a facet");
            Err(Failure::new(Exit::Usage, message).help(did_you_mean(name, names(), all)))
        }
    }
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

    /// Returns the age of its newest release in words; empty without a date.
    pub fn age(&self, today: &str) -> String {
        age_of_day(&self.entry.newest().released, today).unwrap_or_default()
    }

    fn as_json(&self) -> Json {
        let Self { shelf, entry } = self;
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
    }
}

/// Returns a table; its last column is cut to the width, if there is one.
fn as_text(shown: &[Row], found: usize, width: Option<usize>) -> String {
    let day = today();
    let several = shown.iter().any(|row| row.shelf != shown[0].shelf);
    let name = |row: &Row| {
        if several { format!("{}/{}", row.shelf, row.entry.name) } else { row.entry.name.clone() }
    };
    let version = |row: &Row| row.entry.newest().version.to_string();
    let widest = |text: &dyn Fn(&Row) -> String| shown.iter().map(|row| text(row).width()).max().unwrap_or(0);
    let at_most = |columns: usize, share: usize| width.map_or(columns, |width| columns.min(width / share));
    let names = at_most(widest(&name), 2);
    let versions = at_most(widest(&version), 6);
    let ages = widest(&|row| row.age(&day));
    let mut out = String::new();
    for row in shown {
        let summary = match width {
            Some(width) => fit_width(&row.entry.summary, width.saturating_sub(names + versions + ages + 6)),
            None => safe(&row.entry.summary),
        };
        let _ = writeln!(
            out,
            "{NAME}{}{NAME:#}  {}  {FAINT}{}{FAINT:#}  {}",
            fit_width(&name(row), names),
            fit_width(&version(row), versions),
            fit_width(&row.age(&day), ages),
            summary.trim_end()
        );
    }
    if shown.len() < found {
        let more = grouped(found - shown.len());
        let _ = writeln!(out, "{FAINT}and {more} more: use more words, or --limit {found}{FAINT:#}");
    } else {
        let _ = writeln!(out, "{FAINT}{}{FAINT:#}", count(found, "mold"));
    }
    out
}

/// Writes one JSON document, a mold after the other as they are read.
fn stream(catalogues: &[&Catalogue], hits: &[Hit], found: usize) -> Result<(), Failure> {
    raw(format!("{{\n  \"schema\": \"find-1\",\n  \"found\": {found},\n  \"molds\": [").as_bytes());
    for (at, hit) in hits.iter().enumerate() {
        let row = Row::of(catalogues, hit)?.as_json();
        let comma = if at == 0 { "" } else { "," };
        raw(format!("{comma}\n    {}", json_text(&row)).as_bytes());
    }
    raw(if hits.is_empty() { b"]\n}\n" } else { b"\n  ]\n}\n" });
    Ok(())
}

/// Returns the versions of a mold, as data.
pub fn versions(entry: &Entry) -> Vec<Json> {
    let one = |release: &Release| json!({ "version": release.version.to_string(), "released": release.released, "size": release.size });
    entry.versions.iter().map(one).collect()
}
