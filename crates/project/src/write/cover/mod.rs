//! Files of this machine only stay out of git and of images.
//!
//! Cover is judged by the rules of git itself, on the ignore files that will be there after the write:
//! kept, replaced, nested, those of an enclosing repository, and its `info/exclude`. The user's global
//! ignore file does not count: a colleague does not have it.

mod patterns;
mod repository;

use super::change::Change;
use super::decision::Choice;
use super::inspect::Inspection;
use super::state::FileState;
use crate::plan::{Plan, Rendered};
use crate::verify::VerifiedPlan;
use patterns::{GitPatterns, git_ignores, image_ignores};
use repository::Repository;
use std::borrow::Cow;
use std::path::PathBuf;
use tinmold_mold::codes;
use tinmold_notation::{Finding, Span};
use tinmold_platform::paths::{joined, parent_of, resolved};
use tinmold_platform::root_dir::{ReadError, RootDir};

/// A file of this machine only that would get into git or into an image.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Uncovered {
    /// The path in the project.
    pub path: String,
    /// Where it would get into.
    pub into: Exposure,
    /// The line that keeps it out; none if no line does.
    pub line: Option<IgnoreLine>,
}

/// Where a file of this machine only would get into. Displayed as a clause that follows the path.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Exposure {
    /// Git would commit it.
    #[error("is not ignored by git")]
    Git,
    /// Git has it already, and ignore files do not matter.
    #[error("is tracked by git already; take it out: git rm --cached")]
    Tracked,
    /// A container build would copy it.
    #[error("is not kept out of the container image")]
    Image,
}

/// A line of an ignore file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct IgnoreLine {
    /// The path of the ignore file in the project.
    pub file: String,
    /// The line.
    pub line: String,
}

/// Names of files that a container is built from.
const IMAGE_FILES: [&str; 2] = ["Containerfile", "Dockerfile"];
/// Names of ignore files of container builders.
const IMAGE_IGNORES: [&str; 2] = [".containerignore", ".dockerignore"];

/// Returns the local files of the plan that are not covered after it is written to the inspected folder.
/// `choices` decide about the conflicts, in their order; `changes` are those of a fit. Files that are in
/// the way and not decided about count as kept.
#[must_use]
pub fn uncovered(
    plan: &Plan<'_>,
    inspection: Option<&Inspection>,
    choices: &[Choice],
    changes: &[Change],
) -> Vec<Uncovered> {
    let local: Vec<&str> =
        plan.entries.iter().filter(|entry| plan.body(entry).local).map(|entry| &*entry.path).collect();
    if local.is_empty() {
        return Vec::new();
    }
    let after = After::new(plan, inspection, choices, changes);
    local.into_iter().flat_map(|path| after.in_git(path).into_iter().chain(after.in_image(path))).collect()
}

/// Returns the text of an ignore file after the write, with the lines that the user accepted.
///
/// # Errors
/// The file that is there cannot be read.
pub(crate) fn ignore_file_after(
    plan: &VerifiedPlan<'_>,
    inspection: &Inspection,
    choices: &[Choice],
    changes: &[Change],
    path: &str,
) -> Result<Vec<u8>, ReadError> {
    let after = After::new(plan, Some(inspection), choices, changes);
    Ok(after.text(path)?.unwrap_or_default().into_owned())
}

/// Returns a finding for each local file that the mold itself does not cover in a new project.
#[must_use]
pub fn findings(plan: &Plan<'_>) -> Vec<Finding> {
    let uncovered = uncovered(plan, None, &[], &[]);
    let of = |one: &Uncovered| plan.entries.iter().find(|entry| *entry.path == *one.path);
    let found = uncovered.iter().filter_map(|one| {
        let (entry, line) = (of(one)?, one.line.as_ref()?);
        let message = format!("{} is for this machine only, and {}", one.path, one.into);
        let help = format!("add the line `{}` to the {} that the mold casts", line.line, line.file);
        let file = plan.mold.path_of(plan.body(entry));
        Some(Finding::new(file, Span::default(), codes::UNCOVERED_SECRET, message, help))
    });
    found.collect()
}

/// Returns the entries of a new project that git would not commit although they are for everybody, by their index.
#[must_use]
pub fn ignored(plan: &Plan<'_>) -> Vec<usize> {
    if !plan.entries.iter().any(|entry| entry.path.ends_with(".gitignore")) {
        return Vec::new();
    }
    let after = After::new(plan, None, &[], &[]);
    let entries = plan.entries.iter().enumerate().filter(|(_, entry)| !plan.body(entry).local);
    entries.filter(|(_, entry)| after.in_git(&entry.path).is_none()).map(|(at, _)| at).collect()
}

/// The project as it will be after a write.
struct After<'a> {
    plan: &'a Plan<'a>,
    inspection: Option<&'a Inspection>,
    choices: &'a [Choice],
    changes: &'a [Change],
    /// The path of the destination, with its links resolved.
    folder: Option<PathBuf>,
    /// The destination, if it exists.
    root: Option<RootDir>,
}

impl<'a> After<'a> {
    fn new(
        plan: &'a Plan<'a>,
        inspection: Option<&'a Inspection>,
        choices: &'a [Choice],
        changes: &'a [Change],
    ) -> Self {
        let folder = inspection.map(|inspection| resolved(&inspection.folder));
        let root = folder.as_ref().and_then(|folder| RootDir::open(folder).ok());
        Self { plan, inspection, choices, changes, folder, root }
    }

    /// Returns the text of a file after the write, with the lines that the user accepted; `None` if there is none.
    fn text(&self, path: &str) -> Result<Option<Cow<'_, [u8]>>, ReadError> {
        let text = match self.written(path) {
            Some(text) => Some(text),
            None => self.present(path)?.map(Cow::Owned),
        };
        let accepted = self.inspection.map_or(&[][..], Inspection::ignore_lines);
        let mut lines = accepted.iter().filter(|line| line.file == path).peekable();
        if lines.peek().is_none() {
            return Ok(text);
        }
        let mut text = text.unwrap_or_default().into_owned();
        let ending: &[u8] = if text.contains(&b'\r') { b"\r\n" } else { b"\n" };
        for line in lines {
            if !text.is_empty() && !text.ends_with(b"\n") {
                text.extend_from_slice(ending);
            }
            text.extend_from_slice(line.line.as_bytes());
            text.extend_from_slice(ending);
        }
        Ok(Some(Cow::Owned(text)))
    }

    /// Returns the same for judging: a file that cannot be read keeps nothing out.
    fn readable(&self, path: &str) -> Option<Cow<'_, [u8]>> {
        self.text(path).ok().flatten()
    }

    /// Returns the text that is written, if the file is.
    fn written(&self, path: &str) -> Option<Cow<'_, [u8]>> {
        if let Some(change) = self.changes.iter().find(|change| change.path == path) {
            return Some(Cow::Borrowed(change.after.as_bytes()));
        }
        let at = self.plan.entries.iter().position(|entry| entry.path == path)?;
        let is_written = match self.inspection.map(|inspection| inspection.state(at)) {
            None | Some(FileState::Absent | FileState::Same) => true,
            Some(FileState::Different) => {
                let files = self.inspection.map_or(&[][..], |inspection| &inspection.files[..at]);
                let number = files.iter().filter(|file| file.state == FileState::Different).count();
                self.choices.get(number) == Some(&Choice::Replace)
            }
            _ => false,
        };
        if !is_written {
            return None;
        }
        let mut bytes = Vec::new();
        match self.plan.render(&self.plan.entries[at], &mut bytes).ok()? {
            Rendered::Bytes => Some(Cow::Owned(bytes)),
            Rendered::AsIs => {
                let file = &self.plan.mold.package.files[self.plan.body(&self.plan.entries[at]).file];
                file.read().ok()
            }
        }
    }

    /// Returns the text that is there already.
    fn present(&self, path: &str) -> Result<Option<Vec<u8>>, ReadError> {
        match self.root.as_ref().map(|root| root.read(path, repository::LARGEST)) {
            None | Some(Err(ReadError::Absent)) => Ok(None),
            Some(read) => read.map(Some),
        }
    }

    fn in_git(&self, path: &str) -> Option<Uncovered> {
        let folder = self.folder.as_deref();
        let file_folder = folder.map(|folder| folder.join(parent_of(path)));
        let repository = file_folder.as_deref().and_then(Repository::around);
        // The path of the project in the repository, and that of the repository in the project.
        let (mut outside, mut inside) = (String::new(), "");
        if let (Some(repository), Some(folder)) = (&repository, folder) {
            match folder.strip_prefix(&repository.root) {
                Ok(rest) => outside = rest.to_string_lossy().into_owned(),
                Err(_) => {
                    let nested = repository.root.strip_prefix(folder).ok()?.to_str()?;
                    inside = path.get(..nested.len())?;
                }
            }
        }
        let in_repository = match (outside.is_empty(), inside) {
            (false, _) => format!("{outside}/{path}"),
            (true, "") => path.to_owned(),
            (true, inside) => path.get(inside.len() + 1..)?.to_owned(),
        };
        let mut files = Vec::new();
        let mut directory = parent_of(&in_repository);
        loop {
            files.extend(self.ignore_file(directory, &outside, inside, repository.as_ref()));
            if directory.is_empty() {
                break;
            }
            directory = parent_of(directory);
        }
        let excludes = repository.as_ref().and_then(Repository::excludes);
        files.extend(excludes.map(|text| GitPatterns::new("", &text)));
        let uncovered = |into, line| Some(Uncovered { path: path.to_owned(), into, line });
        if repository.as_ref().is_some_and(|own| own.tracks(&in_repository)) {
            return uncovered(Exposure::Tracked, None);
        }
        if git_ignores(&files, &in_repository) {
            return None;
        }
        let file = joined(inside, ".gitignore");
        let below = if inside.is_empty() { path } else { path.get(inside.len() + 1..)? };
        uncovered(Exposure::Git, Some(IgnoreLine { file, line: format!("/{}", escaped(below)) }))
    }

    /// Reads the ignore file in a directory of the repository.
    fn ignore_file(
        &self,
        directory: &str,
        outside: &str,
        inside: &str,
        repository: Option<&Repository>,
    ) -> Option<GitPatterns> {
        let in_project = match (outside, inside) {
            ("", "") => Some(directory.to_owned()),
            ("", inside) => {
                Some(if directory.is_empty() { inside.into() } else { joined(inside, directory) })
            }
            (outside, _) if directory == outside => Some(String::new()),
            (outside, _) => {
                directory.strip_prefix(outside).and_then(|rest| rest.strip_prefix('/')).map(str::to_owned)
            }
        };
        let text = match in_project {
            Some(folder) => self.readable(&joined(&folder, ".gitignore"))?,
            None => Cow::Owned(repository::read(&repository?.root, &joined(directory, ".gitignore"))?),
        };
        Some(GitPatterns::new(directory, &text))
    }

    fn in_image(&self, path: &str) -> Option<Uncovered> {
        let mut context = parent_of(path);
        loop {
            let name = |name: &str| joined(context, name);
            let ignores: Vec<(String, Cow<'_, [u8]>)> = IMAGE_IGNORES
                .iter()
                .filter_map(|ignore| Some((name(ignore), self.readable(&name(ignore))?)))
                .collect();
            let is_context =
                !ignores.is_empty() || IMAGE_FILES.iter().any(|file| self.readable(&name(file)).is_some());
            if is_context {
                let below = if context.is_empty() { path } else { &path[context.len() + 1..] };
                let open = ignores
                    .iter()
                    .find(|(_, text)| !image_ignores(&String::from_utf8_lossy(text), below))
                    .map(|(file, _)| file.clone());
                let file = if ignores.is_empty() { Some(name(IMAGE_IGNORES[0])) } else { open };
                if let Some(file) = file {
                    let line = Some(IgnoreLine { file, line: below.to_owned() });
                    return Some(Uncovered { path: path.to_owned(), into: Exposure::Image, line });
                }
            }
            if context.is_empty() {
                return None;
            }
            context = parent_of(context);
        }
    }
}

/// Writes a path so that it stands for itself in an ignore file of git.
fn escaped(path: &str) -> String {
    let mut line = String::with_capacity(path.len());
    for c in path.chars() {
        if matches!(c, '*' | '?' | '[' | '\\') || (c == ' ' && path.ends_with(' ')) {
            line.push('\\');
        }
        line.push(c);
    }
    line
}

#[cfg(test)]
mod tests;
