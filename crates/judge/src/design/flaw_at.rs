//! Where a flaw of the design is.

use uuid::Uuid;

/// What a flaw of the whole is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum FlawAt {
    /// The supply, its earthing, its sources, what was decided.
    Supply,
    /// A board.
    Board(Uuid),
}
