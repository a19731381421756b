//! Days and free text as they are printed.

use jiff::Timestamp;
use jiff::tz::TimeZone;

/// A day as printed.
pub(crate) fn day(at: Timestamp) -> String {
    at.to_zoned(TimeZone::UTC).strftime("%-d %B %Y").to_string()
}

/// What nobody wrote is not asserted.
pub(crate) fn or_unsaid(text: &str) -> String {
    if text.trim().is_empty() { "Nothing was written here.".to_owned() } else { text.trim().to_owned() }
}
