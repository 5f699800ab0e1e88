//! Three texts become one: what the mold wrote, what the owner made of it, and what the mold writes now.
//!
//! [`Merge::of`] merges by line. What only one side changed is taken, and what both changed alike is taken once;
//! the rest are conflicts, each with its three texts, to be decided by somebody. [`texts`] merges by line where that
//! is clean and can be read, and else by what a file of JSON, TOML or YAML holds.
//!
//! ```
//! use tinmold_project::merge::{Choice, Merge};
//! let merge = Merge::of("quay\n\npier\n", "Quay\n\npier\n", "quay\n\nPier\n");
//! assert_eq!(merge.text().as_deref(), Some("Quay\n\nPier\n"));
//! let merge = Merge::of("port = 8000\n", "port = 80\n", "port = 443\n");
//! assert_eq!(merge.text(), None);
//! assert_eq!(merge.decided(&[Choice::Theirs]).as_deref(), Some("port = 443\n"));
//! ```

mod changes;
mod conflict;
mod content;
mod lines;
mod texts;

pub use conflict::{Choice, Conflict, Hunk};
pub use content::Disagreement;
pub use lines::Merge;
pub use texts::{Merged, texts};
