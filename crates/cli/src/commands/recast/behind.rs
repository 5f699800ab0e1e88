//! Whether a project is behind its mold.

use super::versions::newest;
use crate::args::{RecastArgs, RecastFormat};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::global::GlobalOptions;
use crate::text::style::{GOOD, NAME, WARN, result_document, safe};
use serde_json::{Value as Json, json};
use tinmold_mold::Mold;
use tinmold_project::recast::carried_session;
use tinmold_project::record::Recorded;

/// How a project stands to the newest version of its mold.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Behind {
    /// The newest version.
    pub version: String,
    /// Its digest.
    pub digest: String,
    /// True if it is the one that the project was cast from.
    pub is_same: bool,
    /// The keys of questions without an answer that it takes.
    pub missing: Vec<String>,
}

/// Compares a project with the newest version of its mold, or with the one that `to` names.
pub fn behind(recorded: &Recorded, to: Option<&str>, global: GlobalOptions) -> Result<Behind, Failure> {
    let new = newest(recorded, to, global)?;
    let digest = new.package.digest()?.to_string();
    let mold = &recorded.casting.mold;
    Ok(Behind {
        is_same: mold.version == new.version() && mold.digest == digest,
        missing: missing(recorded, &new)?,
        version: new.version().to_owned(),
        digest,
    })
}

/// Returns the questions that the recorded answers leave open, and those whose answers are gone.
fn missing(recorded: &Recorded, new: &Mold) -> Result<Vec<String>, Failure> {
    let session = carried_session(new, &recorded.casting);
    let mut session = session.map_err(|finding| Failure::findings(&[finding], &new.package))?;
    session.ask_details(true);
    Ok(session.unanswered().map(|at| new.questions[at].key.clone()).collect())
}

/// Says whether the project is behind.
pub fn run(args: &RecastArgs, global: GlobalOptions, recorded: &Recorded) -> Result<Exit, Failure> {
    let behind = behind(recorded, args.to.as_deref(), global)?;
    let is_behind = !behind.is_same || !behind.missing.is_empty();
    if args.format != RecastFormat::Text {
        result_document("behind-1", as_json(recorded, &behind));
    } else if !global.quiet {
        print(recorded, &behind);
    }
    Ok(if is_behind { Exit::InTheWay } else { Exit::Done })
}

fn print(recorded: &Recorded, behind: &Behind) {
    let mold = &recorded.casting.mold;
    let name = safe(&mold.name);
    let (was, now) = (safe(&mold.version), safe(&behind.version));
    if behind.is_same {
        say!("{GOOD}up to date:{GOOD:#} {name} {now}");
    } else if was == now {
        say!("{WARN}behind:{WARN:#} {name} {now} changed since the project was cast from it");
    } else {
        say!("{WARN}behind:{WARN:#} {name} {was}; {now} is there");
    }
    for key in &behind.missing {
        say!("{WARN}an answer is missing:{WARN:#} {NAME}{}{NAME:#}", safe(key));
    }
}

fn as_json(recorded: &Recorded, behind: &Behind) -> Json {
    let mold = &recorded.casting.mold;
    json!({
        "mold": mold.name,
        "from": { "version": mold.version, "digest": mold.digest },
        "to": { "version": behind.version, "digest": behind.digest },
        "behind": !behind.is_same,
        "missing": behind.missing,
    })
}
