//! Drawing the mold picker.

use super::{Focus, Level, View};
use crate::text::style::{grouped, safe, size};
use crate::text::width::fit_width;
use crate::ui::drawing::too_small;
use ratatui::layout::{Constraint, Layout, Rect};
use ratatui::style::{Modifier, Style};
use ratatui::text::{Line, Span, Text};
use ratatui::widgets::{Paragraph, Wrap};
use tinmold_shelf::age_of_day;
use tinmold_shelf::{Entry, Picker, Release};

/// From so many columns on a list has room for what its molds give.
const WIDE: usize = 80;

impl View {
    pub(super) fn draw(&self, frame: &mut ratatui::Frame<'_>, picker: &Picker) {
        if too_small(frame) {
            return;
        }
        let [head, find, only, _, body, keys] = Layout::vertical([
            Constraint::Length(1),
            Constraint::Length(1),
            Constraint::Length(1),
            Constraint::Length(1),
            Constraint::Min(1),
            Constraint::Length(1),
        ])
        .areas(frame.area());
        let bold = Style::new().add_modifier(Modifier::BOLD);
        let counted = if picker.found() == picker.all() {
            format!("  {} molds", grouped(picker.all()))
        } else {
            format!("  {} of {} molds", grouped(picker.found()), grouped(picker.all()))
        };
        let title = vec![Span::styled("Choose a mold", bold), Span::styled(counted, self.theme.faint())];
        frame.render_widget(Line::from(title), head);
        let typed =
            vec![Span::styled("Find: ", bold), Span::styled(safe(picker.text()), self.theme.accent())];
        if matches!(self.focus, Focus::List) {
            let typed = Line::from(typed.clone()).width();
            frame.set_cursor_position((
                find.x + u16::try_from(typed).unwrap_or(0).min(find.width.saturating_sub(1)),
                find.y,
            ));
        }
        frame.render_widget(Line::from(typed), find);
        let narrowed = picker.narrowed();
        let chips = narrowed.iter().map(|(by, value)| format!("{} {}", by.name(), safe(value)));
        let only_text = match chips.collect::<Vec<_>>().join(", ") {
            none if none.is_empty() => "Search by name, language or purpose; typos are fine".into(),
            all => format!("Only: {all} (Backspace takes the last away)"),
        };
        frame.render_widget(Span::styled(only_text, self.theme.faint()), only);
        let [left, _, right] =
            Layout::horizontal([Constraint::Percentage(46), Constraint::Length(2), Constraint::Min(20)])
                .areas(body);
        match &self.focus {
            Focus::Narrow(levels) => self.draw_levels(frame, levels, left),
            _ => self.draw_list(frame, picker, left),
        }
        self.draw_mold(frame, picker, right);
        let help = match &self.focus {
            Focus::List => "Up and Down move, Enter takes, Left narrows, Right shows versions, Esc leaves",
            Focus::Narrow(_) => "Up and Down move, Enter takes, Right opens, Left goes back",
            Focus::Versions(_) => "Up and Down move, Enter takes this version, Left goes back",
        };
        frame.render_widget(Span::styled(help, self.theme.faint()), keys);
    }

    /// Returns a line of a list: marked if it is the chosen one, with something faint at its right end.
    fn line(&self, text: &str, end: &str, width: usize, is_chosen: bool) -> Line<'static> {
        self.row(text, "", end, (width, width), is_chosen)
    }

    /// Returns the same with a faint separator between; `width` counts columns.
    fn row(&self, text: &str, more: &str, end: &str, wide: (usize, usize), is_chosen: bool) -> Line<'static> {
        let mark = if is_chosen { "▸ " } else { "  " };
        let end = safe(end);
        let room = wide.1.saturating_sub(3 + end.chars().count());
        let style = if is_chosen { self.theme.accent() } else { Style::new() };
        if wide.0 < room {
            let between = fit_width(more, room - wide.0 - 1);
            let text = Span::styled(format!("{mark}{} ", fit_width(text, wide.0)), style);
            return Line::from(vec![text, Span::styled(format!("{between} {end}"), self.theme.faint())]);
        }
        let spans = vec![
            Span::styled(format!("{mark}{} ", fit_width(text, room)), style),
            Span::styled(end, self.theme.faint()),
        ];
        Line::from(spans)
    }

    fn draw_list(&self, frame: &mut ratatui::Frame<'_>, picker: &Picker, area: Rect) {
        let (width, height) = (usize::from(area.width), usize::from(area.height));
        if picker.found() == 0 {
            let none = "No mold matches. Fewer words find more; Ctrl-U clears them.";
            frame.render_widget(Paragraph::new(none).wrap(Wrap { trim: true }), area);
            return;
        }
        // The list is paged, so that it does not scroll at every step.
        let height = height.max(2) - 1;
        let first = picker.at() / height * height;
        let mut lines: Vec<Line<'_>> = Vec::new();
        let shown = first..(first + height).min(picker.found());
        let names =
            shown.clone().filter_map(|at| Some(picker.mold(at).ok()?.1.name.len())).max().unwrap_or(0);
        let names = names.min(width / 2);
        for at in shown {
            let is_chosen = at == picker.at();
            let line = match picker.mold(at) {
                Ok((_, mold)) => {
                    let facets =
                        || mold.language.iter().chain(&mold.kind).cloned().collect::<Vec<_>>().join(" ");
                    let more = if width >= WIDE { mold.summary.clone() } else { facets() };
                    let end = if picker.is_recent(at) {
                        "used lately".to_owned()
                    } else {
                        age_of_day(&mold.newest().released, &self.today).unwrap_or_default()
                    };
                    self.row(&mold.name, &more, &end, (names, width), is_chosen)
                }
                Err(error) => self.line(&error.to_string(), "", width, is_chosen),
            };
            lines.push(line);
        }
        frame.render_widget(Paragraph::new(lines), area);
        let last = (first + height).min(picker.found());
        let place = format!("  {} to {} of {}", grouped(first + 1), grouped(last), grouped(picker.found()));
        let foot = Rect { y: area.y + area.height - 1, height: 1, ..area };
        frame.render_widget(Span::styled(place, self.theme.faint()), foot);
    }

    fn draw_levels(&self, frame: &mut ratatui::Frame<'_>, levels: &[Level], area: Rect) {
        let Some(level) = levels.last() else { return };
        let titles: Vec<&str> = levels.iter().map(|level| level.title.as_str()).collect();
        let bold = Style::new().add_modifier(Modifier::BOLD);
        let mut lines = vec![Line::styled(fit_width(&titles.join(" "), area.width.into()), bold)];
        let height = usize::from(area.height).saturating_sub(1).max(1);
        let first = level.at / height * height;
        for (at, choice) in level.lines.iter().enumerate().skip(first).take(height) {
            let name = choice.value.as_deref().unwrap_or(choice.by.name());
            lines.push(self.line(name, &choice.text, area.width.into(), at == level.at));
        }
        frame.render_widget(Paragraph::new(lines), area);
    }

    fn draw_mold(&self, frame: &mut ratatui::Frame<'_>, picker: &Picker, area: Rect) {
        let Ok((shelf, mold)) = picker.mold(picker.at()) else { return };
        let bold = Style::new().add_modifier(Modifier::BOLD);
        let newest = mold.newest();
        let mut lines = vec![
            Line::from(vec![
                Span::styled(safe(&mold.name), bold),
                Span::raw(format!(" {}", safe(&newest.version.to_string()))),
            ]),
            Line::raw(safe(&mold.summary)),
            Line::styled(facts(&mold, shelf), self.theme.faint()),
        ];
        let versions = |at: Option<usize>, most: usize| {
            let mut lines = vec![Line::default(), Line::styled("Versions", bold)];
            let first = at.map_or(0, |at| at.saturating_sub(most.saturating_sub(1)));
            for (number, release) in mold.versions.iter().enumerate().skip(first).take(most) {
                let text = self.release(release);
                lines.push(self.line(
                    &release.version.to_string(),
                    &text,
                    usize::from(area.width).min(44),
                    at == Some(number),
                ));
            }
            if mold.versions.len() > first + most {
                lines.push(Line::styled(
                    format!("  and {} older", mold.versions.len() - first - most),
                    self.theme.faint(),
                ));
            }
            lines
        };
        let room = usize::from(area.height);
        match self.focus {
            Focus::Versions(at) => lines.extend(versions(Some(at), room.saturating_sub(8).max(3))),
            _ => {
                if !mold.asks.is_empty() {
                    lines.push(Line::default());
                    lines.push(Line::styled("It asks", bold));
                    // The rest keeps its room.
                    let most = room.saturating_sub(12).max(3);
                    let width = usize::from(area.width).saturating_sub(2);
                    let line = |ask: &String| Line::raw(format!("  {}", fit_width(ask, width).trim_end()));
                    lines.extend(mold.asks.iter().take(most).map(line));
                    if mold.asks.len() > most {
                        let more = format!("  and {} more", mold.asks.len() - most);
                        lines.push(Line::styled(more, self.theme.faint()));
                    }
                }
                lines.extend(versions(None, 3));
            }
        }
        frame.render_widget(Paragraph::new(Text::from(lines)).wrap(Wrap { trim: false }), area);
    }

    fn release(&self, release: &Release) -> String {
        let age = age_of_day(&release.released, &self.today);
        let facts =
            [age.unwrap_or_default(), if release.size > 0 { size(release.size) } else { String::new() }];
        facts.iter().filter(|fact| !fact.is_empty()).cloned().collect::<Vec<_>>().join(", ")
    }
}

/// Languages, kinds, tags, owner and shelf in a line.
fn facts(mold: &Entry, shelf: &str) -> String {
    let lists = [&mold.language, &mold.kind, &mold.tags].map(|list| list.join(", "));
    let owner = if mold.owner.is_empty() { String::new() } else { format!("by {}", mold.owner) };
    let all = lists.into_iter().chain([owner, format!("on {shelf}")]);
    safe(&all.filter(|fact| !fact.is_empty()).collect::<Vec<_>>().join("; "))
}
