//! The tools whose version this program knows how to ask for. Only these are ever run to find out.

/// By the program's name: the arguments that make it print its version.
const TOOLS: &[(&str, &[&str])] = &[
    ("ant", &["-version"]),
    ("bun", &["--version"]),
    ("cargo", &["--version"]),
    ("cc", &["--version"]),
    ("clang", &["--version"]),
    ("clang++", &["--version"]),
    ("cmake", &["--version"]),
    ("composer", &["--version"]),
    ("deno", &["--version"]),
    ("docker", &["--version"]),
    ("dotnet", &["--version"]),
    ("elixir", &["--version"]),
    ("g++", &["--version"]),
    ("gcc", &["--version"]),
    ("git", &["--version"]),
    ("go", &["version"]),
    ("gradle", &["--version"]),
    ("java", &["-version"]),
    ("javac", &["-version"]),
    ("julia", &["--version"]),
    ("just", &["--version"]),
    ("kotlinc", &["-version"]),
    ("make", &["--version"]),
    ("meson", &["--version"]),
    ("mvn", &["--version"]),
    ("ninja", &["--version"]),
    ("node", &["--version"]),
    ("npm", &["--version"]),
    ("perl", &["--version"]),
    ("php", &["--version"]),
    ("pip", &["--version"]),
    ("pip3", &["--version"]),
    ("pnpm", &["--version"]),
    ("podman", &["--version"]),
    ("poetry", &["--version"]),
    ("psql", &["--version"]),
    ("python", &["--version"]),
    ("python3", &["--version"]),
    ("ruby", &["--version"]),
    ("rustc", &["--version"]),
    ("rustup", &["--version"]),
    ("sqlite3", &["--version"]),
    ("swift", &["--version"]),
    ("terraform", &["version"]),
    ("tsc", &["--version"]),
    ("uv", &["--version"]),
    ("yarn", &["--version"]),
    ("zig", &["version"]),
];

/// The names of these tools.
pub fn known_tools() -> impl Iterator<Item = &'static str> {
    TOOLS.iter().map(|(name, _)| *name)
}

/// How to ask a tool for its version; none if it is not known.
pub(super) fn version_arguments(tool: &str) -> Option<&'static [&'static str]> {
    TOOLS.iter().find(|(name, _)| *name == tool).map(|(_, arguments)| *arguments)
}

/// The first version in what a tool printed, padded to three numbers.
///
/// Java's versions before 9 began with `1.`: `1.8.0` is 8.
pub(super) fn version_in(tool: &str, printed: &str) -> Option<semver::Version> {
    let bytes = printed.as_bytes();
    let mut lone = None;
    let mut at = 0;
    while at < bytes.len() {
        // `v22.1.0` and `go1.22` begin with letters that are no part of it.
        let before = bytes[..at].last().copied().unwrap_or(b' ');
        let is_prefix = before == b'v' || (tool == "go" && before == b'o');
        let starts = bytes[at].is_ascii_digit() && (!is_word(before) || is_prefix);
        if !starts {
            at += 1;
            continue;
        }
        let end =
            printed[at..].find(|c: char| !c.is_ascii_digit() && c != '.').map_or(printed.len(), |n| at + n);
        let numbers: Vec<u64> =
            printed[at..end].split('.').map_while(|number| number.parse().ok()).take(3).collect();
        at = end.max(at + 1);
        match numbers[..] {
            [1, minor, patch] if matches!(tool, "java" | "javac") => {
                return Some(semver::Version::new(minor, patch, 0));
            }
            [major, minor, patch] => return Some(semver::Version::new(major, minor, patch)),
            [major, minor] => return Some(semver::Version::new(major, minor, 0)),
            [major] if lone.is_none() => lone = Some(semver::Version::new(major, 0, 0)),
            _ => {}
        }
    }
    lone
}

fn is_word(byte: u8) -> bool {
    byte.is_ascii_alphanumeric() || byte == b'_' || byte == b'.' || byte == b'-'
}
