//! The entry: the command line in, an exit code out.

use std::io::{self, BufWriter, Write};
use std::process::ExitCode;

// {= if clap =}
use clap::Parser;

use {= crate =}::{CommandLine, Failure};

fn main() -> ExitCode {
    let command_line = CommandLine::parse();
    command_line.start_log();
    let mut out = BufWriter::new(io::stdout().lock());
    let ran = command_line.run(&mut out);
    // {= else =}
use {= crate =}::{Command, Failure};

fn main() -> ExitCode {
    let mut out = BufWriter::new(io::stdout().lock());
    let ran = Command::read(std::env::args_os().skip(1)).and_then(|command| command.run(&mut out));
    // {= end =}
    match ran.and_then(|()| out.flush().map_err(Failure::Output)) {
        Ok(()) => ExitCode::SUCCESS,
        // Whoever reads the output has seen enough.
        Err(failure) if failure.is_closed_pipe() => ExitCode::SUCCESS,
        Err(failure) => {
            // What was printed before comes first; whether it arrives changes nothing any more.
            let _ = out.flush();
            let _ = writeln!(io::stderr(), "error: {failure}");
            // {= if clap =}
            ExitCode::FAILURE
            // {= else =}
            failure.exit_code()
            // {= end =}
        }
    }
}
