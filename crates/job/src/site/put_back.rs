//! What stands altered, and what is outstanding.

use super::Alteration;
use jiff::Timestamp;
use uuid::Uuid;

/// An outstanding point.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct OutstandingPoint<'a> {
    /// The item.
    pub item: Uuid,
    /// On which circuit.
    pub circuit: Uuid,
    /// What is outstanding, and where.
    pub thing: &'a str,
    /// How it was made safe.
    pub made_safe: &'a str,
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
