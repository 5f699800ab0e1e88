//! A record of any bytes is read, or refused, and leads out of no project.
#![no_main]

use libfuzzer_sys::fuzz_target;
use tinmold_project::record;

fuzz_target!(|data: &[u8]| {
    let place = std::env::temp_dir().join(format!("tinmold-fuzz-{}", std::process::id()));
    let own = place.join(".tinmold");
    if std::fs::create_dir_all(&own).is_err() {
        return;
    }
    let cut = data.iter().position(|byte| *byte == 1).unwrap_or(data.len());
    let written = std::fs::write(own.join("casting.toml"), &data[..cut])
        .and_then(|()| std::fs::write(own.join("files.sha256"), data.get(cut + 1..).unwrap_or_default()));
    if written.is_ok() && let Ok(recorded) = record::open(&place) {
        assert!(recorded.digests.keys().all(|path| !path.starts_with('/') && !path.contains("..")));
        drop(record::status(&recorded));
    }
});
