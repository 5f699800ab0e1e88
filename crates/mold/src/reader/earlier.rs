//! Reads `was`: what something was called in earlier versions of a mold.

use super::context::ManifestReader;
use crate::codes;
use crate::manifest::{Placed, RawQuestion};

/// Reads earlier names; `refuse` says why a name cannot be one.
pub(super) fn earlier(
    reader: &mut ManifestReader,
    was: &[Placed],
    refuse: impl Fn(&str) -> Option<String>,
) -> Vec<String> {
    let mut names: Vec<String> = Vec::new();
    for was in was {
        let name = was.get_ref();
        let reason = match name.is_empty() || name.chars().any(char::is_control) {
            true => Some("it is no name".to_owned()),
            false if names.contains(name) => Some("it stands here twice".to_owned()),
            false => refuse(name),
        };
        match reason {
            Some(reason) => {
                let help = "`was` says what this was called in an earlier version of the mold";
                let message = format!("{name:?} cannot be an earlier name: {reason}");
                reader.add(codes::BAD_WAS, was.span(), message, help);
            }
            None => names.push(name.clone()),
        }
    }
    names
}

/// Checks the earlier keys of the questions of a manifest.
pub(super) fn earlier_keys(reader: &mut ManifestReader, raw: &[RawQuestion]) {
    for (at, question) in raw.iter().enumerate() {
        reader.enter(question.origin);
        earlier(reader, &question.was, |was| {
            let taken = raw.iter().any(|other| other.key.get_ref() == was);
            let twice = raw[..at].iter().any(|other| other.was.iter().any(|it| it.get_ref() == was));
            match (taken, twice) {
                (true, _) => Some("it is the key of a question of this version".to_owned()),
                (_, true) => Some("another question had this key too".to_owned()),
                _ => None,
            }
        });
    }
    reader.enter(0);
}
