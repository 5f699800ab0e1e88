//! Trailing commas of JSON.
//!
//! A comma of the body is dropped if only white space and comments are between it and a following
//! `}` or `]`. While a JSON file is rendered, the body's commas that might be trailing are written
//! as a byte that no UTF-8 text holds. When the file is complete, its tokens are read, and each
//! such byte becomes a comma or nothing.

/// Stands for a comma that may be trailing.
pub(crate) const PENDING_COMMA: u8 = 0xff;

/// A token of JSON with comments; all that does not matter for commas is one kind.
enum Token {
    /// A string, up to its quote or to the end of the line.
    Text,
    /// A comment, to the end of the line or to `*/`.
    Comment,
    /// A comma that may be trailing.
    PendingComma,
    /// Anything else: white space, signs, numbers and words.
    Other,
}

/// Reads the token at the start of `rest` and returns it with its length; `rest` is not empty.
fn token(rest: &[u8]) -> (Token, usize) {
    match rest[0] {
        PENDING_COMMA => (Token::PendingComma, 1),
        b'"' => (Token::Text, text_length(rest)),
        b'/' if rest.get(1) == Some(&b'/') => {
            (Token::Comment, memchr::memchr(b'\n', rest).unwrap_or(rest.len()))
        }
        b'/' if rest.get(1) == Some(&b'*') => {
            let end = memchr::memmem::find(&rest[2..], b"*/");
            (Token::Comment, end.map_or(rest.len(), |at| at + 4))
        }
        _ => {
            let length = memchr::memchr3(b'"', b'/', PENDING_COMMA, &rest[1..]);
            (Token::Other, length.map_or(rest.len(), |at| at + 1))
        }
    }
}

/// Returns the length of the string at the start of `rest`. A string ends at a line break at the
/// latest, so that an odd quote affects one line only.
fn text_length(rest: &[u8]) -> usize {
    let mut at = 1;
    while let Some(found) = memchr::memchr3(b'"', b'\\', b'\n', &rest[at..]) {
        at += found;
        match rest[at] {
            b'"' => return at + 1,
            b'\n' => return at,
            _ => at = (at + 2).min(rest.len()),
        }
    }
    rest.len()
}

/// Replaces the pending commas in `out` from `start` on by commas, and drops those that are trailing.
pub(crate) fn settle(out: &mut Vec<u8>, start: usize) {
    if memchr::memchr(PENDING_COMMA, &out[start..]).is_none() {
        return;
    }
    let tail = out.split_off(start);
    let mut at = 0;
    // Pending commas before this offset share the fate of the one before them.
    let (mut known_to, mut trailing) = (0, false);
    while at < tail.len() {
        let (token, length) = token(&tail[at..]);
        let bytes = &tail[at..at + length];
        at += length;
        match token {
            Token::PendingComma => {
                if at > known_to {
                    let (is_trailing, length) = look_ahead(&tail[at..]);
                    (known_to, trailing) = (at + length, is_trailing);
                }
                if !trailing {
                    out.push(b',');
                }
            }
            Token::Other => out.extend_from_slice(bytes),
            // A comma in a string or comment stays.
            Token::Text | Token::Comment => {
                out.extend(bytes.iter().map(|&byte| if byte == PENDING_COMMA { b',' } else { byte }));
            }
        }
    }
}

/// Returns true if `}` or `]` is the first token in `rest` that is not white space, a comment or
/// another pending comma; and the number of bytes before it.
fn look_ahead(rest: &[u8]) -> (bool, usize) {
    let mut at = 0;
    while at < rest.len() {
        let (token, length) = token(&rest[at..]);
        let sign = match token {
            Token::Text => Some(b'"'),
            Token::Comment | Token::PendingComma => None,
            Token::Other => rest[at..at + length].trim_ascii().first().copied(),
        };
        if let Some(sign) = sign {
            return (matches!(sign, b'}' | b']'), at);
        }
        at += length;
    }
    (false, at)
}
