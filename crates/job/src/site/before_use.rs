//! Before use, once a day: what is looked at before an instrument is relied on (common practice, no
//! source; voltage indicator and probes: HSE GS 38).

use crate::site::{Event, EventKind};
use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use uuid::Uuid;

/// What is looked at, in order.
pub const LOOKED_AT: [&str; 5] = [
    "battery: its sign is off; a low one shows first in the insulation range",
    "leads, probes and adapters: whole, clean, fingers behind the guards",
    "continuity: tips together low and steady, tips apart over range",
    "insulation: tips together 0, tips apart over range",
    "voltage indicator: reads on a known source",
];

/// The day of a moment, as the log counts days (UTC).
pub fn day(at: Timestamp) -> Date {
    at.to_zoned(TimeZone::UTC).date()
}

/// What a person wrote before use on the day of a moment, the last where there are several.
pub fn before_use<'a>(events: &'a [Event], by: &str, now: Timestamp) -> Option<&'a Event> {
    let today = |event: &&Event| {
        matches!(event.kind, EventKind::BeforeUse { .. }) && event.by == by && day(event.at) == day(now)
    };
    events.iter().rfind(today)
}

/// What was last found not right with an instrument, at a moment; `None` where it was right, or nobody
/// wrote it down.
pub fn found_wrong(events: &[Event], instrument: Uuid, at: Timestamp) -> Option<(Date, &str)> {
    let of = |event: &&Event| {
        let this = matches!(event.kind, EventKind::BeforeUse { instrument: one, .. } if one == Some(instrument));
        this && event.at <= at
    };
    let last = events.iter().filter(of).max_by_key(|event| event.at)?;
    match &last.kind {
        EventKind::BeforeUse { wrong, .. } if !wrong.is_empty() => Some((day(last.at), wrong)),
        _ => None,
    }
}
