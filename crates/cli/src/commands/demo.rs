//! `tinmold demo`: a full example with the demo's answers.

use super::cast;
use crate::args::{AnswerArgs, CastArgs, DemoArgs, Format};
use crate::exit::Exit;
use crate::global::GlobalOptions;
use crate::stop::Stop;
use crate::text::style::{BOLD, FAINT, NAME};
use std::path::PathBuf;

/// The answers of Saltmarsh Ferries, a line a question.
const ANSWERS: &str = include_str!("../../../../demo/python-service.answers");

pub fn run(demo: &DemoArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let folder = match &demo.dir {
        Some(dir) => dir.clone(),
        None => free_folder(),
    };
    let set: Vec<String> = ANSWERS
        .lines()
        .filter(|line| !line.is_empty() && !line.starts_with('#'))
        .map(str::to_owned)
        .collect();
    if !global.quiet {
        say!("{BOLD}Saltmarsh Ferries needs a departures service.{BOLD:#}");
        say!("The mold is python-service, and these are the answers:");
        for line in &set {
            say!("  {FAINT}--set{FAINT:#} {NAME}{line}{NAME:#}");
        }
        say!();
    }
    let answers = AnswerArgs { set, unattended: true, ..AnswerArgs::default() };
    let exit = cast::run(
        &CastArgs {
            mold: Some("python-service".into()),
            dir: Some(folder.clone()),
            answers,
            dry_run: false,
            format: Format::Text,
            show: None,
            archive: None,
            if_present: None,
            finish: None,
            vouch: None,
            skip_preflight: false,
            save_sheet: None,
            remember: false,
        },
        global,
    )?;
    if !global.quiet {
        say!(
            "\nTo be asked yourself, type {NAME}tinmold cast python-service{NAME:#}. The demo's folder is yours to delete."
        );
    }
    Ok(exit)
}

/// Returns a folder of the demo's own that is not there yet.
fn free_folder() -> PathBuf {
    let base = std::env::temp_dir().join("tinmold-demo");
    let numbered = (1..).map(|number| {
        if number == 1 { base.clone() } else { base.with_file_name(format!("tinmold-demo-{number}")) }
    });
    let free = numbered.map(|folder| folder.join("departures-board")).find(|folder| !folder.exists());
    free.unwrap_or(base)
}
