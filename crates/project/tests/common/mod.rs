//! Molds made of texts, and answers to them.
#![allow(dead_code, clippy::unwrap_used, clippy::panic)]

use tinmold_project::answers::{BuiltIns, Given, Offers, Session, Source, parse_text, written};
use tinmold_mold::model::{Mold, MoldError};
use tinmold_mold::package::{Content, File, Origin, Package};
use tinmold_notation::Finding;

const HEAD: &str = "[mold]\nname = \"ferry-board\"\nversion = \"1.0.0\"\nsummary = \"A mold of the tests\"\n";

pub fn package(manifest: &str, files: &[(&str, &str)]) -> Package {
    let manifest =
        if manifest.contains("[mold]") { manifest.to_owned() } else { format!("{HEAD}{manifest}") };
    let all = files.iter().copied().chain([("mold.toml", manifest.as_str())]);
    let mut files: Vec<File> = all
        .map(|(path, text)| File::new(path.to_owned(), Content::Held(text.as_bytes().to_vec().into()), 0o644))
        .collect();
    files.sort_by(|a, b| a.path.cmp(&b.path));
    Package::new(Origin::BuiltIn("ferry-board".into()), files)
}

pub fn mold(manifest: &str, files: &[(&str, &str)]) -> Mold {
    match Mold::load(package(manifest, files)) {
        Ok(mold) => mold,
        Err(MoldError::Faulty(faulty)) => panic!("{:?}", faulty.findings),
        Err(error) => panic!("{error}"),
    }
}

/// Everything that loading and checking find.
pub fn findings(manifest: &str, files: &[(&str, &str)]) -> Vec<Finding> {
    match Mold::load(package(manifest, files)) {
        Ok(mold) => tinmold_author::rehearsal::check(&mold).findings,
        Err(MoldError::Faulty(faulty)) => faulty.findings,
        Err(error) => panic!("{error}"),
    }
}

pub fn session<'m>(mold: &'m Mold, given: &[(&str, &str)], offers: Offers) -> Session<'m> {
    let mut all = vec![None; mold.questions.len()];
    for (key, text) in given {
        let at = mold.questions.iter().position(|question| question.key == *key).unwrap();
        let value = parse_text(&mold.questions[at], text, &mold.scope).unwrap();
        all[at] = Some(Given { value, source: Source::Set });
    }
    let built_ins = BuiltIns { today: "2026-11-23".into(), year: 2026, ..BuiltIns::default() };
    Session::new(mold, all, offers, built_ins).unwrap()
}

/// `key=value (source)` for every question that applies.
pub fn shown(session: &Session<'_>) -> Vec<String> {
    let questions = session.mold().questions.iter().zip(session.settled());
    questions
        .filter(|(_, settled)| settled.is_visible())
        .map(|(question, settled)| {
            format!("{}={} ({})", question.key, written(session.mold(), &settled.value), settled.source)
        })
        .collect()
}
