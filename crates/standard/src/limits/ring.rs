//! Ring final circuits: tolerances between the legs, the cable behind the device.

use crate::limits::{LimitRow, Source};
use crate::quantity::{Amps, Ohms, SquareMillimetres};

sources! {
    QUARTERS: "ring quarters" = Source::published("On-Site Guide", "10.3.2; Guidance Note 3", "mid-ring value");
    LEGS_ALIKE: "ring legs alike" = Source::memory("On-Site Guide", "10.3.2", "r1 and rn within 0.05 Ω");
    PROPORTION: "ring legs in proportion" = Source::practice("r1 and rn alike in proportion as well");
    AS_EXPECTED: "ring reading as expected" = Source::practice("a ring reading within 0.05 Ω of what the circuit should give");
    CABLE: "ring cable" = Source::published("BS 7671", "433.1.204", "30/32 A ring: at least 2.5 mm² (1.5 mineral-insulated), each leg 20 A");
}

/// r1 and rn are within this of each other.
pub const LEGS_WITHIN: LimitRow<Ohms> = LimitRow::new(Ohms::literal(0.05), LEGS_ALIKE);

/// The smaller of r1 and rn is at least this share of the larger: 0.04 beside 0.09 is not.
pub const LEGS_PROPORTION: LimitRow<f64> = LimitRow::new(0.75, PROPORTION);

/// Below this difference two legs are alike whatever their proportion: it is meter scatter.
pub const PROPORTION_FROM: LimitRow<Ohms> = LimitRow::new(Ohms::literal(0.04), PROPORTION);

/// A reading is within this of what is expected.
pub const READING_WITHIN: LimitRow<Ohms> = LimitRow::new(Ohms::literal(0.05), AS_EXPECTED);

/// Least line and neutral size of a ring, thermoplastic or thermosetting cable.
pub const LEAST_SIZE: LimitRow<SquareMillimetres> = LimitRow::new(SquareMillimetres::literal(2.5), CABLE);

/// Least size in mineral-insulated cable.
pub const LEAST_SIZE_MINERAL: LimitRow<SquareMillimetres> = LimitRow::new(SquareMillimetres::literal(1.5), CABLE);

/// Least current-carrying capacity of each leg.
pub const LEAST_LEG_CAPACITY: LimitRow<Amps> = LimitRow::new(Amps(rust_decimal::dec!(20)), CABLE);
