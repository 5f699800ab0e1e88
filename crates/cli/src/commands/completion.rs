//! `tinmold completion`: the script that switches completion on.

use crate::args::CompletionArgs;
use crate::completion::{script, shell_of};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::stop::Stop;
use crate::text::style::raw;

pub fn run(args: &CompletionArgs) -> Result<Exit, Stop> {
    let named = || shell_of(&std::env::var("SHELL").ok()?);
    let shell = args.shell.or_else(named).ok_or_else(|| {
        Failure::new(Exit::Usage, "no shell is named, and SHELL names none that is known")
            .help("name one: tinmold completion bash (or zsh, fish, powershell, elvish)")
    })?;
    let script = script(shell)
        .map_err(|error| Failure::new(Exit::Failed, format!("cannot make the script: {error}")))?;
    raw(&script);
    Ok(Exit::Done)
}
