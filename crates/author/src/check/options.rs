//! Options that the mold forgets: named nowhere, so that they fall into an `else` that was written for others.

use std::collections::HashSet;
use tinmold_mold::{Content, Kind, Mold, Snippet, codes, has_tag, name_label};
use tinmold_notation::{Audit, ChoicesId, Else, Finding, NameId, Setting, audit, audit_expression};

pub(super) fn findings(mold: &Mold) -> Vec<Finding> {
    let (mut named, mut elses): (HashSet<(ChoicesId, u16)>, Vec<Else>) = (HashSet::new(), Vec::new());
    let mut add = |audit: Audit| {
        named.extend(audit.named);
        elses.extend(audit.elses);
    };
    audits(mold, &mut add);
    for name in mold.parts() {
        if let Ok(part) = mold.part(name).map_err(drop)
            && !part.stands_alone()
        {
            audits(&part.mold, &mut add);
            for (snippet, is_expression) in part.snippets() {
                add(of_snippet(&part.mold, snippet, is_expression));
            }
        }
    }
    let derived = mold.derived.iter().filter(|derived| derived.is_expression);
    let flags: Vec<(NameId, Vec<ChoicesId>)> =
        derived.map(|derived| (derived.id, of_snippet(mold, &derived.snippet, true).compared)).collect();
    let mut found = Vec::new();
    for question in &mold.questions {
        let Kind::OneOf(of) = question.kind else { continue };
        // A flag that is computed from the options stands for them.
        let stands_for =
            |flag: &NameId| flags.iter().any(|(id, compared)| id == flag && compared.contains(&of));
        let falls = |it: &&Else| it.of.contains(&of) || it.flags.iter().any(stands_for);
        let Some(first) = elses.iter().find(falls) else { continue };
        for (at, option) in question.options.iter().enumerate() {
            if !u16::try_from(at).is_ok_and(|at| named.contains(&(of, at))) {
                let message = format!(
                    "nothing names the option `{}` of `{}`, which falls into an `else` of {}",
                    option.value, question.key, first.file
                );
                let help = "choose with `match` there, which has a case for every option, or name it";
                found.push(Finding::new(
                    question.file.as_ref(),
                    option.span,
                    codes::FORGOTTEN_OPTION,
                    message,
                    help,
                ));
            }
        }
    }
    found
}

fn of_snippet(mold: &Mold, snippet: &Snippet, is_expression: bool) -> Audit {
    let (scope, setting) = (&mold.shown_scope, Setting::for_text());
    let mut audit = match is_expression {
        true => audit_expression(snippet.file(), snippet.text(), scope, &setting),
        false => audit(snippet.file(), snippet.text(), scope, &setting),
    };
    for it in &mut audit.elses {
        it.span = snippet.span();
    }
    audit
}

/// Calls `add` with the audit of every text of a mold or part.
fn audits(mold: &Mold, add: &mut impl FnMut(Audit)) {
    for (snippet, is_expression) in mold.snippets() {
        add(of_snippet(mold, snippet, is_expression));
    }
    for file in &mold.body {
        let scope = mold.scope_of(file);
        let path = mold.path_in_body(file);
        for part in path.split('/').filter(|part| has_tag(part)) {
            add(audit(&name_label(mold.home_of(file), path), part, scope, &Setting::for_name()));
        }
        let source = &mold.package.files[file.file];
        if file.copy || matches!(source.content, Content::Link(_) | Content::EmptyFolder) {
            continue;
        }
        if let Ok(bytes) = source.read()
            && let Ok(text) = std::str::from_utf8(&bytes)
        {
            add(audit(mold.path_of(file), text, scope, &mold.setting_of(file)));
        }
    }
}
