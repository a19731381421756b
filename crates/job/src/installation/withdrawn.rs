//! What was added by mistake and withdrawn: gone from plan, schedule and papers, kept in the file with what
//! was read of it and struck out.

use crate::installation::{Board, Circuit, Installation};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A circuit, or a board with its circuits, that was withdrawn.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Withdrawn {
    /// The board, where it was one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub board: Option<Board>,
    /// The circuit, or those of the board.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub circuits: Vec<Circuit>,
    /// By whom.
    pub by: String,
    /// When.
    #[cfg_attr(feature = "schema", schemars(with = "String"))]
    pub at: Timestamp,
    /// Why.
    pub reason: String,
}

impl Installation {
    /// The circuit with this identity, also where it was withdrawn.
    pub fn circuit_ever(&self, id: Uuid) -> Option<&Circuit> {
        let gone = || self.withdrawn.iter().flat_map(|one| &one.circuits).find(|circuit| circuit.id == id);
        self.circuit(id).or_else(gone)
    }

    /// The board with this identity, also where it was withdrawn.
    pub fn board_ever(&self, id: Uuid) -> Option<&Board> {
        let gone = || self.withdrawn.iter().filter_map(|one| one.board.as_ref()).find(|board| board.id == id);
        self.board(id).or_else(gone)
    }
}
