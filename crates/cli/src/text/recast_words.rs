//! What is undecided about a recast, and what there is to know, in words.

use super::diff::{difference_of, unified_difference};
use super::style::{ERROR, FAINT, GOOD, quoted, safe_lines};
use tinmold_project::recast::{Decision, FileChange, FileRecast, Note, Undecided, Written};

/// The most lines that are shown of a text.
const MOST: usize = 40;

/// Returns what is asked, in a clause that follows the path.
pub fn question(decision: &Decision) -> String {
    match &decision.what {
        Undecided::Place { number, of, conflict, values } => {
            let place = if *of > 1 { format!("place {number} of {of}, ") } else { String::new() };
            let keys = values.iter().map(|value| value.path.join(".")).collect::<Vec<_>>().join(", ");
            let keys = if keys.is_empty() { keys } else { format!(" ({keys})") };
            format!("{place}line {}: both sides changed it{keys}", conflict.line)
        }
        Undecided::File { why, .. } => why.to_string(),
        Undecided::Part { why, .. } => format!("(a part) {why}"),
    }
}

/// Returns the three texts of what is to be decided, a line each.
pub fn lines_of(decision: &Decision) -> Vec<String> {
    let block = |label: &str, style: anstyle::Style, sign: char, text: &str| -> Vec<String> {
        let head = format!("{FAINT}{label}{FAINT:#}");
        let lines: Vec<String> = safe_lines(text)
            .lines()
            .take(MOST)
            .map(|line| format!("{style}{sign} {line}{style:#}"))
            .collect();
        let lines = if lines.is_empty() { vec![format!("{FAINT}{sign} (nothing){FAINT:#}")] } else { lines };
        std::iter::once(head).chain(lines).collect()
    };
    let three = |base: Option<&str>, mine: Option<&str>, theirs: Option<&str>| -> Vec<String> {
        let base = base.map(|text| block("before", FAINT, '|', text)).unwrap_or_default();
        let mine = mine.map(|text| block("mine", ERROR, '-', text)).unwrap_or_default();
        let theirs = theirs.map(|text| block("theirs", GOOD, '+', text)).unwrap_or_default();
        [base, mine, theirs].concat()
    };
    match &decision.what {
        Undecided::Place { conflict, .. } => {
            three(Some(&conflict.base), Some(&conflict.mine), Some(&conflict.theirs))
        }
        Undecided::File { texts, .. } => match &**texts {
            [None, Some(mine), Some(theirs)] => difference_of(mine, theirs, 2),
            [base, mine, theirs] => three(base.as_deref(), mine.as_deref(), theirs.as_deref()),
        },
        Undecided::Part { file, .. } => match file {
            Some(_) => vec!["mine: its lines stay; theirs: they go".to_owned()],
            None => vec!["mine: its files and lines stay; theirs: they go".to_owned()],
        },
    }
}

/// Returns a note in words, a line each.
pub fn note_lines(note: &Note) -> Vec<String> {
    let line = match note {
        Note::Deleted(path) => format!("{path} stays deleted, as you deleted it"),
        Note::Dropped(path) => format!("{path} stays: the mold has it no more, and you changed it"),
        Note::Yours(path) => format!("{path} is yours: the mold has another one now"),
        Note::Local { path, lines } => {
            let head = format!("{path} is for this machine only and stays; its newer form has:");
            return std::iter::once(head).chain(lines.iter().cloned()).collect();
        }
        Note::OwnRename(from, to) => format!("{from} is your {to} now, and changes there"),
        Note::Blocked(path, by) => format!("{path} is not written: it {by}"),
        Note::Default { key, value } => {
            format!("the default of {key} is now {value}: --set {key}={}", quoted(value))
        }
        Note::KeyGone(key) => format!("the question {key} is gone, and its answer with it"),
        Note::OldName(path, line, name) => format!("{path}:{line} still says {name}"),
        Note::StaysBehind(from, to) => format!("{from} stays: something is at {to} already"),
        Note::Aside(mine, beside) => format!("{mine} stays; the mold's is {beside}"),
        Note::NoOldVersion => {
            "the version that the project was cast from cannot be had: what it was is known only \
                               where nobody changed it, or from the history of the project"
                .into()
        }
        Note::Shallow => {
            "this clone is shallow: git fetch --unshallow may find what files were before".into()
        }
    };
    vec![line]
}

/// Returns what happens to a file, in a word for programs.
pub fn kind_word(kind: FileChange) -> &'static str {
    match kind {
        FileChange::New => "new",
        FileChange::Replaced => "replaced",
        FileChange::Merged => "merged",
        FileChange::Moved => "moved",
        FileChange::Removed => "removed",
    }
}

/// Returns the text of a file afterwards; `None` if it is none.
pub fn after(file: &FileRecast) -> Option<String> {
    match &file.after {
        Some(Written::File(bytes, _)) => String::from_utf8(bytes.clone()).ok(),
        _ => None,
    }
}

/// Returns the difference of a file in the form that patch programs read.
pub fn unified(file: &FileRecast) -> Option<String> {
    let from = file.from.as_ref().unwrap_or(&file.path);
    let (old, new) = match file.kind {
        FileChange::New => ("/dev/null".to_owned(), format!("b/{}", file.path)),
        FileChange::Removed => (format!("a/{from}"), "/dev/null".to_owned()),
        _ => (format!("a/{from}"), format!("b/{}", file.path)),
    };
    let before = match file.kind {
        FileChange::New => String::new(),
        _ => file.before.clone()?,
    };
    let after = match file.kind {
        FileChange::Removed => String::new(),
        _ => after(file)?,
    };
    Some(unified_difference(&old, &new, &before, &after)).filter(|diff| !diff.is_empty())
}
