//! Setting values whose types were checked before.

use tinmold_notation::{NameId, Scope, Value, Values};

/// Sets the value of a name. The reader of the mold has checked its type: a mismatch is a mistake of this
/// program, and is logged.
pub(super) fn assign(values: &mut Values, scope: &Scope, id: NameId, value: Value) {
    if let Err(error) = values.set(scope, id, value) {
        tracing::error!(%error, "a value does not fit its name");
    }
}

/// Sets the text of a built-in name.
pub(super) fn assign_text(values: &mut Values, scope: &Scope, name: &str, text: &str) {
    if let Err(error) = values.set_text(scope, name, text) {
        tracing::error!(%error, "a text does not fit its name");
    }
}
