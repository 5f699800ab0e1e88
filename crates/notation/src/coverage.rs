//! Which branches and values of a body file are reached.

use crate::check::Compiler;
use crate::observed::Place;
use crate::run::Machine;
use crate::types::Type;
use crate::{Budget, Scope, Setting, Values, too_large};
use std::sync::Arc;

/// Renders a body file and tells which of its places that reaches, also those of the fragments that it places.
///
/// Takes the arguments of [`crate::compile`], the values to render with, and the budget. A rendering that fails tells of the
/// places that it reached before. `None` if the source has errors.
///
/// ```
/// use tinmold_notation::{Budget, Scope, Setting, Type, Value, Values, coverage};
/// let mut scope = Scope::new();
/// let night = scope.add("night", Type::Flag).unwrap();
/// let mut values = Values::new(&scope);
/// values.set(&scope, night, Value::Flag(true)).unwrap();
/// let source = "{= if night =}dark{= else =}light{= end =}";
/// let (setting, budget) = (Setting::default(), Budget::default());
/// let places = coverage("sign.txt", source, &scope, &setting, &values, &budget).unwrap();
/// let reached: Vec<_> = places.iter().map(|(place, reached)| (place.span.of(source), *reached)).collect();
/// assert_eq!(reached, [("{= if night =}", true), ("{= else =}", false)]);
/// ```
#[must_use]
pub fn coverage(
    file: &str,
    source: &str,
    scope: &Scope,
    setting: &Setting<'_>,
    values: &Values,
    budget: &Budget,
) -> Option<Vec<(Place, bool)>> {
    let mut compiler = Compiler::new(scope, setting);
    if too_large(file, source, &mut compiler) {
        return None;
    }
    compiler.places = Some(Vec::new());
    compiler.body(Arc::from(file), source);
    let places = compiler.places.take().unwrap_or_default();
    let program = compiler.finish(Type::Text).program?;
    let mut out = Vec::new();
    let mut machine = Machine::new(&program, values, budget, &mut out);
    machine.reached = vec![false; places.len()];
    // A mistake that only these values show is reported where the file is rendered.
    drop(machine.run_root());
    let reached = std::mem::take(&mut machine.reached);
    drop(machine);
    Some(places.into_iter().zip(reached).collect())
}
