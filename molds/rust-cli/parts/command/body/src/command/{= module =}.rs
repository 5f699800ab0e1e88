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
    words: Vec<String>,
}

// {= end =}
/// Prints the words in a line: the start of what it is to do.
///
/// # Errors
/// {= if not clap =}There are no words, or {= end =}the output cannot be written.
// {= if clap =}
pub fn run(arguments: &Arguments, out: &mut impl Write) -> Result<(), Failure> {
    writeln!(out, "{}", arguments.words.join(" ")).map_err(Failure::Output)
}
// {= else =}
pub fn run(words: &[String], out: &mut impl Write) -> Result<(), Failure> {
    if words.is_empty() {
        return Err(Failure::Usage("{= command =} wants words".into()));
    }
    writeln!(out, "{}", words.join(" ")).map_err(Failure::Output)
}
// {= end =}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_become_a_line() {
        let mut out = Vec::new();
        let words = ["two".into(), "words".into()];
        // {= if clap =}
        let arguments = Arguments {
            words: words.to_vec(),
        };
        run(&arguments, &mut out).expect("it prints");
        // {= else =}
        run(&words, &mut out).expect("it prints");
        // {= end =}
        assert_eq!(out, b"two words\n");
    }
}
