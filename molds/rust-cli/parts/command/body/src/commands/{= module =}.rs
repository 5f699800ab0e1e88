//! The command `{= command =}`.

use std::error::Error;

/// Prints the words in a line: the start of what it is to do.
///
/// # Errors
/// There are no words.
pub fn run(words: &[String]) -> Result<(), Box<dyn Error>> {
    println!("{}", line(words)?);
    Ok(())
}

fn line(words: &[String]) -> Result<String, String> {
    if words.is_empty() {
        return Err("{= command =} wants words".into());
    }
    Ok(words.join(" "))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_become_a_line() {
        let words = ["two".to_owned(), "words".to_owned()];
        assert_eq!(line(&words), Ok("two words".into()));
        assert!(line(&[]).is_err());
    }
}
