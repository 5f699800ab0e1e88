//! `tinmold shelf`: the shelves that are known.

use crate::args::{ShelfArgs, ShelfCommand};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::keep::Config;
use crate::show::{FAINT, NAME, WARN, count, result, safe};
use std::fmt::Write;
use tinmold_core::shelf::{BUILT_IN, FolderShelf, Shelf, Shelves};

pub fn run(shelf: &ShelfArgs, quiet: bool) -> Result<Exit, Failure> {
    match &shelf.command {
        ShelfCommand::Add { name, folder } => {
            let legal =
                !name.is_empty() && name.chars().all(|c| c.is_ascii_alphanumeric() || "-_".contains(c));
            if !legal || name == BUILT_IN {
                let message = format!("{name:?} cannot be the name of a shelf");
                return Err(
                    Failure::new(Exit::Usage, message).help("use letters, digits and -, as in saltmarsh")
                );
            }
            let folder = folder.canonicalize().map_err(|error| {
                Failure::new(Exit::Usage, format!("there is no folder {}: {error}", folder.display()))
            })?;
            let (listed, broken) = FolderShelf::new(name, &folder).list()?;
            Config::add_shelf(name, &folder)?;
            if !quiet {
                anstream::eprintln!(
                    "Added {}: {} in {}",
                    safe(name),
                    count(listed.len(), "mold"),
                    safe(&folder.display().to_string())
                );
            }
            for reason in broken {
                anstream::eprintln!("{WARN}not read:{WARN:#} {}", safe(&reason));
            }
        }
        ShelfCommand::Drop { name } => {
            Config::drop_shelf(name)?;
            if !quiet {
                anstream::eprintln!("Dropped {}; its files are where they were.", safe(name));
            }
        }
        ShelfCommand::List => {
            let config = Config::read()?;
            let mut out = String::new();
            let places =
                config.shelf_folders().map(|(name, folder)| (name.to_owned(), folder.display().to_string()));
            let places = std::iter::once((BUILT_IN.to_owned(), "in the program".to_owned())).chain(places);
            let (listed, broken): (Vec<_>, Vec<_>) = Shelves::list(&config.shelves());
            for (name, place) in places {
                let molds = listed.iter().filter(|mold| mold.shelf == name).count();
                let _ = writeln!(
                    out,
                    "{NAME}{}{NAME:#}  {}  {FAINT}{}{FAINT:#}",
                    safe(&name),
                    count(molds, "mold"),
                    safe(&place)
                );
            }
            result(out);
            for reason in broken {
                anstream::eprintln!("{WARN}not read:{WARN:#} {}", safe(&reason));
            }
        }
    }
    Ok(Exit::Done)
}
