//! Steps that cannot work, because the machine lacks a tool.

use super::offered::{FoundProgram, OfferedStep, StepCommand};
use super::project_code::ProjectCode;

/// Returns for each step the tool that it lacks; `None` if it can work. `lacking` are the names of the tools that
/// the machine has not, or has in a version that will not do.
///
/// A step lacks a tool if it runs it, if a recipe that it runs names it, or if it comes after a step that does.
#[must_use]
pub fn hindered(steps: &[OfferedStep], lacking: &[&str]) -> Vec<Option<String>> {
    let mut found: Vec<Option<String>> = steps.iter().map(|step| lacks(step, lacking)).collect();
    // A circle of steps is refused when a mold is read; so many rounds reach the end of every chain.
    for _ in 0..steps.len() {
        for at in 0..steps.len() {
            let before = |name: &String| steps.iter().position(|step| step.name == *name);
            let first = steps[at].after.iter().filter_map(before).find_map(|before| found[before].clone());
            if found[at].is_none() && first.is_some() {
                found[at] = first;
            }
        }
    }
    found
}

fn lacks(step: &OfferedStep, lacking: &[&str]) -> Option<String> {
    let program = match (&step.program, &step.run) {
        (FoundProgram::Missing(name), _) => return Some(name.clone()),
        (FoundProgram::OfProject(_), _) => None,
        (FoundProgram::At(_), StepCommand::Git(_)) => Some("git"),
        (FoundProgram::At(_), StepCommand::Program(all)) => all.first().map(String::as_str),
    };
    let recipe = match &step.code {
        ProjectCode::Recipe(lines) => lines.as_slice(),
        ProjectCode::None | ProjectCode::Files => &[],
    };
    let is_part = |c: char| c.is_alphanumeric() || matches!(c, '_' | '-' | '.' | '+');
    let words = recipe.iter().flat_map(|line| line.split(|c| !is_part(c)));
    program.into_iter().chain(words).find(|word| lacking.contains(word)).map(str::to_owned)
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::path::PathBuf;
    use std::time::Duration;

    #[test]
    fn steps_lack_what_they_or_their_recipes_run() {
        let step = |name: &str, program: &str, recipe: &[&str], after: &[&str]| OfferedStep {
            name: name.into(),
            label: name.into(),
            run: StepCommand::Program(vec![program.into()]),
            folder: String::new(),
            environment: Default::default(),
            tick: true,
            after: after.iter().map(|name| (*name).to_owned()).collect(),
            limit: Duration::from_secs(60),
            interactive: false,
            proof: false,
            asks: None,
            program: match program {
                "away" => FoundProgram::Missing(program.into()),
                _ => FoundProgram::At(PathBuf::from("/bin").join(program)),
            },
            code: ProjectCode::Recipe(recipe.iter().map(|line| (*line).to_owned()).collect()),
            left_out: Vec::new(),
        };
        let steps = [
            step("build", "make", &["\tcmake -B out", "\techo cmake-like"], &[]),
            step("lint", "make", &["\tcmake-lint ."], &[]),
            step("run", "make", &[], &["test"]),
            step("test", "make", &[], &["build"]),
            step("tide", "away", &[], &[]),
            step("other", "python3", &[], &[]),
        ];
        let found = hindered(&steps, &["cmake", "python3"]);
        let found: Vec<&str> = found.iter().map(|tool| tool.as_deref().unwrap_or("-")).collect();
        assert_eq!(found, ["cmake", "-", "cmake", "cmake", "away", "python3"]);
    }
}
