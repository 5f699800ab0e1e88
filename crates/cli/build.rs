//! How the program is linked on Linux, so that it starts soon: half of a small cast's time goes by before `main`.

fn main() {
    println!("cargo::rerun-if-changed=build.rs");
    println!("cargo::rerun-if-env-changed=TINMOLD_PIE");
    let is = |variable: &str, value: &str| std::env::var(variable).is_ok_and(|found| found == value);
    if !is("CARGO_CFG_TARGET_OS", "linux") || !is("CARGO_CFG_TARGET_ENV", "gnu") {
        return;
    }
    // What unwinds the stack comes with gcc. Named before the standard library's own, it is what the linker takes, and one library
    // less is loaded.
    println!("cargo::rustc-link-lib=static:-bundle=gcc_eh");
    // A program that may be loaded anywhere has twelve thousand places put right at every start. Stack, heap and libraries still lie
    // where nobody can tell beforehand. Whoever packs programs that all have to be movable sets TINMOLD_PIE.
    if is("PROFILE", "release") && std::env::var_os("TINMOLD_PIE").is_none() {
        println!("cargo::rustc-link-arg-bins=-no-pie");
    }
}
