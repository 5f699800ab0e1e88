//! The colours of the full screen: few, each with a meaning, and never alone.

use anstream::ColorChoice;
use ratatui::style::{Color, Modifier, Style};
use std::io::stderr;
use tinmold_grammar::WordKind;

/// The styles, with colours or without.
#[derive(Clone, Copy, Debug)]
pub struct Theme {
    coloured: bool,
}

impl Theme {
    /// Returns colours unless the user or the terminal wants none.
    pub fn of_terminal() -> Self {
        Self { coloured: anstream::AutoStream::choice(&stderr()) != ColorChoice::Never }
    }

    fn colour(self, colour: Color) -> Style {
        if self.coloured { Style::new().fg(colour) } else { Style::new() }
    }

    /// What has the focus.
    pub fn accent(self) -> Style {
        if self.coloured { Style::new().fg(Color::Cyan) } else { Style::new().add_modifier(Modifier::BOLD) }
    }

    pub fn bold(self) -> Style {
        Style::new().add_modifier(Modifier::BOLD)
    }

    /// What is there without the user.
    pub fn faint(self) -> Style {
        if self.coloured { Style::new().add_modifier(Modifier::DIM) } else { Style::new() }
    }

    /// What comes.
    pub fn added(self) -> Style {
        self.colour(Color::Green)
    }

    /// What goes.
    pub fn removed(self) -> Style {
        self.colour(Color::Red)
    }

    /// What changes, and what needs a look.
    pub fn changed(self) -> Style {
        self.colour(Color::Yellow)
    }

    /// What cannot stay.
    pub fn bad(self) -> Style {
        self.colour(Color::Red).add_modifier(Modifier::BOLD)
    }

    /// What comes from the question in focus.
    pub fn marked(self) -> Style {
        self.accent().add_modifier(Modifier::UNDERLINED)
    }

    pub fn word(self, kind: WordKind) -> Style {
        match kind {
            WordKind::Comment => self.faint(),
            WordKind::Text => self.colour(Color::Green),
            WordKind::Constant => self.colour(Color::Magenta),
            WordKind::Keyword => self.bold(),
            WordKind::Name => Style::new(),
        }
    }
}
