//! Values made with the system's randomness.

/// `length` ASCII letters and digits, each equally likely.
///
/// # Errors
/// The system gives no randomness; without it no secret can be made.
pub(crate) fn mint(length: u16) -> Result<String, getrandom::Error> {
    const LETTERS: &[u8; 62] = b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789";
    let mut made = String::with_capacity(length as usize);
    let mut bytes = [0; 64];
    while made.len() < length as usize {
        getrandom::fill(&mut bytes)?;
        // Of 256 byte values 248 = 4 × 62 are used, so that no letter is likelier than another.
        let letters =
            bytes.iter().filter(|byte| **byte < 248).map(|byte| char::from(LETTERS[*byte as usize % 62]));
        made.extend(letters.take(length as usize - made.len()));
    }
    Ok(made)
}
