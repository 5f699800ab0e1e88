//! Completion of command lines: the shell runs the program, which says what can follow.

mod bash;
mod values;
mod words;

use crate::args::value_kind::set_lister;
use crate::args::{Args, ShellName};
use crate::say::be_silent;
use bash::Bash;
use clap::CommandFactory;
use clap_complete::CompleteEnv;
use clap_complete::env::{Elvish, EnvCompleter, Fish, Powershell, Shells, Zsh};
use std::io;

/// Names the shell that asks for completions.
const VARIABLE: &str = "TINMOLD_COMPLETE";
const PROGRAM: &str = "tinmold";
const SHELLS: Shells<'static> = Shells(&[&Bash, &Zsh, &Fish, &Powershell, &Elvish]);

/// Answers a shell that asks what can follow, and returns true; returns false if none asks.
pub fn answer() -> bool {
    if std::env::var_os(VARIABLE).is_none() {
        return false;
    }
    be_silent();
    set_lister(values::list);
    let complete = CompleteEnv::with_factory(Args::command).var(VARIABLE).completer(PROGRAM).shells(SHELLS);
    let here = std::env::current_dir().ok();
    let answered = complete.try_complete(std::env::args_os(), here.as_deref());
    answered.unwrap_or_else(|error| {
        tracing::debug!(%error, "cannot complete");
        true
    })
}

/// Returns the script that switches completion on in a shell.
///
/// # Errors
/// The script cannot be made.
pub fn script(shell: ShellName) -> io::Result<Vec<u8>> {
    let mut out = Vec::new();
    let completer = SHELLS.completer(shell.name()).ok_or(io::ErrorKind::NotFound)?;
    completer.write_registration(VARIABLE, PROGRAM, PROGRAM, PROGRAM, &mut out)?;
    Ok(out)
}

/// Returns the shell of this name or path.
pub fn shell_of(path: &str) -> Option<ShellName> {
    let name = std::path::Path::new(path).file_stem()?.to_str()?;
    let shell: &dyn EnvCompleter = SHELLS.completer(name)?;
    <ShellName as clap::ValueEnum>::from_str(shell.name(), true).ok()
}
