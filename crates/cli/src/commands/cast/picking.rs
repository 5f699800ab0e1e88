//! The mold of a cast: named, or picked among all.

use crate::args::CastArgs;
use crate::exit::Exit;
use crate::failure::Failure;
use crate::flow::answer_sources::Person;
use crate::flow::fetch;
use crate::state;
use crate::stop::Stop;
use crate::text::style::{WARN, safe};
use crate::ui::Interface;
use std::path::Path;
use tinmold_mold::Mold;
use tinmold_shelf::{Picker, Shelves};

/// Fetches the mold that is named or picked, and starts to ask git for the user's name if it may
/// need it. A picker is kept, to go back to.
pub(super) fn resolve(
    args: &CastArgs,
    shelves: &Shelves,
    interface: Option<Interface>,
    picker: &mut Option<Picker>,
) -> Result<(Mold, Person), Stop> {
    let address = match (&args.mold, interface) {
        (Some(mold), _) => mold.clone(),
        (None, Some(interface)) => {
            let picker = picker.get_or_insert_with(|| all_molds(shelves));
            interface.pick_mold(picker).map_err(|stop| stop.or_missing(no_mold))?
        }
        (None, None) => return Err(no_mold().into()),
    };
    // The files of a folder are not read yet: git is asked meanwhile whether or not they name the user.
    let in_folder = Path::new(&address).is_dir();
    let early = Person::asked(in_folder);
    let package = fetch::fetch_from(shelves, &address)?;
    let person = if in_folder { early } else { Person::asked(package.may_mention("user.")) };
    Ok((Mold::load(package).map_err(Failure::from)?, person))
}

/// Returns a picker of all molds of all shelves.
fn all_molds(shelves: &Shelves) -> Picker {
    let (catalogues, skipped) = shelves.list(None);
    for note in &skipped {
        say!("{WARN}not read:{WARN:#} {}", safe(&note.to_string()));
    }
    Picker::new(catalogues, &state::recent())
}

fn no_mold() -> Failure {
    Failure::new(Exit::Usage, "no mold is named, and there is no terminal to pick one")
        .help("name one: tinmold cast MOLD; tinmold find lists them")
}
