//! Insulation resistance: test voltage and minimum, and when to look again.

use crate::quantity::{Megohms, Volts, exact};
use crate::standard::Source;
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

/// Least that passes, MΩ.
pub fn least() -> Decimal {
    exact(minimum(VoltageBand::UpTo500).get()).unwrap_or(Decimal::ONE)
}

const MINIMUM: Source = Source::published("BS 7671", "Table 64, 643.3; IEC 60364-6 Table 6A", "");

const REDUCED: Source =
    Source::published("BS 7671", "643.3.3", "SPDs or equipment that cannot come out: 250 V, still 1 MΩ");
const NEW: Source = Source::practice("new wiring under 200 MΩ or under the instrument's over-range");
const LOW: Source = Source::memory("Guidance Note 3", "insulation resistance", "anything under 2 MΩ");
const OLD: Source = Source::practice("older circuit under 10 MΩ");

pub(super) const SOURCES: &[(&str, Source)] = &[
    ("insulation minimum", MINIMUM),
    ("insulation at reduced voltage", REDUCED),
    ("new wiring insulation", NEW),
    ("low insulation", LOW),
    ("older insulation", OLD),
];

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
pub const fn test_voltage(band: VoltageBand) -> Volts {
    match band {
        VoltageBand::ExtraLow => Volts::literal(250.0),
        VoltageBand::UpTo500 => Volts::literal(500.0),
        VoltageBand::Above500 => Volts::literal(1000.0),
    }
}

/// Minimum of a band.
pub const fn minimum(band: VoltageBand) -> Megohms {
    match band {
        VoltageBand::ExtraLow => Megohms::literal(0.5),
        VoltageBand::UpTo500 | VoltageBand::Above500 => Megohms::literal(1.0),
    }
}

/// Test voltage where SPDs or equipment cannot be taken out; the minimum stays.
pub const REDUCED_VOLTAGE: Volts = Volts::literal(250.0);

/// New wiring under this is looked at again.
pub const LOOK_AGAIN_NEW: Megohms = Megohms::literal(200.0);

/// Anything under this is looked at again.
pub const LOOK_AGAIN_ANY: Megohms = Megohms::literal(2.0);

/// An older circuit under this is looked at again.
pub const LOOK_AGAIN_OLD: Megohms = Megohms::literal(10.0);

/// Source of [`LOOK_AGAIN_NEW`].
pub const fn new_source() -> Source {
    NEW
}

/// Source of [`LOOK_AGAIN_ANY`].
pub const fn low_source() -> Source {
    LOW
}

/// Source of [`LOOK_AGAIN_OLD`].
pub const fn old_source() -> Source {
    OLD
}

/// Source of the reduced test voltage.
pub const fn reduced_source() -> Source {
    REDUCED
}

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
