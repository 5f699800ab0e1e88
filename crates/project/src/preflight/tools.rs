//! The tools whose version this program knows how to ask for. Only these are ever run to find out.

/// By the program's name: the arguments that make it print its version.
const TOOLS: &[(&str, &[&str])] = &[
    ("ant", &["-version"]),
    ("bun", &["--version"]),
    ("cargo", &["--version"]),
    ("cc", &["--version"]),
    ("checkstyle", &["--version"]),
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

/// Returns the names of these tools.
pub fn known_tools() -> impl Iterator<Item = &'static str> {
    TOOLS.iter().map(|(name, _)| *name)
}

/// Returns the arguments that make a tool print its version, if they are known.
pub(super) fn version_arguments(tool: &str) -> Option<&'static [&'static str]> {
    TOOLS.iter().find(|(name, _)| *name == tool).map(|(_, arguments)| *arguments)
}

/// Returns the first version in what a tool printed, padded to three numbers.
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
    byte.is_ascii_alphanumeric() || !byte.is_ascii() || byte == b'_' || byte == b'.' || byte == b'-'
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn versions_are_found_in_what_tools_print() {
        let cases = [
            ("python3", "Python 3.11.7\n", Some("3.11.7")),
            ("go", "go version go1.22.3 linux/amd64", Some("1.22.3")),
            ("node", "v22.1.0", Some("22.1.0")),
            ("git", "git version 2.47.3.windows.1", Some("2.47.3")),
            ("gcc", "gcc (Debian 12.2.0-14+deb12u1) 12.2.0\nCopyright (C) 2022", Some("12.2.0")),
            ("make", "GNU Make 4.3\nBuilt for x86_64-pc-linux-gnu", Some("4.3.0")),
            ("java", "openjdk version \"17.0.15\" 2025-04-15", Some("17.0.15")),
            ("java", "java version \"1.8.0_392\"", Some("8.0.0")),
            ("javac", "javac 21", Some("21.0.0")),
            ("psql", "psql (PostgreSQL) 15.18 (Debian 15.18-0+deb12u1)", Some("15.18.0")),
            ("mvn", "\u{1b}[1mApache Maven 3.8.7\u{1b}[m\nMaven home: /usr/share/maven", Some("3.8.7")),
            ("docker", "Docker version 28.2.2, build e6534b4", Some("28.2.2")),
            ("zig", "0.14.0-dev.1+abc", Some("0.14.0")),
            ("perl", "This is perl 5, version 36, subversion 0 (v5.36.0)", Some("5.36.0")),
            ("checkstyle", "Checkstyle version: 8.36.1", Some("8.36.1")),
            ("cmake", "no number at all", None),
            ("cmake", "", None),
            ("cmake", "99999999999999999999999.1", None),
            ("cmake", "x86_64 é3 ...", None),
        ];
        for (tool, printed, expected) in cases {
            let found = version_in(tool, printed).map(|version| version.to_string());
            assert_eq!(found.as_deref(), expected, "{printed:?}");
        }
        assert!(known_tools().count() >= 40);
        assert!(
            known_tools().all(|tool| version_arguments(tool).is_some_and(|arguments| !arguments.is_empty()))
        );
        assert_eq!(version_arguments("sh"), None);
    }
}
