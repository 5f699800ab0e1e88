//! Arguments of a command that are described to the parser only if that command is used: a run uses
//! one of many.

use clap::{ArgMatches, Command, Error, FromArgMatches};
use std::ops::Deref;

/// Arguments of this type, described when their command is met.
#[derive(Debug)]
pub struct Deferred<T>(T);

impl<T> Deref for Deferred<T> {
    type Target = T;

    fn deref(&self) -> &T {
        &self.0
    }
}

impl<T: FromArgMatches> FromArgMatches for Deferred<T> {
    fn from_arg_matches(matches: &ArgMatches) -> Result<Self, Error> {
        T::from_arg_matches(matches).map(Self)
    }

    fn from_arg_matches_mut(matches: &mut ArgMatches) -> Result<Self, Error> {
        T::from_arg_matches_mut(matches).map(Self)
    }

    fn update_from_arg_matches(&mut self, matches: &ArgMatches) -> Result<(), Error> {
        self.0.update_from_arg_matches(matches)
    }
}

impl<T: clap::Args> clap::Args for Deferred<T> {
    fn augment_args(command: Command) -> Command {
        command.defer(T::augment_args)
    }

    fn augment_args_for_update(command: Command) -> Command {
        command.defer(T::augment_args_for_update)
    }
}
