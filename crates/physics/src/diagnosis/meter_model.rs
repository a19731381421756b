//! How an instrument behaves and how the points of a circuit are spaced: what a fit is averaged over.
//! Common practice, no source.

/// Legs of one circuit differ by this share of their mean: evenly spaced, and in bunches.
pub(super) const LEG_SPREADS: [f64; 2] = [0.5, 1.4];

/// The row of evenly spaced points.
pub(super) const EVEN: usize = 0;

/// The row of points in bunches.
const BUNCHED: usize = 1;

/// How an instrument and its contacts behave.
#[derive(Debug, Clone, Copy)]
pub(super) struct MeterModel {
    /// Mean added by a plug or probe, Ω.
    pub mean: f64,
    /// Spread at a point, Ω.
    pub point: f64,
    /// Spread between firm clips at the board, Ω.
    pub board: f64,
    /// Spread of a known length, as a logarithm: who measures well knows his cable too.
    pub length: f64,
    /// How the points are spaced: a row of [`LEG_SPREADS`].
    pub spacing: usize,
    /// Log of its share among instruments and circuits.
    pub log_share: f64,
}

/// From a good meter with firm contacts to a rough one, on circuits of evenly spaced and of bunched points.
pub(super) const MANNERS: [MeterModel; 7] = [
    MeterModel { mean: 0.0, point: 0.010, board: 0.010, length: 0.035, spacing: EVEN, log_share: -1.2 },
    MeterModel { mean: 0.012, point: 0.013, board: 0.011, length: 0.06, spacing: EVEN, log_share: -2.0 },
    MeterModel { mean: 0.022, point: 0.018, board: 0.012, length: 0.07, spacing: EVEN, log_share: -2.0 },
    MeterModel { mean: 0.03, point: 0.028, board: 0.016, length: 0.09, spacing: EVEN, log_share: -2.9 },
    MeterModel { mean: 0.0, point: 0.010, board: 0.010, length: 0.035, spacing: BUNCHED, log_share: -1.9 },
    MeterModel { mean: 0.016, point: 0.015, board: 0.011, length: 0.06, spacing: BUNCHED, log_share: -2.1 },
    MeterModel { mean: 0.03, point: 0.028, board: 0.016, length: 0.09, spacing: BUNCHED, log_share: -3.6 },
];

/// The manner under which suspicions are sorted first.
pub(super) const SORTING: MeterModel =
    MeterModel { mean: 0.008, point: 0.015, board: 0.011, length: 0.05, spacing: EVEN, log_share: 0.0 };
