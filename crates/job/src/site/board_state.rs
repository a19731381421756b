//! The state of a board.

use serde::Serialize;

/// State of a board, as every page's frame says it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize)]
#[serde(rename_all = "snake_case")]
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

impl BoardState {
    /// What is said of a board in it, after its name.
    pub const fn label(self) -> &'static str {
        match self {
            Self::NotProved => "is not proved dead",
            Self::ProvedDead => "is proved dead",
            Self::SupplyExposed => "has its incoming terminals exposed, earth disconnected",
            Self::Energised => "is energised",
        }
    }
}
