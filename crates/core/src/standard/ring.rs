//! Ring final circuits: tolerances between the legs, the cable behind the device.

use crate::quantity::{Amps, Ohms, SquareMillimetres};
use crate::standard::Source;

const QUARTERS: Source = Source::published("On-Site Guide", "10.3.2; Guidance Note 3", "mid-ring value");

const LEGS_ALIKE: Source = Source::memory("On-Site Guide", "10.3.2", "r1 and rn within 0.05 Ω");

const PROPORTION: Source = Source::practice("r1 and rn alike in proportion as well");

const AS_EXPECTED: Source = Source::practice("a ring reading within 0.05 Ω of what the circuit should give");

const CABLE: Source =
    Source::published("BS 7671", "433.1.204", "30/32 A ring: at least 2.5 mm² (1.5 mineral-insulated), each leg 20 A");

pub(super) const SOURCES: &[(&str, Source)] = &[
    ("ring quarters", QUARTERS),
    ("ring legs alike", LEGS_ALIKE),
    ("ring legs in proportion", PROPORTION),
    ("ring reading as expected", AS_EXPECTED),
    ("ring cable", CABLE),
];

/// r1 and rn are within this of each other.
pub const LEGS_WITHIN: Ohms = Ohms::literal(0.05);

/// The smaller of r1 and rn is at least this share of the larger: 0.04 beside 0.09 is not.
pub const LEGS_PROPORTION: f64 = 0.75;

/// Below this difference two legs are alike whatever their proportion: it is meter scatter.
pub const PROPORTION_FROM: Ohms = Ohms::literal(0.04);

/// A reading is within this of what is expected.
pub const READING_WITHIN: Ohms = Ohms::literal(0.05);

/// Least line and neutral size of a ring, thermoplastic or thermosetting cable.
pub const LEAST_SIZE: SquareMillimetres = SquareMillimetres::literal(2.5);

/// Least size in mineral-insulated cable.
pub const LEAST_SIZE_MINERAL: SquareMillimetres = SquareMillimetres::literal(1.5);

/// Least current-carrying capacity of each leg.
pub const LEAST_LEG_CAPACITY: Amps = Amps::literal(20.0);

/// Source of the (r1+rn)/4 and (r1+r2)/4 rules.
pub const fn quarters_source() -> Source {
    QUARTERS
}

/// Source of [`LEGS_WITHIN`].
pub const fn legs_source() -> Source {
    LEGS_ALIKE
}

/// Source of [`LEGS_PROPORTION`].
pub const fn proportion_source() -> Source {
    PROPORTION
}

/// Source of [`READING_WITHIN`].
pub const fn reading_source() -> Source {
    AS_EXPECTED
}

/// Source of the least cable of a ring.
pub const fn cable_source() -> Source {
    CABLE
}
