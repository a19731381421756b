//! What a circuit feeds.

use serde::{Deserialize, Serialize};

/// What a circuit feeds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Feeds {
    /// Socket-outlets.
    #[default]
    Sockets,
    /// Lighting.
    Lighting,
    /// Fixed equipment only.
    Fixed,
    /// Another board.
    Board,
}

impl Feeds {
    /// In the order offered.
    pub const ALL: [Self; 4] = [Self::Sockets, Self::Lighting, Self::Fixed, Self::Board];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Sockets => "sockets",
            Self::Lighting => "lighting",
            Self::Fixed => "fixed",
            Self::Board => "board",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Sockets => "socket-outlets",
            Self::Lighting => "lighting",
            Self::Fixed => "fixed equipment",
            Self::Board => "another board",
        }
    }
}
