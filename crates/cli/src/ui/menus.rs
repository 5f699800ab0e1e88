//! The menus of the review on a terminal: which answer to change, which file to show, which steps
//! run, what to do with a file in the way.

use super::prompts::{Line, PAGE, Prompts};
use super::{ConflictReply, PartLine, ReviewView};
use crate::state::store_vouched;
use crate::stop::Stop;
use crate::text::diff::InTheWay;
use crate::text::steps::shell;
use crate::text::style::{BOLD, count, safe, safe_lines};
use inquire::list_option::ListOption;
use inquire::{MultiSelect, Select};
use tinmold_project::answers::{Session, display_value};
use tinmold_project::steps::StepChoice;
use tinmold_project::write::Choice;

impl Prompts {
    /// Asks which answer to change; `None` to go back.
    pub(super) fn pick_question(&self, session: &Session<'_>) -> Result<Option<usize>, Stop> {
        let mold = session.mold();
        let shown = session
            .resolved()
            .iter()
            .enumerate()
            .filter(|(at, resolved)| resolved.is_visible() && mold.questions[*at].is_asked());
        let lines: Vec<Line> = shown
            .map(|(at, resolved)| {
                let ask = safe(&mold.questions[at].ask);
                let text = format!("{ask}: {}", safe(&display_value(mold, &resolved.value)));
                Line { option: u16::try_from(at).unwrap_or(u16::MAX), label: ask, text }
            })
            .collect();
        let prompt = Select::new("Which one?", lines)
            .with_help_message("Typing narrows, Enter takes, Esc goes back")
            .with_page_size(PAGE)
            .with_render_config(self.colours)
            .with_formatter(&|line: ListOption<&Line>| line.value.label.clone());
        Ok(prompt.prompt_skippable()?.map(|line| line.option as usize))
    }

    /// Asks which part to fit.
    pub(super) fn pick_part_line(&self, parts: &[PartLine]) -> Result<usize, Stop> {
        let wide = parts.iter().map(|part| part.name.chars().count()).max().unwrap_or(0);
        let lines: Vec<Line> = parts
            .iter()
            .enumerate()
            .map(|(at, part)| {
                let label = safe(&part.name);
                let text = format!("{label:<wide$}  {}", safe(&part.summary));
                Line { option: u16::try_from(at).unwrap_or(u16::MAX), label, text }
            })
            .collect();
        let prompt = Select::new("Which part?", lines)
            .with_help_message("Arrows move, typing narrows, Enter takes, Esc leaves")
            .with_page_size(PAGE)
            .with_render_config(self.colours)
            .with_formatter(&|line: ListOption<&Line>| line.value.label.clone());
        prompt.prompt_skippable()?.map(|line| line.option as usize).ok_or(Stop::Left)
    }

    /// Shows a file of the review.
    pub(super) fn look(&self, view: &ReviewView<'_>) -> Result<(), Stop> {
        let paths: Vec<&str> = view.review.changes.iter().map(|change| change.path.as_str()).collect();
        let prompt = Select::new("Which file?", paths)
            .with_help_message("Typing narrows, Enter shows it, Esc goes back")
            .with_page_size(PAGE)
            .with_render_config(self.colours);
        if let Some(path) = prompt.prompt_skippable()? {
            say!("\n{}\n", safe_lines(&(view.file)(path)));
        }
        Ok(())
    }

    /// Lets the user tick the steps to run; false if they go back.
    pub(super) fn tick_steps(&self, choice: &mut StepChoice) -> Result<bool, Stop> {
        let lines: Vec<String> = choice
            .steps
            .iter()
            .map(|step| {
                let commands: Vec<String> = step.commands().iter().map(|command| shell(command)).collect();
                format!("{}: {}", safe(&step.label), safe(&commands.join("; ")))
            })
            .collect();
        let ticked: Vec<usize> = (0..lines.len()).filter(|at| choice.ticked[*at]).collect();
        let counted = |picked: &[ListOption<&String>]| match picked.len() {
            0 => "nothing".to_owned(),
            several => count(several, "step"),
        };
        let picked = MultiSelect::new("Which steps run?", lines)
            .with_help_message("Space ticks, Enter takes, Esc goes back")
            .with_page_size(PAGE)
            .with_default(&ticked)
            .with_render_config(self.colours)
            .with_formatter(&counted)
            .raw_prompt_skippable()?;
        let Some(picked) = picked else { return Ok(false) };
        for (at, ticked) in choice.ticked.iter_mut().enumerate() {
            *ticked = picked.iter().any(|line| line.index == at);
        }
        if !choice.vouched && !picked.is_empty() {
            let mut answers = vec!["this time only", "always, as long as the mold is just as it is now"];
            // To vouch for a mold says nothing of the files of a project that was brought along.
            answers.truncate(if choice.is_own { 2 } else { 1 });
            let remembered = Select::new("You vouch for these steps", answers)
                .with_help_message("Arrows move, Enter takes, Esc takes it back")
                .with_render_config(self.colours)
                .raw_prompt_skippable()?;
            match remembered {
                None => choice.ticked.fill(false),
                Some(line) if line.index == 1 => store_vouched(&choice.digest, &choice.origin),
                Some(_) => {}
            }
        }
        Ok(true)
    }

    /// Shows what differs, and asks what becomes of the file.
    pub(super) fn decide(&self, file: &InTheWay<'_>) -> Result<ConflictReply, Stop> {
        let path = safe(file.path);
        say!("\n{}{path}{:#} exists", BOLD, BOLD);
        // The menu below has at most ten lines.
        let rows = crossterm::terminal::size().map_or(24, |(_, rows)| usize::from(rows));
        let most = rows.saturating_sub(13).max(6);
        say!("{}", file.shown(most));
        let name = path.rsplit('/').next().unwrap_or(&path);
        let mut choices = vec![
            "Keep mine".to_owned(),
            "Take the new one".to_owned(),
            format!("Keep both: the new one becomes {name}.from-mold"),
        ];
        if file.number < file.of {
            let rest = file.of - file.number;
            let others = if rest == 1 { "the next one".to_owned() } else { format!("the next {rest}") };
            for what in ["Keep mine", "Take the new one", "Keep both"] {
                choices.push(format!("{what}, and in {others} too"));
            }
        }
        let help =
            format!("{} of {}: - is yours, + is new. Esc leaves without writing", file.number, file.of);
        let known = choices.len();
        if file.is_cut(most) {
            choices.push("See the whole difference".to_owned());
        }
        loop {
            let picked = Select::new("What to do with it?", choices.clone())
                .with_help_message(&help)
                .with_page_size(PAGE)
                .with_render_config(self.colours)
                .raw_prompt_skippable()?;
            let Some(picked) = picked else { return Err(Stop::Left) };
            if picked.index >= known {
                say!("\n{}", file.shown(usize::MAX));
                continue;
            }
            let choice = [Choice::Keep, Choice::Replace, Choice::Aside][picked.index % 3];
            return Ok(ConflictReply { choice, for_all: picked.index >= 3 });
        }
    }
}
