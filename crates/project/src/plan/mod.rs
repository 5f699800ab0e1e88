//! A mold and answers become the list of what is to be written. Nothing is touched yet.

mod entry;
mod limits;
mod render;

pub use entry::{Entry, EntryKind, LeftOut};
pub use limits::Limits;
pub use render::Rendered;
pub(crate) use render::Rendering;

use crate::answers::Answers;
use std::borrow::Cow;
use std::collections::HashMap;
use std::sync::LazyLock;
use std::sync::atomic::{AtomicBool, Ordering};
use tinmold_mold::{BodyFile, Content, Mold, PackageError, codes, has_tag, name_label};
use tinmold_notation::{Budget, Finding, Setting, Span, Value, Values, compile_name};

/// The entries that a cast writes.
#[derive(Debug)]
pub struct Plan<'m> {
    /// The mold.
    pub mold: &'m Mold,
    /// The answers, whose values its body is rendered with.
    pub answers: Answers,
    /// The entries to write, sorted by path.
    pub entries: Vec<Entry<'m>>,
    /// Files that are left out, with the reason.
    pub left_out: Vec<LeftOut>,
    /// The budget of rendering.
    pub budget: Budget,
    /// The budget of all files together.
    pub limits: Limits,
    /// True once a text was rendered that names the user's email address.
    names_email: AtomicBool,
}

/// Why no plan can be made.
#[derive(Debug, thiserror::Error)]
pub enum PlanError {
    /// Mistakes of the mold that only these answers show.
    #[error("the mold has mistakes")]
    Faulty(Vec<Finding>),
    /// A file of the mold changed while it was used.
    #[error(transparent)]
    Package(#[from] PackageError),
}

impl From<Finding> for PlanError {
    fn from(finding: Finding) -> Self {
        Self::Faulty(vec![finding])
    }
}

impl<'m> Plan<'m> {
    /// Decides every entry: its path, its conditions, its elements.
    ///
    /// # Errors
    /// Names and conditions that cannot be rendered with these answers; more entries than `limits` has.
    pub fn new(mold: &'m Mold, answers: &Answers, limits: &Limits) -> Result<Self, PlanError> {
        Self::of_files(mold, answers, limits, 0..mold.body.len())
    }

    /// Decides the entries of these files of the body only, by their indices.
    ///
    /// # Errors
    /// As for [`Plan::new`].
    pub fn of_files(
        mold: &'m Mold,
        answers: &Answers,
        limits: &Limits,
        files: impl IntoIterator<Item = usize>,
    ) -> Result<Self, PlanError> {
        let mut names = Names { mold, seen: HashMap::new(), budget: Budget::new(limits.bytes) };
        let mut plan = Self {
            mold,
            answers: answers.clone(),
            entries: Vec::with_capacity(mold.body.len()),
            left_out: Vec::new(),
            budget: Budget::new(limits.bytes),
            limits: *limits,
            names_email: AtomicBool::new(false),
        };
        for at in files {
            plan.add(at, &mold.body[at], &mut names)?;
        }
        plan.entries.sort_by(|a, b| a.path.cmp(&b.path));
        plan.left_out.sort_by(|a, b| a.path.cmp(&b.path));
        Ok(plan)
    }

    fn add(&mut self, at: usize, file: &'m BodyFile, names: &mut Names<'m>) -> Result<(), PlanError> {
        for when in &file.whens {
            if !when.holds(&self.mold.scope, &self.answers.values)? {
                let reason = format!("`{}` does not hold", when.text());
                self.left_out.push(LeftOut { path: self.mold.path_in_body(file).to_owned(), reason });
                return Ok(());
            }
        }
        let Some(each) = file.each else {
            let path = names.path(file, &self.answers.values, None)?;
            return self.enter(at, file, path, None);
        };
        let rule = &self.mold.each[each];
        let Value::List(elements) = rule.list.evaluate(&self.mold.scope, &self.answers.values)? else {
            return Ok(());
        };
        if elements.is_empty() {
            let reason = format!("`{}` is empty", rule.list.text());
            self.left_out.push(LeftOut { path: self.mold.path_in_body(file).to_owned(), reason });
        }
        let mut values = self.answers.values.clone();
        for element in elements {
            self.set_element(&mut values, file, &element);
            let path = names.path(file, &values, Some(&element))?;
            self.enter(at, file, path, Some(element))?;
        }
        Ok(())
    }

    fn enter(
        &mut self,
        at: usize,
        file: &'m BodyFile,
        path: Option<Cow<'m, str>>,
        element: Option<Value>,
    ) -> Result<(), PlanError> {
        let Some(path) = path else {
            let reason = "the condition in its name does not hold".to_owned();
            self.left_out.push(LeftOut { path: self.mold.path_in_body(file).to_owned(), reason });
            return Ok(());
        };
        let source = &self.mold.package.files[file.file];
        let kind = match &source.content {
            Content::Link(target) => EntryKind::Link(target),
            Content::EmptyFolder => EntryKind::Folder,
            _ if file.copy => EntryKind::Copy,
            _ => EntryKind::Text,
        };
        self.entries.push(Entry { path, kind, body: at, element: element.map(Box::new) });
        if self.entries.len() <= self.limits.files {
            return Ok(());
        }
        Err(PlanError::from(Finding::new(
            self.mold.path_of(file),
            Span::default(),
            codes::TOO_MANY_FILES,
            format!("the mold makes more than {} files", self.limits.files),
            "shorten the list that a file is made for each of; the limit is `files` of [limits] in the configuration",
        )))
    }

    /// Sets the element that a file is for in the values that it sees.
    pub(crate) fn set_element(&self, values: &mut Values, file: &BodyFile, element: &Value) {
        if let Some(each) = file.each {
            let rule = &self.mold.each[each];
            if let Err(error) = values.set(&rule.scope, rule.element, element.clone()) {
                tracing::error!(?error, "an element does not fit its list");
            }
        }
    }

    /// Notes a text that is rendered.
    pub(crate) fn note_text(&self, text: &str) {
        if names_email(text) {
            self.names_email.store(true, Ordering::Relaxed);
        }
    }

    /// Returns true if the mold uses the user's email address, as far as it was rendered.
    pub(crate) fn uses_email(&self) -> bool {
        self.names_email.load(Ordering::Relaxed)
            || names_email(&self.mold.source)
            || self.mold.body.iter().any(|file| file.path_is_rendered && names_email(self.mold.path_of(file)))
            || self.mold.package.files.iter().any(|file| {
                let is_fragment = file.path.starts_with("fragments/") || file.path.contains("/fragments/");
                is_fragment && file.read().is_ok_and(|bytes| names_email(&String::from_utf8_lossy(&bytes)))
            })
    }

    /// Returns the permission bits of an entry. A file of this machine only is its owner's.
    #[must_use]
    pub fn mode(&self, entry: &Entry<'_>) -> u32 {
        let body = self.body(entry);
        let mode = self.mold.package.files[body.file].mode();
        if body.local { mode & 0o700 } else { mode }
    }

    /// Returns the body file that an entry is rendered from.
    #[must_use]
    pub fn body(&self, entry: &Entry<'_>) -> &'m BodyFile {
        &self.mold.body[entry.body]
    }
}

/// Returns true if a source may use `user.email`, with or without white space at the dot.
fn names_email(text: &str) -> bool {
    static EMAIL: LazyLock<memchr::memmem::Finder<'_>> =
        LazyLock::new(|| memchr::memmem::Finder::new("email"));
    EMAIL.find_iter(text.as_bytes()).any(|at| {
        let before = text[..at].trim_end();
        before.strip_suffix('.').is_some_and(|before| before.trim_end().ends_with("user"))
    })
}

/// The rendered names of folders and files; a folder's name is rendered once for all that is in it.
struct Names<'m> {
    mold: &'m Mold,
    seen: HashMap<&'m str, Option<String>>,
    budget: Budget,
}

impl<'m> Names<'m> {
    /// Returns the rendered path; `None` if an `if` in it chose nothing.
    fn path(
        &mut self,
        file: &'m BodyFile,
        values: &Values,
        element: Option<&Value>,
    ) -> Result<Option<Cow<'m, str>>, Finding> {
        let whole = self.mold.path_in_body(file);
        if !file.path_is_rendered {
            return Ok(Some(Cow::Borrowed(whole)));
        }
        let mut path = String::with_capacity(whole.len());
        let mut end = 0;
        for part in whole.split('/') {
            end += part.len() + 1;
            let source = &whole[..end - 1];
            let rendered = match self.seen.get(source).filter(|_| element.is_none()) {
                Some(rendered) => rendered.clone(),
                None => {
                    let rendered = self.part(file, source, part, values)?;
                    if element.is_none() {
                        self.seen.insert(source, rendered.clone());
                    }
                    rendered
                }
            };
            let Some(rendered) = rendered else { return Ok(None) };
            if !path.is_empty() {
                path.push('/');
            }
            path.push_str(&rendered);
        }
        Ok(Some(Cow::Owned(path)))
    }

    fn part(
        &self,
        file: &BodyFile,
        source: &str,
        part: &str,
        values: &Values,
    ) -> Result<Option<String>, Finding> {
        if !has_tag(part) {
            return Ok(Some(part.to_owned()));
        }
        let setting = Setting::for_name();
        let compiled = compile_name(
            &name_label(self.mold.home_of(file), source),
            part,
            self.mold.scope_of(file),
            &setting,
        );
        let Some(program) = compiled.program else {
            // Names were compiled when the mold was loaded.
            return Ok(None);
        };
        let name = program.render_text(values, &self.budget)?;
        Ok(Some(name).filter(|name| !name.is_empty()))
    }
}
