//! Insulation resistance: test voltage and minimum, and when to look again.

use crate::limits::{LimitRow, Source};
use crate::quantity::{Megohms, Volts, exact};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

/// Least that passes, MΩ.
pub fn least() -> Decimal {
    exact(minimum(VoltageBand::UpTo500).get()).unwrap_or(Decimal::ONE)
}

sources! {
    PARALLEL: "insulation in parallel" = Source::practice("readings in parallel add as 1/Σ(1/R)");
    MINIMUM: "insulation minimum" = Source::published("BS 7671", "Table 64, 643.3; IEC 60364-6 Table 6A", "");
    REDUCED: "insulation at reduced voltage" = Source::published("BS 7671", "643.3.3", "SPDs or equipment that cannot come out: 250 V, still 1 MΩ");
    NEW: "new wiring insulation" = Source::practice("new wiring under 200 MΩ or under the instrument's over-range");
    LOW: "low insulation" = Source::memory("Guidance Note 3", "insulation resistance", "anything under 2 MΩ");
    OLD: "older insulation" = Source::practice("older circuit under 10 MΩ");
}

/// Which row of the table a circuit stands in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "snake_case")]
pub enum VoltageBand {
    /// Separated or protective extra-low voltage.
    ExtraLow,
    /// Up to and including 500 V.
    #[default]
    UpTo500,
    /// Above 500 V.
    Above500,
}

/// Test voltage d.c. of a band.
pub const fn test_voltage(band: VoltageBand) -> LimitRow<Volts> {
    let volts = match band {
        VoltageBand::ExtraLow => Volts::literal(250.0),
        VoltageBand::UpTo500 => Volts::literal(500.0),
        VoltageBand::Above500 => Volts::literal(1000.0),
    };
    LimitRow::new(volts, MINIMUM)
}

/// Minimum of a band.
pub const fn minimum(band: VoltageBand) -> LimitRow<Megohms> {
    let megohms = match band {
        VoltageBand::ExtraLow => Megohms::literal(0.5),
        VoltageBand::UpTo500 | VoltageBand::Above500 => Megohms::literal(1.0),
    };
    LimitRow::new(megohms, MINIMUM)
}

/// Test voltage where SPDs or equipment cannot be taken out; the minimum stays.
pub const REDUCED_VOLTAGE: LimitRow<Volts> = LimitRow::new(Volts::literal(250.0), REDUCED);

/// New wiring under this is looked at again.
pub const LOOK_AGAIN_NEW: LimitRow<Megohms> = LimitRow::new(Megohms::literal(200.0), NEW);

/// A whole is within this share of the parallel sum of its parts: the two are read at other moments.
pub const PARALLEL_WITHIN: LimitRow<f64> = LimitRow::new(0.2, PARALLEL);

/// Anything under this is looked at again.
pub const LOOK_AGAIN_ANY: LimitRow<Megohms> = LimitRow::new(Megohms::literal(2.0), LOW);

/// An older circuit under this is looked at again.
pub const LOOK_AGAIN_OLD: LimitRow<Megohms> = LimitRow::new(Megohms::literal(10.0), OLD);

#[cfg(test)]
mod tests {
    use super::*;

    /// BS 7671 Table 64; IEC 60364-6 Table 6A.
    #[test]
    fn rows_of_the_table() {
        for (band, volts, megohms) in [
            (VoltageBand::ExtraLow, 250.0, 0.5),
            (VoltageBand::UpTo500, 500.0, 1.0),
            (VoltageBand::Above500, 1000.0, 1.0),
        ] {
            assert_eq!(test_voltage(band).get(), volts);
            assert_eq!(minimum(band).get(), megohms);
        }
    }
}
