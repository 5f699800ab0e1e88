//! Drawing within bounds: a terminal may be as small as one letter.

use ratatui::Frame;
use ratatui::layout::Rect;
use ratatui::text::Line;

/// The fewest columns and rows that a screen is of use in.
const LEAST: (u16, u16) = (24, 7);

/// Draws a line in a row of the screen, if that is in the area.
pub fn put_line(frame: &mut Frame<'_>, area: Rect, y: u16, line: &Line<'_>) {
    let area = area.intersection(frame.area());
    if area.width > 0 && (area.top()..area.bottom()).contains(&y) {
        frame.buffer_mut().set_line(area.x, y, line, area.width);
    }
}

/// Says that the terminal is too small, if it is.
pub fn too_small(frame: &mut Frame<'_>) -> bool {
    let area = frame.area();
    let is_small = area.width < LEAST.0 || area.height < LEAST.1;
    if is_small {
        put_line(frame, area, area.y, &Line::raw("too small"));
    }
    is_small
}
