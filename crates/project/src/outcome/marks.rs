//! Which bytes of a file come from a question.

use crate::answers::{AnswerSource, Session};
use std::ops::Range;
use tinmold_mold::{Mold, Offered, ResolveStep, Snippet};
use tinmold_notation::{NameId, Trace};

/// The bytes and lines of a file that are on the account of some names.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct FileMarks {
    /// The bytes that are made of their values, in order.
    pub bytes: Vec<Range<usize>>,
    /// The lines, from 0, that stand because of them.
    pub lines: Vec<usize>,
}

impl FileMarks {
    /// Marks what is on the account of `names`.
    #[must_use]
    pub fn of(trace: &Trace, names: &[NameId]) -> Self {
        let uses = |of: &[NameId]| of.iter().any(|name| names.contains(name));
        let (mut bytes, mut lines): (Vec<Range<usize>>, Vec<usize>) = (Vec::new(), Vec::new());
        let mut line = 0;
        for run in &trace.runs {
            let text = trace.text.get(run.bytes.clone()).unwrap_or(&[]);
            let breaks = text.iter().filter(|byte| **byte == b'\n').count();
            if uses(&run.values) && !text.is_empty() {
                bytes.push(run.bytes.clone());
            }
            if uses(&run.conditions) && !text.is_empty() {
                // What ends with a line break stands on no part of the next line.
                let last = line + breaks - usize::from(text.ends_with(b"\n"));
                let first = lines.last().map_or(line, |known| line.max(known + 1));
                lines.extend(first..=last);
            }
            line += breaks;
        }
        Self { bytes, lines }
    }
}

/// Returns the name of the question at `at`, and those whose values are computed from it now.
#[must_use]
pub fn dependents(session: &Session<'_>, at: usize) -> Vec<NameId> {
    let mold = session.mold();
    let mut names = vec![mold.questions[at].id];
    for step in &mold.steps {
        match step {
            ResolveStep::Derive(at) => {
                let derived = &mold.derived[*at];
                if uses(mold, &derived.snippet, derived.is_expression, &names) {
                    names.push(derived.id);
                }
            }
            ResolveStep::Question(at) => {
                let (question, resolved) = (&mold.questions[*at], &session.resolved()[*at]);
                let follows = match (&resolved.source, &question.default, &question.hidden) {
                    (AnswerSource::Default, Some(default), _) => offered_uses(mold, default, &names),
                    (AnswerSource::NotAsked, _, Some(hidden)) => offered_uses(mold, hidden, &names),
                    _ => false,
                };
                if follows && !names.contains(&question.id) {
                    names.push(question.id);
                }
            }
        }
    }
    if let (Some(folder), Some(dir)) = (&mold.texts.folder, mold.scope.find("project.dir"))
        && uses(mold, folder, false, &names)
    {
        names.push(dir);
    }
    names
}

fn uses(mold: &Mold, snippet: &Snippet, is_expression: bool, names: &[NameId]) -> bool {
    let used = if is_expression {
        snippet.with_expression(&mold.scope, None, |compiled| compiled.used)
    } else {
        snippet.with_text(&mold.scope, true, |compiled| compiled.used)
    };
    used.iter().any(|name| names.contains(name))
}

fn offered_uses(mold: &Mold, offered: &Offered, names: &[NameId]) -> bool {
    match offered {
        Offered::Fixed(_) => false,
        Offered::Text(snippet) => uses(mold, snippet, false, names),
        Offered::Texts(snippets) => snippets.iter().any(|snippet| uses(mold, snippet, false, names)),
    }
}
