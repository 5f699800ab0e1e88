//! Finishing steps, as people read them.

use super::style::{BOLD, FAINT, NAME, WARN, quoted, safe};
use tinmold_project::steps::{OfferedStep, StepChoice};

/// Lists what will run and what will not, with every command; empty if no step is offered.
pub fn offered(choice: &StepChoice) -> String {
    if choice.steps.is_empty() {
        return String::new();
    }
    let mut out = format!("\n{BOLD}Afterwards{BOLD:#}\n");
    if !choice.vouched {
        out += &format!(
            "  {WARN}You have not vouched for these steps:{WARN:#} they come from {}\n  {FAINT}digest {}{FAINT:#}\n",
            safe(&choice.origin),
            choice.digest
        );
    }
    for (step, ticked) in choice.steps.iter().zip(&choice.ticked) {
        let (mark, word) = if *ticked { ("■", "runs") } else { ("□", "does not run") };
        out += &format!("  {mark} {}  {FAINT}({word}){FAINT:#}\n", safe(&step.label));
        for command in step.commands() {
            out += &format!("      {NAME}{}{NAME:#}{}\n", safe(&shell(&command)), circumstances(step));
        }
    }
    out
}

/// Returns where and with what a step runs, if that is not the usual.
pub fn circumstances(step: &OfferedStep) -> String {
    let mut all: Vec<String> = Vec::new();
    if !step.folder.is_empty() {
        all.push(format!("in {}", step.folder));
    }
    all.extend(step.environment.iter().map(|(name, value)| format!("{name}={}", quoted(value))));
    if let Some(address) = &step.asks {
        all.push(format!("until {address} answers"));
    }
    if all.is_empty() { String::new() } else { format!("  {FAINT}{}{FAINT:#}", safe(&all.join(", "))) }
}

/// Returns an argument list as it is typed in a shell.
pub fn shell(command: &[String]) -> String {
    command.iter().map(|word| quoted(word)).collect::<Vec<_>>().join(" ")
}
