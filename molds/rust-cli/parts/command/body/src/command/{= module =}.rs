//! The command `{= command =}`.

use std::io::Write;

// {= if clap =}
use clap::Args;

// {= end =}
use crate::Failure;

// {= if clap =}
/// What it takes.
#[derive(Debug, Args)]
pub struct Arguments {
    /// The words
    #[arg(value_name = "WORD", required = true)]
    pub words: Vec<String>,
}

// {= end =}
/// Prints the words in a line: the start of what it is to do.
///
/// # Errors
/// {= if not clap =}There are no words, or {= end =}the output cannot be written.
pub fn run(words: &[String], out: &mut impl Write) -> Result<(), Failure> {
    // {= if not clap =}
    if words.is_empty() {
        return Err(Failure::Usage("{= command =} wants words".into()));
    }
    // {= end =}
    writeln!(out, "{}", words.join(" ")).map_err(Failure::Output)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_become_a_line() {
        let mut out = Vec::new();
        run(&["two".into(), "words".into()], &mut out).expect("it prints");
        assert_eq!(out, b"two words\n");
    }
}
