//! What a step runs of the project's own files: the mold's code.

use std::collections::BTreeSet;
use tinmold_platform::paths::joined;

/// The longest recipe that is read, in lines.
const LONGEST: usize = 200;

/// The code of the mold that a step runs.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum ProjectCode {
    /// None: the program reads no file of the project as code.
    #[default]
    None,
    /// Files of the project, by whatever rules the program has.
    Files,
    /// The recipe of a make target, with those of what it needs first.
    Recipe(Vec<String>),
}

/// Returns the code that a command runs. `read` returns the text of a file of the project.
pub(super) fn project_code(
    command: &[String],
    folder: &str,
    read: &dyn Fn(&str) -> Option<String>,
) -> ProjectCode {
    let name = command.first().map_or("", |program| program.rsplit(['/', '\\']).next().unwrap_or(program));
    let arguments = command.get(1..).unwrap_or_default();
    if !matches!(name, "make" | "gmake") || arguments.iter().any(|one| leads_elsewhere(one)) {
        return ProjectCode::Files;
    }
    let targets: Vec<&str> = arguments
        .iter()
        .map(String::as_str)
        .filter(|one| !one.starts_with('-') && !one.contains('='))
        .collect();
    // The order in which make looks for its file: GNU make manual, 3.2.
    let text = ["GNUmakefile", "makefile", "Makefile"].iter().find_map(|name| read(&joined(folder, name)));
    let Some(text) = text else { return ProjectCode::Files };
    let rules = rules(&text);
    let first = rules.iter().find(|rule| !rule.target.starts_with('.')).map(|rule| rule.target);
    let mut lines = Vec::new();
    let mut seen = BTreeSet::new();
    for target in if targets.is_empty() { first.into_iter().collect() } else { targets } {
        collect(target, &rules, &mut seen, &mut lines);
    }
    if lines.is_empty() { ProjectCode::Files } else { ProjectCode::Recipe(lines) }
}

/// Returns the targets of a makefile, without those that only steer make.
#[must_use]
pub fn make_targets(text: &str) -> Vec<&str> {
    rules(text).into_iter().map(|rule| rule.target).filter(|target| !target.starts_with('.')).collect()
}

/// Returns true for options of make that name another file, directory or rule.
fn leads_elsewhere(argument: &str) -> bool {
    let long = ["--file", "--makefile", "--directory", "--eval", "--include-dir"];
    long.iter().any(|long| argument.starts_with(long))
        || (argument.starts_with('-')
            && !argument.starts_with("--")
            && argument.contains(['f', 'C', 'I', 'E']))
}

/// A rule of a makefile.
struct Rule<'t> {
    target: &'t str,
    needs: Vec<&'t str>,
    recipe: Vec<&'t str>,
}

fn rules(text: &str) -> Vec<Rule<'_>> {
    let mut rules: Vec<Rule<'_>> = Vec::new();
    let mut open = 0;
    for line in text.lines() {
        if let Some(command) = line.strip_prefix('\t') {
            let from = rules.len() - open;
            rules[from..].iter_mut().for_each(|rule| rule.recipe.push(command));
            continue;
        }
        let is_comment = line.trim_start().starts_with('#') || line.trim().is_empty();
        let head = line.split_once(':').filter(|(before, after)| {
            !is_comment && !after.starts_with('=') && !before.contains('=') && !before.starts_with(' ')
        });
        match head {
            Some((targets, rest)) => {
                let (needs, first) = rest.trim_start_matches(':').split_once(';').unwrap_or((rest, ""));
                let needs: Vec<&str> = needs.split_whitespace().take_while(|need| *need != "#").collect();
                let before = rules.len();
                for target in targets.split_whitespace() {
                    let recipe = if first.is_empty() { Vec::new() } else { vec![first.trim()] };
                    rules.push(Rule { target, needs: needs.clone(), recipe });
                }
                open = rules.len() - before;
            }
            None if is_comment => {}
            None => open = 0,
        }
    }
    rules
}

/// Adds the recipes of what a target needs, and its own.
fn collect<'t>(target: &'t str, rules: &[Rule<'t>], seen: &mut BTreeSet<&'t str>, lines: &mut Vec<String>) {
    if !seen.insert(target) || lines.len() >= LONGEST {
        return;
    }
    for rule in rules.iter().filter(|rule| rule.target == target) {
        for need in &rule.needs {
            collect(need, rules, seen, lines);
        }
        lines.extend(rule.recipe.iter().map(|line| (*line).to_owned()));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_make_target_is_its_recipe_and_what_it_needs() {
        let text = "X = 1\nY := a:b\n.PHONY: test all\nall: build test\n\ntest lint: build # first\n\t@run $(X)\n\
            # note\n\tagain\nbuild:\n\tcc a.c\n\tcc b.c\nnone:\nshort: ; echo hi\nOPT = y\n\tstray\n";
        let read = |path: &str| (path == "Makefile" || path == "in/Makefile").then(|| text.to_owned());
        let code = |words: &[&str], folder: &str| {
            project_code(&words.iter().map(|word| (*word).to_owned()).collect::<Vec<_>>(), folder, &read)
        };
        let recipe =
            |lines: &[&str]| ProjectCode::Recipe(lines.iter().map(|line| (*line).to_owned()).collect());
        let test = ["cc a.c", "cc b.c", "@run $(X)", "again"];
        assert_eq!(code(&["make", "-s", "test", "V=1"], ""), recipe(&test));
        assert_eq!(code(&["make"], "in"), recipe(&test));
        assert_eq!(code(&["make", "lint"], "in"), recipe(&test));
        assert_eq!(code(&["make", "short"], ""), recipe(&["echo hi"]));
        for other in
            [&["make", "-C", "x", "test"][..], &["make", "--file=x"], &["make", "none"], &["cargo", "test"]]
        {
            assert_eq!(code(other, ""), ProjectCode::Files, "{other:?}");
        }
        assert_eq!(code(&["make", "test"], "elsewhere"), ProjectCode::Files);
    }
}
