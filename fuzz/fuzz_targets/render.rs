//! Whatever compiles renders, within its limits, to UTF-8 text, and to the same by a renderer; text without marks comes out as it
//! went in.
#![no_main]

use libfuzzer_sys::fuzz_target;
use tinmold_fuzz_world::world;
use tinmold_notation::{Budget, Renderer, Setting, Syntax, compile, compile_name, origin};

#[path = "world.rs"]
mod tinmold_fuzz_world;

fuzz_target!(|data: &[u8]| {
    let Some((kind, data)) = data.split_first() else { return };
    let Ok(text) = std::str::from_utf8(data) else { return };
    let world = world();
    let syntax = if kind % 2 == 0 { Syntax::Json } else { Syntax::Plain };
    let setting = Setting { syntax, fragments: &world.fragments, local: true, ..Setting::default() };
    let budget = Budget::new(1 << 20);
    if let Some(program) = compile("body", text, &world.scope, &setting).program {
        let mut out = b"before".to_vec();
        match program.render(&world.values, &budget, &mut out) {
            Ok(()) => {
                assert!(std::str::from_utf8(&out).is_ok());
                let at = usize::from(*kind) % out.len();
                if let Some(span) = origin("body", text, &world.scope, &setting, &world.values, at) {
                    assert!(text.get(span.start as usize..).is_some());
                }
                if syntax == Syntax::Plain && !text.contains("{=") {
                    assert_eq!(&out[6..], data);
                }
                let ample = Budget::new(1 << 24);
                let mut renderer = Renderer::new(&world.scope, &world.values, &ample, 1000);
                for _ in 0..2 {
                    let mut again = b"before".to_vec();
                    assert_eq!(renderer.render("body", text, &setting, &mut again), Ok(()));
                    assert_eq!(again, out);
                }
            }
            Err(_) => assert_eq!(out, b"before"),
        }
    }
    let names = Setting::for_name();
    if let Some(program) = compile_name("body", text, &world.scope, &names).program {
        let _ = program.render_text(&world.values, &budget);
    }
});
