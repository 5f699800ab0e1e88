#![doc = {= summary.rust =}]

mod command;
mod count;
mod failure;
// {= if settings =}
mod settings;
// {= end =}

pub use command::{= if clap =}CommandLine{= else =}Command{= end =};
pub use failure::Failure;
