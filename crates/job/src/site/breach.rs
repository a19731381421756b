//! What a log does that no gate lets through. A file's log is history: it is taken as it is, and what
//! it did is told.

use super::isolation::{Lacking, circuit_pair_count, pair_count, proves};
use super::log::{Event, EventKind};
use super::{Alteration, BoardState, Site};
use crate::installation::{Feed, Installation};
use jiff::Timestamp;
use serde::Serialize;
use uuid::Uuid;

/// What was done.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize)]
#[serde(tag = "breach", rename_all = "snake_case")]
pub enum Breach {
    /// Energised while an earth or a bond was off somewhere on the supply.
    EnergisedEarthOff,
    /// Energised with items not put back.
    EnergisedItemsOpen {
        /// How many.
        count: usize,
    },
    /// Energised while what feeds it was dead.
    EnergisedBelowDead,
    /// The earthing conductor taken off while a board on the supply was not proved dead.
    ExposedNotDead,
    /// Conductors touched that were not proved dead.
    AlteredNotDead {
        /// For what.
        alteration: Alteration,
    },
    /// A record of proving dead that proves nothing.
    NotProved {
        /// What it lacks.
        lacking: Lacking,
    },
}

/// What was done, where and when.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Broken {
    /// What.
    pub breach: Breach,
    /// At which board.
    pub board: Uuid,
    /// When.
    pub at: Timestamp,
}

/// The way above a board that the log has dead, and its board: what hangs below it is not live.
pub fn dead_above(installation: &Installation, site: &Site<'_>, board: Uuid) -> Option<Uuid> {
    let mut below = board;
    for _ in &installation.boards {
        let Some(Feed::Circuit { circuit }) = installation.board(below).map(|board| board.fed_by) else { return None };
        let feeder = installation.circuit(circuit)?;
        let state = site.circuit(feeder.board, circuit).0;
        // After Ze its main switch is still off, locked or not.
        let off =
            site.is_earth_restored(feeder.board) || matches!(state, BoardState::ProvedDead | BoardState::SupplyExposed);
        if off {
            return Some(feeder.id);
        }
        below = feeder.board;
    }
    None
}

/// How a board stands with what feeds it: what hangs below a way that is off is not live, whatever was said
/// of it before, nor is it proved dead.
pub fn board_as_fed(installation: &Installation, site: &Site<'_>, board: Uuid) -> BoardState {
    match site.board(board).0 {
        BoardState::Energised if dead_above(installation, site, board).is_some() => BoardState::NotProved,
        state => state,
    }
}

/// The first board on the supply that is not dead: an earth serves them all.
pub fn not_dead(installation: &Installation, site: &Site<'_>) -> Option<(Uuid, BoardState)> {
    let fed = installation.boards.iter().filter(|board| board.fed_by == Feed::Supply);
    fed.map(|board| (board.id, site.board(board.id).0))
        .find(|(_, state)| !matches!(state, BoardState::ProvedDead | BoardState::SupplyExposed))
}

/// Whether an earth, a bond or a tail is off anywhere on the supply.
pub fn any_earth_off(installation: &Installation, site: &Site<'_>) -> bool {
    installation.boards.iter().any(|board| site.earth_off(board.id).is_some())
        || site.open().iter().any(|item| item.alteration.takes_earth_off())
}

/// What a log does that no gate lets through, in its order.
pub fn breaches(installation: &Installation, events: &[Event]) -> Vec<Broken> {
    let mut broken = Vec::new();
    let mut site = Site::default();
    for event in events {
        let mut tell = |board: Uuid, breach: Breach| broken.push(Broken { breach, board, at: event.at });
        match &event.kind {
            EventKind::Energised { board, circuits } => {
                energised(installation, &site, (*board, circuits), &mut |breach| tell(*board, breach));
            }
            EventKind::SupplyExposed { board } if not_dead(installation, &site).is_some() => {
                tell(*board, Breach::ExposedNotDead);
            }
            EventKind::Altered { board, circuit, alteration, .. } => {
                let state = circuit.map_or_else(|| site.board(*board), |one| site.circuit(*board, one)).0;
                let dead = matches!(state, BoardState::ProvedDead | BoardState::SupplyExposed);
                let alone = circuit.is_some_and(|one| site.alone(*board, one).is_some()) && alteration.is_in_board();
                let others = alone || alteration.takes_earth_off() && not_dead(installation, &site).is_some();
                if alteration.touches_conductors() && (!dead || others) {
                    tell(*board, Breach::AlteredNotDead { alteration: *alteration });
                }
            }
            EventKind::ProvedDead { board, circuits, pairs, shown, before, after, sources, .. } => {
                let lines = installation.board(*board).map(|board| board.lines).unwrap_or_default();
                let of_circuits = circuits.iter().filter_map(|id| installation.circuit(*id)).map(circuit_pair_count);
                let wanted = of_circuits.max().unwrap_or_else(|| pair_count(lines));
                let lacking = proves(wanted, *pairs, shown, [*before, *after]).err();
                let whole = circuits.is_empty();
                let other = || whole && installation.sources.iter().any(|one| !sources.contains(&one.id));
                if let Some(lacking) = lacking.or_else(|| other().then_some(Lacking::Source)) {
                    tell(*board, Breach::NotProved { lacking });
                }
            }
            _ => {}
        }
        site.apply(event);
    }
    broken
}

fn energised(
    installation: &Installation,
    site: &Site<'_>,
    (board, circuits): (Uuid, &[Uuid]),
    tell: &mut dyn FnMut(Breach),
) {
    if any_earth_off(installation, site) {
        tell(Breach::EnergisedEarthOff);
    }
    let concerned = |item: &&super::OpenItem<'_>| {
        item.board == board && (circuits.is_empty() || item.circuit.is_none_or(|circuit| circuits.contains(&circuit)))
    };
    let count = site.open().iter().filter(concerned).count();
    if count > 0 {
        tell(Breach::EnergisedItemsOpen { count });
    }
    if dead_above(installation, site, board).is_some() {
        tell(Breach::EnergisedBelowDead);
    }
}
