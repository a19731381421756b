//! The state that a test wants of the circuit, board or supply that it is taken on: the one table.

use super::board_state::BoardState;
use crate::installation::{Feed, Installation};
use crate::reading::{Key, Method, Subject, Test};
use serde::Serialize;
use uuid::Uuid;

/// What a test wants.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Wanted {
    /// Proved dead.
    Dead,
    /// The supply exposed: the earthing conductor off, under supervision.
    Exposed,
    /// The incoming terminals, whatever state the outgoing side is in once it is known.
    Incoming,
    /// The incoming terminals with the earthing conductor on.
    EarthOn,
    /// Energised.
    Live,
    /// Nothing: it is looked at.
    Nothing,
}

impl Wanted {
    /// By what is read, and of what.
    pub const fn for_key(key: &Key) -> Self {
        match (key.test, &key.subject) {
            // What is visible throughout its length is looked at, nothing is taken off.
            (Test::BondContinuity | Test::EarthingConductor, _) if matches!(key.method, Method::ByEye) => Self::Nothing,
            (Test::PhaseSequence, _) if matches!(key.method, Method::EndToEnd) => Self::Dead,
            (
                Test::RingEndToEnd { .. }
                | Test::RingBoardCheck
                | Test::R1Rn
                | Test::R1R2
                | Test::R2
                | Test::Insulation
                | Test::InsulationJoined
                | Test::BondContinuity
                | Test::EarthingConductor
                | Test::Polarity,
                _,
            ) => Self::Dead,
            (Test::Ze, _) => Self::Exposed,
            (Test::SupplyPolarity, _) | (Test::Electrode, Subject::Supply) => Self::Incoming,
            (Test::FaultCurrent | Test::Zs | Test::LineNeutralLoop, Subject::Supply) => Self::EarthOn,
            (Test::Labelling, _) => Self::Nothing,
            (
                Test::FaultCurrent
                | Test::Zs
                | Test::LineNeutralLoop
                | Test::RcdTrip { .. }
                | Test::RcdButton
                | Test::AfddButton
                | Test::Electrode
                | Test::PhaseSequence
                | Test::Functional
                | Test::SurgeIndicator,
                _,
            ) => Self::Live,
        }
    }

    /// What the board then is.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Dead => "proved dead",
            Self::Exposed => "exposed for Ze, its earth disconnected",
            Self::Incoming => "isolated or energised",
            Self::EarthOn => "with its earth on",
            Self::Live => "energised",
            Self::Nothing => "looked at",
        }
    }

    /// Whether a state will do.
    pub const fn allows(self, state: BoardState) -> bool {
        match self {
            Self::Dead => matches!(state, BoardState::ProvedDead),
            Self::Exposed => matches!(state, BoardState::SupplyExposed),
            Self::Incoming => !matches!(state, BoardState::NotProved),
            Self::EarthOn => matches!(state, BoardState::ProvedDead | BoardState::Energised),
            Self::Live => matches!(state, BoardState::Energised),
            Self::Nothing => true,
        }
    }
}

/// The board, and the circuit if it is one, that a reading is taken on. The origin is its first board.
pub fn taken_on(installation: &Installation, subject: &Subject) -> Option<(Uuid, Option<Uuid>)> {
    match subject {
        Subject::Place { circuit, .. } => Some((installation.circuit(*circuit)?.board, Some(*circuit))),
        Subject::CircuitSet { circuits } => {
            Some((circuits.iter().find_map(|id| installation.circuit(*id))?.board, None))
        }
        Subject::Board { board } => Some((*board, None)),
        Subject::Bond { .. } | Subject::Supply => {
            let first = installation.boards.iter().find(|board| board.fed_by == Feed::Supply)?;
            Some((first.id, None))
        }
    }
}
