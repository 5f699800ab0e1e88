//! Ages in words.

use jiff::civil::Date;
use std::time::{Duration, SystemTime};

/// Returns the time since this number of seconds after 1970; `None` for a time in the future or one that no clock
/// has: whoever noted it had a wrong clock.
pub(crate) fn since(seconds: u64) -> Option<Duration> {
    let then = SystemTime::UNIX_EPOCH.checked_add(Duration::from_secs(seconds))?;
    SystemTime::now().duration_since(then).ok()
}

/// Returns an age in words; `None` is an unknown one.
pub(crate) fn age_in_words(age: Option<Duration>) -> String {
    age.map_or_else(|| "unknown age".to_owned(), |age| format!("{} ago", duration_in_words(age)))
}

const UNITS: [(u64, &str); 6] = [
    (365 * 86400, "year"),
    (30 * 86400, "month"),
    (7 * 86400, "week"),
    (86400, "day"),
    (3600, "hour"),
    (60, "minute"),
];

/// Returns a length of time in its largest unit: "3 days", "1 hour"; "a moment" below a minute.
#[must_use]
pub fn duration_in_words(time: Duration) -> String {
    let seconds = time.as_secs();
    match UNITS.iter().find(|(unit, _)| seconds >= *unit) {
        Some((unit, name)) if seconds / unit == 1 => format!("1 {name}"),
        Some((unit, name)) => format!("{} {name}s", seconds / unit),
        None => "a moment".into(),
    }
}

/// Returns the time between two dates (ISO 8601) in words; `None` if one is not a date. A date in
/// the future is "today".
#[must_use]
pub fn age_of_day(day: &str, today: &str) -> Option<String> {
    let (day, today): (Date, Date) = (day.get(..10)?.parse().ok()?, today.parse().ok()?);
    let days = day.duration_until(today).as_hours() / 24;
    Some(match u64::try_from(days) {
        Ok(days @ 1..) => duration_in_words(Duration::from_secs(days * 86400)),
        _ => "today".into(),
    })
}
