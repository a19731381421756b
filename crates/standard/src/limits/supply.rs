//! The supply: nominal voltage, voltage factors, declared maxima of the distributors.

use crate::limits::{LimitRow, Source};
use crate::quantity::{Kiloamps, Ohms};
use rust_decimal::{Decimal, dec};
use serde::{Deserialize, Serialize};

sources! {
    MOST_OF_TN: "most of a TN loop" = Source::practice("above 10 Ω a loop of a supply with the distributor's earth is more likely a current");
    LEAST_OF_ZE: "least line–earth current" = Source::practice("line–earth gives at least 0.8 × 230 V / Ze with bonds and paths in");
    NOMINAL: "nominal voltage" = Source::published("BS 7671", "Appendix 2", "230 V to earth, 400 V between lines");
    FACTORS: "voltage factors" = Source::memory("BS 7671", "411.4.4 and Part 2", "Cmin 0.95, Cmax 1.10");
    TOLERANCE_GB: "tolerance of the voltage in Great Britain" = Source::memory("ESQCR", "regulation 27", "230 V +10 −6 %");
    TOLERANCE: "tolerance of the voltage" = Source::memory("IEC 60038", "4.1", "public low-voltage supplies, ±10 %");
    DECLARED_ZE: "declared Ze" = Source::memory("UK distributors", "declared maximum Ze", "low-voltage supplies");
    DECLARED_PFC: "declared fault current" = Source::memory("UK distributors", "declared maximum PFC", "up to 100 A single phase");
}

/// Nominal voltage line to earth, V.
pub const U0_V: LimitRow<Decimal> = LimitRow::new(dec!(230), NOMINAL);

/// Nominal voltage between lines, V.
pub const U_LINE_LINE_V: LimitRow<Decimal> = LimitRow::new(dec!(400), NOMINAL);

/// Minimum voltage factor.
pub const C_MIN: LimitRow<Decimal> = LimitRow::new(dec!(0.95), FACTORS);

/// A public supply stays within this share of its nominal voltage (IEC 60038, 4.1 and its note;
/// from memory).
pub const VOLTAGE_TOLERANCE: LimitRow<Decimal> = LimitRow::new(dec!(0.10), TOLERANCE);

/// A supply in Great Britain is no lower than this share below its nominal voltage (from memory).
pub const VOLTAGE_LOWER_GB: LimitRow<Decimal> = LimitRow::new(dec!(0.06), TOLERANCE_GB);

/// Declared maximum prospective fault current up to 100 A single phase.
pub const DECLARED_PFC_KA: LimitRow<Kiloamps> = LimitRow::new(Kiloamps(dec!(16)), DECLARED_PFC);

/// Above this a loop of a supply with the distributor's earth is more likely a current, Ω.
pub const MOST_OF_TN_LOOP: LimitRow<Decimal> = LimitRow::new(dec!(10), MOST_OF_TN);

/// A fault current line–earth is at least this share of what Ze alone gives: display rounding, and a
/// supply that is low.
pub const LEAST_SHARE_OF_ZE_CURRENT: LimitRow<f64> = LimitRow::new(0.8, LEAST_OF_ZE);

/// Earthing arrangement of a supply or of a board.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub enum EarthingSystem {
    /// Neutral and earth combined in the supply (PME).
    #[default]
    #[serde(rename = "TN-C-S")]
    TnCS,
    /// Separate earth from the source.
    #[serde(rename = "TN-S")]
    TnS,
    /// Own electrode.
    #[serde(rename = "TT")]
    Tt,
}

impl EarthingSystem {
    /// In the order offered.
    pub const ALL: [Self; 3] = [Self::TnCS, Self::TnS, Self::Tt];

    /// Name as printed.
    pub const fn name(self) -> &'static str {
        match self {
            Self::TnCS => "TN-C-S",
            Self::TnS => "TN-S",
            Self::Tt => "TT",
        }
    }

    /// Parses the printed name.
    pub fn from_name(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|system| system.name().eq_ignore_ascii_case(name.trim()))
    }

    /// The distributors' declared maximum Ze (TT: outside the electrode).
    pub const fn declared_ze(self) -> LimitRow<Ohms> {
        let ohms = match self {
            Self::TnCS => Ohms::literal(0.35),
            Self::TnS => Ohms::literal(0.80),
            Self::Tt => Ohms::literal(21.0),
        };
        LimitRow::new(ohms, DECLARED_ZE)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// UK distributors' declared maxima, from memory.
    #[test]
    fn declared_values() {
        assert_eq!(EarthingSystem::TnCS.declared_ze().get(), 0.35);
        assert_eq!(EarthingSystem::TnS.declared_ze().get(), 0.80);
        assert_eq!(EarthingSystem::Tt.declared_ze().get(), 21.0);
        assert_eq!(EarthingSystem::from_name("tn-c-s"), Some(EarthingSystem::TnCS));
        assert_eq!(EarthingSystem::from_name("IT"), None);
    }
}
