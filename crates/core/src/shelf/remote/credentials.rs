//! What opens a private shelf: a token from a named environment variable, or what `.netrc` holds for the host. It is sent to that host only, over TLS or within
//! this machine, and is in no message.

use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use netrc::Netrc;
use ureq::http::Uri;

/// The value of an `Authorization` header, by RFC 9110.
#[derive(Clone)]
pub(super) struct Credentials(String);

impl std::fmt::Debug for Credentials {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("(secret)")
    }
}

impl Credentials {
    pub(super) fn header(&self) -> &str {
        &self.0
    }

    /// What is known for a URL; none if nothing is.
    ///
    /// # Errors
    /// The variable is not set, or the way to the host is open to all; in a clause.
    pub(super) fn of(url: &Uri, token_env: Option<&str>) -> Result<Option<Self>, String> {
        let host = url.host().unwrap_or_default();
        let found = match token_env {
            Some(variable) => match std::env::var(variable) {
                // RFC 6750.
                Ok(token) if !token.trim().is_empty() => Some(Self(format!("Bearer {}", token.trim()))),
                _ => {
                    return Err(format!(
                        "the environment variable {variable}, which holds its token, is not set"
                    ));
                }
            },
            None => of_netrc(host)?,
        };
        if found.is_some() && url.scheme_str() != Some("https") && !is_this_machine(url) {
            return Err("a token is not sent without TLS: its URL must begin with https://".into());
        }
        Ok(found)
    }
}

/// Whether a URL leads to this very machine.
pub(super) fn is_this_machine(url: &Uri) -> bool {
    let host = url.host().unwrap_or_default();
    matches!(host.trim_matches(['[', ']']), "localhost" | "127.0.0.1" | "::1")
}

/// Basic authentication (RFC 7617) with what the user's `.netrc`, or the file that `NETRC` names, holds for the host.
fn of_netrc(host: &str) -> Result<Option<Credentials>, String> {
    let Some(file) = Netrc::get_file() else { return Ok(None) };
    let netrc =
        Netrc::from_file(&file).map_err(|_| format!("{} cannot be read as .netrc", file.display()))?;
    Ok(netrc.hosts.get(host).map(|found| {
        Credentials(format!(
            "Basic {}",
            BASE64_STANDARD.encode(format!("{}:{}", found.login, found.password))
        ))
    }))
}
