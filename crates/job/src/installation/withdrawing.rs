//! What is withdrawn from an installation.

use crate::installation::{Board, Circuit, Installation};
use uuid::Uuid;

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
