//! Conductor resistance by size, material and temperature, mΩ/m and Ω.

use crate::conductor::Material;
use crate::limits::{LimitRow, Source};
use crate::quantity::{Celsius, Metres, Ohms, SquareMillimetres};

sources! {
    RESISTANCE: "conductor resistance" = Source::published("BS EN 60228", "class 1/2 (IEC 60228), maximum resistance", "at 20 °C");
    TEMPERATURE: "temperature of conductors" = Source::memory("BS 7671 On-Site Guide", "Table I3 and the coefficient above it", "0.004 per °C from 20 °C");
    PAIRS: "twin-and-earth sizes" = Source::practice("sizes in which twin-and-earth cable is made");
}

/// mm² and mΩ/m at 20 °C.
pub const COPPER_MOHM_PER_M: LimitRow<[(f64, f64); 12]> = LimitRow::new(
    [
        (1.0, 18.10),
        (1.5, 12.10),
        (2.5, 7.41),
        (4.0, 4.61),
        (6.0, 3.08),
        (10.0, 1.83),
        (16.0, 1.15),
        (25.0, 0.727),
        (35.0, 0.524),
        (50.0, 0.387),
        (70.0, 0.268),
        (95.0, 0.193),
    ],
    RESISTANCE,
);

/// mm² and mΩ/m at 20 °C.
pub const ALUMINIUM_MOHM_PER_M: LimitRow<[(f64, f64); 6]> =
    LimitRow::new([(16.0, 1.91), (25.0, 1.20), (35.0, 0.868), (50.0, 0.641), (70.0, 0.443), (95.0, 0.320)], RESISTANCE);

/// Temperature coefficient of resistance used by the guides, per °C from 20 °C.
pub const COEFFICIENT_PER_C: LimitRow<f64> = LimitRow::new(0.004, TEMPERATURE);

/// Conductor size behind the CPC of common flat twin-and-earth, mm².
pub const TWIN_AND_EARTH_MM2: LimitRow<[(f64, f64); 7]> =
    LimitRow::new([(1.0, 1.0), (1.5, 1.0), (2.5, 1.5), (4.0, 1.5), (6.0, 2.5), (10.0, 4.0), (16.0, 6.0)], PAIRS);

/// Factors from 20 °C to working temperature (OSG Table I3, from memory): 70 °C cable with the
/// CPC inside it, 70 °C with a separate CPC, 90 °C with the CPC inside.
pub const WORKING_FACTORS: LimitRow<[(&str, f64); 3]> = LimitRow::new(
    [("70 °C, CPC in the cable", 1.20), ("70 °C, separate CPC", 1.04), ("90 °C, CPC in the cable", 1.28)],
    TEMPERATURE,
);

/// A size that the table does not hold.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{given_mm2} mm² is not in the table: {material} comes in {allowed} mm²")]
pub struct UnknownSize {
    /// What was asked for, mm².
    pub given_mm2: f64,
    /// `copper` or `aluminium`.
    pub material: &'static str,
    /// The sizes in the table.
    pub allowed: String,
}

/// The table of a material.
pub const fn table(material: Material) -> &'static [(f64, f64)] {
    match material {
        Material::Copper => const { &COPPER_MOHM_PER_M.value },
        Material::Aluminium => const { &ALUMINIUM_MOHM_PER_M.value },
    }
}

/// Resistance of one metre at 20 °C, mΩ/m.
///
/// # Errors
/// [`UnknownSize`] when the table does not hold the size.
pub fn mohm_per_m(material: Material, size: SquareMillimetres) -> Result<f64, UnknownSize> {
    let rows = table(material);
    rows.iter().find(|(mm2, _)| *mm2 == size.get()).map(|(_, mohm)| *mohm).ok_or_else(|| UnknownSize {
        given_mm2: size.get(),
        material: material.key(),
        allowed: rows.iter().map(|(mm2, _)| mm2.to_string()).collect::<Vec<_>>().join(", "),
    })
}

/// R(θ)/R20 = 1 + 0.004·(θ − 20).
pub fn temperature_factor(temperature: Celsius) -> f64 {
    1.0 + *COEFFICIENT_PER_C * (temperature.get() - 20.0)
}

/// Resistance of a length at a temperature.
///
/// # Errors
/// [`UnknownSize`] when the table does not hold the size.
///
/// # Panics
/// Never: the longest length of the smallest conductor is far below the largest resistance.
///
/// ```
/// use proof_standard::conductor::Material;
/// use proof_standard::quantity::{Celsius, Metres, SquareMillimetres};
/// use proof_standard::limits::conductors::resistance;
/// // 40 m of 2.5 mm² copper at 20 °C.
/// let ohm = resistance(Material::Copper, SquareMillimetres::literal(2.5), Metres::literal(40.0), Celsius::literal(20.0))?;
/// assert!((ohm.get() - 0.2964).abs() < 1e-9);
/// # Ok::<(), proof_standard::limits::conductors::UnknownSize>(())
/// ```
pub fn resistance(
    material: Material,
    size: SquareMillimetres,
    length: Metres,
    temperature: Celsius,
) -> Result<Ohms, UnknownSize> {
    let ohm = mohm_per_m(material, size)? * length.get() / 1000.0 * temperature_factor(temperature);
    Ok(Ohms::new(ohm).expect("100 km of the smallest conductor is far below the largest resistance"))
}

/// The CPC that comes in twin-and-earth of this size, if it is made in it.
pub fn twin_and_earth_cpc(line: SquareMillimetres) -> Option<SquareMillimetres> {
    TWIN_AND_EARTH_MM2.iter().find(|(mm2, _)| *mm2 == line.get()).map(|(_, cpc)| SquareMillimetres::literal(*cpc))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn mm2(size: f64) -> SquareMillimetres {
        SquareMillimetres::literal(size)
    }

    /// contracts.md check values: 40 m of 2.5 mm² and 27 m of 10 mm².
    #[test]
    fn check_values() {
        let at_20 = Celsius::literal(20.0);
        let ring = resistance(Material::Copper, mm2(2.5), Metres::literal(40.0), at_20).unwrap();
        assert!((ring.get() - 0.2964).abs() < 1e-12);
        let bond = resistance(Material::Copper, mm2(10.0), Metres::literal(27.0), at_20).unwrap();
        assert!((bond.get() - 0.04941).abs() < 1e-12);
    }

    /// OSG Table I3 (from memory): 1.20 from 20 °C to 70 °C, 1.28 to 90 °C.
    #[test]
    fn working_factors_follow_the_coefficient() {
        assert!((temperature_factor(Celsius::literal(70.0)) - 1.20).abs() < 1e-12);
        assert!((temperature_factor(Celsius::literal(90.0)) - 1.28).abs() < 1e-12);
        assert!((temperature_factor(Celsius::literal(5.0)) - 0.94).abs() < 1e-12);
    }

    #[test]
    fn resistance_falls_with_size_and_aluminium_is_above_copper() {
        for rows in [&COPPER_MOHM_PER_M[..], &ALUMINIUM_MOHM_PER_M[..]] {
            assert!(rows.windows(2).all(|w| w[0].0 < w[1].0 && w[0].1 > w[1].1));
        }
        for (size, aluminium) in ALUMINIUM_MOHM_PER_M.value {
            assert!(aluminium > mohm_per_m(Material::Copper, mm2(size)).unwrap());
        }
    }

    #[test]
    fn an_unknown_size_lists_what_is_allowed() {
        let error = mohm_per_m(Material::Copper, mm2(3.0)).unwrap_err().to_string();
        assert!(error.contains("3 mm²") && error.contains("2.5, 4"), "{error}");
        assert!(mohm_per_m(Material::Aluminium, mm2(2.5)).is_err());
        assert_eq!(twin_and_earth_cpc(mm2(2.5)), Some(mm2(1.5)));
        assert_eq!(twin_and_earth_cpc(mm2(25.0)), None);
    }
}
