//! The texts of a manifest that are shown at the end of a cast.

use crate::snippet::Snippet;
use tinmold_notation::{Finding, Scope, Values};

/// The rendered texts of a manifest.
#[derive(Clone, Debug, Default)]
pub struct Texts {
    /// The default name of the project's directory.
    pub folder: Option<Snippet>,
    /// The tour: paths, each with a note.
    pub tour: Vec<(Snippet, Snippet)>,
    /// What to type next.
    pub next: Vec<Snippet>,
}

impl Texts {
    /// Renders the tour. An entry whose path renders to nothing is left out.
    ///
    /// # Errors
    /// The first text that cannot be rendered.
    pub fn tour_stops(&self, scope: &Scope, values: &Values) -> Result<Vec<(String, String)>, Finding> {
        let stops = self
            .tour
            .iter()
            .map(|(path, says)| Ok::<_, Finding>((path.render(scope, values)?, says.render(scope, values)?)));
        stops.filter(|stop| !matches!(stop, Ok((path, _)) if path.is_empty())).collect()
    }

    /// Renders what to type next. A line that renders to nothing is left out.
    ///
    /// # Errors
    /// The first text that cannot be rendered.
    pub fn next_lines(&self, scope: &Scope, values: &Values) -> Result<Vec<String>, Finding> {
        let lines = self.next.iter().map(|line| line.render(scope, values));
        lines.filter(|line| !matches!(line, Ok(line) if line.is_empty())).collect()
    }
}
