//! `tinmold pack`: the archive of a mold, for a shelf.

use crate::args::{Format, PackArgs};
use crate::exit::Exit;
use crate::failure::Failure;
use crate::flow::fetch::fetch;
use crate::global::GlobalOptions;
use crate::stop::Stop;
use crate::text::style::{GOOD, NAME, result_document, safe, size};
use serde_json::json;
use std::fs;
use std::io::Write;
use std::path::Path;
use tinmold_author::CheckOptions;
use tinmold_mold::Mold;
use tinmold_mold::package::pack;
use tinmold_notation::Finding;
use tinmold_platform::digest::digest_of;

pub fn run(args: &PackArgs, global: GlobalOptions) -> Result<Exit, Stop> {
    let mold = Mold::load(fetch(&args.mold, global)?).map_err(Failure::from)?;
    let findings: Vec<_> = tinmold_author::check(&mold, CheckOptions::default())
        .findings
        .into_iter()
        .map(|reported| reported.finding)
        .filter(Finding::is_error)
        .collect();
    if !findings.is_empty() {
        return Err(Failure::findings(&findings, &mold.package).into());
    }
    let top = format!("{}-{}", mold.name(), mold.version());
    let file = args.to.join(format!("{top}.tar.gz"));
    let mut bytes = Vec::new();
    pack(&mold.package, &top, &mut bytes).map_err(Failure::from)?;
    write(&file, &bytes).map_err(|error| {
        let exit =
            if error.kind() == std::io::ErrorKind::AlreadyExists { Exit::InTheWay } else { Exit::Failed };
        let what = match exit {
            Exit::InTheWay => {
                format!("{} exists and is another archive; nothing was written", file.display())
            }
            _ => format!("cannot write {}: {error}; nothing was written", file.display()),
        };
        Failure::new(exit, what)
            .help("a version is packed once: raise `version` in mold.toml, or remove the archive")
    })?;
    if args.format == Format::Json {
        let (path, digest) = (file.display().to_string(), digest_of(&bytes).to_string());
        let document = json!({ "path": path, "bytes": bytes.len(), "sha256": digest });
        result_document("pack-1", document);
    } else if !global.quiet {
        say!(
            "{GOOD}Packed:{GOOD:#} {NAME}{}{NAME:#} ({})",
            safe(&file.display().to_string()),
            size(bytes.len() as u64)
        );
        say!("  sha256 {}", digest_of(&bytes));
    }
    Ok(Exit::Done)
}

/// Writes the archive beside and gives it its name; the same bytes may be there already.
fn write(file: &Path, bytes: &[u8]) -> std::io::Result<()> {
    if fs::read(file).is_ok_and(|there| there == bytes) {
        return Ok(());
    }
    let beside = file.parent().filter(|beside| !beside.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut staged = tempfile::NamedTempFile::new_in(beside)?;
    staged.write_all(bytes)?;
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        staged.as_file().set_permissions(fs::Permissions::from_mode(0o644))?;
    }
    staged.persist_noclobber(file).map(drop).map_err(|error| error.error)
}
