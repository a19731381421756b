//! How many lines: one or three.

use serde::{Deserialize, Serialize};

/// How many lines.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Lines {
    /// One.
    #[default]
    Single,
    /// Three.
    Three,
}

impl Lines {
    /// In the order offered.
    pub const ALL: [Self; 2] = [Self::Single, Self::Three];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Single => "single",
            Self::Three => "three",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Single => "single phase",
            Self::Three => "three phase",
        }
    }
}
