//! Finishing steps, as people read them.

use super::style::{BOLD, FAINT, NAME, WARN, quoted, safe};
use tinmold_project::steps::{FoundProgram, OfferedStep, ProjectCode, StepChoice};

/// Lists what will run and what will not, with every command; empty if no step is offered.
pub fn offered(choice: &StepChoice) -> String {
    if choice.steps.is_empty() {
        return String::new();
    }
    let mut out = format!("\n{BOLD}Afterwards{BOLD:#}\n");
    if !choice.is_own {
        out += &format!(
            "  {WARN}This project was not cast on this machine:{WARN:#} its own files run\n  {FAINT}digest {}{FAINT:#}\n",
            choice.digest
        );
    } else if !choice.vouched {
        out += &format!(
            "  {WARN}You have not vouched for these steps:{WARN:#} they come from {}\n  {FAINT}digest {}{FAINT:#}\n",
            safe(&choice.origin),
            choice.digest
        );
    }
    for (step, ticked) in choice.steps.iter().zip(&choice.ticked) {
        let (mark, word) = if *ticked { ("■", "runs") } else { ("□", "does not run") };
        out += &format!("  {mark} {}  {FAINT}({word}){FAINT:#}\n", safe(&step.label));
        for line in consent(step) {
            out += &format!("      {line}\n");
        }
    }
    out
}

/// Says all that a step runs: what the user consents to. Each line is safe to print.
pub fn consent(step: &OfferedStep) -> Vec<String> {
    let mut lines: Vec<String> =
        step.commands().iter().map(|command| format!("{NAME}{}{NAME:#}", safe(&shell(command)))).collect();
    let mut facts = Vec::new();
    facts.push(match &step.program {
        FoundProgram::At(path) => path.display().to_string(),
        FoundProgram::OfProject(name) => format!("{name}, a file that the project makes itself"),
        FoundProgram::Missing(name) => format!("{name} is not on PATH now"),
    });
    facts.push(match step.folder.as_str() {
        "" => "in the project's folder".to_owned(),
        folder => format!("in {folder}"),
    });
    for (name, value) in &step.environment {
        let kept = if std::env::var_os(name).is_some() { " (yours stays)" } else { "" };
        facts.push(format!("{name}={}{kept}", quoted(value)));
    }
    if let Some(address) = &step.asks {
        facts.push(format!("until {address} answers"));
    }
    facts.push(format!("at most {} min", step.limit.as_secs().div_ceil(60)));
    facts.push(if step.interactive { "gets the terminal" } else { "without the terminal" }.to_owned());
    lines.push(format!("  {FAINT}{}{FAINT:#}", safe(&facts.join(", "))));
    match &step.code {
        ProjectCode::None => {}
        ProjectCode::Files => {
            lines.push(format!("  {FAINT}runs files of the project, the mold's code{FAINT:#}"));
        }
        ProjectCode::Recipe(recipe) if recipe.len() == 1 => {
            let line = safe(recipe[0].trim());
            lines.push(format!("  {FAINT}runs files of the project, the mold's code: {line}{FAINT:#}"));
        }
        ProjectCode::Recipe(recipe) => {
            lines.push(format!("  {FAINT}runs files of the project, the mold's code:{FAINT:#}"));
            lines.extend(recipe.iter().map(|line| format!("    {FAINT}{}{FAINT:#}", safe(line.trim_end()))));
        }
    }
    lines
}

/// Returns an argument list as it is typed in a shell.
pub fn shell(command: &[String]) -> String {
    command.iter().map(|word| quoted(word)).collect::<Vec<_>>().join(" ")
}
