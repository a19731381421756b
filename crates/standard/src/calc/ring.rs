//! Ring final circuit: mid-ring values and the CPC that r1 leads one to expect. All in Ω.
//!
//! Source: On-Site Guide 10.3.2, Guidance Note 3. These are the values half-way round; the exact
//! value at a point is [`at_fraction`].

use crate::conductor::Material;
use crate::limits::conductors::{UnknownSize, mohm_per_m};
use crate::quantity::SquareMillimetres;

/// (r + other)/4: what is read half-way round with the legs crossed.
///
/// ```
/// use proof_standard::calc::ring::quarter;
/// // r1 = rn = 0.72 Ω, r2 = 1.20 Ω.
/// assert!((quarter(0.72, 0.72) - 0.36).abs() < 1e-12 && (quarter(0.72, 1.20) - 0.48).abs() < 1e-12);
/// ```
pub fn quarter(r1: f64, other: f64) -> f64 {
    (r1 + other) / 4.0
}

/// What is read a fraction `x` (0 to 1) round the ring with the legs crossed:
/// [x·r1 + (1−x)·other] ∥ [(1−x)·r1 + x·other].
///
/// ```
/// use proof_standard::calc::ring::{at_fraction, quarter};
/// // Equal conductors read the same all round; a thinner one reads most half-way.
/// assert!((at_fraction(0.72, 0.72, 0.1) - quarter(0.72, 0.72)).abs() < 1e-12);
/// assert!(at_fraction(0.72, 1.20, 0.1) < at_fraction(0.72, 1.20, 0.5));
/// ```
pub fn at_fraction(r1: f64, other: f64, x: f64) -> f64 {
    parallel(x * r1 + (1.0 - x) * other, (1.0 - x) * r1 + x * other)
}

/// What a fraction `x` (0 to 1) round the ring adds to a loop in use, its ends in: each conductor is two ways side by side.
/// Half-way as much as with the legs crossed, towards the board nothing.
///
/// ```
/// use proof_standard::calc::ring::{in_use, quarter};
/// assert!((in_use(0.72, 1.20, 0.5) - quarter(0.72, 1.20)).abs() < 1e-12);
/// // One metre from the board of a ring of 54 m: the short way, and next to nothing beside it.
/// assert!(in_use(0.40, 0.65, 1.0 / 54.0) < 0.02);
/// ```
pub fn in_use(r1: f64, other: f64, x: f64) -> f64 {
    x * (1.0 - x) * (r1 + other)
}

/// Two resistances side by side, Ω; zero when either is a link.
pub fn parallel(a: f64, b: f64) -> f64 {
    if a + b == 0.0 { 0.0 } else { a * b / (a + b) }
}

/// r2 from r1 by the ratio of sizes: r1 × line/CPC.
///
/// ```
/// use proof_standard::calc::ring::r2_by_size;
/// use proof_standard::quantity::SquareMillimetres;
/// let (line, cpc) = (SquareMillimetres::literal(2.5), SquareMillimetres::literal(1.5));
/// assert!((r2_by_size(0.72, line, cpc) - 1.20).abs() < 1e-12);
/// ```
pub fn r2_by_size(r1: f64, line: SquareMillimetres, cpc: SquareMillimetres) -> f64 {
    r1 * line.get() / cpc.get()
}

/// r2 from r1 by the resistance table.
///
/// # Errors
/// [`UnknownSize`] when a size is in no table.
///
/// ```
/// use proof_standard::calc::ring::r2_by_table;
/// use proof_standard::quantity::SquareMillimetres;
/// let r2 = r2_by_table(0.72, SquareMillimetres::literal(2.5), SquareMillimetres::literal(1.5))?;
/// assert!((r2 - 0.72 * 12.1 / 7.41).abs() < 1e-12);
/// # Ok::<(), proof_standard::limits::conductors::UnknownSize>(())
/// ```
pub fn r2_by_table(r1: f64, line: SquareMillimetres, cpc: SquareMillimetres) -> Result<f64, UnknownSize> {
    Ok(r1 * mohm_per_m(Material::Copper, cpc)? / mohm_per_m(Material::Copper, line)?)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// contracts.md check value: r1 0.72, rn 0.72, r2 1.20 give 0.36 and 0.48.
    #[test]
    fn quarters() {
        assert!((quarter(0.72, 0.72) - 0.36).abs() < 1e-12);
        assert!((quarter(0.72, 1.20) - 0.48).abs() < 1e-12);
    }

    /// practice.md: r2 about 1.67 × r1 by size for 2.5/1.5, 1.63 by the table.
    #[test]
    fn cpc_of_a_two_and_a_half_ring() {
        let (line, cpc) = (SquareMillimetres::literal(2.5), SquareMillimetres::literal(1.5));
        assert!((r2_by_size(1.0, line, cpc) - 1.6667).abs() < 1e-4);
        assert!((r2_by_table(1.0, line, cpc).unwrap() - 1.6329).abs() < 1e-4);
    }

    #[test]
    fn half_way_round_is_the_quarter_and_nothing_is_higher() {
        let (r1, r2) = (0.36, 0.59);
        assert!((at_fraction(r1, r2, 0.5) - quarter(r1, r2)).abs() < 1e-12);
        for tenth in 0..=10 {
            let x = f64::from(tenth) / 10.0;
            assert!(at_fraction(r1, r2, x) <= quarter(r1, r2) + 1e-12);
            assert!((at_fraction(r1, r2, x) - at_fraction(r1, r2, 1.0 - x)).abs() < 1e-12);
        }
        assert!((at_fraction(r1, r2, 0.0) - parallel(r1, r2)).abs() < 1e-12);
    }
}
