//! What is kept between runs: the user's own defaults, and the answers of the last cast of each mold.

use crate::exit::Exit;
use crate::failure::Failure;
use etcetera::BaseStrategy;
use etcetera::base_strategy::Xdg;
use std::fs;
use std::path::PathBuf;
use tinmold_core::answers::{Answers, SheetFormat, read_sheet, written_sheet_of};
use tinmold_core::mold::Mold;
use tinmold_notation::Value;

/// By key, the user's own defaults that fit the mold's questions: `[answers]` of `tinmold/config.toml` among the configuration files.
pub fn own_answers(mold: &Mold) -> Result<Vec<(String, Value)>, Failure> {
    let Ok(places) = Xdg::new() else { return Ok(Vec::new()) };
    let path = places.config_dir().join("tinmold/config.toml");
    let text = match fs::read_to_string(&path) {
        Ok(text) => text,
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => return Ok(Vec::new()),
        Err(error) => {
            return Err(Failure::new(Exit::Failed, format!("cannot read {}: {error}", path.display())));
        }
    };
    let wrong = |reason: String| {
        Failure::new(Exit::Failed, format!("{}: {reason}", path.display()))
            .help("mend the file or move it away")
    };
    let table: toml::Table = text.parse().map_err(|error: toml::de::Error| {
        let place = tinmold_notation::Position::of(&text, error.span().map_or(0, |span| span.start));
        let message = error.message().lines().next().unwrap_or("").to_owned();
        wrong(format!("line {}, column {}: {message}", place.line, place.column))
    })?;
    if let Some(key) = table.keys().find(|key| *key != "answers") {
        let advice = tinmold_notation::did_you_mean(key, ["answers"], "known is [answers]");
        return Err(wrong(format!("the key `{key}` means nothing here; {advice}")));
    }
    let Some(answers) = table.get("answers") else { return Ok(Vec::new()) };
    let toml::Value::Table(answers) = answers else {
        return Err(wrong("`answers` is a table of keys and answers".into()));
    };
    // They are for many molds: what another mold asks, or asks in another way, is not for this one.
    let sheet = read_sheet(mold, &answers.to_string(), SheetFormat::Toml)
        .map_err(|error| wrong(error.to_string()))?;
    Ok(by_key(mold, sheet.answers))
}

fn by_key(mold: &Mold, answers: Vec<(usize, Value)>) -> Vec<(String, Value)> {
    answers.into_iter().map(|(at, value)| (mold.questions[at].key.clone(), value)).collect()
}

/// Where the last answers to a mold are kept.
fn last_path(mold: &Mold) -> Option<PathBuf> {
    let owner = mold.header.owner.as_ref().map_or("", |owner| owner.get_ref());
    let places = Xdg::new().ok()?;
    Some(places.state_dir()?.join("tinmold/answers").join(format!("{owner}+{}.toml", mold.name())))
}

/// By key, what was answered in the last cast of the same mold. A file that cannot be read offers nothing.
pub fn last_answers(mold: &Mold) -> Vec<(String, Value)> {
    let text = last_path(mold).and_then(|path| fs::read_to_string(path).ok());
    let sheet = text.and_then(|text| read_sheet(mold, &text, SheetFormat::Toml).ok());
    sheet.map_or_else(Vec::new, |sheet| by_key(mold, sheet.answers))
}

/// Keeps what somebody answered, to be offered next time: not what was a default, nor what names the project.
pub fn keep_answers(mold: &Mold, answers: &Answers) {
    let sheet = written_sheet_of(mold, answers, |question, settled| {
        settled.source.is_given() && !question.from_folder
    });
    let Some(path) = last_path(mold) else { return };
    let Some(folder) = path.parent() else { return };
    // Only a convenience is lost when it cannot be kept.
    let _ = fs::create_dir_all(folder).and_then(|()| fs::write(&path, sheet));
}
