//! How well a suspicion explains all figures, averaged over what is not known: whole length, where
//! the points stand along the cable, and the size of the fault.
//!
//! Sizes and length are sought in logarithms by Gauss–Newton; the average is Laplace's. A figure
//! depends on its own point's place and on a few values common to all, so the equations are a
//! tridiagonal block with a narrow border and a fit takes time in proportion to the points.
//! Spreads are those of the trade (common practice, no source); the accuracy that follows is
//! measured by a test and published in the documentation.

use crate::diagnosis::case::{Case, IndexedCase, ShownOhms};
use crate::diagnosis::fault_component::FaultComponent;
use crate::diagnosis::meter_model::{EVEN, LEG_SPREADS, MeterModel};
use crate::diagnosis::normal::{MOST_COMMON, Normal, Step};
use crate::diagnosis::physics::{Setting, Simulated};
use proof_standard::limits::conductors::COPPER_MOHM_PER_M;
use proof_standard::quantity::Metres;
use proof_standard::shape::Shape;
use std::cell::Cell;

/// A figure that nothing explains counts no more than a misread one: log of its chance.
const MISREAD: f64 = -40.0;

/// Longest step of a logarithm, and the gain of a round that is too small to go on.
const LONGEST_STEP: f64 = 1.2;

const ENOUGH: f64 = 0.05;

/// Resolution of the display, Ω.
const STEP_OHM: f64 = 0.01;

/// Variance of rounding to the display.
const ROUNDING: f64 = STEP_OHM * STEP_OHM / 12.0;

/// Share of a figure that its own cable may be off (class limits are maxima).
const CABLE_SHARE: f64 = 0.008;

/// A span of legs under a bridge differs by this share of that spread.
const STRETCH: f64 = 1.2;

/// A leg whose length is given is known to this share of the mean leg.
const LEG_KNOWN: f64 = 0.08;

/// Spread of a length that nobody gave, as a logarithm.
const LENGTH_UNKNOWN: f64 = 0.8;

/// Spread of a length that is wrong.
const WRONG_SPREAD: f64 = 0.5;

/// Log of the chance that a sound path shows over range, at a point and at the board.
const FALSE_OPEN_POINT: f64 = -9.0;

const FALSE_OPEN_BOARD: f64 = -12.0;

/// Log of the chance that an open path shows a figure.
const FALSE_FIGURE: f64 = -30.0;

/// A suspicion as it explains the figures best.
#[derive(Debug, Clone)]
pub(super) struct Fit {
    /// Log of how likely the figures are under it.
    pub log_evidence: f64,
    /// Sizes of its parts.
    pub sizes: Vec<f64>,
    /// Length of the main line, m.
    pub length_m: f64,
    /// Places of the nodes.
    pub along: Vec<f64>,
    /// Greatest distance of a figure (or of the length) from what the suspicion says, in spreads.
    pub worst: f64,
    /// For each point, how far its figures are off, in spreads; infinite where one is open and the
    /// other is not.
    pub off: Vec<f64>,
}

/// What all suspicions of a case share.
pub(super) struct Model<'a> {
    pub case: &'a Case,
    pub laid: &'a IndexedCase,
    /// Ω/m of a CPC of each copper size, at the temperature of the case.
    pub cpc_rates: Vec<f64>,
    taken: Vec<FittedReading>,
    ln_length: f64,
    length_known: bool,
    along: Vec<f64>,
    /// Precision of each increment of `along`, for each spacing, and the log determinant of all.
    ties: [(Vec<f64>, f64); LEG_SPREADS.len()],
    spent: Cell<usize>,
}

/// Figures laid beside suspicions at most: eight times what a ring of 60 points wants.
const MOST_SPENT: usize = 3_000_000;

/// A figure as taken.
struct FittedReading {
    point: Option<usize>,
    /// Place of its point on the main line that may move, from 0.
    free: Option<usize>,
    shown: ShownOhms,
}

impl<'a> Model<'a> {
    pub(super) fn new(case: &'a Case, laid: &'a IndexedCase) -> Self {
        let nodes = laid.main.len();
        let ring = case.shape == Shape::Ring;
        let (legs, last) = (nodes + usize::from(ring), nodes + usize::from(ring));
        let of_table = COPPER_MOHM_PER_M.iter().find(|(mm2, _)| *mm2 == case.cpc_mm2.get());
        let warm = of_table.map_or(1.0, |(_, mohm)| case.cores.0[2] / (mohm / 1000.0));
        let known: Vec<Option<f64>> = laid.main.iter().map(|&point| case.points[point].leg.map(Metres::get)).collect();
        let given: f64 = known.iter().flatten().sum();
        let all_known = known.iter().all(Option::is_some);
        let guess = case.length.map(Metres::get).or((all_known && !ring).then_some(given));
        let guess = guess.filter(|length| *length > 0.0);
        let length = guess.unwrap_or_else(|| Self::length_from_figures(case));
        let length_known = guess.is_some();
        let missing = legs - known.iter().flatten().count();
        let rest = ((length - given) / missing.max(1) as f64).max(0.2 * length / legs as f64);
        let mut metres: Vec<f64> = known.iter().map(|leg| leg.unwrap_or(rest)).collect();
        metres.resize(legs, rest);
        let total: f64 = metres.iter().sum::<f64>().max(1e-6);
        let mean = 1.0 / legs as f64;
        let mut along = vec![0.0];
        for leg in 0..legs {
            along.push(along[leg] + metres[leg] / total);
        }
        let ties = LEG_SPREADS.map(|unknown| {
            let spread = |leg: usize| {
                let known = known.get(leg).is_some_and(Option::is_some);
                if known { LEG_KNOWN } else { unknown }
            };
            let tie: Vec<f64> = (0..legs).map(|leg| (spread(leg) * mean).powi(-2)).collect();
            let log_det = log_det_ties(&tie);
            (tie, log_det)
        });
        along[last] = 1.0;
        let cpc_rates = COPPER_MOHM_PER_M.iter().map(|(_, mohm)| mohm / 1000.0 * warm).collect();
        let taken = case
            .taken()
            .into_iter()
            .map(|(point, shown)| {
                let node = point.map_or(0, |point| laid.node[point]);
                FittedReading { point, free: node.checked_sub(1).filter(|free| free + 1 < last), shown }
            })
            .collect();
        Self {
            case,
            laid,
            cpc_rates,
            taken,
            ln_length: length.max(0.1).ln(),
            length_known,
            along,
            ties,
            spent: Cell::new(0),
        }
    }

    /// A first idea of the length where none was given, m.
    fn length_from_figures(case: &Case) -> f64 {
        let rates = case.cores.0;
        let ends = (0..3).filter_map(|core| case.end_to_end[core].flatten().map(|ohm| ohm / rates[core]));
        let mut ends: Vec<f64> = ends.collect();
        ends.sort_by(f64::total_cmp);
        if let Some(length) = ends.get(ends.len() / 2) {
            return length.max(1.0);
        }
        let four = if case.shape == Shape::Ring { 4.0 } else { 1.0 };
        let at_points = case.points.iter().flat_map(|point| {
            let rn = point.r1_rn.flatten().map(|ohm| four * ohm / (rates[0] + rates[1]));
            let r2 = point.r1_r2.flatten().map(|ohm| four * ohm / (rates[0] + rates[2]));
            [rn, r2]
        });
        at_points.flatten().fold(1.0, f64::max)
    }

    /// Mean and spread of the logarithm of each size of a part.
    fn size_priors(parts: &[FaultComponent], spacing: usize, ring: bool) -> Vec<(f64, f64)> {
        let mut priors = Vec::new();
        for part in parts {
            match *part {
                FaultComponent::Spur { .. } => priors.push((7.0_f64.ln(), 0.7)),
                FaultComponent::SpurOfTwo { .. } => priors.extend([(6.0_f64.ln(), 0.7), (5.0_f64.ln(), 0.7)]),
                FaultComponent::Joint { .. } | FaultComponent::SpurJoint { open: false, .. } => {
                    priors.push((0.45_f64.ln(), 0.8))
                }
                FaultComponent::Contact { .. } | FaultComponent::BothOutlets { .. } => {
                    priors.push((0.25_f64.ln(), 0.5))
                }
                FaultComponent::Leads => priors.push((0.15_f64.ln(), 0.5)),
                FaultComponent::Bridge { from, to } => {
                    let span = (to - from).max(1) as f64;
                    // Across a ring it may be as long as what it spans; on a radial a short way round.
                    let length = if ring { (7.0_f64.ln(), 1.1) } else { (5.0_f64.ln(), 0.9) };
                    // What the span really measures beside its share of the ring.
                    priors.extend([length, (0.0, STRETCH * LEG_SPREADS[spacing] / span.sqrt())]);
                }
                FaultComponent::ParallelEarth { .. } => priors.push((0.06_f64.ln(), 1.3)),
                _ => {}
            }
        }
        priors
    }

    fn simulate(&self, parts: &[FaultComponent], common: &[f64], along: &[f64], anchors: &[f64], into: &mut Vec<f64>) {
        let mut sizes = [0.0; MOST_COMMON];
        for (size, ln) in sizes.iter_mut().zip(&common[1..]) {
            *size = ln.exp();
        }
        let setting = Setting { parts, sizes: &sizes[..common.len() - 1], length_m: common[0].exp(), along, anchors };
        Simulated::new(self.case, self.laid, setting, &self.cpc_rates).taken(into);
    }

    /// Log of the chances of what is over range.
    fn pattern(&self, said: &[f64]) -> f64 {
        self.taken
            .iter()
            .zip(said)
            .map(|(taken, said)| match (taken.shown, said.is_finite()) {
                (None, true) if taken.point.is_some() => FALSE_OPEN_POINT,
                (None, true) => FALSE_OPEN_BOARD,
                (Some(_), false) => FALSE_FIGURE,
                _ => 0.0,
            })
            .sum()
    }

    /// The same for parts at their usual sizes: what their opens alone say.
    pub(super) fn pattern_of(&self, parts: &[FaultComponent], said: &mut Vec<f64>) -> f64 {
        let mut common = vec![self.ln_length];
        common.extend(Self::size_priors(parts, EVEN, self.case.shape == Shape::Ring).iter().map(|(mean, _)| *mean));
        self.simulate(parts, &common, &self.along, &self.along, said);
        self.pattern(said)
    }

    /// Fits a suspicion; it is given up once it is clearly less likely than `give_up` (a logarithm).
    /// Whether as much was tried as may be.
    pub(super) const fn is_spent(&self) -> bool {
        self.spent.get() >= MOST_SPENT
    }

    /// Whether so many suspicions may all be tried in so many rounds.
    pub(super) const fn affords(&self, suspicions: usize, rounds: usize) -> bool {
        self.spent.get() + suspicions * rounds * self.taken.len() <= MOST_SPENT
    }

    pub(super) fn fit(
        &self,
        parts: &[FaultComponent],
        manner: &MeterModel,
        start: Option<&Fit>,
        rounds: usize,
        give_up: f64,
    ) -> Fit {
        self.spent.set(self.spent.get() + rounds * self.taken.len());
        let sizes = Self::size_priors(parts, manner.spacing, self.case.shape == Shape::Ring);
        let wrong_length = parts.contains(&FaultComponent::WrongLength);
        let spread = match (self.length_known, wrong_length) {
            (false, _) => LENGTH_UNKNOWN,
            (true, true) => WRONG_SPREAD,
            (true, false) => manner.length,
        };
        let mut priors = vec![(self.ln_length, spread)];
        priors.extend(&sizes);
        let mut common: Vec<f64> = priors.iter().map(|(mean, _)| *mean).collect();
        let mut along = self.along.clone();
        if let Some(start) = start {
            common[0] = start.length_m.ln();
            for (ln, size) in common[1..].iter_mut().zip(&start.sizes) {
                *ln = size.max(1e-6).ln();
            }
            along.clone_from(&start.along);
        }
        Fitting { model: self, parts, manner, priors }.run(common, along, rounds, give_up)
    }
}

struct Fitting<'m, 'a> {
    model: &'m Model<'a>,
    parts: &'m [FaultComponent],
    manner: &'m MeterModel,
    priors: Vec<(f64, f64)>,
}

impl Fitting<'_, '_> {
    fn run(&self, mut common: Vec<f64>, mut along: Vec<f64>, rounds: usize, give_up: f64) -> Fit {
        let count = self.model.taken.len();
        let (mut said, mut tried) = (Vec::with_capacity(count), Vec::with_capacity(count));
        let mut slopes = vec![[0.0; MOST_COMMON + 1]; count];
        self.simulate(&common, &along, &mut said);
        let mut cost = self.cost(&said, &common, &along);
        let mut log_det = 0.0;
        for round in 0..rounds.max(1) {
            let step = self.step(&common, &along, &said, &mut tried, &mut slopes);
            log_det = step.log_det;
            let longest = step.common[..common.len()].iter().map(|d| d.abs()).fold(0.0, f64::max);
            let mut share = if longest > LONGEST_STEP { LONGEST_STEP / longest } else { 1.0 };
            let mut gained = 0.0;
            for _ in 0..4 {
                let next: Vec<f64> = common.iter().zip(&step.common).map(|(v, d)| v + share * d).collect();
                let mut next_along = along.clone();
                for (place, d) in next_along[1..].iter_mut().zip(&step.along) {
                    *place += share * d;
                }
                self.simulate(&next, &next_along, &mut tried);
                let next_cost = self.cost(&tried, &next, &next_along);
                if next_cost < cost {
                    gained = cost - next_cost;
                    (common, along, cost) = (next, next_along, next_cost);
                    std::mem::swap(&mut said, &mut tried);
                    break;
                }
                share *= 0.3;
            }
            if gained < ENOUGH || (round > 0 && -cost < give_up) {
                break;
            }
        }
        let (worst, off) = self.distances(&said, &common);
        Fit {
            log_evidence: self.beyond_belief(&said) - cost - 0.5 * log_det,
            sizes: common[1..].iter().map(|ln| ln.exp()).collect(),
            length_m: common[0].exp(),
            along,
            worst,
            off,
        }
    }

    /// What misread figures cost more than a misreading does.
    fn beyond_belief(&self, said: &[f64]) -> f64 {
        let mut back = 0.0;
        for (taken, said) in self.model.taken.iter().zip(said) {
            if let Some(shown) = taken.shown.filter(|_| said.is_finite()) {
                let (mean, variance) = self.spread(taken.point, *said);
                let off = shown - said - mean;
                back += (0.5 * off * off / variance + MISREAD).max(0.0);
            }
        }
        back
    }

    fn distances(&self, said: &[f64], common: &[f64]) -> (f64, Vec<f64>) {
        let mut worst = (common[0] - self.priors[0].0).abs() / self.priors[0].1;
        let mut off_at = vec![0.0_f64; self.model.case.points.len()];
        for (taken, said) in self.model.taken.iter().zip(said) {
            let (mean, variance) = self.spread(taken.point, *said);
            let off = match taken.shown {
                Some(shown) if said.is_finite() => (shown - said - mean).abs() / variance.sqrt(),
                None if said.is_infinite() => 0.0,
                _ => f64::INFINITY,
            };
            worst = worst.max(off);
            if let Some(point) = taken.point {
                off_at[point] = off_at[point].max(off);
            }
        }
        (worst, off_at)
    }

    /// What is known beforehand of the legs, by the spacing of the manner.
    fn ties(&self) -> &(Vec<f64>, f64) {
        &self.model.ties[self.manner.spacing]
    }

    fn simulate(&self, common: &[f64], along: &[f64], into: &mut Vec<f64>) {
        self.model.simulate(self.parts, common, along, along, into);
    }

    /// Mean and variance of what is shown beside what is said.
    fn spread(&self, point: Option<usize>, said: f64) -> (f64, f64) {
        let (mean, spread) =
            if point.is_some() { (self.manner.mean, self.manner.point) } else { (0.0, self.manner.board) };
        let share = if said.is_finite() { CABLE_SHARE * said } else { 0.0 };
        (mean, spread * spread + ROUNDING + share * share)
    }

    /// Minus the log of likelihood and priors, normalised but for the determinant.
    fn cost(&self, said: &[f64], common: &[f64], along: &[f64]) -> f64 {
        let model = self.model;
        let mut cost = -model.pattern(said);
        // The product of variances, so that one logarithm is taken for many figures.
        let mut product = 1.0;
        for (taken, said) in model.taken.iter().zip(said) {
            if let Some(shown) = taken.shown.filter(|_| said.is_finite()) {
                let (mean, variance) = self.spread(taken.point, *said);
                let off = shown - said - mean;
                cost += 0.5 * off * off / variance;
                product *= (variance * std::f64::consts::TAU / (STEP_OHM * STEP_OHM)).max(1.0);
                if product > 1e100 {
                    cost += 0.5 * product.ln();
                    product = 1.0;
                }
            }
        }
        cost += 0.5 * product.ln();
        for (value, (mean, spread)) in common.iter().zip(&self.priors) {
            let off = (value - mean) / spread;
            cost += 0.5 * off * off + spread.ln();
        }
        for (leg, tie) in self.ties().0.iter().enumerate() {
            let off = (along[leg + 1] - along[leg]) - (model.along[leg + 1] - model.along[leg]);
            cost += 0.5 * tie * off * off;
        }
        cost
    }

    /// One Gauss–Newton step. A slope of a figure: by each common value, then by its own place.
    fn step(
        &self,
        common: &[f64],
        along: &[f64],
        said: &[f64],
        moved: &mut Vec<f64>,
        slopes: &mut [[f64; MOST_COMMON + 1]],
    ) -> Step {
        const LITTLE: f64 = 1e-4;
        let model = self.model;
        let count = common.len();
        // Places that may move: all but the board and the end.
        let free = along.len() - 2;
        let slope = |moved: f64, said: f64| {
            let slope = (moved - said) / LITTLE;
            if slope.is_finite() { slope } else { 0.0 }
        };
        let mut shifted = along.to_vec();
        for place in &mut shifted[1..=free] {
            *place += LITTLE;
        }
        model.simulate(self.parts, common, &shifted, along, moved);
        for ((slopes, moved), said) in slopes.iter_mut().zip(&*moved).zip(said) {
            slopes[MOST_COMMON] = slope(*moved, *said);
        }
        let mut changed = common.to_vec();
        for value in 0..count {
            changed[value] += LITTLE;
            self.simulate(&changed, along, moved);
            changed[value] = common[value];
            for ((slopes, moved), said) in slopes.iter_mut().zip(&*moved).zip(said) {
                slopes[value] = slope(*moved, *said);
            }
        }
        let mut normal = Normal::new(free);
        self.weigh(&mut normal, said, slopes, count);
        self.weigh_known(&mut normal, common, along);
        let mut step = normal.solve(count);
        step.log_det -= self.ties().1;
        step
    }

    #[allow(clippy::needless_range_loop)] // the indices are those of the equations
    /// What each figure says of the values that it depends on.
    fn weigh(&self, normal: &mut Normal, said: &[f64], slopes: &[[f64; MOST_COMMON + 1]], count: usize) {
        let model = self.model;
        for ((taken, slopes), said) in model.taken.iter().zip(slopes).zip(said) {
            let Some(shown) = taken.shown.filter(|_| said.is_finite()) else { continue };
            let (mean, variance) = self.spread(taken.point, *said);
            let weight = 1.0 / variance;
            let off = (shown - said - mean) * weight;
            for a in 0..count {
                let weighed = slopes[a] * weight;
                for b in 0..count {
                    normal.corner[a][b] += weighed * slopes[b];
                }
                normal.right_common[a] += slopes[a] * off;
            }
            let Some(free) = taken.free else { continue };
            let own = slopes[MOST_COMMON];
            normal.diagonal[free] += own * own * weight;
            normal.right[free] += own * off;
            for value in 0..count {
                normal.border[free][value] += own * weight * slopes[value];
            }
        }
    }

    /// What is known beforehand: of the common values, and of the lengths of the legs.
    fn weigh_known(&self, normal: &mut Normal, common: &[f64], along: &[f64]) {
        let model = self.model;
        let free = along.len() - 2;
        for (value, (mean, spread)) in self.priors.iter().enumerate() {
            let weight = 1.0 / (spread * spread);
            normal.corner[value][value] += weight;
            normal.right_common[value] -= weight * (common[value] - mean);
        }
        for (leg, tie) in self.ties().0.iter().enumerate() {
            let off = (along[leg + 1] - along[leg]) - (model.along[leg + 1] - model.along[leg]);
            // Leg `leg` joins nodes `leg` and `leg + 1`; free places are nodes 1 to free.
            if leg >= 1 {
                normal.diagonal[leg - 1] += tie;
                normal.right[leg - 1] += tie * off;
            }
            if leg < free {
                normal.diagonal[leg] += tie;
                normal.right[leg] -= tie * off;
            }
            if leg >= 1 && leg < free {
                normal.beside[leg - 1] -= tie;
            }
        }
    }
}

/// Log determinant of the prior of the places.
fn log_det_ties(tie: &[f64]) -> f64 {
    let (mut log, mut before) = (0.0, f64::INFINITY);
    for at in 1..tie.len() {
        let off = if at == 1 { 0.0 } else { tie[at - 1] };
        before = (tie[at - 1] + tie[at] - off * off / before).max(1e-12);
        log += before.ln();
    }
    log
}
