//! Energy that a breaker lets through during a fault, A²s.

use crate::limits::devices::TripType;
use crate::limits::{LimitRow, Source};
use crate::quantity::Amps;
use rust_decimal::{Decimal, dec};

sources! {
    CLASS_3: "energy let through, class 3" = Source::memory("BS EN 60898-1", "Table ZA, energy-limiting class 3", "breakers of type B and C up to 32 A");
}

/// Energy that a breaker of energy-limiting class 3 lets through at most, A²s: up to this rated
/// short-circuit capacity, kA, up to this rating, A, for type B and type C.
pub const CLASS_3_A2S: LimitRow<[(Decimal, Decimal, f64, f64); 6]> = LimitRow::new(
    [
        (dec!(3), dec!(16), 15_000.0, 17_000.0),
        (dec!(3), dec!(32), 18_000.0, 20_000.0),
        (dec!(6), dec!(16), 35_000.0, 42_000.0),
        (dec!(6), dec!(32), 45_000.0, 55_000.0),
        (dec!(10), dec!(16), 70_000.0, 84_000.0),
        (dec!(10), dec!(32), 90_000.0, 110_000.0),
    ],
    CLASS_3,
);

/// What a breaker of class 3 lets through, A²s; `None` where the table has no row.
pub fn class_3_let_through(trip: TripType, rating_a: Amps, breaking_ka: Decimal) -> Option<f64> {
    let fits = |row: &&(Decimal, Decimal, f64, f64)| breaking_ka <= row.0 && rating_a.get() <= row.1;
    let (.., b, c) = CLASS_3_A2S.iter().find(fits)?;
    match trip {
        TripType::B => Some(*b),
        TripType::C => Some(*c),
        TripType::D => None,
    }
}
