//! Text that runs from right to left, kept from moving what stands beside it.

use ratatui::buffer::Buffer;
use tinmold_platform::text::runs_right_to_left;

/// First strong isolate, and its end: Unicode Standard Annex 9.
const FIRST_STRONG_ISOLATE: char = '\u{2068}';
const POP_ISOLATE: char = '\u{2069}';

/// Isolates every run of right-to-left letters on the screen, with the single spaces between its words.
pub fn isolate(buffer: &mut Buffer) {
    let area = buffer.area;
    for y in area.top()..area.bottom() {
        let mut run: Option<(u16, u16)> = None;
        for x in area.left()..=area.right() {
            let symbol = buffer.cell((x, y)).map(|cell| cell.symbol().to_owned()).unwrap_or_default();
            let is_rtl = symbol.chars().any(runs_right_to_left);
            run = match run {
                None if is_rtl => Some((x, x)),
                Some((start, _)) if is_rtl => Some((start, x)),
                Some((start, end)) if symbol == " " && x == end + 1 => Some((start, end)),
                Some((start, end)) => {
                    enclose(buffer, y, start, end);
                    None
                }
                None => None,
            };
        }
    }
}

fn enclose(buffer: &mut Buffer, y: u16, start: u16, end: u16) {
    if let Some(cell) = buffer.cell_mut((start, y)) {
        let symbol = format!("{FIRST_STRONG_ISOLATE}{}", cell.symbol());
        cell.set_symbol(&symbol);
    }
    if let Some(cell) = buffer.cell_mut((end, y)) {
        let symbol = format!("{}{POP_ISOLATE}", cell.symbol());
        cell.set_symbol(&symbol);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use ratatui::layout::Rect;
    use ratatui::style::Style;

    #[test]
    fn runs_are_isolated() {
        let mut buffer = Buffer::empty(Rect::new(0, 0, 20, 1));
        buffer.set_string(0, 0, "a שלום עולם  b", Style::new());
        isolate(&mut buffer);
        let text: String = (0..20).map(|x| buffer[(x, 0)].symbol().to_owned()).collect();
        assert_eq!(text.trim_end(), "a \u{2068}שלום עולם\u{2069}  b");
    }
}
