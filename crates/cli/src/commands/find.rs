//! `tinmold find`: search the shelves.

use crate::args::{FindArgs, Format};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::keep::Config;
use crate::show::{FAINT, NAME, WARN, count, result, safe};
use serde_json::{Value as Json, json};
use std::fmt::Write;
use std::io::IsTerminal;
use tinmold_core::shelf::{Listed, Search, search};
use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};

/// How wide a table is where no terminal says so.
const USUAL_WIDTH: usize = 100;

pub fn run(find: &FindArgs) -> Result<Exit, Failure> {
    let shelves = Config::read()?.shelves();
    if let Some(shelf) = &find.shelf
        && !shelves.names().any(|name| name == shelf)
    {
        let all = shelves.names().collect::<Vec<_>>().join(", ");
        let advice = tinmold_notation::did_you_mean(shelf, shelves.names(), format!("there are {all}"));
        return Err(Failure::new(Exit::Usage, format!("no shelf is called {shelf:?}; {advice}")));
    }
    let (listed, broken) = shelves.list();
    let text = |said: &Option<String>| said.clone().unwrap_or_default();
    let wanted = Search {
        words: find.words.clone(),
        language: text(&find.language),
        kind: text(&find.kind),
        tag: text(&find.tag),
        owner: text(&find.owner),
        shelf: text(&find.shelf),
    };
    let found = search(&listed, &wanted);
    for reason in &broken {
        anstream::eprintln!("{WARN}not read:{WARN:#} {}", safe(reason));
    }
    match find.format {
        Format::Json => {
            result(format!("{:#}\n", as_json(&found[..found.len().min(find.limit)], found.len())));
        }
        Format::Text => {
            let width = if std::io::stdout().is_terminal() {
                crossterm::terminal::size().map_or(USUAL_WIDTH, |(columns, _)| usize::from(columns))
            } else {
                USUAL_WIDTH
            };
            result(as_text(&found, find.limit, width));
        }
    }
    Ok(if found.is_empty() { Exit::Failed } else { Exit::Done })
}

fn as_text(found: &[Listed], limit: usize, width: usize) -> String {
    if found.is_empty() {
        return "No mold matches. Fewer words find more; `tinmold find` alone shows all.\n".into();
    }
    let shown = &found[..found.len().min(limit)];
    let several = shown.iter().any(|mold| mold.shelf != shown[0].shelf);
    let name =
        |mold: &Listed| if several { format!("{}/{}", mold.shelf, mold.name) } else { mold.name.clone() };
    let names = shown.iter().map(|mold| name(mold).width()).max().unwrap_or(0).min(width / 2);
    let versions = shown.iter().map(|mold| mold.version.to_string().width()).max().unwrap_or(0);
    let mut out = String::new();
    for mold in shown {
        let left = width.saturating_sub(names + versions + 10 + 6);
        let _ = writeln!(
            out,
            "{NAME}{}{NAME:#}  {:<versions$}  {FAINT}{:<10}{FAINT:#}  {}",
            cut(&name(mold), names),
            mold.version.to_string(),
            safe(&mold.released),
            cut(&mold.summary, left).trim_end()
        );
    }
    if shown.len() < found.len() {
        let more = found.len() - shown.len();
        let _ = writeln!(out, "{FAINT}and {more} more: say more words, or --limit {}{FAINT:#}", found.len());
    } else {
        let _ = writeln!(out, "{FAINT}{}{FAINT:#}", count(found.len(), "mold"));
    }
    out
}

/// A text that is exactly so many columns wide.
fn cut(text: &str, width: usize) -> String {
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

fn as_json(shown: &[Listed], of: usize) -> Json {
    let molds: Vec<Json> = shown
        .iter()
        .map(|mold| {
            json!({
                "address": mold.address(),
                "shelf": mold.shelf,
                "name": mold.name,
                "version": mold.version.to_string(),
                "released": mold.released,
                "summary": mold.summary,
                "owner": mold.owner,
                "language": mold.language,
                "kind": mold.kind,
                "tags": mold.tags,
            })
        })
        .collect();
    json!({ "molds": molds, "found": of })
}
