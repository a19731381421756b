//! The next inspection as a calendar entry (iCalendar, RFC 5545).

use ics::properties::{Categories, Description, DtStart, Location, Summary};
use ics::{Event, ICalendar, escape_text};
use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;

/// What the entry says.
#[derive(Debug, Clone, Copy)]
pub struct Due<'a> {
    /// Number of the certificate that recommends it.
    pub number: &'a str,
    /// The day.
    pub on: Date,
    /// The site's address.
    pub site: &'a str,
    /// The firm that recommends it.
    pub firm: &'a str,
    /// When the certificate was issued.
    pub issued_at: Timestamp,
    /// What stands on a paper that is worth nothing.
    pub mark: Option<&'a str>,
}

/// A calendar of one entry, for the whole day.
pub fn next_inspection(due: &Due<'_>) -> String {
    let stamp = due.issued_at.to_zoned(TimeZone::UTC).strftime("%Y%m%dT%H%M%SZ").to_string();
    let mut event = Event::new(format!("{}@proof", due.number), stamp);
    let mut start = DtStart::new(due.on.strftime("%Y%m%d").to_string());
    start.add(ics::parameters::Value::DATE);
    event.push(start);
    event.push(Summary::new(escape_text("Electrical installation: inspection due")));
    let mark = due.mark.map(|mark| format!(" {mark}.")).unwrap_or_default();
    let words = format!("Recommended by certificate {} of {}.{mark}", due.number, due.firm);
    event.push(Description::new(escape_text(words)));
    event.push(Location::new(escape_text(due.site.to_owned())));
    event.push(Categories::new("inspection"));
    let mut calendar = ICalendar::new("2.0", "-//Proof//next inspection//EN");
    calendar.add_event(event);
    calendar.to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_whole_day_with_commas_escaped_and_lines_folded() {
        let due = Due {
            number: "G-101-C1",
            on: jiff::civil::date(2029, 11, 25),
            site: "The Old Granary, Sluice Lane, Brackwater, and a good deal more of an address than fits a line",
            firm: "Ferrow & Kell Electrical",
            issued_at: "2026-11-25T10:00:00Z".parse().unwrap(),
            mark: None,
        };
        let text = next_inspection(&due);
        assert!(text.starts_with("BEGIN:VCALENDAR\r\n") && text.ends_with("END:VCALENDAR\r\n"), "{text}");
        assert!(text.contains("DTSTART;VALUE=DATE:20291125\r\n"), "{text}");
        assert!(text.contains("DTSTAMP:20261125T100000Z\r\n"), "{text}");
        assert!(text.contains("Granary\\, Sluice"), "{text}");
        // RFC 5545, 3.1: no line longer than 75 octets.
        assert!(text.lines().all(|line| line.len() <= 75), "{text}");
    }
}
