//! What a source says of options, for finding those that it forgets.

use crate::check::Compiler;
use crate::span::Span;
use crate::types::{ChoicesId, Type};
use crate::{Scope, Setting, too_large};
use std::sync::Arc;

/// What a source says of the options of questions.
#[derive(Clone, Debug, Default)]
pub struct Audit {
    /// The options that it names.
    pub named: Vec<(ChoicesId, u16)>,
    /// Where options that it does not name fall into an `else`.
    pub elses: Vec<Else>,
}

/// An `else` that is taken for the options that the conditions before it do not name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Else {
    /// The file, as findings name it.
    pub file: Arc<str>,
    /// The tag, or the value that is taken.
    pub span: Span,
    /// The options that the conditions compare.
    pub of: Vec<ChoicesId>,
}

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
