//! The bytes of an entry.

use super::{Entry, EntryKind, Plan, PlanError};
use crate::codes;
use crate::formats::{self, Holds, LARGEST_PARSED};
use crate::mold::BodyFile;
use crate::near::Near;
use crate::parallel;
use tinmold_notation::{Finding, Position, Span, Values, compile, origin};

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
        if !self.needs_source(entry) {
            return Ok(Rendered::AsIs);
        }
        let mut bytes = Vec::new();
        self.read(entry, &mut bytes, &mut Near::default())?;
        self.render_from(entry, &bytes, out)
    }

    /// Whether what an entry holds is made from the bytes of its source, by rendering or at least by looking at them.
    pub(crate) fn needs_source(&self, entry: &Entry) -> bool {
        match entry.kind {
            EntryKind::Text => true,
            EntryKind::Copy => {
                let file = self.body(entry);
                let holds = file.holds.unwrap_or_else(|| Holds::of_path(&entry.path));
                holds != Holds::Text && self.mold.package.files[file.file].len() <= LARGEST_PARSED
            }
            EntryKind::Folder | EntryKind::Link(_) => false,
        }
    }

    /// Puts the bytes of an entry's source into `bytes`.
    pub(crate) fn read(&self, entry: &Entry, bytes: &mut Vec<u8>, near: &mut Near) -> Result<(), Finding> {
        let file = self.body(entry);
        self.mold.package.files[file.file].read_into(bytes, near).map_err(|error| Finding {
            file: self.mold.path_of(file).into(),
            span: Span::default(),
            code: codes::UNREADABLE_FILE,
            message: error.to_string(),
            help: String::new(),
        })
    }

    /// The same as `render`, of an entry that needs its source, from the bytes of the source.
    pub(crate) fn render_from(
        &self,
        entry: &Entry,
        bytes: &[u8],
        out: &mut Vec<u8>,
    ) -> Result<Rendered, PlanError> {
        out.clear();
        let file = self.body(entry);
        let name = self.mold.path_of(file);
        let holds = file.holds.unwrap_or_else(|| Holds::of_path(&entry.path));
        if entry.kind == EntryKind::Copy {
            let same = |at| Some(Span::new(at, at + 1));
            self.well_formed(entry, holds, bytes, same)?;
            return Ok(Rendered::AsIs);
        }
        let Ok(text) = std::str::from_utf8(bytes) else {
            self.well_formed(entry, holds, bytes, |_| None)?;
            out.extend_from_slice(bytes);
            return Ok(Rendered::Bytes);
        };
        let setting = self.mold.setting_of(file);
        let compiled = compile(name, text, self.mold.scope_of(file), &setting);
        let Some(program) = compiled.program else {
            let errors = compiled.findings.into_iter().filter(Finding::is_error);
            return Err(PlanError::Faulty(errors.collect()));
        };
        let own: Values;
        let values = if entry.element.is_some() {
            own = self.values_with(file, entry.element.as_ref());
            &own
        } else {
            &self.answers.values
        };
        program.render(values, &self.budget, out)?;
        let from = |at| origin(name, text, self.mold.scope_of(file), &setting, values, at);
        self.well_formed(entry, holds, out, from)?;
        Ok(Rendered::Bytes)
    }

    /// Whether what comes out is of its format. `from` tells where in the body a byte of it comes from.
    fn well_formed(
        &self,
        entry: &Entry,
        holds: Holds,
        bytes: &[u8],
        from: impl Fn(usize) -> Option<Span>,
    ) -> Result<(), Finding> {
        let Err(wrong) = formats::check(holds, bytes) else { return Ok(()) };
        let file: &BodyFile = self.body(entry);
        let text = String::from_utf8_lossy(bytes);
        let place = Position::of(&text, wrong.at);
        let line = text.lines().nth(place.line - 1).unwrap_or("").trim();
        let short: String = line.chars().take(120).collect();
        Err(Finding {
            file: self.mold.path_of(file).into(),
            span: from(wrong.at).unwrap_or_default(),
            code: codes::MALFORMED_OUTPUT,
            message: format!(
                "{} would not be {}: {} at line {}, column {} of what comes out",
                entry.path, wrong.format, wrong.reason, place.line, place.column
            ),
            help: format!("that line is: {short}"),
        })
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
