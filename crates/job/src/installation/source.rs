//! Sources beside the supply: what may still feed an installation whose main switch is off.

use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Kind of source.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum SourceKind {
    /// Photovoltaic panels.
    #[default]
    Solar,
    /// A battery.
    Storage,
    /// A generating set.
    Generator,
    /// A vehicle that feeds back.
    Vehicle,
    /// An uninterruptible supply.
    Ups,
}

impl SourceKind {
    /// In the order offered.
    pub const ALL: [Self; 5] = [Self::Solar, Self::Storage, Self::Generator, Self::Vehicle, Self::Ups];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Solar => "solar",
            Self::Storage => "storage",
            Self::Generator => "generator",
            Self::Vehicle => "vehicle",
            Self::Ups => "ups",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Solar => "photovoltaic panels",
            Self::Storage => "battery storage",
            Self::Generator => "generating set",
            Self::Vehicle => "vehicle that feeds back",
            Self::Ups => "uninterruptible supply (UPS)",
        }
    }

    /// Whether its current passes the devices of the installation the other way.
    pub const fn feeds_back(self) -> bool {
        !matches!(self, Self::Ups)
    }
}

/// A source beside the supply.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct OtherSource {
    /// Identity.
    pub id: Uuid,
    /// Kind.
    pub kind: SourceKind,
    /// The board that it is connected to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub board: Option<Uuid>,
    /// Where it is isolated.
    #[serde(default)]
    pub isolator: String,
    /// Warning notices stand at origin, meter, board and isolator; `None`: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub notices: Option<bool>,
    /// Every device between it and its board works with the current in both directions; `None`: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub both_ways: Option<bool>,
}
