//! Is the machine ready? `tools` knows how common tools print their version, `probe` asks them.

mod probe;
mod tools;

pub use probe::{FoundTool, Probe, Verdict, probe, system_keys, version_of};
pub use tools::known_tools;
