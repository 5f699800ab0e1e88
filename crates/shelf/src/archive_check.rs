//! Archives, held against their listings.

use crate::catalogue::{Entry, Release};
use crate::error::{Mismatch, ShelfError};
use crate::manifest_entry::entry_of;
use tinmold_mold::Package;

/// The most bytes that an archive may have.
pub(crate) const MOST_ARCHIVE: u64 = 256 << 20;

/// Refuses an archive that holds another mold than its listing says.
pub(crate) fn check_listed(
    package: &Package,
    entry: &Entry,
    release: &Release,
    address: &str,
) -> Result<(), ShelfError> {
    let holds = match entry_of(package, "") {
        Ok(found) if found.name == entry.name && found.versions[0].version == release.version => {
            return Ok(());
        }
        Ok(found) => format!("{} {}", found.name, found.versions[0].version),
        Err(error) => error.to_string(),
    };
    Err(ShelfError::Tampered { address: address.to_owned(), reason: Mismatch::Mold(holds) })
}
