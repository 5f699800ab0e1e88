//! A mold with what a check found, for every format of findings.

use std::sync::Arc;
use tinmold_author::Reported;
use tinmold_mold::Package;

/// A mold that was checked.
pub struct CheckedMold {
    /// The address, as it was given.
    pub address: String,
    pub package: Package,
    pub findings: Vec<Reported>,
    /// The numbers of files and of sets of answers; `None` if the manifest cannot be read.
    pub tried: Option<(usize, usize)>,
    /// By file: the lines that no set renders.
    pub unrendered: Vec<(Arc<str>, Vec<usize>)>,
}

impl CheckedMold {
    /// Returns the number of errors.
    pub fn errors(&self) -> usize {
        self.findings.iter().filter(|reported| reported.finding.is_error()).count()
    }

    /// Returns the number of warnings.
    pub fn warnings(&self) -> usize {
        self.findings.len() - self.errors()
    }
}
