//! Credentials for a private shelf: a token from a named environment variable, or what `.netrc` holds
//! for the host. They are sent to that host only, over TLS or within this machine, and never logged.

use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use std::fs;
use std::path::PathBuf;
use ureq::http::Uri;

/// Why the credentials for a URL cannot be used.
#[derive(Debug, thiserror::Error)]
pub enum CredentialsError {
    /// The variable that should hold the token is not set.
    #[error("the environment variable {0}, which holds its token, is not set")]
    NoToken(String),
    /// The connection is not secure.
    #[error("a token is not sent without TLS: its URL must begin with https://")]
    NoTls,
    /// The `.netrc` file cannot be read.
    #[error("cannot read {path}: {source}")]
    Netrc {
        /// The file.
        path: PathBuf,
        /// The system's error.
        source: std::io::Error,
    },
}

/// The value of an `Authorization` header (RFC 9110).
#[derive(Clone)]
pub(crate) struct Credentials(String);

impl std::fmt::Debug for Credentials {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("(secret)")
    }
}

impl Credentials {
    /// Returns the header's value.
    pub(crate) fn header(&self) -> &str {
        &self.0
    }

    /// Finds the credentials for a URL.
    pub(crate) fn of(url: &Uri, token_env: Option<&str>) -> Result<Option<Self>, CredentialsError> {
        let host = url.host().unwrap_or_default();
        let found = match token_env {
            Some(variable) => match std::env::var(variable) {
                // RFC 6750.
                Ok(token) if !token.trim().is_empty() => Some(Self(format!("Bearer {}", token.trim()))),
                _ => return Err(CredentialsError::NoToken(variable.to_owned())),
            },
            None => of_netrc(host)?,
        };
        if found.is_some() && url.scheme_str() != Some("https") && !is_this_machine(url) {
            return Err(CredentialsError::NoTls);
        }
        Ok(found)
    }
}

/// Returns true for a URL of this machine.
pub(crate) fn is_this_machine(url: &Uri) -> bool {
    let host = url.host().unwrap_or_default();
    matches!(host.trim_matches(['[', ']']), "localhost" | "127.0.0.1" | "::1")
}

/// Reads basic authentication (RFC 7617) from the file that `NETRC` names, or from `~/.netrc`.
fn of_netrc(host: &str) -> Result<Option<Credentials>, CredentialsError> {
    let home = || std::env::var_os("HOME").map(|home| PathBuf::from(home).join(".netrc"));
    let Some(path) = std::env::var_os("NETRC").map(PathBuf::from).or_else(home) else { return Ok(None) };
    let text = match fs::read_to_string(&path) {
        Ok(text) => text,
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => return Ok(None),
        Err(source) => return Err(CredentialsError::Netrc { path, source }),
    };
    Ok(login_for(&text, host).map(|(login, password)| {
        Credentials(format!("Basic {}", BASE64_STANDARD.encode(format!("{login}:{password}"))))
    }))
}

/// Finds login and password for a host in a `.netrc`: words in pairs, `machine` or `default` first.
/// A macro definition ends at a blank line.
fn login_for(netrc: &str, host: &str) -> Option<(String, String)> {
    let mut words = Vec::new();
    let mut in_macro = false;
    for line in netrc.lines() {
        in_macro = (in_macro && !line.trim().is_empty()) || line.trim_start().starts_with("macdef ");
        if in_macro {
            continue;
        }
        for word in line.split_whitespace() {
            // A comment begins where a keyword is expected: a password may begin with the sign too.
            let is_value = matches!(words.last(), Some(&("machine" | "login" | "password" | "account")));
            if word.starts_with('#') && !is_value {
                break;
            }
            words.push(word);
        }
    }
    let (mut login, mut password, mut is_host) = (None, None, false);
    let mut words = words.into_iter();
    while let Some(word) = words.next() {
        match word {
            "machine" | "default" if is_host => break,
            "machine" => is_host = words.next() == Some(host),
            "default" => is_host = true,
            "login" | "password" | "account" => {
                let value = words.next();
                match word {
                    "login" if is_host => login = value,
                    "password" if is_host => password = value,
                    _ => {}
                }
            }
            _ => {}
        }
    }
    Some((login?.to_owned(), password?.to_owned()))
}

#[cfg(test)]
mod tests {
    use super::login_for;

    #[test]
    fn logins_of_a_netrc() {
        let netrc = "# keys\nmachine molds.saltmarsh.example login deck password p1\n\
            macdef init\nmachine evil.example login x password y\n\nmachine b.example\n login b\n password p2 # end\n\
            machine c.example login c password #p4 # end\ndefault login any password p3";
        let cases = [
            ("molds.saltmarsh.example", "deck", "p1"),
            ("b.example", "b", "p2"),
            ("c.example", "c", "#p4"),
            ("evil.example", "any", "p3"),
        ];
        for (host, login, password) in cases {
            assert_eq!(login_for(netrc, host), Some((login.to_owned(), password.to_owned())), "{host}");
        }
        assert_eq!(login_for("machine a login", "a"), None);
    }
}
