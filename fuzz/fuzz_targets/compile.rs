//! Any bytes as a body, a name or an expression: a program or findings, never a panic.
#![no_main]

use libfuzzer_sys::fuzz_target;
use tinmold_fuzz_world::world;
use tinmold_notation::{Setting, Syntax, compile, compile_expression, compile_name};

#[path = "world.rs"]
mod tinmold_fuzz_world;

fuzz_target!(|data: &[u8]| {
    let Ok(text) = std::str::from_utf8(data) else { return };
    let world = world();
    let setting = Setting { syntax: Syntax::Json, fragments: &world.fragments, ..Setting::default() };
    let compiled = compile("body", text, &world.scope, &setting);
    for finding in &compiled.findings {
        assert!(finding.span.start <= finding.span.end);
        let _ = finding.position(text);
    }
    let names = Setting::for_name();
    let _ = compile_name("body", text, &world.scope, &names);
    let plain = Setting::default();
    let _ = compile_expression("when", text, &world.scope, &plain, None);
});
