//! How a circuit runs: a ring, or a radial.

use serde::{Deserialize, Serialize};

/// Points of a circuit, at most.
pub const MOST_POINTS: usize = 500;

/// How a circuit runs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Shape {
    /// Ring final circuit.
    Ring,
    /// Radial.
    #[default]
    Radial,
}

impl Shape {
    /// In the order offered.
    pub const ALL: [Self; 2] = [Self::Ring, Self::Radial];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Ring => "ring",
            Self::Radial => "radial",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Ring => "ring",
            Self::Radial => "radial",
        }
    }
}
