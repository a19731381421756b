//! What was added by mistake and withdrawn: gone from plan, schedule and papers, kept in the file with what
//! was read of it and struck out.

use crate::installation::{Board, Circuit};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

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
