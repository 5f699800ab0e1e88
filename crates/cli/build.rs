//! Links what unwinds the stack into the program, which so starts with one library less to load.

fn main() {
    println!("cargo::rerun-if-changed=build.rs");
    let is = |variable: &str, value: &str| std::env::var(variable).is_ok_and(|found| found == value);
    if is("CARGO_CFG_TARGET_OS", "linux") && is("CARGO_CFG_TARGET_ENV", "gnu") {
        // Comes with gcc. Named before the standard library's own, it is what the linker takes.
        println!("cargo::rustc-link-lib=static:-bundle=gcc_eh");
    }
}
