//! The bytes of an entry.

use super::{Entry, EntryKind, Plan, PlanError};
use crate::codes;
use crate::formats::{self, Holds, LARGEST_PARSED};
use crate::mold::BodyFile;
use crate::near::Near;
use crate::parallel;
use crate::shelf::Content;
use std::ops::Range;
use tinmold_notation::{Finding, Position, Renderer, Span, origin};

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
    pub fn render(&self, entry: &Entry<'_>, out: &mut Vec<u8>) -> Result<Rendered, PlanError> {
        self.rendering().render(entry, out)
    }

    /// For rendering many entries, one after another.
    pub(crate) fn rendering(&self) -> Rendering<'_> {
        Rendering {
            plan: self,
            renderer: Renderer::new(&self.mold.scope, &self.answers.values, &self.budget, self.entries.len()),
            near: Near::default(),
            room: Vec::new(),
        }
    }

    /// Whether what an entry holds is made from the bytes of its source, by rendering or at least by looking at them.
    pub(crate) fn needs_source(&self, entry: &Entry<'_>) -> bool {
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

    /// Whether what comes out is of its format. `from` tells where in the body a byte of it comes from.
    fn well_formed(
        &self,
        entry: &Entry<'_>,
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
        let tools = || (self.rendering(), Vec::new());
        let results = parallel::map_with(&self.entries, tools, |(rendering, buffer), _, entry| {
            rendering.render(entry, buffer).map(|rendered| match rendered {
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

/// Where the bytes of a source are.
pub(crate) enum Source<'p> {
    /// In the mold.
    Held(&'p [u8]),
    /// Here in the room that they were read into.
    Read(Range<usize>),
}

impl<'p> Source<'p> {
    /// The bytes themselves, with the room.
    pub(crate) fn bytes<'s>(&self, room: &'s [u8]) -> &'s [u8]
    where
        'p: 's,
    {
        match self {
            Self::Held(bytes) => bytes,
            Self::Read(place) => &room[place.clone()],
        }
    }
}

/// Renders entries of a plan one after another, and remembers what their bodies have in common.
pub(crate) struct Rendering<'p> {
    plan: &'p Plan<'p>,
    renderer: Renderer<'p>,
    near: Near,
    /// The source at hand.
    room: Vec<u8>,
}

impl<'p> Rendering<'p> {
    /// Puts the bytes of an entry into `out`, or says that they are those of the body's file.
    ///
    /// # Errors
    /// Mistakes in the file, and a file that cannot be read.
    pub(crate) fn render(&mut self, entry: &Entry<'_>, out: &mut Vec<u8>) -> Result<Rendered, PlanError> {
        out.clear();
        if !self.plan.needs_source(entry) {
            return Ok(Rendered::AsIs);
        }
        let mut room = std::mem::take(&mut self.room);
        room.clear();
        let rendered = self
            .read(entry, &mut room)
            .map_err(PlanError::from)
            .and_then(|source| self.render_from(entry, source.bytes(&room), out));
        self.room = room;
        rendered
    }

    /// Puts the bytes of an entry's source behind what is in `room`, unless the mold holds them in memory.
    ///
    /// # Errors
    /// The file cannot be read.
    pub(crate) fn read(&mut self, entry: &Entry<'_>, room: &mut Vec<u8>) -> Result<Source<'p>, Finding> {
        let file = self.plan.body(entry);
        let source = &self.plan.mold.package.files[file.file];
        if let Content::Held(held) = &source.content {
            return Ok(Source::Held(held));
        }
        let start = room.len();
        match source.read_into(room, &mut self.near) {
            Ok(()) => Ok(Source::Read(start..room.len())),
            Err(error) => Err(Finding {
                file: self.plan.mold.path_of(file).into(),
                span: Span::default(),
                code: codes::UNREADABLE_FILE,
                message: error.to_string(),
                help: String::new(),
            }),
        }
    }

    /// Puts the bytes of an entry that needs its source behind what is in `out`, or says that they are `bytes`, those of the source.
    ///
    /// # Errors
    /// Mistakes in the file; some of it may stand in `out` then.
    pub(crate) fn render_from(
        &mut self,
        entry: &Entry<'_>,
        bytes: &[u8],
        out: &mut Vec<u8>,
    ) -> Result<Rendered, PlanError> {
        let plan = self.plan;
        let file = plan.body(entry);
        let name = plan.mold.path_of(file);
        let holds = file.holds.unwrap_or_else(|| Holds::of_path(&entry.path));
        let text = if entry.kind == EntryKind::Copy { None } else { simdutf8::basic::from_utf8(bytes).ok() };
        let Some(text) = text else {
            plan.well_formed(entry, holds, bytes, |at| Some(Span::new(at, at + 1)))?;
            return Ok(Rendered::AsIs);
        };
        let start = out.len();
        let (scope, setting) = (plan.mold.scope_of(file), plan.mold.setting_of(file));
        // A file for an element has values of its own.
        let own = entry.element.as_ref().map(|element| plan.values_with(file, Some(element)));
        let values = own.as_ref().unwrap_or(&plan.answers.values);
        let rendered = match &own {
            Some(own) => Renderer::new(scope, own, &plan.budget, 1).render(name, text, &setting, out),
            None => self.renderer.render(name, text, &setting, out),
        };
        rendered.map_err(PlanError::Faulty)?;
        let from = |at| origin(name, text, scope, &setting, values, at);
        plan.well_formed(entry, holds, &out[start..], from)?;
        Ok(Rendered::Bytes)
    }
}
