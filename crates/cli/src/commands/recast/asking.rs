//! Asking for the answers and decisions of a recast, in lines or on the screen.

use super::RecastJob;
use super::screen::RecastScreen;
use crate::exit::Exit;
use crate::failure::Failure;
use crate::flow::interview::ask_all;
use crate::stop::Stop;
use crate::text::recast_words::{lines_of, question};
use crate::text::style::{safe, safe_lines};
use crate::ui::Dialogue;
use crate::ui::setup::{Left, set_up};
use tinmold_project::answers::Session;
use tinmold_project::recast::{Decided, Decision, Recasting, Undecided, Wishes};
use tinmold_project::setup::Setup;

impl<'a> RecastJob<'a> {
    /// Asks what is open, shows what would change, and asks about each place.
    pub(super) fn ask_in_lines(
        &self,
        session: &mut Session<'a>,
        recasting: &Recasting<'a>,
    ) -> Result<Wishes, Stop> {
        ask_all(session)?;
        let mut wishes = self.wishes();
        loop {
            let recast = self.plan(session, recasting, &wishes)?;
            if recast.is_nothing() {
                return Ok(wishes);
            }
            let Some(decision) = recast.decisions.first() else {
                say_text!("{}", self.report(&recast).text(true, self.global.verbose));
                return match Dialogue.confirm("Write it?") {
                    Ok(true) => Ok(wishes),
                    Ok(false) => Err(Stop::Left),
                    Err(stop) => Err(stop.or_missing(|| {
                        let message = "the input ended where the write is confirmed; nothing was written";
                        Failure::new(Exit::Missing, message)
                    })),
                };
            };
            let left = recast.decisions.len();
            say!("\n{} to decide. {} {}", left, safe(&decision.path), safe(&question(decision)));
            for line in lines_of(decision) {
                say!("  {line}");
            }
            let decided = ask_one(decision).map_err(|stop| stop.or_missing(|| self.undecided(&recast)))?;
            wishes.decisions.insert(decision.key.clone(), decided);
        }
    }

    /// Shows everything on the setup screen until the user decides to write.
    pub(super) fn ask_on_screen(
        &self,
        session: &mut Session<'a>,
        recasting: &Recasting<'a>,
    ) -> Result<Wishes, Stop> {
        // Where nothing is to be asked and nothing to be done, there is nothing to look at.
        if session.next().is_none() && self.plan(session, recasting, &self.wishes())?.is_nothing() {
            return Ok(self.wishes());
        }
        let screen = RecastScreen { job: self, recasting };
        let (setup, left) = set_up(Setup::new(session.clone()), &screen, false, self.args.answers.details)?;
        *session = setup.into_session();
        match left {
            Left::Back => Err(Stop::Left),
            Left::Write(decision) => Ok(Wishes { decisions: decision.choices, ..self.wishes() }),
        }
    }
}

/// Asks about one place, file or part.
fn ask_one(decision: &Decision) -> Result<Decided, Stop> {
    let words = match decision.what {
        Undecided::Place { .. } => "mine, theirs, both, or text: your own",
        Undecided::File { .. } => "mine, theirs, or aside: the mold's beside yours",
        Undecided::Part { .. } => "mine, or theirs",
    };
    loop {
        let line = Dialogue::line(&format!("Which? ({words}; no: leave): "))?;
        let decided = match line.trim() {
            "mine" | "m" => Decided::Mine,
            "theirs" | "t" => Decided::Theirs,
            "both" | "b" => Decided::Both,
            "aside" | "a" => Decided::Aside,
            "text" if matches!(decision.what, Undecided::Place { .. }) => return own_text(),
            "no" | "n" => return Err(Stop::Left),
            _ => continue,
        };
        if decision.what.ways().contains(&decided) {
            return Ok(decided);
        }
    }
}

/// Asks for a text of whole lines, up to a line with a dot.
fn own_text() -> Result<Decided, Stop> {
    say!("The lines; a dot alone ends them.");
    let mut text = String::new();
    loop {
        let line = Dialogue::line("")?;
        if line.trim_end_matches(['\n', '\r']) == "." {
            say!("{}", safe_lines(&text));
            return Ok(Decided::Text(text));
        }
        text.push_str(line.trim_end_matches(['\n', '\r']));
        text.push('\n');
    }
}
