//! Molds made of texts, and answers to them.
#![allow(dead_code, clippy::unwrap_used, clippy::panic)]

use std::path::{Path, PathBuf};
use std::sync::LazyLock;
use tempfile::TempDir;
use tinmold_mold::{Content, File, Mold, MoldError, Origin, Package};
use tinmold_platform::digest::digest_of;
use tinmold_project::answers::{AnswerSource, BuiltIns, Given, Offers, Session, display_value, parse_text};
use tinmold_project::verify::VerifiedPlan;
use tinmold_project::write::{Choice, Inspection, Journals, Observer, WriteError, WriteSummary, inspect};

const HEAD: &str = "[mold]\nname = \"ferry-board\"\nversion = \"1.0.0\"\nsummary = \"A mold of the tests\"\n";

pub fn package(manifest: &str, files: &[(&str, &str)]) -> Package {
    let manifest =
        if manifest.contains("[mold]") { manifest.to_owned() } else { format!("{HEAD}{manifest}") };
    let all = files.iter().copied().chain([("mold.toml", manifest.as_str())]);
    let mut files: Vec<File> = all
        .map(|(path, text)| File::new(path.to_owned(), Content::Held(text.as_bytes().to_vec().into()), 0o644))
        .collect();
    files.sort_by(|a, b| a.path.cmp(&b.path));
    Package::new(Origin::BuiltIn("ferry-board".into()), files).unwrap()
}

pub fn mold(manifest: &str, files: &[(&str, &str)]) -> Mold {
    match Mold::load(package(manifest, files)) {
        Ok(mold) => mold,
        Err(MoldError::Faulty(faulty)) => panic!("{:?}", faulty.findings),
        Err(error) => panic!("{error}"),
    }
}

pub fn session<'m>(mold: &'m Mold, given: &[(&str, &str)], offers: Offers) -> Session<'m> {
    let mut all = vec![None; mold.questions.len()];
    for (key, text) in given {
        let at = mold.questions.iter().position(|question| question.key == *key).unwrap();
        let value = parse_text(&mold.questions[at], text, &mold.scope).unwrap();
        all[at] = Some(Given { value, source: AnswerSource::Set });
    }
    let built_ins = BuiltIns { today: "2026-11-23".into(), year: 2026, ..BuiltIns::default() };
    Session::new(mold, all, offers, built_ins).unwrap()
}

/// `key=value (source)` for every question that applies.
pub fn shown(session: &Session<'_>) -> Vec<String> {
    let questions = session.mold().questions.iter().zip(session.resolved());
    questions
        .filter(|(_, resolved)| resolved.is_visible())
        .map(|(question, resolved)| {
            format!(
                "{}={} ({})",
                question.key,
                display_value(session.mold(), &resolved.value),
                resolved.source
            )
        })
        .collect()
}

/// One choice for every file that is in the way, or none for any.
pub fn choices(inspection: &Inspection, plan: &VerifiedPlan<'_>, choice: Option<Choice>) -> Vec<Choice> {
    choice.map_or_else(Vec::new, |choice| vec![choice; inspection.conflicts(plan).len()])
}

/// Inspects the folder and writes the plan into it; nothing may be in the way.
pub fn write(
    plan: &VerifiedPlan<'_>,
    folder: &Path,
    observer: &dyn Observer,
) -> Result<WriteSummary, WriteError> {
    plan.write(&inspect(plan, folder)?, &[], &journals(folder), observer)
}

/// Returns the directory of the journals for a project of the tests.
pub fn journal_folder(project: &Path) -> PathBuf {
    static ALL: LazyLock<TempDir> = LazyLock::new(|| TempDir::new().unwrap());
    ALL.path().join(digest_of(project.as_os_str().as_encoded_bytes()).to_string())
}

pub fn journals(project: &Path) -> Journals {
    Journals::new(Some(journal_folder(project)))
}
