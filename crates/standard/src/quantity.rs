//! Quantities as newtypes: what unit is this number, and may it be this large?
//!
//! One table (`quantities!` below) makes the bound, the unit and the error text of each.
//! All hold a finite `f64`; NaN and infinities are refused at the door. Values that are
//! rounded or compared as printed use [`Decimal`], through [`exact`].

use rust_decimal::{Decimal, RoundingStrategy};
use serde::{Deserialize, Serialize};
use std::fmt;
use std::str::FromStr;

/// A number outside the range of its quantity.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{quantity} {given} is not allowed: give {min} to {max} {unit}")]
pub struct OutOfRange {
    /// The quantity, such as `length`.
    pub quantity: &'static str,
    /// The number as given.
    pub given: String,
    /// Least value allowed.
    pub min: f64,
    /// Greatest value allowed.
    pub max: f64,
    /// The unit of the bounds.
    pub unit: &'static str,
}

macro_rules! quantities {
    ($($(#[$doc:meta])* $name:ident, $quantity:literal, $unit:literal, $min:literal ..= $max:literal;)*) => {
        $(
            $(#[$doc])*
            #[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
            #[serde(try_from = "f64", into = "f64")]
            #[cfg_attr(feature = "schema", schemars(extend("minimum" = $min, "maximum" = $max)))]
            pub struct $name(f64);

            impl $name {
                /// Unit as printed.
                pub const UNIT: &'static str = $unit;
                /// Least value allowed.
                pub const MIN: f64 = $min;
                /// Greatest value allowed.
                pub const MAX: f64 = $max;

                /// Takes a number in the unit of this quantity.
                ///
                /// # Errors
                /// [`OutOfRange`] outside the table's range, or when not finite.
                pub fn new(value: f64) -> Result<Self, OutOfRange> {
                    if value.is_finite() && (Self::MIN..=Self::MAX).contains(&value) {
                        Ok(Self(value))
                    } else {
                        Err(OutOfRange {
                            quantity: $quantity,
                            given: value.to_string(),
                            min: Self::MIN,
                            max: Self::MAX,
                            unit: $unit,
                        })
                    }
                }

                /// For literals known to be in range.
                ///
                /// # Panics
                /// When the literal is outside the range: a mistake in the source, met at compile time in a const.
                pub const fn literal(value: f64) -> Self {
                    assert!(value >= $min && value <= $max);
                    Self(value)
                }

                /// The bare number, in the unit of this quantity.
                pub const fn get(self) -> f64 {
                    self.0
                }
            }

            impl TryFrom<f64> for $name {
                type Error = OutOfRange;
                fn try_from(value: f64) -> Result<Self, OutOfRange> {
                    Self::new(value)
                }
            }

            impl From<$name> for f64 {
                fn from(value: $name) -> f64 {
                    value.0
                }
            }

            impl fmt::Display for $name {
                fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                    write!(f, "{} {}", self.0, $unit)
                }
            }
        )*
    };
}

quantities! {
    /// Resistance or impedance in ohms.
    Ohms, "resistance", "Ω", 0.0..=1_000_000_000.0;
    /// Insulation resistance in megohms.
    Megohms, "insulation resistance", "MΩ", 0.0..=1_000_000.0;
    /// Voltage in volts.
    Volts, "voltage", "V", 0.0..=1_500.0;
    /// Length in metres.
    Metres, "length", "m", 0.0..=100_000.0;
    /// Cross-sectional area in square millimetres.
    SquareMillimetres, "conductor size", "mm²", 0.1..=1_000.0;
    /// Conductor temperature in degrees Celsius.
    Celsius, "conductor temperature", "°C", -20.0..=90.0;
}

macro_rules! decimals {
    ($($(#[$doc:meta])* $name:ident;)+) => {$(
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(inline))]
        #[serde(transparent)]
        pub struct $name(pub Decimal);

        impl $name {
            /// The bare number, in the unit of this quantity.
            pub const fn get(self) -> Decimal {
                self.0
            }

            /// Without trailing zeros.
            #[must_use]
            pub fn normalize(self) -> Self {
                Self(self.0.normalize())
            }
        }

        impl From<$name> for Decimal {
            fn from(quantity: $name) -> Self {
                quantity.0
            }
        }

        /// The number; the unit is written beside it.
        impl fmt::Display for $name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                self.0.fmt(f)
            }
        }
    )+};
}

decimals! {
    /// Current of a load or a device, A, as it was written.
    Amps;
    /// Fault current or breaking capacity, kA, as it was written or shown.
    Kiloamps;
    /// Residual current, mA, as it was written.
    Milliamps;
    /// Trip time, ms, as shown.
    Millis;
}

impl Milliamps {
    /// In amperes.
    pub fn amps(self) -> Amps {
        Amps(self.0 / Decimal::ONE_THOUSAND)
    }
}

/// The decimal that a binary float was written as: 0.1 becomes exactly 0.1.
/// `None` when it is not finite or has more digits than a decimal holds.
pub fn exact(value: f64) -> Option<Decimal> {
    if !value.is_finite() {
        return None;
    }
    let text = value.to_string();
    Decimal::from_str(&text).ok()
}

/// A decimal as a float, for physics.
pub fn approximate(value: Decimal) -> f64 {
    // Up to 2⁵³ over a power of ten up to 10²² both are exact as floats, and their quotient is the
    // float nearest to the decimal: the same that its text would be read as.
    const EXACT: i64 = 1 << 53;
    const TENS: [f64; 23] = [
        1e0, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15, 1e16, 1e17, 1e18, 1e19,
        1e20, 1e21, 1e22,
    ];
    match (i64::try_from(value.mantissa()), TENS.get(value.scale() as usize)) {
        (Ok(mantissa), Some(tens)) if (-EXACT..=EXACT).contains(&mantissa) => mantissa as f64 / tens,
        _ => value.to_string().parse().unwrap_or(0.0),
    }
}

/// Rounds half up to `places` decimals, as the printed tables do.
pub fn round_half_up(value: Decimal, places: u32) -> Decimal {
    value.round_dp_with_strategy(places, RoundingStrategy::MidpointAwayFromZero)
}

/// Rounds up (away from zero) to `places` decimals: a fault current is never understated.
pub fn round_up(value: Decimal, places: u32) -> Decimal {
    value.round_dp_with_strategy(places, RoundingStrategy::AwayFromZero)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rust_decimal::dec;

    /// The same float that its text is read as, for every figure of two and three places up to ten.
    #[test]
    fn a_decimal_becomes_the_float_of_its_text() {
        for (scale, most) in [(2, 1_000), (3, 10_000), (27, 7)] {
            for mantissa in 0..most {
                let value = Decimal::new(mantissa, scale);
                assert_eq!(approximate(value), value.to_string().parse::<f64>().unwrap(), "{value}");
            }
        }
        assert_eq!(approximate(Decimal::MAX), Decimal::MAX.to_string().parse::<f64>().unwrap());
        assert_eq!(approximate(dec!(-0.35)), -0.35);
    }

    #[test]
    fn nan_negative_and_huge_are_refused_with_the_range() {
        for bad in [f64::NAN, f64::INFINITY, -0.01, 1e12] {
            let error = Ohms::new(bad).unwrap_err().to_string();
            assert!(error.contains("0 to 1000000000 Ω"), "{error}");
        }
    }

    #[test]
    fn exact_keeps_what_was_written() {
        assert_eq!(exact(0.1), Some(dec!(0.1)));
        assert_eq!(exact(0.4).unwrap() + exact(0.7).unwrap(), dec!(1.1));
        assert_eq!(exact(f64::NAN), None);
    }

    #[test]
    fn halves_go_up_and_currents_never_down() {
        assert_eq!(round_half_up(dec!(1.365625), 2), dec!(1.37));
        assert_eq!(round_half_up(dec!(0.125), 2), dec!(0.13));
        assert_eq!(round_up(dec!(1.001), 2), dec!(1.01));
        assert_eq!(round_up(dec!(1.00), 2), dec!(1.00));
    }
}
