//! Questions on a terminal, with arrow keys.

use super::{ConflictReply, PartLine, Prompter, Reply, ReviewAction, ReviewView};
use crate::stop::Stop;
use crate::text::diff::InTheWay;
use crate::text::review;
use crate::text::style::{BOLD, safe};
use inquire::error::InquireError;
use inquire::list_option::ListOption;
use inquire::ui::{Attributes, Color, ErrorMessageRenderConfig, RenderConfig, StyleSheet, Styled};
use inquire::validator::{ErrorMessage, Validation};
use inquire::{MultiSelect, Password, PasswordDisplayMode, Select, Text};
use std::fmt;
use tinmold_mold::{Kind, Question, Refusal};
use tinmold_notation::{ChoicesId, Scope, Value};
use tinmold_project::answers::{Session, display_value, judge, parse_text};
use tinmold_project::steps::StepChoice;
use tinmold_shelf::Picker;

/// The number of options shown at once.
pub(super) const PAGE: usize = 9;

/// Asks on a terminal.
pub struct Prompts {
    pub(super) colours: RenderConfig<'static>,
    group: Option<String>,
}

/// An option as a line: its label, and what it gives.
pub(super) struct Line {
    pub(super) option: u16,
    pub(super) text: String,
    pub(super) label: String,
}

impl fmt::Display for Line {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.text)
    }
}

impl From<InquireError> for Stop {
    fn from(error: InquireError) -> Self {
        match error {
            InquireError::OperationInterrupted => Self::Interrupted,
            InquireError::OperationCanceled => Self::InputEnded,
            InquireError::NotTTY => Self::InputEnded,
            InquireError::IO(error) => Self::Terminal(error),
            other => Self::Terminal(std::io::Error::other(other)),
        }
    }
}

impl Prompts {
    pub fn new() -> Self {
        Self {
            colours: colours(std::env::var_os("NO_COLOR").is_none_or(|value| value.is_empty())),
            group: None,
        }
    }

    /// The group's name, once when it begins.
    fn announce(&mut self, question: &Question) {
        if question.group != self.group {
            self.group.clone_from(&question.group);
            if let Some(group) = &question.group {
                say!("\n{}{}{:#}", BOLD, safe(group), BOLD);
            }
        }
    }

    fn select(
        &self,
        question: &Question,
        session: &Session<'_>,
        at: usize,
        of: ChoicesId,
    ) -> Result<Reply, Stop> {
        let lines = lines(question, &session.resolved()[at].options);
        let current = session.mold().picked(&session.resolved()[at].value);
        let cursor = lines.iter().position(|line| current.contains(&line.option)).unwrap_or(0);
        let help = help(question, session, at, narrowing(question, "Arrows move"));
        let ask = safe(&question.ask);
        let prompt = Select::new(&ask, lines)
            .with_help_message(&help)
            .with_page_size(PAGE)
            .with_starting_cursor(cursor)
            .with_render_config(self.colours)
            .with_formatter(&|line: ListOption<&Line>| line.value.label.clone());
        Ok(match prompt.prompt_skippable()? {
            Some(line) => Reply::Answer(Value::Option(of, Some(line.option))),
            None => Reply::Back,
        })
    }

    fn multi_select(
        &self,
        question: &Question,
        session: &Session<'_>,
        at: usize,
        of: ChoicesId,
    ) -> Result<Reply, Stop> {
        let offered = session.resolved()[at].options.clone();
        let lines = lines(question, &offered);
        let current = session.mold().picked(&session.resolved()[at].value);
        let ticked: Vec<usize> =
            (0..lines.len()).filter(|line| current.contains(&lines[*line].option)).collect();
        let ask = safe(&question.ask);
        let help = help(question, session, at, narrowing(question, "Space ticks"));
        let judged = question.clone();
        let labels = |picked: &[ListOption<&Line>]| {
            let options: Vec<u16> = picked.iter().map(|line| line.value.option).collect();
            let all = session.mold().picked(&question.completed(of, &options));
            let labels: Vec<_> =
                all.iter().map(|option| safe(&question.options[*option as usize].label)).collect();
            if labels.is_empty() { "none".to_owned() } else { labels.join(", ") }
        };
        let prompt = MultiSelect::new(&ask, lines)
            .with_help_message(&help)
            .with_page_size(PAGE)
            .with_default(&ticked)
            .with_render_config(self.colours)
            .with_validator(move |picked: &[ListOption<&Line>]| {
                let options: Vec<u16> = picked.iter().map(|line| line.value.option).collect();
                Ok(validation(judge(&judged, &judged.completed(of, &options), &offered)))
            })
            .with_formatter(&labels);
        Ok(match prompt.prompt_skippable()? {
            Some(picked) => {
                let options: Vec<u16> = picked.iter().map(|line| line.option).collect();
                Reply::Answer(question.completed(of, &options))
            }
            None => Reply::Back,
        })
    }

    /// Asks for a secret, which is masked while it is typed.
    fn secret(&self, question: &Question, session: &Session<'_>, at: usize) -> Result<Reply, Stop> {
        let judged = question.clone();
        let reading = move |text: &str| {
            let value = parse_text(&judged, text, &Scope::new())?;
            judge(&judged, &value, &[]).map_or(Ok(value), Err)
        };
        let (ask, help) = (safe(&question.ask), help(question, session, at, "Enter takes"));
        let prompt = Password::new(&ask)
            .with_help_message(&help)
            .with_render_config(self.colours)
            .with_display_mode(PasswordDisplayMode::Masked)
            .without_confirmation()
            .with_validator({
                let reading = reading.clone();
                move |text: &str| Ok(validation(reading(text).err()))
            });
        Ok(match prompt.prompt_skippable()? {
            Some(text) => match reading(&text) {
                Ok(value) => Reply::Answer(value),
                Err(refusal) => return Err(Stop::Terminal(std::io::Error::other(refusal.to_string()))),
            },
            None => Reply::Back,
        })
    }

    fn text(&self, question: &Question, session: &Session<'_>, at: usize) -> Result<Reply, Stop> {
        let resolved = &session.resolved()[at];
        let current = if resolved.refusal.is_none() || resolved.source.is_given() {
            display_value(session.mold(), &resolved.value)
        } else {
            String::new()
        };
        // A one-line editor holds no line break: an answer of several lines stays until it is
        // replaced.
        let shown = safe(&current);
        let kept = shown != current;
        let reading = {
            let (question, shown) = (question.clone(), shown.clone());
            move |text: &str| {
                let text = if text.is_empty() || (kept && text == shown) { current.as_str() } else { text };
                // A text, number or list of texts names no option, so that no scope is needed to
                // parse it.
                let value = parse_text(&question, text, &Scope::new())?;
                judge(&question, &value, &[]).map_or(Ok(value), Err)
            }
        };
        let ask = safe(&question.ask);
        let help = help(question, session, at, "Enter takes");
        let mut prompt =
            Text::new(&ask).with_help_message(&help).with_render_config(self.colours).with_validator({
                let reading = reading.clone();
                move |text: &str| Ok(validation(reading(text).err()))
            });
        if !shown.is_empty() {
            prompt = prompt.with_default(&shown);
        }
        Ok(match prompt.prompt_skippable()? {
            Some(text) => match reading(&text) {
                Ok(value) => Reply::Answer(value),
                Err(refusal) => return Err(Stop::Terminal(std::io::Error::other(refusal.to_string()))),
            },
            None => Reply::Back,
        })
    }
}

/// Returns a refusal as the prompt shows it, on the spot.
fn validation(refusal: Option<Refusal>) -> Validation {
    match refusal {
        Some(refusal) => Validation::Invalid(ErrorMessage::Custom(safe(&refusal.to_string()))),
        None => Validation::Valid,
    }
}

impl Prompter for Prompts {
    fn pick_mold(&mut self, choosing: &mut Picker) -> Result<String, Stop> {
        super::picker::pick(choosing)
    }

    fn ask(&mut self, session: &Session<'_>, at: usize) -> Result<Reply, Stop> {
        let question = &session.mold().questions[at];
        self.announce(question);
        match question.kind {
            _ if question.secret => self.secret(question, session, at),
            Kind::OneOf(of) => self.select(question, session, at, of),
            Kind::SomeOf(of) => self.multi_select(question, session, at, of),
            Kind::Flag => {
                let current = session.resolved()[at].value == Value::Flag(true);
                let help = help(question, session, at, "Arrows move, Enter takes");
                let ask = safe(&question.ask);
                let prompt = Select::new(&ask, vec!["yes", "no"])
                    .with_help_message(&help)
                    .with_starting_cursor(usize::from(!current))
                    .with_render_config(self.colours);
                Ok(match prompt.prompt_skippable()? {
                    Some(word) => Reply::Answer(Value::Flag(word == "yes")),
                    None => Reply::Back,
                })
            }
            _ => self.text(question, session, at),
        }
    }

    fn review(&mut self, session: &Session<'_>, view: &ReviewView<'_>) -> Result<ReviewAction, Stop> {
        // The menu below has at most eight lines, and a line above it and below.
        let rows = crossterm::terminal::size().map_or(24, |(_, rows)| usize::from(rows)).saturating_sub(11);
        let shown = review::whole(view.review, &view.layout(), false, rows);
        let whole = review::files(view.review, false, usize::MAX);
        let is_cut = !shown.contains(&whole);
        say!("\n{shown}");
        loop {
            let mut choices = vec!["Write it", "Change an answer", "Look at a file", "Leave without writing"];
            if session.has_details() {
                choices.insert(3, "Answer the details too");
            }
            if view.has_steps() {
                choices.insert(3, "Choose what runs afterwards");
            }
            if is_cut {
                choices.insert(3, "See the whole tree");
            }
            let picked = Select::new("All set?", choices)
                .with_help_message("Arrows move, Enter takes")
                .with_render_config(self.colours)
                .prompt_skippable()?;
            match picked {
                Some("Write it") => return Ok(ReviewAction::Write),
                Some("Change an answer") => {
                    if let Some(at) = self.pick_question(session)? {
                        return Ok(ReviewAction::Change(at));
                    }
                }
                Some("Look at a file") => self.look(view)?,
                Some("See the whole tree") => say!("\n{whole}"),
                Some("Answer the details too") => return Ok(ReviewAction::Details),
                Some("Choose what runs afterwards") => return Ok(ReviewAction::Steps),
                _ => return Ok(ReviewAction::Leave),
            }
        }
    }

    fn confirm(&mut self, what: &str) -> Result<bool, Stop> {
        let picked = Select::new(what, vec!["Yes", "No"])
            .with_help_message("Arrows move, Enter takes, Esc leaves")
            .with_render_config(self.colours)
            .prompt_skippable()?;
        Ok(picked == Some("Yes"))
    }

    fn pick_part(&mut self, parts: &[PartLine]) -> Result<usize, Stop> {
        self.pick_part_line(parts)
    }

    fn steps(&mut self, choice: &mut StepChoice) -> Result<bool, Stop> {
        self.tick_steps(choice)
    }

    fn conflict(&mut self, file: &InTheWay<'_>) -> Result<ConflictReply, Stop> {
        self.decide(file)
    }
}

/// Returns the offered options as lines, labels in one column and notes in the next.
fn lines(question: &Question, offered: &[bool]) -> Vec<Line> {
    let wide = question.options.iter().map(|option| option.label.chars().count()).max().unwrap_or(0).min(32);
    let there = question.options.iter().enumerate().filter(|(at, _)| offered.get(*at) != Some(&false));
    there
        .map(|(at, option)| {
            let label = safe(&option.label);
            let text = match &option.note {
                Some(note) => format!("{label:<wide$}  {}", safe(note)),
                None => label.clone(),
            };
            Line { option: at as u16, text, label }
        })
        .collect()
}

/// Returns the keys of a list; long ones can be narrowed.
fn narrowing(question: &Question, keys: &str) -> &'static str {
    match (question.options.len() > PAGE, keys) {
        (true, "Space ticks") => "Space ticks, typing narrows, Enter takes",
        (false, "Space ticks") => "Space ticks, Enter takes",
        (true, _) => "Arrows move, typing narrows, Enter takes",
        (false, _) => "Arrows move, Enter takes",
    }
}

/// Returns the position in the interview, the purpose of the question, and the keys.
fn help(question: &Question, session: &Session<'_>, at: usize, keys: &str) -> String {
    let (number, of) = session.progress(at);
    let mut out = if number > 0 { format!("{number} of {of}: ") } else { String::new() };
    if let Some(help) = &question.help {
        out = out + &safe(help) + " ";
    }
    for more in question.options.iter().filter_map(|option| option.more.as_deref()) {
        out = out + &safe(more) + " ";
    }
    let back = if session.before(at).is_some() { ", Esc goes back" } else { "" };
    out + keys + back
}

fn colours(coloured: bool) -> RenderConfig<'static> {
    let style =
        |colour: Color| if coloured { StyleSheet::new().with_fg(colour) } else { StyleSheet::empty() };
    let bold = StyleSheet::new().with_attr(Attributes::BOLD);
    let accent = style(Color::DarkCyan);
    let mut config = RenderConfig::empty()
        .with_prompt_prefix(Styled::new("▪").with_style_sheet(accent))
        .with_answered_prompt_prefix(Styled::new("▫").with_style_sheet(accent))
        .with_highlighted_option_prefix(Styled::new("▸").with_style_sheet(accent))
        .with_scroll_up_prefix(Styled::new("↑"))
        .with_scroll_down_prefix(Styled::new("↓"))
        .with_selected_checkbox(Styled::new("■").with_style_sheet(accent))
        .with_unselected_checkbox(Styled::new("□"))
        .with_selected_option(Some(if coloured { accent } else { bold }))
        .with_answer(accent)
        .with_help_message(style(Color::Grey))
        .with_default_value(style(Color::Grey))
        .with_canceled_prompt_indicator(Styled::new("back").with_style_sheet(style(Color::Grey)))
        .with_error_message(
            ErrorMessageRenderConfig::empty()
                .with_prefix(Styled::new("!").with_style_sheet(style(Color::DarkRed))),
        );
    config.prompt = bold;
    config
}
