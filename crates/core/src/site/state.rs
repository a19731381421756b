//! The one append-only log of what happened on site, and the state that follows from it.
//!
//! Isolation, proving dead, exposure of the supply, energising, nulling, alterations and putting
//! back, strike-outs. Group actions log each item.

use crate::site::{Event, EventKind};
use jiff::Timestamp;
use uuid::Uuid;

/// State of a board, as every page's frame says it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum BoardState {
    /// Nothing says it is dead: treat it as live.
    NotProved,
    /// Proved dead.
    ProvedDead,
    /// Incoming terminals live, earth off, under supervision.
    SupplyExposed,
    /// Energised.
    Energised,
}

/// What the log says of a board, or of one of its circuits.
fn state_of(
    events: &[Event],
    board: Uuid,
    concerns: impl Fn(&[Uuid]) -> bool,
) -> (BoardState, Option<(Timestamp, &str)>) {
    let mut state = (BoardState::NotProved, None);
    for event in events {
        let next = match &event.kind {
            EventKind::Isolated { board: b, circuits, .. } if *b == board && concerns(circuits) => {
                BoardState::NotProved
            }
            EventKind::NotIsolated { board: b, .. } if *b == board => BoardState::NotProved,
            EventKind::ProvedDead { board: b, circuits, .. } if *b == board && concerns(circuits) => {
                BoardState::ProvedDead
            }
            EventKind::EarthRefitted { board: b } if *b == board => BoardState::ProvedDead,
            EventKind::SupplyExposed { board: b } if *b == board => BoardState::SupplyExposed,
            EventKind::Energised { board: b, circuits } if *b == board && concerns(circuits) => BoardState::Energised,
            _ => continue,
        };
        state = (next, Some((event.at, event.by.as_str())));
    }
    state
}

/// The state of a board, since when, and by whose word. A board with some of its circuits live is
/// energised; isolating one circuit alone leaves it so.
pub fn board_state(events: &[Event], board: Uuid) -> (BoardState, Option<(Timestamp, &str)>) {
    let mut state = state_of(events, board, <[Uuid]>::is_empty);
    let partly = events.iter().rev().find(|event| {
        matches!(&event.kind, EventKind::Energised { board: b, circuits } if *b == board && !circuits.is_empty())
    });
    if let Some(event) = partly
        && !proved_after(events, board, event)
    {
        state = (BoardState::Energised, Some((event.at, event.by.as_str())));
    }
    state
}

/// Whether the whole board was isolated or proved dead after an event, in the order of the log.
fn proved_after(events: &[Event], board: Uuid, event: &Event) -> bool {
    events.iter().rev().take_while(|other| other.id != event.id).any(|other| match &other.kind {
        EventKind::Isolated { board: b, circuits, .. } | EventKind::ProvedDead { board: b, circuits, .. } => {
            *b == board && circuits.is_empty()
        }
        EventKind::NotIsolated { board: b, .. }
        | EventKind::EarthRefitted { board: b }
        | EventKind::SupplyExposed { board: b } => *b == board,
        _ => false,
    })
}

/// The state of one circuit of a board: its own where it was energised, or isolated, apart from
/// the others.
pub fn circuit_state(events: &[Event], board: Uuid, circuit: Uuid) -> (BoardState, Option<(Timestamp, &str)>) {
    state_of(events, board, |circuits| circuits.is_empty() || circuits.contains(&circuit))
}

/// A circuit that stays dead and locked for a later stage.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LeftDead<'a> {
    /// Which circuit.
    pub circuit: Uuid,
    /// The lock, and who keeps the key.
    pub lock: &'a str,
    /// What it waits for.
    pub reason: &'a str,
}

/// Circuits left dead and locked, in the order of the log, without those energised since.
pub fn left_dead(events: &[Event]) -> Vec<LeftDead<'_>> {
    let mut left: Vec<(Uuid, LeftDead<'_>)> = Vec::new();
    for event in events {
        match &event.kind {
            EventKind::LeftDead { board, circuits, lock, reason } => {
                for circuit in circuits {
                    left.retain(|(_, other)| other.circuit != *circuit);
                    left.push((*board, LeftDead { circuit: *circuit, lock, reason }));
                }
            }
            EventKind::Energised { board, circuits } => {
                left.retain(|(at, other)| at != board || !(circuits.is_empty() || circuits.contains(&other.circuit)));
            }
            _ => {}
        }
    }
    left.into_iter().map(|(_, left)| left).collect()
}
