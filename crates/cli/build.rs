//! Links gcc's unwinder statically on Linux with glibc: one library less to load at every start, which
//! is 3 % of a small cast (docs/performance.md).

fn main() {
    println!("cargo::rerun-if-changed=build.rs");
    let is = |variable: &str, value: &str| std::env::var(variable).is_ok_and(|found| found == value);
    if is("CARGO_CFG_TARGET_OS", "linux") && is("CARGO_CFG_TARGET_ENV", "gnu") {
        println!("cargo::rustc-link-lib=static:-bundle=gcc_eh");
    }
}
