//! Why a package cannot be used as a mold.

use crate::package::{Package, PackageError};
use tinmold_notation::Finding;

/// Why a package cannot be used as a mold.
#[derive(Debug, thiserror::Error)]
pub enum MoldError {
    /// The files cannot be read.
    #[error(transparent)]
    Package(#[from] PackageError),
    /// The mold has mistakes.
    #[error("the mold has mistakes")]
    Faulty(Box<Faulty>),
}

/// The mistakes of a mold, with the files that they are in.
#[derive(Debug)]
pub struct Faulty {
    /// All findings, sorted.
    pub findings: Vec<Finding>,
    /// The files that the findings are in.
    pub package: Package,
}

impl MoldError {
    /// Makes the error for a mold with these mistakes.
    #[must_use]
    pub fn faulty(findings: Vec<Finding>, package: Package) -> Self {
        Self::Faulty(Box::new(Faulty { findings, package }))
    }
}
