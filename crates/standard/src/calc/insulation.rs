//! Insulation: which pairs, and what readings in parallel come to, MΩ.

use crate::quantity::approximate;
use rust_decimal::Decimal;

/// A reading: a number, or over range above a bound, MΩ.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Insulation {
    /// As shown.
    Reads(Decimal),
    /// The instrument showed over range at this.
    Over(Decimal),
}

/// Pairs in the methodical order: earth to each, then neutral to each line, then the lines.
/// `conductors` has earth last and neutral before it. n conductors: n(n−1)/2 pairs.
///
/// ```
/// use proof_standard::calc::insulation::pairs;
/// assert_eq!(pairs(&["L", "N", "E"]), [("E", "L"), ("E", "N"), ("N", "L")]);
/// assert_eq!(pairs(&["L1", "L2", "L3", "N", "E"]).len(), 10);
/// ```
pub fn pairs<T: Clone>(conductors: &[T]) -> Vec<(T, T)> {
    let Some((earth, live)) = conductors.split_last() else { return Vec::new() };
    let mut pairs: Vec<(T, T)> = live.iter().map(|other| (earth.clone(), other.clone())).collect();
    if let Some((neutral, lines)) = live.split_last() {
        pairs.extend(lines.iter().map(|line| (neutral.clone(), line.clone())));
        for (index, line) in lines.iter().enumerate() {
            pairs.extend(lines[index + 1..].iter().map(|other| (line.clone(), other.clone())));
        }
    }
    pairs
}

/// Bounds of the parallel sum 1/Σ(1/R): at least, and at most (`None`: no upper bound).
///
/// ```
/// use proof_standard::calc::insulation::{Insulation, combine};
/// use rust_decimal::dec;
/// // 200 MΩ beside 300 MΩ, and one over range at 999 MΩ.
/// let (least, most) = combine(&[Insulation::Reads(dec!(200)), Insulation::Reads(dec!(300)), Insulation::Over(dec!(999))]);
/// assert!((most.unwrap() - 120.0).abs() < 1e-9 && least < 120.0);
/// ```
pub fn combine(readings: &[Insulation]) -> (f64, Option<f64>) {
    let mut least = 0.0_f64;
    let mut most = 0.0_f64;
    for reading in readings {
        match reading {
            Insulation::Reads(megohms) => {
                let siemens = 1.0 / approximate(*megohms);
                least += siemens;
                most += siemens;
            }
            Insulation::Over(bound) => least += 1.0 / approximate(*bound),
        }
    }
    if most == least && readings.len() == 1 {
        // One reading is itself, to the last digit.
        if let Insulation::Reads(megohms) = readings[0] {
            let megohms = approximate(megohms);
            return (megohms, Some(megohms));
        }
    }
    (1.0 / least, (most > 0.0).then(|| 1.0 / most))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rust_decimal::dec;

    /// contracts.md: four conductors plus earth give ten pairs; practice.md: 4, 3, 2, 1.
    #[test]
    fn ten_pairs_in_order() {
        let all = pairs(&["L1", "L2", "L3", "N", "E"]);
        assert_eq!(all.len(), 10);
        assert_eq!(all[0], ("E", "L1"));
        assert_eq!(all[3], ("E", "N"));
        assert_eq!(all[4], ("N", "L1"));
        assert_eq!(&all[7..], &[("L1", "L2"), ("L1", "L3"), ("L2", "L3")]);
        assert_eq!(pairs(&["L", "N", "E"]), [("E", "L"), ("E", "N"), ("N", "L")]);
        for n in 0..8_usize {
            assert_eq!(pairs(&(0..n).collect::<Vec<_>>()).len(), n * n.saturating_sub(1) / 2);
        }
    }

    #[test]
    fn over_range_is_a_bound() {
        use Insulation::{Over, Reads};
        let (least, most) = combine(&[Reads(dec!(2)), Reads(dec!(2))]);
        assert!((least - 1.0).abs() < 1e-12 && most.is_some_and(|m| (m - 1.0).abs() < 1e-12));
        let (least, most) = combine(&[Reads(dec!(2)), Over(dec!(998))]);
        assert!((least - 1.996).abs() < 1e-9 && most == Some(2.0));
        assert_eq!(combine(&[Over(dec!(999))]).1, None);
        assert_eq!(combine(&[Reads(dec!(0)), Over(dec!(999))]), (0.0, Some(0.0)));
    }

    #[test]
    fn never_higher_than_the_lowest() {
        let readings = [dec!(200), dec!(35.5), dec!(999)].map(Insulation::Reads);
        assert!(combine(&readings).1.unwrap() < 35.5);
    }
}
