//! What ticking an option forces and forbids.

use tinmold_mold::question::{in_order, with_required};
use tinmold_mold::{Question, Refusal};
use tinmold_notation::{ChoicesId, Value};

/// The result of ticking an option, or of taking its tick back.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Ticked {
    /// The answer.
    pub value: Value,
    /// The options that were ticked with it, because it requires them.
    pub ticked: Vec<u16>,
    /// The options whose tick went, because they exclude it or require what went.
    pub unticked: Vec<u16>,
}

/// Ticks `option`, or takes its tick back if it has one.
///
/// # Errors
/// The option requires what excludes it: no answer with it is legal.
pub(super) fn ticked(
    question: &Question,
    of: ChoicesId,
    picked: &[u16],
    option: u16,
) -> Result<Ticked, Refusal> {
    let mut now: Vec<u16> = picked.to_vec();
    let wanted: Vec<u16> = match picked.contains(&option) {
        true => {
            now.retain(|other| *other != option);
            Vec::new()
        }
        false => with_required(&question.options, &[option]),
    };
    if let Some((a, b)) = wanted
        .iter()
        .flat_map(|a| wanted.iter().map(move |b| (*a, *b)))
        .find(|(a, b)| excludes(question, *a, *b))
    {
        let label = |at: u16| &question.options[at as usize].label;
        let reason = format!("{} and {} exclude each other", label(a), label(b));
        return Err(Refusal::new(reason, ""));
    }
    now.retain(|other| !wanted.iter().any(|wanted| excludes(question, *wanted, *other)));
    now.extend(wanted.iter().filter(|wanted| !picked.contains(wanted)));
    // What requires an option that went goes too.
    loop {
        let lacks =
            |at: &u16| question.options[*at as usize].requires.iter().any(|other| !now.contains(other));
        match now.iter().copied().find(lacks) {
            Some(lacking) => now.retain(|other| *other != lacking),
            None => break,
        }
    }
    let ticked = now.iter().copied().filter(|at| *at != option && !picked.contains(at)).collect();
    let unticked = picked.iter().copied().filter(|at| *at != option && !now.contains(at)).collect();
    let value = in_order(now.into_iter().map(|at| Value::Option(of, Some(at))).collect());
    Ok(Ticked { value, ticked, unticked })
}

fn excludes(question: &Question, a: u16, b: u16) -> bool {
    let one = |a: u16, b: u16| question.options[a as usize].excludes.contains(&b);
    one(a, b) || one(b, a)
}
