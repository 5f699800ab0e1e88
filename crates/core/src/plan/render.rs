//! The bytes of an entry.

use super::{Entry, EntryKind, Plan, PlanError};
use crate::codes;
use crate::parallel;
use tinmold_notation::{Finding, Span, Values, compile};

/// What an entry's file holds.
#[derive(Debug)]
pub enum Rendered {
    /// These bytes, in the buffer that was given.
    Bytes,
    /// The body's file as it is.
    AsIs,
}

impl Plan<'_> {
    /// Puts the bytes of an entry into `out`, or says that they are those of the body's file.
    ///
    /// # Errors
    /// Mistakes in the file, and a file that cannot be read.
    pub fn render(&self, entry: &Entry, out: &mut Vec<u8>) -> Result<Rendered, PlanError> {
        out.clear();
        if entry.kind != EntryKind::Text {
            return Ok(Rendered::AsIs);
        }
        let file = self.body(entry);
        let name = format!("body/{}", file.path);
        let bytes = self.mold.package.files[file.file].read().map_err(|error| Finding {
            file: name.as_str().into(),
            span: Span::default(),
            code: codes::UNREADABLE_FILE,
            message: error.to_string(),
            help: String::new(),
        })?;
        let Ok(text) = std::str::from_utf8(&bytes) else {
            out.extend_from_slice(&bytes);
            return Ok(Rendered::Bytes);
        };
        let setting = self.mold.setting_of(file);
        let compiled = compile(&name, text, self.mold.scope_of(file), &setting);
        let Some(program) = compiled.program else {
            let errors = compiled.findings.into_iter().filter(Finding::is_error);
            return Err(PlanError::Faulty(errors.collect()));
        };
        let own: Values;
        let values = if entry.element.is_some() {
            own = self.values_with(file, entry.element.as_ref());
            &own
        } else {
            &self.values
        };
        program.render(values, &self.budget, out)?;
        Ok(Rendered::Bytes)
    }

    /// The number of bytes of every entry, in the entries' order.
    ///
    /// # Errors
    /// Every mistake that rendering meets.
    pub fn sizes(&self) -> Result<Vec<u64>, PlanError> {
        let results = parallel::map(&self.entries, |_, entry| {
            let mut buffer = Vec::new();
            self.render(entry, &mut buffer).map(|rendered| match rendered {
                Rendered::Bytes => buffer.len() as u64,
                Rendered::AsIs => self.mold.package.files[self.body(entry).file].len(),
            })
        });
        let mut sizes = Vec::with_capacity(results.len());
        let mut findings = Vec::new();
        for result in results {
            match result {
                Ok(size) => sizes.push(size),
                Err(PlanError::Faulty(found)) => findings.extend(found),
            }
        }
        if findings.is_empty() {
            return Ok(sizes);
        }
        tinmold_notation::sort_findings(&mut findings);
        Err(PlanError::Faulty(findings))
    }
}
