//! `tinmold demo`: a full example with the demo's answers.

use super::{cast, finish};
use crate::args::{AnswerArgs, CastArgs, DemoArgs, FinishArgs, Format};
use crate::exit::Exit;
use crate::global::GlobalOptions;
use crate::stop::Stop;
use crate::text::program::program;
use crate::text::style::{BOLD, FAINT, GOOD, NAME, count, quoted, safe};
use std::path::{Path, PathBuf};
use std::time::Instant;
use tinmold_mold::built_in_names;

/// The answers of Saltmarsh Ferries, a line a question.
const ANSWERS: &str = include_str!("../../../../demo/python-service.answers");
const MOLD: &str = "python-service";
/// The step of the mold that runs the project's tests.
const TESTS: &str = "tests";

pub fn run(demo: &DemoArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    if demo.all { one_of_each(demo, global) } else { example(demo, global) }
}

/// Casts the example, and runs its tests.
fn example(demo: &DemoArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let folder = demo.dir.clone().unwrap_or_else(|| free_folder("departures-board"));
    let set: Vec<String> = ANSWERS
        .lines()
        .filter(|line| !line.is_empty() && !line.starts_with('#'))
        .map(str::to_owned)
        .collect();
    let program = program();
    if !global.quiet {
        say!("{BOLD}Saltmarsh Ferries needs a departures service.{BOLD:#} This casts it:\n");
        say!("  {NAME}{program} cast {MOLD} {} --unattended \\{NAME:#}", shown(&folder));
        for (at, line) in set.iter().enumerate() {
            let end = if at + 1 < set.len() { " \\" } else { "" };
            say!("    {NAME}--set {}{end}{NAME:#}", safe(&quoted(line)));
        }
        say!();
    }
    let answers = AnswerArgs { set, unattended: true, ..AnswerArgs::default() };
    cast::run(&arguments(MOLD, &folder, answers), global)?;
    if !global.quiet {
        say!("\n{BOLD}Its own tests{BOLD:#} {FAINT}(make test){FAINT:#}");
    }
    let tests = FinishArgs {
        recover: false,
        steps: vec![TESTS.to_owned()],
        dir: Some(folder),
        vouch: None,
        format: Format::Text,
    };
    // What else is open was listed above.
    let tested = finish::run_steps(&tests, global)?;
    if !global.quiet {
        say!("\nTo be asked yourself: {NAME}{program} cast {MOLD}{NAME:#}");
        say!("{FAINT}The demo's folder is yours to delete.{FAINT:#}");
    }
    Ok(tested)
}

/// Casts one project of each built-in mold, with its defaults.
fn one_of_each(demo: &DemoArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let base = demo.dir.clone().unwrap_or_else(|| free_folder(""));
    let begun = Instant::now();
    let silent = GlobalOptions { quiet: true, ..global };
    let names: Vec<&str> = built_in_names().collect();
    let width = names.iter().map(|name| name.len()).max().unwrap_or(0);
    for name in &names {
        let folder = base.join(name);
        let answers = AnswerArgs { unattended: true, ..AnswerArgs::default() };
        cast::run(&arguments(name, &folder, answers), silent)?;
        if !global.quiet {
            say!("{GOOD}written{GOOD:#}  {name:width$}  {NAME}{}{NAME:#}", shown(&folder));
        }
    }
    if !global.quiet {
        let seconds = begun.elapsed().as_secs_f64();
        say!(
            "{} in {seconds:.1} s. README.md in each says how it is built, tested and run.",
            count(names.len(), "project")
        );
        say!("{FAINT}The folder is yours to delete.{FAINT:#}");
    }
    Ok(Exit::Done)
}

fn arguments(mold: &str, folder: &Path, answers: AnswerArgs) -> CastArgs {
    CastArgs {
        mold: Some(mold.to_owned()),
        dir: Some(folder.to_path_buf()),
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
    }
}

/// Returns a path as a shell takes it.
fn shown(folder: &Path) -> String {
    safe(&quoted(&folder.display().to_string()))
}

/// Returns a folder of the demo's own that is not there yet.
fn free_folder(name: &str) -> PathBuf {
    let base = std::env::temp_dir().join("tinmold-demo");
    let numbered = (1..).map(|number| {
        if number == 1 { base.clone() } else { base.with_file_name(format!("tinmold-demo-{number}")) }
    });
    let free = numbered.map(|folder| folder.join(name)).find(|folder| !folder.exists());
    free.unwrap_or(base)
}
