//! Why a recast cannot be planned.

use crate::fit::FitError;
use crate::plan::PlanError;
use crate::verify::VerifyError;

/// Why a recast cannot be planned.
#[derive(Debug, thiserror::Error)]
pub enum RecastError {
    /// The new version has mistakes that these answers show.
    #[error(transparent)]
    Plan(#[from] PlanError),
    /// The new version would write what may not be written.
    #[error(transparent)]
    Verify(#[from] VerifyError),
    /// A part of the new version cannot be fitted.
    #[error(transparent)]
    Fit(#[from] FitError),
    /// The project cannot be read.
    #[error("cannot read the project: {0}")]
    Io(#[from] std::io::Error),
    /// A file of a mold cannot be read.
    #[error(transparent)]
    Package(#[from] tinmold_mold::PackageError),
}
