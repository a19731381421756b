//! When the installation should be looked at next (a suggestion), and instrument accuracy.

use crate::limits::{LimitRow, Source};
use serde::{Deserialize, Serialize};

sources! {
    INTERVALS: "next inspection" = Source::memory("Guidance Note 3", "Table 3.2", "suggestion only");
    ACCURACY: "instrument accuracy" = Source::published("BS EN 61557", "parts 2 to 5", "operating uncertainty within ±30 %");
    PROBES: "test probes" = Source::published("HSE", "GS 38", "probes and leads, any test above 50 V");
}

/// Operating uncertainty allowed for insulation, loop, low resistance and electrode testers.
pub const OPERATING_UNCERTAINTY: LimitRow<f64> = LimitRow::new(0.30, ACCURACY);
/// A low-resistance ohmmeter drives at least this, mA, from 4 to 24 V.
pub const LOW_RESISTANCE_TEST_MA: LimitRow<f64> = LimitRow::new(200.0, ACCURACY);

/// What the premises are used for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum Premises {
    /// Owner-occupied dwelling.
    #[default]
    Dwelling,
    /// Let dwelling.
    LetDwelling,
    /// Office.
    Office,
    /// Shop.
    Shop,
    /// Industrial.
    Industrial,
    /// School or hall.
    SchoolOrHall,
    /// Farm.
    Farm,
    /// Caravan site.
    CaravanSite,
    /// Swimming pool.
    SwimmingPool,
    /// Construction site.
    ConstructionSite,
}

impl Premises {
    /// Whether ordinary persons live there.
    pub const fn is_dwelling(self) -> bool {
        matches!(self, Self::Dwelling | Self::LetDwelling)
    }

    /// In the order offered.
    pub const ALL: [Self; 10] = [
        Self::Dwelling,
        Self::LetDwelling,
        Self::Office,
        Self::Shop,
        Self::Industrial,
        Self::SchoolOrHall,
        Self::Farm,
        Self::CaravanSite,
        Self::SwimmingPool,
        Self::ConstructionSite,
    ];

    /// Key in forms and files.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Dwelling => "dwelling",
            Self::LetDwelling => "let_dwelling",
            Self::Office => "office",
            Self::Shop => "shop",
            Self::Industrial => "industrial",
            Self::SchoolOrHall => "school_or_hall",
            Self::Farm => "farm",
            Self::CaravanSite => "caravan_site",
            Self::SwimmingPool => "swimming_pool",
            Self::ConstructionSite => "construction_site",
        }
    }

    /// Words on a page.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Dwelling => "dwelling",
            Self::LetDwelling => "let dwelling",
            Self::Office => "office",
            Self::Shop => "shop",
            Self::Industrial => "industrial",
            Self::SchoolOrHall => "school or hall",
            Self::Farm => "farm",
            Self::CaravanSite => "caravan site",
            Self::SwimmingPool => "swimming pool",
            Self::ConstructionSite => "construction site",
        }
    }

    /// Suggested interval to the next inspection, months.
    pub const fn interval_months(self) -> u16 {
        match self {
            Self::Dwelling => 120,
            Self::LetDwelling | Self::Office | Self::Shop | Self::SchoolOrHall => 60,
            Self::Industrial | Self::Farm => 36,
            Self::CaravanSite | Self::SwimmingPool => 12,
            Self::ConstructionSite => 3,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Guidance Note 3 Table 3.2, from memory.
    #[test]
    fn intervals() {
        assert_eq!(Premises::Dwelling.interval_months(), 120);
        assert_eq!(Premises::LetDwelling.interval_months(), 60);
        assert_eq!(Premises::Industrial.interval_months(), 36);
        assert_eq!(Premises::ConstructionSite.interval_months(), 3);
        for premises in Premises::ALL {
            assert_eq!(serde_json::to_value(premises).unwrap(), premises.key());
        }
    }
}
