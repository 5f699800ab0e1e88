//! Names for what the program writes besides the project's files.

use std::io::{Error, Result};

/// Returns a name that no other program chooses or guesses.
pub(super) fn random_name() -> Result<String> {
    let mut bytes = [0; 10];
    getrandom::fill(&mut bytes).map_err(Error::other)?;
    Ok(bytes.iter().map(|byte| format!("{byte:02x}")).collect())
}

/// Returns names beside `path`, the best one first: with the ending, and then with a number too.
pub(super) fn candidates(path: &str, ending: &str) -> impl Iterator<Item = String> {
    let first = format!("{path}{ending}");
    let numbered = (2..=u32::MAX).map({
        let first = first.clone();
        move |number| format!("{first}-{number}")
    });
    std::iter::once(first).chain(numbered)
}
