//! Free ports, so that sets that serve something do not meet.

use std::net::TcpListener;
use tinmold_mold::{Form, Kind, Mold};
use tinmold_notation::Value;
use tinmold_project::answers::{AnswerSource, Given, Session};

/// Gives every question for a port that is asked a port that is free.
///
/// # Errors
/// The mold fails on it, or the system has no port.
pub(super) fn set_free_ports(mold: &Mold, session: &mut Session<'_>) -> Result<(), String> {
    // They are held until all are found, so that no two are the same.
    let mut held = Vec::new();
    for (at, question) in mold.questions.iter().enumerate() {
        let is_port = question.kind == Kind::Integer && question.rules.form == Some(Form::Port);
        if !is_port || !session.resolved()[at].is_visible() {
            continue;
        }
        let listener = TcpListener::bind(("127.0.0.1", 0)).map_err(|error| error.to_string())?;
        let port = listener.local_addr().map_err(|error| error.to_string())?.port();
        held.push(listener);
        let given = Given { value: Value::Integer(i64::from(port)), source: AnswerSource::Set };
        session.answer(at, given.value).map_err(|finding| finding.message)?;
    }
    Ok(())
}
