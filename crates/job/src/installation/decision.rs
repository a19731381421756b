//! What the designer decides and the certificate says: fitted, or not required and why.

use serde::{Deserialize, Serialize};

/// What was decided.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Decided {
    /// It is fitted.
    #[default]
    Fitted,
    /// It is not required; the reason says why.
    NotRequired,
}

impl Decided {
    /// In the order offered.
    pub const ALL: [Self; 2] = [Self::Fitted, Self::NotRequired];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Fitted => "fitted",
            Self::NotRequired => "not_required",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Fitted => "fitted",
            Self::NotRequired => "not required",
        }
    }
}

/// A decision with its reason.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Decision {
    /// What was decided.
    pub decided: Decided,
    /// Why; where it is fitted, what the choice rests on.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub reason: String,
}
