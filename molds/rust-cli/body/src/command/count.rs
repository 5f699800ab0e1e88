//! The command `count`.

use std::fs::File;
use std::io::{self, BufReader, Write};
use std::path::PathBuf;

// {= if clap =}
use clap::Args;
use tracing::info;

// {= end =}
use crate::Failure;
use crate::count::Counts;

// {= if clap =}
/// What it takes.
#[derive(Debug, Args)]
pub struct Arguments {
    /// The files; `-` is standard input
    #[arg(value_name = "FILE", default_value = "-")]
    pub files: Vec<PathBuf>,
}

// {= end =}
/// Prints the counts of each file, and of all together{= if settings =} if `total`{= end =} where there are several.
///
/// # Errors
/// A file cannot be read, or the output cannot be written.
pub fn run(files: &[PathBuf]{= if settings =}, total: bool{= end =}, out: &mut impl Write) -> Result<(), Failure> {
    let mut print = |counts: Counts, name: &dyn std::fmt::Display| {
        let Counts {
            lines,
            words,
            bytes,
        } = counts;
        writeln!(out, "{lines:>8} {words:>8} {bytes:>8}  {name}").map_err(Failure::Output)
    };
    let mut sum = Counts::default();
    for file in files {
        // {= if clap =}
        info!(file = %file.display(), "counting");
        // {= end =}
        let counts = if file.as_os_str() == "-" {
            Counts::of(io::stdin().lock())
        } else {
            File::open(file).and_then(|file| Counts::of(BufReader::new(file)))
        };
        let counts = counts.map_err(|error| Failure::Input(file.clone(), error))?;
        print(counts, &file.display())?;
        sum += counts;
    }
    if {= if settings =}total && {= end =}files.len() > 1 {
        print(sum, &"in all")?;
    }
    Ok(())
}
