//! Files of the body that are not rendered although they look as if they should be, and files that nobody wants.

use tinmold_mold::{BodyFile, Content, Mold, codes};
use tinmold_notation::{Finding, Marks, Setting, Span, compile};

/// Names of files that editors and systems leave behind.
const JUNK: [&str; 8] = [
    ".DS_Store",
    "Thumbs.db",
    "desktop.ini",
    "__pycache__",
    "node_modules",
    ".mypy_cache",
    ".pytest_cache",
    ".idea",
];
/// Ends of such names.
const JUNK_ENDS: [&str; 7] = ["~", ".swp", ".swo", ".orig", ".rej", ".pyc", ".bak"];

pub(super) fn findings(mold: &Mold) -> Vec<Finding> {
    let mut found = of_body(mold);
    for name in mold.parts() {
        if let Ok(part) = mold.part(name) {
            found.extend(of_body(&part.mold));
        }
    }
    found
}

fn of_body(mold: &Mold) -> Vec<Finding> {
    let mut found: Vec<Finding> = mold.body.iter().filter_map(|file| junk(mold, file)).collect();
    for file in &mold.body {
        let source = &mold.package.files[file.file];
        if matches!(source.content, Content::Link(_) | Content::EmptyFolder) {
            continue;
        }
        let Ok(bytes) = source.read() else { continue };
        found.extend(not_rendered(mold, file, &bytes));
    }
    found
}

fn junk(mold: &Mold, file: &BodyFile) -> Option<Finding> {
    let is_junk = |part: &str| JUNK.contains(&part) || JUNK_ENDS.iter().any(|end| part.ends_with(end));
    mold.path_in_body(file).split('/').find(|part| is_junk(part)).map(|part| {
        let message = format!("{part} is left behind by an editor, a tool or the system");
        let help = "delete it: every project would have it";
        Finding::new(mold.path_of(file), Span::default(), codes::JUNK_FILE, message, help)
    })
}

fn not_rendered(mold: &Mold, file: &BodyFile, bytes: &[u8]) -> Option<Finding> {
    let finding = |span, message: String, help: &str| {
        Some(Finding::new(mold.path_of(file), span, codes::NEVER_RENDERED, message, help))
    };
    let own = &mold.marks[file.marks];
    let text = match std::str::from_utf8(bytes) {
        Ok(text) => text,
        Err(error) => {
            let text = String::from_utf8_lossy(bytes);
            let tag = tag(mold, file, &text, own)?;
            let at = error.valid_up_to();
            let message =
                format!("this file is not UTF-8 text (byte {at}), so that its tags stay as they are");
            let shown = tag.of(&text);
            return finding(
                Span::new(at, at + 1),
                message,
                &format!("save it as UTF-8; one of its tags is {shown}"),
            );
        }
    };
    if file.copy {
        let tag = tag(mold, file, text, own)?;
        let help = "leave `copy` out, or the tags";
        return finding(tag, "this file is copied, so that its tags stay as they are".into(), help);
    }
    // What the author leaves alone is meant to stay.
    let kept = without_as_is(text, own);
    let text = kept.as_str();
    let usual = Marks::default();
    let others = mold.marks.iter().chain([&usual]).filter(|marks| marks.open() != own.open());
    let found = others.filter_map(|marks| Some((marks.clone(), tag(mold, file, text, marks)?))).next();
    let (marks, tag) = found.or_else(|| foreign(mold, file, text))?;
    let message =
        format!("this tag stays as it is: the marks of this file are `{}` and `{}`", own.open(), own.close());
    let help = format!(
        "write it with these marks, or let `[[files]] marks` of the file be those of `{}`",
        marks.open()
    );
    finding(tag, message, &help)
}

/// Returns a text with its `as-is` blocks blanked, byte for byte.
fn without_as_is(text: &str, marks: &Marks) -> String {
    let mut out = String::with_capacity(text.len());
    let (mut rest, mut blank) = (text, false);
    while let Some(open) = rest.find(marks.open()) {
        let inside = rest[open + marks.open().len()..].trim_start();
        let is_edge = if blank { inside.starts_with("end") } else { inside.starts_with("as-is") };
        let end =
            rest[open..].find(marks.close()).map_or(rest.len(), |close| open + close + marks.close().len());
        let (before, tag) = (&rest[..open], &rest[open..end]);
        push(&mut out, before, blank);
        push(&mut out, tag, blank && !is_edge);
        blank ^= is_edge;
        rest = &rest[end..];
    }
    push(&mut out, rest, blank);
    out
}

fn push(out: &mut String, text: &str, blank: bool) {
    match blank {
        true => out.extend(text.bytes().map(|byte| if byte == b'\n' { '\n' } else { ' ' })),
        false => out.push_str(text),
    }
}

/// Returns the first tag with marks of other languages of templates that names a question of the mold. Files of such
/// languages themselves hold them rightly.
fn foreign(mold: &Mold, file: &BodyFile, text: &str) -> Option<(Marks, Span)> {
    const OTHERS: [&str; 8] = ["html", "htm", "vue", "yml", "yaml", "tmpl", "go", "svelte"];
    let path = mold.path_in_body(file);
    if OTHERS.contains(&path.rsplit('.').next().unwrap_or("")) {
        return None;
    }
    for (open, close) in [("{{", "}}"), ("<%", "%>")] {
        let marks = Marks::new(open, close).ok()?;
        let names = |span: &Span| {
            let inner = span.of(text).trim_start_matches(open).trim_end_matches(close).trim();
            let name = inner.trim_start_matches('=').trim().split('.').next().unwrap_or("");
            let is_after_dollar = text[..span.start as usize].ends_with('$');
            let is_own = span.of(text).contains(mold.marks[file.marks].open());
            !is_after_dollar && !is_own && mold.questions.iter().any(|question| question.key == name)
        };
        let mut at = 0;
        while let Some(found) = text[at..].find(open) {
            let start = at + found;
            let Some(length) = text[start..].find(close) else { break };
            let span = Span::new(start, start + length + close.len());
            if names(&span) {
                return Some((marks, span));
            }
            at = start + open.len();
        }
    }
    None
}

/// Returns the first tag with these marks that means something in the mold.
fn tag(mold: &Mold, file: &BodyFile, text: &str, marks: &Marks) -> Option<Span> {
    let setting = Setting { marks, ..mold.setting_of(file) };
    let mut at = 0;
    while let Some(found) = text[at..].find(marks.open()) {
        let start = at + found;
        let end = start + text[start..].find(marks.close())? + marks.close().len();
        let tag = &text[start..end];
        let inner = tag[marks.open().len()..tag.len() - marks.close().len()].trim();
        let word = inner.split(|c: char| !c.is_ascii_alphanumeric()).next().unwrap_or("");
        let is_block =
            matches!(word, "if" | "for" | "match" | "end" | "else" | "case" | "note" | "place" | "let");
        let compiled = compile("", tag, mold.scope_of(file), &setting);
        if is_block || (compiled.program.is_some() && !compiled.used.is_empty()) {
            return Some(Span::new(start, end));
        }
        at = start + marks.open().len();
    }
    None
}
