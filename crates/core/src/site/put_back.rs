//! What stands altered, and what is owed.

use crate::site::{Alteration, Event, EventKind};
use jiff::Timestamp;
use uuid::Uuid;

/// A point owed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Owed<'a> {
    /// The item.
    pub item: Uuid,
    /// On which circuit.
    pub circuit: Uuid,
    /// What is owed, and where.
    pub thing: &'a str,
    /// How it was made safe.
    pub made_safe: &'a str,
}

/// Points owed and not yet done, oldest first.
pub fn owed(events: &[Event]) -> Vec<Owed<'_>> {
    let mut all = Vec::new();
    for event in events {
        match &event.kind {
            EventKind::Owed { item, circuit, thing, made_safe } => {
                all.push(Owed { item: *item, circuit: *circuit, thing, made_safe });
            }
            EventKind::OwedDone { item } => all.retain(|other: &Owed<'_>| other.item != *item),
            _ => {}
        }
    }
    all
}

/// An open item of the put-back list.
#[derive(Debug, Clone, PartialEq)]
pub struct OpenItem<'a> {
    /// The item.
    pub item: Uuid,
    /// At which board.
    pub board: Uuid,
    /// On which circuit.
    pub circuit: Option<Uuid>,
    /// What.
    pub alteration: Alteration,
    /// Where exactly.
    pub note: &'a str,
    /// Since when.
    pub since: Timestamp,
    /// By whom.
    pub by: &'a str,
}

/// What was altered and not yet put back, oldest first.
pub fn open_items(events: &[Event]) -> Vec<OpenItem<'_>> {
    let mut open = Vec::new();
    for event in events {
        match &event.kind {
            EventKind::Altered { item, board, circuit, alteration, note } => open.push(OpenItem {
                item: *item,
                board: *board,
                circuit: *circuit,
                alteration: *alteration,
                note,
                since: event.at,
                by: &event.by,
            }),
            EventKind::PutBack { item } => open.retain(|other| other.item != *item),
            _ => {}
        }
    }
    open
}
