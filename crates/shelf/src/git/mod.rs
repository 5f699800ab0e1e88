//! Shelves that are git repositories.

mod git_shelf;
mod repository;

pub use git_shelf::GitShelf;
pub use repository::GitError;
