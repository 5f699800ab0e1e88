//! The spare commas of JSON.
//!
//! A comma of the body that nothing but white space separates from a following `}` or `]` is dropped. While a JSON file is
//! rendered, the body's commas that might turn out so are written as a byte that no UTF-8 text holds; when the file is
//! whole, each becomes a comma or nothing.

/// Stands for a comma that may have to go.
pub(crate) const PENDING_COMMA: u8 = 0xff;

/// Settles the pending commas in `out` from `start` on.
pub(crate) fn settle(out: &mut Vec<u8>, start: usize) {
    let Some(first) = memchr::memchr(PENDING_COMMA, &out[start..]) else { return };
    let tail = out.split_off(start);
    let mut at = 0;
    let mut scanner = Scanner { in_text: false };
    scanner.pass(&tail[..first], &mut at);
    out.extend_from_slice(&tail[..first]);
    at = first;
    while at < tail.len() {
        // Here stands a pending comma.
        let next = at + 1;
        if scanner.in_text || !closes_next(&tail[next..]) {
            out.push(b',');
        }
        let end = memchr::memchr(PENDING_COMMA, &tail[next..]).map_or(tail.len(), |n| next + n);
        let mut within = 0;
        scanner.pass(&tail[next..end], &mut within);
        out.extend_from_slice(&tail[next..end]);
        at = end;
    }
}

/// Where the byte `at` of the settled output stood before it was settled.
pub(crate) fn before_settling(unsettled: &[u8], settled: &[u8], at: usize) -> usize {
    let (mut from, mut to) = (0, 0);
    while from < unsettled.len() {
        let dropped = unsettled[from] == PENDING_COMMA && settled.get(to) != Some(&b',');
        if !dropped && to >= at {
            break;
        }
        to += usize::from(!dropped);
        from += 1;
    }
    from
}

/// Whether `}` or `]` is the first thing that is neither white space, a comment nor another pending comma.
fn closes_next(rest: &[u8]) -> bool {
    let mut at = 0;
    loop {
        match rest.get(at) {
            Some(b' ' | b'\t' | b'\n' | b'\r' | &PENDING_COMMA) => at += 1,
            Some(b'}' | b']') => return true,
            _ => return false,
        }
    }
}

/// Follows quotes and comments, so that a comma in a text stays.
struct Scanner {
    in_text: bool,
}

impl Scanner {
    fn pass(&mut self, bytes: &[u8], at: &mut usize) {
        while let Some(&byte) = bytes.get(*at) {
            match byte {
                b'\\' if self.in_text => *at += 1,
                b'"' => self.in_text = !self.in_text,
                b'/' if !self.in_text && bytes.get(*at + 1) == Some(&b'/') => {
                    let rest = &bytes[*at..];
                    *at += memchr::memchr(b'\n', rest).unwrap_or(rest.len());
                    continue;
                }
                _ => {}
            }
            *at += 1;
        }
    }
}
