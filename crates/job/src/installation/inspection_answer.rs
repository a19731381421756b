//! The answer to an item of the inspection.

use serde::{Deserialize, Serialize};

/// An item of the schedule of inspections, answered.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct InspectionAnswer {
    /// Key of the item.
    pub item: String,
    /// The outcome.
    pub outcome: InspectionOutcome,
    /// Reason of a departure or limitation.
    #[serde(default)]
    pub note: String,
}

/// Outcome of an inspection.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum InspectionOutcome {
    /// Seen and right.
    Yes,
    /// Does not apply here.
    NotApplicable,
    /// Departs from the standard; the note says why it is no less safe.
    Departure,
    /// Could not be looked at; the note says why.
    Limitation,
}

impl InspectionOutcome {
    /// In the order offered.
    pub const ALL: [Self; 4] = [Self::Yes, Self::NotApplicable, Self::Departure, Self::Limitation];

    /// Whether it wants a reason.
    pub const fn wants_reason(self) -> bool {
        matches!(self, Self::Departure | Self::Limitation)
    }

    /// As it stands beside its box.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Yes => "✓ yes",
            Self::NotApplicable => "n/a",
            Self::Departure => "departure",
            Self::Limitation => "limitation",
        }
    }

    /// Key in forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Yes => "yes",
            Self::NotApplicable => "not_applicable",
            Self::Departure => "departure",
            Self::Limitation => "limitation",
        }
    }
}
