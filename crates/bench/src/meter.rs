//! A simulated instrument: resolution, scatter, contacts. The same seed gives the same readings.

use rand_chacha::ChaCha8Rng;
use rand_chacha::rand_core::{Rng, SeedableRng};
use rust_decimal::Decimal;

/// Scatter of a good low-resistance ohmmeter, Ω (common practice, no source).
const SCATTER_OHM: f64 = 0.006;

/// A contact adds up to about this, Ω (common practice, no source).
const CONTACT_OHM: f64 = 0.02;

/// An instrument with a seed.
pub struct Meter(ChaCha8Rng);

impl Meter {
    /// An instrument whose scatter follows from `seed`.
    pub fn new(seed: u64) -> Self {
        Self(ChaCha8Rng::seed_from_u64(seed))
    }

    /// A number from 0 to 1.
    pub fn share(&mut self) -> f64 {
        (self.0.next_u64() >> 11) as f64 / (1_u64 << 53) as f64
    }

    /// A number between two others.
    pub fn between(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * self.share()
    }

    /// About normal, mean 0, deviation 1: the sum of twelve shares.
    fn normal(&mut self) -> f64 {
        (0..12).map(|_| self.share()).sum::<f64>() - 6.0
    }

    /// What it shows for a resistance between firm clips, 0.01 Ω.
    pub fn clipped(&mut self, ohm: f64) -> Decimal {
        shown(ohm + SCATTER_OHM * self.normal(), 2)
    }

    /// What it shows through a plug or probes: contacts only add.
    pub fn probed(&mut self, ohm: f64) -> Decimal {
        let contact = CONTACT_OHM * self.share() * self.share();
        self.clipped(ohm + contact)
    }

    /// A trip time, 0.1 ms.
    pub fn trip(&mut self) -> Decimal {
        let ms = self.between(17.0, 31.0);
        shown(ms, 1)
    }
}

/// A number rounded to the places that an instrument shows.
pub fn shown(value: f64, places: usize) -> Decimal {
    format!("{:.places$}", value.max(0.0)).parse().unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_same_seed_gives_the_same_readings() {
        let series = |seed| {
            let mut meter = Meter::new(seed);
            (0..20).map(|_| meter.probed(0.37)).collect::<Vec<_>>()
        };
        assert_eq!(series(1), series(1));
        assert_ne!(series(1), series(2));
    }

    #[test]
    fn scatter_is_about_a_hundredth() {
        let mut meter = Meter::new(7);
        for _ in 0..500 {
            let ohm = proof_standard::quantity::approximate(meter.clipped(0.37));
            assert!((ohm - 0.37).abs() < 0.05, "{ohm}");
        }
    }
}
