//! The user's own editor, for a text.

use std::io::{Read, Write};
use tinmold_platform::process;

/// The largest text that is taken, in bytes.
const LARGEST: u64 = 1 << 20;

/// Why a text could not be edited.
#[derive(Debug, thiserror::Error)]
pub enum EditorError {
    /// The user named no editor.
    #[error("name your editor in VISUAL or EDITOR")]
    NoEditor,
    /// It failed.
    #[error("the editor {0} failed: {1}")]
    Failed(String, String),
    /// The file of the text cannot be written or read.
    #[error("the text cannot be handed over: {0}")]
    Io(#[from] std::io::Error),
    /// The text is too large.
    #[error("the text is larger than 1 MiB: nothing was taken")]
    TooLarge,
}

/// Lets the user edit a text, and returns it.
pub fn edited(text: &str) -> Result<String, EditorError> {
    let named = ["VISUAL", "EDITOR"]
        .iter()
        .find_map(|name| std::env::var(name).ok().filter(|value| !value.trim().is_empty()));
    let words = named.as_deref().and_then(shlex::split).unwrap_or_default();
    let Some((program, arguments)) = words.split_first() else { return Err(EditorError::NoEditor) };
    let mut file = tempfile::Builder::new().prefix("tinmold-").suffix(".txt").tempfile()?;
    writeln!(file, "{text}")?;
    let here = std::env::current_dir()?;
    let mut command = process::command(program, &here);
    command.args(arguments).arg(file.path());
    let ended = process::run_on_terminal(&mut command).ended;
    if !ended.is_success() {
        return Err(EditorError::Failed(program.clone(), ended.to_string()));
    }
    let mut text = String::new();
    // An editor may replace the file: it is opened anew.
    std::fs::File::open(file.path())?.take(LARGEST + 1).read_to_string(&mut text)?;
    if text.len() as u64 > LARGEST {
        return Err(EditorError::TooLarge);
    }
    Ok(text.strip_suffix('\n').map_or(text.clone(), str::to_owned))
}
