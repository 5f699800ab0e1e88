//! Both versions of a project's mold, with the parts that it has.

use crate::exit::Exit;
use crate::failure::Failure;
use crate::flow::fetch::{fetch_new, fetch_old};
use crate::global::GlobalOptions;
use crate::text::style::safe;
use semver::Version as Semver;
use std::path::Path;
use tinmold_mold::Mold;
use tinmold_project::recast::{LoadedPart, Note, PartProblem, carry};
use tinmold_project::record::{CastingMold, Recorded};

/// Both versions of a project's mold, with the parts that it has.
pub struct Versions {
    /// The version that it was cast from, or what is at its address now; `None` if neither can be had.
    pub old: Option<Version>,
    /// True if the old version is the recorded one.
    pub is_exact: bool,
    /// The version that it is brought to.
    pub new: Mold,
    /// By recorded part: the part of the new version.
    pub parts: Vec<LoadedPart>,
}

/// A version of a mold.
pub struct Version {
    pub mold: Mold,
    /// By recorded part: the part of this version.
    pub parts: Vec<LoadedPart>,
}

impl Versions {
    /// Fetches the version that `to` names, else the newest, and the one that the project was cast from.
    pub fn fetch(recorded: &Recorded, to: Option<&str>, global: GlobalOptions) -> Result<Self, Failure> {
        let casting = &recorded.casting;
        let new = newest(recorded, to, global)?;
        // What it is brought to may be what it was cast from.
        let is_it = new.package.digest()?.to_string() == casting.mold.digest;
        let same = is_it.then(|| new.package.clone());
        let old = same.or_else(|| fetch_old(&casting.mold, recorded, global)).and_then(|package| {
            let loaded = Mold::load(package);
            loaded.inspect_err(|error| tracing::warn!(%error, "the old version cannot be loaded")).ok()
        });
        let is_recorded =
            |old: &Mold| old.package.digest().is_ok_and(|digest| digest.to_string() == casting.mold.digest);
        let is_exact = old.as_ref().is_some_and(is_recorded);
        let parts = parts_of(recorded, &new, global);
        let old = old.map(|mold| Version { parts: parts_of(recorded, &mold, global), mold });
        Ok(Self { old, is_exact, new, parts })
    }

    /// Returns the recorded answers whose questions are gone.
    pub fn gone_keys(&self, recorded: &Recorded) -> impl Iterator<Item = Note> {
        carry(&self.new, &recorded.casting.answers).dropped.into_iter().map(Note::KeyGone)
    }
}

/// Fetches the version that `to` names, else the newest: the mold of the record, and not an older one by itself.
pub fn newest(recorded: &Recorded, to: Option<&str>, global: GlobalOptions) -> Result<Mold, Failure> {
    let mold = &recorded.casting.mold;
    // A path that the user names is seen from here, not from the project.
    let to =
        to.map(
            |to| if Path::new(to).is_dir() && !to.contains('/') { format!("./{to}") } else { to.to_owned() },
        );
    let new = Mold::load(fetch_new(recorded, to.as_deref(), global)?)?;
    if new.name() != mold.name {
        let (was, is) = (safe(&mold.name), safe(new.name()));
        let message = format!("the project was cast from {was}, and this mold is {is}; nothing was written");
        return Err(Failure::new(Exit::Usage, message).help(format!("name another version of {was}")));
    }
    let versions = (mold.version.parse::<Semver>(), new.version().parse::<Semver>());
    if let (None, (Ok(old), Ok(now))) = (&to, versions)
        && now.cmp_precedence(&old).is_lt()
    {
        let message = format!(
            "the newest {} there is {}, older than the {} of the project; nothing was written",
            safe(&mold.name),
            safe(new.version()),
            safe(&mold.version)
        );
        return Err(
            Failure::new(Exit::Usage, message).help("name it, if you mean it: tinmold recast --to VERSION")
        );
    }
    Ok(new)
}

/// Returns the recorded parts as a version of the project's mold has them; those of other molds as they were.
fn parts_of(recorded: &Recorded, own: &Mold, global: GlobalOptions) -> Vec<LoadedPart> {
    let parts = recorded.casting.part.iter();
    parts
        .map(|fitted| match &fitted.mold {
            None => LoadedPart::of(own, &fitted.name, true),
            Some(other) => of_other(recorded, other, &fitted.name, global),
        })
        .collect()
}

fn of_other(recorded: &Recorded, mold: &CastingMold, name: &str, global: GlobalOptions) -> LoadedPart {
    let missing = |reason: String| LoadedPart { part: Err(PartProblem::NoMold(reason)), is_own: false };
    let Some(package) = fetch_old(mold, recorded, global) else {
        return missing(format!("{} {}", mold.name, mold.version));
    };
    match Mold::load(package) {
        Ok(loaded) if loaded.name() == mold.name => LoadedPart::of(&loaded, name, false),
        Ok(loaded) => missing(format!("{} is at its address now", loaded.name())),
        Err(error) => missing(error.to_string()),
    }
}
