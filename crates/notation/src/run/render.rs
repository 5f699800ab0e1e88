//! Rendering a program, or evaluating it.

use super::{Machine, settle};
use crate::budget::Budget;
use crate::finding::Finding;
use crate::program::Program;
use crate::value::Value;
use crate::values::Values;

impl Program<'_> {
    /// Appends what the program makes of `values` to `out`.
    ///
    /// # Errors
    /// The finding that stopped it: an overflow, a division by zero, an index outside a list, an
    /// argument that a view cannot use, or the limit of `budget`. `out` is then as it was.
    pub fn render(&self, values: &Values, budget: &Budget, out: &mut Vec<u8>) -> Result<(), Finding> {
        let start = out.len();
        let result = Machine::new(self, values, budget, out).run_root();
        match result {
            Ok(()) if self.json => settle(out, start),
            Ok(()) => {}
            Err(_) => out.truncate(start),
        }
        result
    }

    /// Renders `values` to a text.
    ///
    /// # Errors
    /// As for [`Program::render`].
    pub fn render_text(&self, values: &Values, budget: &Budget) -> Result<String, Finding> {
        let mut out = Vec::new();
        self.render(values, budget, &mut out)?;
        Ok(String::from_utf8(out)
            .unwrap_or_else(|bytes| String::from_utf8_lossy(bytes.as_bytes()).into_owned()))
    }

    /// Returns the value of a program that was compiled from an expression.
    ///
    /// # Errors
    /// As for [`Program::render`].
    pub fn evaluate(&self, values: &Values, budget: &Budget) -> Result<Value, Finding> {
        let mut out = Vec::new();
        Machine::new(self, values, budget, &mut out).evaluate()
    }
}
