//! What a source says of options, for finding those that it forgets.

use crate::check::Compiler;
use crate::observed::Audit;
use crate::types::Type;
use crate::{Scope, Setting, too_large};
use std::sync::Arc;

/// Returns what a body file says of options, also in the fragments that it places. A source with errors tells
/// what was understood of it.
///
/// ```
/// use tinmold_notation::{Choices, Scope, Setting, Type, audit};
/// let mut scope = Scope::new();
/// let mut tide = Choices::new("tide");
/// tide.add("low", "Low");
/// tide.add("high", "High");
/// let of = scope.add_choices(tide);
/// scope.add("tide", Type::Option { of, or_none: false }).unwrap();
/// let found = audit("sign.txt", "{= if tide == 'low' =}a{= else =}b{= end =}", &scope, &Setting::default());
/// assert_eq!((found.named.len(), found.elses[0].of.len()), (1, 1));
/// ```
#[must_use]
pub fn audit(file: &str, source: &str, scope: &Scope, setting: &Setting<'_>) -> Audit {
    audited(file, source, scope, setting, |compiler| compiler.body(Arc::from(file), source))
}

/// Returns the same for an expression without marks.
#[must_use]
pub fn audit_expression(file: &str, source: &str, scope: &Scope, setting: &Setting<'_>) -> Audit {
    audited(file, source, scope, setting, |compiler| {
        compiler.expression(Arc::from(file), source, None);
    })
}

fn audited<'s>(
    file: &str,
    source: &'s str,
    scope: &'s Scope,
    setting: &'s Setting<'s>,
    compile: impl FnOnce(&mut Compiler<'s>),
) -> Audit {
    let mut compiler = Compiler::new(scope, setting);
    if too_large(file, source, &mut compiler) {
        return Audit::default();
    }
    compiler.audit = Some(Audit::default());
    compile(&mut compiler);
    let audit = compiler.audit.take().unwrap_or_default();
    drop(compiler.finish(Type::Unknown));
    audit
}
