//! What is usual where nothing is said: proposed, and standing only once it is confirmed on site.

use crate::limits::{LimitRow, Source};
use crate::quantity::SquareMillimetres;
use rust_decimal::{Decimal, dec};

sources! {
    RATINGS: "usual ratings" = Source::practice("what circuits of a dwelling are usually protected by");
    LEAST: "usual sizes" = Source::practice("the smallest cable that is usually laid for lights and for outlets");
    ORIGIN: "usual origin" = Source::practice("tails and supply device of a dwelling");
}

/// A word of a description and what such a circuit is usually rated at, A.
pub const BY_NAME_A: LimitRow<[(&str, Decimal); 11]> = LimitRow::new(
    [
        ("cooker", dec!(32)),
        ("hob", dec!(32)),
        ("oven", dec!(32)),
        ("shower", dec!(40)),
        ("immersion", dec!(16)),
        ("boiler", dec!(6)),
        ("heating", dec!(6)),
        ("alarm", dec!(6)),
        ("alarms", dec!(6)),
        ("ev", dec!(32)),
        ("charger", dec!(32)),
    ],
    RATINGS,
);

/// Of a ring, of lights, of a radial of socket-outlets, A.
pub const RING_LIGHTS_RADIAL_A: LimitRow<[Decimal; 3]> = LimitRow::new([dec!(32), dec!(6), dec!(20)], RATINGS);

/// The smallest line conductor of lights, and of anything else.
pub const LIGHTS_OTHERS: LimitRow<[SquareMillimetres; 2]> =
    LimitRow::new([SquareMillimetres::literal(1.5), SquareMillimetres::literal(2.5)], LEAST);

/// Meter tails of a dwelling, up to [`SUPPLY_DEVICE_A`].
pub const TAILS: LimitRow<SquareMillimetres> = LimitRow::new(SquareMillimetres::literal(25.0), ORIGIN);

/// Rating of the supply device of a dwelling, A.
pub const SUPPLY_DEVICE_A: LimitRow<Decimal> = LimitRow::new(dec!(100), ORIGIN);

/// Words of a name that say equipment connected for good, beside those that say a rating (common practice, no source).
const EQUIPMENT: [&str; 9] = ["motor", "pump", "fan", "heater", "compressor", "lift", "hoist", "kiln", "guillotine"];

/// Equipment that a word of a circuit's name says.
pub fn equipment_by_name(word: &str) -> Option<&'static str> {
    let word = word.to_lowercase();
    let rated = BY_NAME_A.iter().map(|(name, _)| *name);
    rated.chain(EQUIPMENT).find(|name| *name == word)
}

/// What a circuit of this name is usually rated at, A, with the word that said so.
pub fn rating_by_name(word: &str) -> Option<(Decimal, &'static str)> {
    let word = word.to_lowercase();
    BY_NAME_A.iter().find(|(name, _)| *name == word).map(|(name, rating)| (*rating, *name))
}
