//! Files for this machine only must be covered by the project's ignore file, so that git never
//! commits a secret.

use crate::plan::{Plan, PlanError, Rendered};
use ignore::gitignore::GitignoreBuilder;
use tinmold_mold::codes;
use tinmold_notation::{Finding, Span};

/// Returns every `local` file that `.gitignore` does not cover; `present` is the text of an
/// existing one.
pub(super) fn uncovered(plan: &Plan<'_>, present: Option<&str>) -> Vec<Finding> {
    if !plan.entries.iter().any(|entry| plan.body(entry).local) {
        return Vec::new();
    }
    let mut text = present.unwrap_or("").to_owned();
    if let Some(ignore_file) = plan.entries.iter().find(|entry| entry.path == ".gitignore") {
        let mut bytes = Vec::new();
        match plan.render(ignore_file, &mut bytes) {
            Ok(Rendered::Bytes) => {}
            Ok(Rendered::AsIs) => {
                let file = &plan.mold.package.files[plan.body(ignore_file).file];
                bytes = file.read().map(std::borrow::Cow::into_owned).unwrap_or_default();
            }
            Err(PlanError::Faulty(findings)) => return findings,
            Err(PlanError::Package(_)) => {}
        }
        text.push('\n');
        text.push_str(&String::from_utf8_lossy(&bytes));
    }
    let local: Vec<_> = plan.entries.iter().filter(|entry| plan.body(entry).local).collect();
    // Mostly each has a line of its own, and no pattern need be read.
    if local.iter().all(|entry| has_line(&text, &entry.path)) {
        return Vec::new();
    }
    let mut builder = GitignoreBuilder::new("");
    for line in text.lines() {
        if let Err(error) = builder.add_line(None, line) {
            tracing::warn!(line, %error, "an ignore pattern cannot be read and covers nothing");
        }
    }
    let covered = builder.build();
    let is_covered = |path: &str| {
        covered.as_ref().is_ok_and(|covered| covered.matched_path_or_any_parents(path, false).is_ignore())
    };
    let local = local.into_iter().filter(|entry| !is_covered(&entry.path));
    local
        .map(|entry| {
            Finding::new(
                plan.mold.path_of(plan.body(entry)),
                Span::default(),
                codes::UNCOVERED_SECRET,
                format!(
                    "{} is for this machine only, and the project's .gitignore does not cover it",
                    entry.path
                ),
                "add its path to the .gitignore that the mold casts",
            )
        })
        .collect()
}

/// Returns true if a line of the ignore file is the path itself, from the top, and no line negates
/// it.
fn has_line(text: &str, path: &str) -> bool {
    let own = |line: &str| line.strip_prefix('/').unwrap_or(line) == path;
    let plain = !path.contains(['*', '?', '[', '\\', '#', '!', ' ']);
    plain && text.lines().any(own) && !text.lines().any(|line| line.starts_with('!'))
}
