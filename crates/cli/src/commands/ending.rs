//! How a command ends that asked, or could not ask: nothing is written then.

use crate::ask::Stop;
use crate::exit::Exit;
use crate::failure::Failure;
use crate::given;
use tinmold_core::answers::Session;

pub fn left() -> Exit {
    anstream::eprintln!("Left without writing anything.");
    Exit::Done
}

/// Without a person: a failure if something is unanswered that may not take its default.
pub fn unanswered(session: &Session<'_>, asked: &[usize], unattended: bool) -> Option<Failure> {
    let missing: Vec<usize> = if unattended {
        asked.iter().copied().filter(|at| session.settled()[*at].refusal.is_some()).collect()
    } else {
        asked.to_vec()
    };
    (!missing.is_empty()).then(|| given::missing(session, &missing, unattended))
}

pub fn interrupted() -> Failure {
    Failure::new(Exit::Interrupted, "interrupted; nothing was written")
}

pub fn terminal(error: &str) -> Failure {
    Failure::new(Exit::Failed, format!("the terminal failed: {error}"))
}

pub fn stopped(stop: Stop, session: &Session<'_>) -> Result<Exit, Failure> {
    Err(match stop {
        Stop::Interrupted => interrupted(),
        Stop::Left => return Ok(left()),
        Stop::Ended => {
            let asked: Vec<usize> = session.unanswered().collect();
            given::missing(session, &asked, false)
        }
        Stop::Terminal(error) => terminal(&error),
        Stop::Mold(finding) => Failure::findings(&[*finding], &session.mold().package),
        Stop::Failed(failure) => *failure,
    })
}
