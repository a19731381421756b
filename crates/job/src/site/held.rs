//! Whether a state was held at some moment of a day: what a date on paper can be asked.

use super::log::Event;
use super::state::{Site, Transition};
use super::wanted::Wanted;
use jiff::civil::Date;
use uuid::Uuid;

/// Whether a board, or one of its circuits, was at some moment of a day in a state that a test wants;
/// `None` where the log says nothing of the board up to then.
pub fn held_on(events: &[Event], wanted: Wanted, (board, circuit): (Uuid, Option<Uuid>), day: Date) -> Option<bool> {
    let day_of = |event: &Event| super::day(event.at);
    let tells = |event: &Event| Transition::from_event(&event.kind).is_some_and(|transition| transition.board == board);
    let mut until: Vec<&Event> = events.iter().filter(|event| day_of(event) <= day).collect();
    until.sort_by_key(|event| event.at);
    let (mut site, mut told, mut held) = (Site::default(), false, false);
    for event in until {
        held |= told && day_of(event) == day && site.allows(wanted, board, circuit);
        site.apply(event);
        told |= tells(event);
    }
    told.then(|| held || site.allows(wanted, board, circuit))
}
