//! The bytes of an entry.

use super::entry::{Entry, EntryKind};
use super::{Plan, PlanError};
use tinmold_mold::formats;
use tinmold_mold::{BodyFile, Content, Holds, PackageError, codes};
use tinmold_notation::{
    Finding, Place, Position, Renderer, Scope, Setting, Span, Trace, Values, coverage, origin, trace,
};
use tinmold_platform::digest::Digest;
use tinmold_platform::dir_handle::DirHandle;
use tinmold_platform::parallel;

/// The content of an entry's file.
#[derive(Debug)]
pub enum Rendered {
    /// These bytes, in the buffer that was given.
    Bytes,
    /// The body's file as it is.
    AsIs,
}

impl Plan<'_> {
    /// Appends the bytes of an entry to `out`, or reports that they are those of the body file.
    ///
    /// # Errors
    /// Mistakes in the file, and a file that cannot be read.
    pub fn render(&self, entry: &Entry<'_>, out: &mut Vec<u8>) -> Result<Rendered, PlanError> {
        self.rendering().render(entry, out)
    }

    /// Renders many entries, one after another.
    pub(crate) fn rendering(&self) -> Rendering<'_> {
        Rendering {
            plan: self,
            renderer: Renderer::new(&self.mold.scope, &self.answers.values, &self.budget, self.entries.len()),
            directory: DirHandle::default(),
            source: Vec::new(),
            digest: None,
            with_element: None,
        }
    }

    /// Returns the output of an entry with where it comes from; `None` if it is not rendered, cannot be read
    /// or has a mistake.
    #[must_use]
    pub fn trace(&self, entry: &Entry<'_>) -> Option<Trace> {
        self.look(entry, trace)
    }

    /// Returns the place in the body that a byte of an entry's output comes from; `None` as for
    /// [`Plan::trace`].
    #[must_use]
    pub fn origin(&self, entry: &Entry<'_>, at: usize) -> Option<Span> {
        self.look(entry, |name, text, scope, setting, values| origin(name, text, scope, setting, values, at))
    }

    /// Returns the places of an entry's body file, and which of them its rendering reaches; `None` as for
    /// [`Plan::trace`].
    #[must_use]
    pub fn coverage(&self, entry: &Entry<'_>) -> Option<Vec<(Place, bool)>> {
        self.look(entry, |name, text, scope, setting, values| {
            coverage(name, text, scope, setting, values, &self.budget)
        })
    }

    /// Calls `look` with what an entry is rendered from; `None` if it is not rendered or cannot be read.
    fn look<T>(
        &self,
        entry: &Entry<'_>,
        look: impl FnOnce(&str, &str, &Scope, &Setting<'_>, &Values) -> Option<T>,
    ) -> Option<T> {
        let file = self.body(entry);
        let bytes =
            self.mold.package.files[file.file].read().ok().filter(|_| entry.kind == EntryKind::Text)?;
        let text = std::str::from_utf8(&bytes).ok()?;
        let mut values = self.answers.values.clone();
        if let Some(element) = &entry.element {
            self.set_element(&mut values, file, element);
        }
        look(self.mold.path_of(file), text, self.mold.scope_of(file), &self.mold.setting_of(file), &values)
    }

    /// Checks the format of the output. `from` maps a byte of it to its origin in the body.
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
        let message = format!(
            "{} would not be {}: {} at line {}, column {} of the output",
            entry.path, wrong.format, wrong.reason, place.line, place.column
        );
        let span = from(wrong.at).unwrap_or_default();
        let help = format!("that line is: {short}");
        Err(Finding::new(self.mold.path_of(file), span, codes::MALFORMED_OUTPUT, message, help))
    }

    /// Returns the bytes of an entry, also where they are those of the body file.
    ///
    /// # Errors
    /// What [`Plan::render`] returns.
    pub fn content(&self, entry: &Entry<'_>) -> Result<Vec<u8>, PlanError> {
        let mut bytes = Vec::new();
        if let Rendered::AsIs = self.render(entry, &mut bytes)? {
            bytes = self.mold.package.files[self.body(entry).file].read()?.into_owned();
        }
        Ok(bytes)
    }

    /// Renders every entry, and returns what `each` makes of it and of its bytes, in the entries' order.
    ///
    /// # Errors
    /// Every mistake that rendering meets.
    pub(crate) fn map_rendered<T: Send>(
        &self,
        each: impl Fn(&Entry<'_>, &Rendered, &[u8]) -> Result<T, PlanError> + Sync + Send,
    ) -> Result<Vec<T>, PlanError> {
        let tools = || (self.rendering(), Vec::new());
        let results = parallel::map_with(&self.entries, tools, |(rendering, buffer), _, entry| {
            let rendered = rendering.render(entry, buffer)?;
            each(entry, &rendered, buffer)
        });
        let mut all = Vec::with_capacity(results.len());
        let mut findings = Vec::new();
        for result in results {
            match result {
                Ok(one) => all.push(one),
                Err(PlanError::Faulty(found)) => findings.extend(found),
                Err(other) => return Err(other),
            }
        }
        if findings.is_empty() {
            return Ok(all);
        }
        tinmold_notation::sort_findings(&mut findings);
        Err(PlanError::Faulty(findings))
    }

    /// Returns the number of bytes of every entry, in the entries' order.
    ///
    /// # Errors
    /// Every mistake that rendering meets.
    pub fn sizes(&self) -> Result<Vec<u64>, PlanError> {
        self.map_rendered(|entry, rendered, bytes| {
            Ok(match rendered {
                Rendered::Bytes => bytes.len() as u64,
                Rendered::AsIs => self.mold.package.files[self.body(entry).file].len(),
            })
        })
    }
}

/// Renders entries of a plan one after another and reuses what their bodies have in common.
pub(crate) struct Rendering<'p> {
    plan: &'p Plan<'p>,
    renderer: Renderer<'p>,
    directory: DirHandle,
    /// The bytes of the last source, if they were read from disk.
    source: Vec<u8>,
    /// The digest of the last source, if it is known.
    digest: Option<Digest>,
    /// The values with an element, for files that are for one.
    with_element: Option<Values>,
}

impl Rendering<'_> {
    /// Appends the bytes of an entry to `out`, or reports that they are those of the body file.
    ///
    /// # Errors
    /// Mistakes in the file, and a file that cannot be read.
    pub(crate) fn render(&mut self, entry: &Entry<'_>, out: &mut Vec<u8>) -> Result<Rendered, PlanError> {
        out.clear();
        self.source.clear();
        self.digest = None;
        let plan = self.plan;
        if entry.kind != EntryKind::Text {
            return Ok(Rendered::AsIs);
        }
        let file = plan.body(entry);
        let source = &plan.mold.package.files[file.file];
        if let Content::Held(held) = &source.content {
            return self.render_bytes(entry, held, out);
        }
        let mut bytes = std::mem::take(&mut self.source);
        let result = match source.read_into(&mut bytes, &mut self.directory).and_then(|()| source.digest()) {
            Ok(digest) => {
                self.digest = Some(digest);
                self.render_bytes(entry, &bytes, out)
            }
            Err(error @ PackageError::Changed(_)) => Err(error.into()),
            Err(error) => {
                let path = plan.mold.path_of(file);
                let message = error.to_string();
                Err(Finding::new(path, Span::default(), codes::UNREADABLE_FILE, message, "").into())
            }
        };
        self.source = bytes;
        result
    }

    /// Returns the digest of the last source if `out` is the same bytes.
    pub(crate) fn digest_if_same(&self, out: &[u8]) -> Option<Digest> {
        self.digest.filter(|_| self.source == out)
    }

    fn render_bytes(
        &mut self,
        entry: &Entry<'_>,
        bytes: &[u8],
        out: &mut Vec<u8>,
    ) -> Result<Rendered, PlanError> {
        let plan = self.plan;
        let file = plan.body(entry);
        let name = plan.mold.path_of(file);
        let holds = file.holds.unwrap_or_else(|| Holds::of_path(&entry.path));
        let Ok(text) = std::str::from_utf8(bytes) else {
            plan.well_formed(entry, holds, bytes, |at| Some(Span::new(at, at + 1)))?;
            out.extend_from_slice(bytes);
            return Ok(Rendered::Bytes);
        };
        plan.note_text(text);
        let (scope, setting) = (plan.mold.scope_of(file), plan.mold.setting_of(file));
        // A file for an element has values of its own.
        let own = entry.element.as_ref().map(|element| {
            let values = self.with_element.get_or_insert_with(|| plan.answers.values.clone());
            plan.set_element(values, file, element);
            &*values
        });
        let values = own.unwrap_or(&plan.answers.values);
        let rendered = match own {
            Some(own) => Renderer::new(scope, own, &plan.budget, 1).render(name, text, &setting, out),
            None => self.renderer.render(name, text, &setting, out),
        };
        rendered.map_err(PlanError::Faulty)?;
        plan.well_formed(entry, holds, out, |at| origin(name, text, scope, &setting, values, at))?;
        Ok(Rendered::Bytes)
    }
}
