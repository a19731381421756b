//! The supply: nominal voltage, voltage factors, declared maxima of the distributors.

use crate::quantity::{Kiloamps, Ohms};
use crate::standard::{Row, Source};
use rust_decimal::{Decimal, dec};
use serde::{Deserialize, Serialize};

const NOMINAL: Source = Source::published("BS 7671", "Appendix 2", "230 V to earth, 400 V between lines");

const FACTORS: Source = Source::memory("BS 7671", "411.4.4 and Part 2", "Cmin 0.95, Cmax 1.10");

const TOLERANCE: Source = Source::memory("IEC 60038", "4.1", "public low-voltage supplies, ±10 %");

const DECLARED_ZE: Source = Source::memory("UK distributors", "declared maximum Ze", "low-voltage supplies");

const DECLARED_PFC: Source = Source::memory("UK distributors", "declared maximum PFC", "up to 100 A single phase");

pub(super) const SOURCES: &[(&str, Source)] = &[
    ("nominal voltage", NOMINAL),
    ("voltage factors", FACTORS),
    ("tolerance of the voltage", TOLERANCE),
    ("declared Ze", DECLARED_ZE),
    ("declared fault current", DECLARED_PFC),
];

/// Nominal voltage line to earth, V.
pub const U0_V: Decimal = dec!(230);

/// Nominal voltage between lines, V.
pub const U_LINE_LINE_V: Decimal = dec!(400);

/// Minimum voltage factor.
pub const C_MIN: Decimal = dec!(0.95);

/// Maximum voltage factor.
pub const C_MAX: Decimal = dec!(1.10);

/// A public supply stays within this share of its nominal voltage (IEC 60038, 4.1 and its note;
/// from memory).
pub const VOLTAGE_TOLERANCE: Decimal = dec!(0.10);

/// Declared maximum prospective fault current up to 100 A single phase.
pub const DECLARED_PFC_KA: Kiloamps = Kiloamps::literal(16.0);

const MOST_OF_TN: Row<Decimal> = Row {
    value: dec!(10),
    source: Source::practice("above 10 Ω a loop of a supply with the distributor's earth is more likely a current"),
};

/// Above this a loop of a supply with the distributor's earth is more likely a current, Ω.
pub const fn most_of_tn_loop() -> Row<Decimal> {
    MOST_OF_TN
}

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
    pub const fn declared_ze(self) -> Ohms {
        match self {
            Self::TnCS => Ohms::literal(0.35),
            Self::TnS => Ohms::literal(0.80),
            Self::Tt => Ohms::literal(21.0),
        }
    }
}

/// Source of [`EarthingSystem::declared_ze`].
pub const fn declared_ze_source() -> Source {
    DECLARED_ZE
}

/// Source of the nominal voltage.
pub const fn nominal_source() -> Source {
    NOMINAL
}

/// Source of Cmin and Cmax.
pub const fn factors_source() -> Source {
    FACTORS
}

/// Source of the declared fault current.
pub const fn declared_pfc_source() -> Source {
    DECLARED_PFC
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
