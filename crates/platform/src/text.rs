//! Characters that are not what they seem.

/// Returns true if a character controls a terminal, the direction of text, or is invisible: the categories Cc
/// and Cf of the Unicode Character Database 16.0, and the separators of lines and paragraphs.
#[must_use]
pub fn steers(c: char) -> bool {
    c.is_control()
        || matches!(c,
            '\u{ad}' | '\u{600}'..='\u{605}' | '\u{61c}' | '\u{6dd}' | '\u{70f}' | '\u{890}'..='\u{891}'
            | '\u{8e2}' | '\u{180e}' | '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}'
            | '\u{2060}'..='\u{206f}' | '\u{feff}' | '\u{fff9}'..='\u{fffb}' | '\u{110bd}' | '\u{110cd}'
            | '\u{13430}'..='\u{1343f}' | '\u{1bca0}'..='\u{1bca3}' | '\u{1d173}'..='\u{1d17a}'
            | '\u{e0001}' | '\u{e0020}'..='\u{e007f}')
}

/// Returns true for a letter that runs from right to left: the blocks that the Unicode Character Database 16.0
/// (DerivedBidiClass) gives to the classes R and AL.
#[must_use]
pub fn runs_right_to_left(c: char) -> bool {
    matches!(c,
        '\u{590}'..='\u{8ff}' | '\u{fb1d}'..='\u{fdff}' | '\u{fe70}'..='\u{fefc}' | '\u{10800}'..='\u{10fff}'
        | '\u{1e800}'..='\u{1efff}')
}
