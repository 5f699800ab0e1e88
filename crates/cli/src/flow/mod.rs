//! The steps that `cast`, `fit` and their relatives share: fetching, asking, deciding, finishing.

pub mod answer_sources;
pub mod asked;
pub mod background_check;
pub mod conflicts;
pub mod earlier_version;
pub mod fetch;
pub mod finishing;
pub mod interview;
pub mod recovery;
pub mod summary;
