//! Domains, addresses, versions, licences.

use super::FormError;
use super::general::{at_most, not_empty, shown};

pub(super) fn reverse_domain(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    let labels: Vec<&str> = text.split('.').collect();
    if labels.len() < 2 {
        return Err(FormError::Rule(
            "it has one part; a domain written backwards has two or more, as in `example.saltmarsh`",
        ));
    }
    for label in labels {
        if label.is_empty() {
            return Err(FormError::Rule("two dots follow each other, or one is at an end"));
        }
        if let Some(c) = label.chars().find(|c| !(c.is_ascii_lowercase() || c.is_ascii_digit() || *c == '-'))
        {
            return Err(FormError::BadCharacter {
                c,
                allowed: "lower-case letters (ASCII), digits and hyphens",
            });
        }
        if label.starts_with('-') || label.ends_with('-') {
            return Err(FormError::Part { part: label.to_owned(), problem: "begins or ends with a hyphen" });
        }
        if !label.starts_with(|c: char| c.is_ascii_lowercase()) {
            return Err(FormError::Part { part: label.to_owned(), problem: "does not begin with a letter" });
        }
        if label.len() > 63 {
            return Err(FormError::Rule("a part has more than 63 characters"));
        }
    }
    at_most(text, 253)
}

pub(super) fn semver(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    semver::Version::parse(text)
        .map(drop)
        .map_err(|error| FormError::Detail(format!("it is not a version: {error}")))
}

pub(super) fn semver_range(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    semver::VersionReq::parse(text)
        .map(drop)
        .map_err(|error| FormError::Detail(format!("it is not a range of versions: {error}")))
}

/// Three numbers made of what numbers there are.
pub(super) fn semver_candidates(text: &str) -> Vec<String> {
    let core = text.trim_start_matches(|c: char| !c.is_ascii_digit());
    let core = core.split(|c: char| !c.is_ascii_digit() && c != '.').next().unwrap_or("");
    let mut numbers: Vec<u64> = core.split('.').filter_map(|part| part.parse().ok()).take(3).collect();
    if numbers.is_empty() {
        numbers = vec![0, 1];
    }
    numbers.resize(3, 0);
    vec![numbers.iter().map(u64::to_string).collect::<Vec<_>>().join(".")]
}

pub(super) fn email(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    let Some((local, domain)) = text.rsplit_once('@') else {
        return Err(FormError::Rule("it has no `@`"));
    };
    let atom = |c: char| c.is_alphanumeric() || "!#$%&'*+-/=?^_`{|}~.".contains(c);
    if let Some(c) = local.chars().find(|c| !atom(*c)) {
        return Err(FormError::Detail(format!("{} is not allowed before the `@`", shown(c))));
    }
    if local.is_empty()
        || local.len() > 64
        || local.starts_with('.')
        || local.ends_with('.')
        || local.contains("..")
    {
        return Err(FormError::Rule("the part before the `@` is not a mailbox"));
    }
    host(domain)
        .map_err(|reason| FormError::Detail(format!("the part after the `@` is not a domain: {reason}")))?;
    at_most(text, 254)
}

fn host(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    for label in text.split('.') {
        if label.is_empty() || label.len() > 63 || label.starts_with('-') || label.ends_with('-') {
            return Err(FormError::Detail(format!("{label:?} is not a part of a domain")));
        }
        if let Some(c) = label.chars().find(|c| !c.is_alphanumeric() && *c != '-') {
            return Err(FormError::Detail(format!("{} is not allowed in it", shown(c))));
        }
    }
    at_most(text, 253)
}

pub(super) fn url(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    let Some((scheme, rest)) = text.split_once("://") else {
        return Err(FormError::Rule("it has no scheme; it begins as `https://` does"));
    };
    let legal = |c: char| c.is_ascii_alphanumeric() || "+-.".contains(c);
    if !scheme.starts_with(|c: char| c.is_ascii_alphabetic()) || !scheme.chars().all(legal) {
        return Err(FormError::Detail(format!("{scheme:?} is not a scheme")));
    }
    let end = rest.find(['/', '?', '#']).unwrap_or(rest.len());
    let (authority, tail) = rest.split_at(end);
    if let Some(c) = rest.chars().find(|c| c.is_whitespace() || c.is_control() || "<>\"{}|\\^`".contains(*c))
    {
        return Err(FormError::Detail(format!("{} must be percent-encoded in a URL", shown(c))));
    }
    let bytes = tail.as_bytes();
    for (at, _) in tail.match_indices('%') {
        if !bytes.get(at + 1..at + 3).is_some_and(|digits| digits.iter().all(u8::is_ascii_hexdigit)) {
            return Err(FormError::Rule("a `%` is not followed by two hexadecimal digits"));
        }
    }
    let after_user = authority.rsplit_once('@').map_or(authority, |(_, host)| host);
    if let Some(address) = after_user.strip_prefix('[') {
        let address = address.split_once(']').map_or("", |(address, _)| address);
        return address
            .parse::<std::net::Ipv6Addr>()
            .map(drop)
            .map_err(|_| FormError::Rule("its host is not an IPv6 address"));
    }
    let (name, number) =
        after_user.rsplit_once(':').map_or((after_user, None), |(name, port)| (name, Some(port)));
    host(name).map_err(|reason| FormError::Detail(format!("it has no host: {reason}")))?;
    number.map_or(Ok(()), port)
}

pub(super) const NO_PORT: &str = "a port is a number from 1 to 65535";

pub(super) fn port(text: &str) -> Result<(), FormError> {
    match text.parse::<u16>() {
        Ok(1..) if text.bytes().all(|b| b.is_ascii_digit()) && !text.starts_with('0') => Ok(()),
        _ => Err(FormError::Rule(NO_PORT)),
    }
}

pub(super) fn port_candidates(text: &str) -> Vec<String> {
    let digits: String = text.chars().filter(char::is_ascii_digit).collect();
    let digits = digits.trim_start_matches('0');
    vec![digits.to_owned(), digits.chars().take(4).collect(), "8000".into()]
}

pub(super) fn license(text: &str) -> Result<(), FormError> {
    not_empty(text)?;
    spdx::Expression::parse(text)
        .map(drop)
        .map_err(|error| FormError::Detail(format!("it is not an SPDX licence: {}", error.reason)))
}

pub(super) fn license_candidates(text: &str) -> Vec<String> {
    let known = || spdx::identifiers::LICENSES.iter().map(|license| license.name);
    let by_name = spdx::imprecise_license_id(text).map(|(id, _)| id.name);
    let nearest = tinmold_notation::nearest(text, known());
    by_name.into_iter().chain(nearest).map(str::to_owned).collect()
}
