//! Three texts of any bytes merge without a panic; what one side left alone comes out as the other has it.
#![no_main]

use libfuzzer_sys::fuzz_target;
use tinmold_mold::Holds;
use tinmold_project::merge::{Choice, Merged, texts};

fuzz_target!(|data: &[u8]| {
    let Some((kind, data)) = data.split_first() else { return };
    let Ok(text) = std::str::from_utf8(data) else { return };
    let mut sides = text.splitn(3, '\u{1}');
    let (base, mine) = (sides.next().unwrap_or(""), sides.next().unwrap_or(""));
    let theirs = sides.next().unwrap_or("");
    let all = [Holds::Json, Holds::Jsonc, Holds::Toml, Holds::Yaml, Holds::Xml, Holds::Text];
    let holds = all[usize::from(*kind) % all.len()];
    assert_eq!(texts(holds, base, mine, base), Merged::Clean(mine.to_owned()));
    if let Merged::Conflicts(merge, _) = texts(holds, base, mine, theirs) {
        let choices = vec![Choice::Theirs; merge.conflicts().count()];
        assert!(merge.decided(&choices).is_some());
    }
});
