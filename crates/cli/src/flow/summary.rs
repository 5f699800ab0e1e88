//! The end of a cast: what was written, the tour, and what to type next.

use crate::flow::finishing::Finished;
use crate::text::style::{BOLD, FAINT, GOOD, NAME, count, quoted, safe, size};
use crate::text::width::{cut, fit_width};
use serde_json::{Value as Json, json};
use std::path::Path;
use tinmold_mold::Mold;
use tinmold_notation::{Finding, Value};
use tinmold_project::answers::{AnswerSource, Session, display_label};
use tinmold_project::verify::VerifiedPlan;
use tinmold_project::write::{ArchiveFormat, WriteSummary};
use unicode_width::UnicodeWidthStr;

/// The last words of a cast, as the mold gives them.
pub struct ClosingTexts {
    /// Places to know, each with what to know.
    tour: Vec<(String, String)>,
    next: Vec<String>,
    /// The name of the project's folder.
    folder: String,
}

impl ClosingTexts {
    /// Renders them, so that a mistake in them is found before anything is written.
    pub fn new(plan: &VerifiedPlan<'_>) -> Result<Self, Finding> {
        let (mold, values) = (plan.mold, &plan.answers.values);
        let tour = mold.texts.tour_stops(&mold.shown_scope, values)?;
        let next = mold.texts.next_lines(&mold.shown_scope, values)?;
        let folder = match mold.scope.find("project.dir").and_then(|id| values.get(id)) {
            Some(Value::Text(name)) => name.clone(),
            _ => String::new(),
        };
        Ok(Self {
            tour: tour.iter().map(|(path, says)| (safe(path), safe(says))).collect(),
            next: next.iter().map(|line| safe(line)).collect(),
            folder,
        })
    }
}

/// Prints the settings that are not as they were offered, by their labels.
pub fn print_settings(mold: &Mold, name: &str, session: &Session<'_>) {
    let questions = mold.questions.iter().zip(session.resolved());
    let shown = questions.filter(|(question, resolved)| {
        resolved.is_visible() && question.is_asked() && !matches!(resolved.source, AnswerSource::NotAsked)
    });
    let is_offered = |source: &AnswerSource| {
        matches!(source, AnswerSource::Default | AnswerSource::Own | AnswerSource::Casting)
    };
    let (offered, own): (Vec<_>, Vec<_>) = shown.partition(|(_, resolved)| is_offered(&resolved.source));
    say!("{BOLD}{}{BOLD:#} {}", safe(name), safe(mold.version()));
    let wide = own.iter().map(|(question, _)| question.ask.width()).max().unwrap_or(0).min(MOST_LABEL);
    for (question, resolved) in &own {
        let value = match question.secret {
            true => "given".to_owned(),
            false => cut(&display_label(mold, &resolved.value), MOST_VALUE),
        };
        say!("  {}  {value}", fit_width(&question.ask, wide));
    }
    if !offered.is_empty() {
        say!("  {FAINT}{} as offered{FAINT:#}", count(offered.len(), "setting"));
    }
}

/// The most columns of a label and of a value in the summary.
const MOST_LABEL: usize = 32;
const MOST_VALUE: usize = 60;

/// Prints what was written.
pub fn print_written(written: &WriteSummary) {
    let place = safe(&written.path.display().to_string());
    if written.files == 0 {
        say!("{GOOD}Nothing to write into{GOOD:#} {NAME}{place}{NAME:#}");
    } else {
        say!(
            "{GOOD}Written:{GOOD:#} {NAME}{place}{NAME:#} {FAINT}({}, {}){FAINT:#}",
            count(written.files, "file"),
            size(written.bytes)
        );
    }
    what_was_there(written, archive_of(written).is_some());
}

fn archive_of(written: &WriteSummary) -> Option<ArchiveFormat> {
    ArchiveFormat::of_path(&written.path).filter(|_| written.path.is_file())
}

/// Prints the tour, and what to type next.
pub fn print_closing(texts: &ClosingTexts, written: &WriteSummary) {
    let archive = archive_of(written);
    if !texts.tour.is_empty() {
        say!("\n{BOLD}Places to know{BOLD:#}");
    }
    let wide = texts.tour.iter().map(|(path, _)| path.chars().count()).max().unwrap_or(0);
    for (path, says) in &texts.tour {
        say!("  {NAME}{path:<wide$}{NAME:#}  {says}");
    }
    if !texts.next.is_empty() || archive.is_some() {
        say!("\n{BOLD}Next{BOLD:#}");
    }
    let archive_path = safe(&quoted(&written.path.display().to_string()));
    match archive {
        Some(ArchiveFormat::Zip) => say!("  unzip {archive_path}"),
        Some(ArchiveFormat::TarGz) => say!("  tar -xzf {archive_path}"),
        None => {}
    }
    let enter = format!("cd {}", texts.folder);
    for line in &texts.next {
        // The mold knows the folder's name; where it is seen from here, the program knows.
        if *line != enter {
            say!("  {line}");
        } else if archive.is_some() {
            say!("  cd {}", safe(&quoted(&texts.folder)));
        } else if !is_here(&written.path) {
            say!("  cd {}", safe(&quoted(&written.path.display().to_string())));
        }
    }
}

/// Returns a cast that was written as data.
pub fn as_json(
    mold: &Mold,
    texts: &ClosingTexts,
    written: &WriteSummary,
    finished: Option<&Finished>,
) -> Json {
    let aside = written.aside.iter().map(|(path, beside)| json!({ "path": path, "beside": beside }));
    json!({
        "mold": { "name": mold.name(), "version": mold.version() },
        "path": written.path.display().to_string(),
        "files": written.files,
        "bytes": written.bytes,
        "same": written.same,
        "kept": written.kept,
        "replaced": written.replaced,
        "aside": aside.collect::<Vec<_>>(),
        "left-local": written.local,
        "steps": finished.map(Finished::as_json).unwrap_or_default(),
        "next": texts.next,
    })
}

/// Returns true if this is the current directory.
fn is_here(folder: &Path) -> bool {
    match (folder.canonicalize(), std::env::current_dir().and_then(|here| here.canonicalize())) {
        (Ok(folder), Ok(here)) => folder == here,
        _ => false,
    }
}

/// Existing files, and what was done with each.
fn what_was_there(written: &WriteSummary, is_archive: bool) {
    let listed = |what: &str, paths: &[String]| {
        if !paths.is_empty() {
            say!("  {what}: {}", safe(&paths.join(", ")));
        }
    };
    if written.same > 0 {
        say!("  {} already just so", count(written.same, "file"));
    }
    listed("kept yours", &written.kept);
    listed("replaced", &written.replaced);
    for (mine, beside) in &written.aside {
        say!("  kept your {}; the new one is {NAME}{}{NAME:#}", safe(mine), safe(beside));
    }
    let local =
        if is_archive { "left out, for this machine only" } else { "left as it was, for this machine only" };
    listed(local, &written.local);
}
