//! The likelihood of the figures of a circuit under one fault, everything that nobody knows summed over by
//! sequential Monte Carlo. Closed formulas only: no network is solved.

#![allow(clippy::many_single_char_names, clippy::cast_possible_wrap)] // a and b are arms, i and n count points

mod formulas;

pub use formulas::reads;

use super::held_out::{Dice, bunched, even};
use formulas::{Circuit, Particle};
use proof_physics::diagnosis::Case;
use proof_standard::quantity::Metres;
use proof_standard::shape::Shape;

/// Most points of a circuit of the generator.
const MOST: usize = 16;
const PARTICLES: usize = 700;
/// Scatter of the meter and rounding to 0.01 Ω together, Ω.
const SIGMA: f64 = 0.010_41;

/// A fault, with what is discrete about it. Cores are 0 line, 1 neutral, 2 CPC; a pair is named by the core
/// that it leaves out.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Fault {
    Healthy,
    Spur(usize),
    Joint(usize, usize),
    Open(usize, usize),
    Cross(usize, usize),
    Contact(usize),
    SwitchOff(usize),
    Swap(usize, usize),
    /// Between two points.
    Bridge(usize, usize),
    /// Between two nodes: 0 is the board, then the points from 1.
    Parallel(usize, usize),
    OwnLeg,
    Once(u8),
    Leads,
    Cpc(f64),
    Length,
}

/// How legs are drawn.
#[derive(Clone, Copy, PartialEq)]
pub enum Legs {
    Even,
    Bunched,
    Vague,
}

/// What is known before anything is read.
#[derive(Clone, Copy)]
pub struct Knows {
    pub legs: Legs,
    pub vague: bool,
}

impl Legs {
    fn draw(self, dice: &mut Dice) -> f64 {
        match self {
            Self::Even => even(dice),
            Self::Bunched => bunched(dice),
            Self::Vague => (1.3 + 1.1 * dice.normal()).exp(),
        }
    }

    /// Density, per metre.
    fn density(self, leg: f64) -> f64 {
        match self {
            // Nearly two in a hundred stand at the longest: spread over half a metre.
            Self::Even if (15.25..15.75).contains(&leg) => 2.0 * (-4.0_f64).exp(),
            Self::Even if (1.5..15.25).contains(&leg) => (-(leg - 1.5) / 3.5).exp() / 3.5,
            Self::Bunched => {
                let near = if (0.5..1.5).contains(&leg) { 0.6 } else { 0.0 };
                let far = if (0.5..40.0).contains(&leg) { 0.4 / (leg * 80.0_f64.ln()) } else { 0.0 };
                near + far
            }
            Self::Vague if leg > 0.0 => {
                let z = (leg.ln() - 1.3) / 1.1;
                (-0.5 * z * z).exp() / (leg * 1.1 * std::f64::consts::TAU.sqrt())
            }
            _ => 0.0,
        }
    }

    /// Of the last leg of a ring.
    fn density_of_return(self, leg: f64) -> f64 {
        match self {
            Self::Vague => self.density(leg / 1.5) / 1.5,
            own => own.density((leg - 2.0) / 1.5) / 1.5,
        }
    }
}

/// Every fault with its prior: kinds alike, then places alike.
pub fn hypotheses(case: &Case, knows: Knows) -> Vec<(Fault, f64)> {
    let (n, ring) = (case.points.len(), case.shape == Shape::Ring);
    let segments = n + usize::from(ring);
    let mut all: Vec<(Fault, f64)> = Vec::new();
    let mut kind = |faults: Vec<Fault>| {
        let each = 1.0 / faults.len() as f64;
        all.extend(faults.into_iter().map(|fault| (fault, each)));
    };
    let each = |of: fn(usize) -> Fault| (0..n).map(of).collect::<Vec<_>>();
    let placed = |of: fn(usize, usize) -> Fault| {
        (0..3).flat_map(|core| (0..segments).map(move |at| of(core, at))).collect::<Vec<_>>()
    };
    kind(vec![Fault::Healthy]);
    kind((1..n).map(Fault::Spur).collect());
    kind(placed(Fault::Joint));
    kind(placed(Fault::Open));
    kind(placed(Fault::Cross));
    kind(each(Fault::Contact));
    kind(each(Fault::SwitchOff));
    kind((0..n).flat_map(|at| (0..3).map(move |out| Fault::Swap(at, out))).collect());
    kind(vec![Fault::Leads]);
    kind((0..n - 3).flat_map(|from| (from + 3..=n).map(move |to| Fault::Parallel(from, to))).collect());
    let said = case.cpc_mm2.get();
    kind([1.0, 1.5, 2.5, 4.0].into_iter().filter(|size| *size != said).map(Fault::Cpc).collect());
    if ring {
        kind((0..n - 3).flat_map(|from| (from + 3..n).map(move |to| Fault::Bridge(from, to))).collect());
        kind(vec![Fault::OwnLeg]);
        if knows.legs != Legs::Even {
            kind(vec![Fault::Once(2), Fault::Once(3)]);
        }
    }
    if !ring || knows.vague {
        kind(vec![Fault::Length]);
    }
    all
}

/// The log of how likely a figure is shown; `None` is open.
fn shown(told: f64, shown: Option<f64>) -> f64 {
    match shown {
        None if told.is_infinite() => 0.0,
        Some(shown) if told.is_finite() => {
            let z = (shown - told) / SIGMA;
            -0.5 * z * z - (SIGMA * std::f64::consts::TAU.sqrt()).ln()
        }
        _ => f64::NEG_INFINITY,
    }
}

fn log_between(dice: &mut Dice, low: f64, high: f64) -> f64 {
    dice.between(low.ln(), high.ln()).exp()
}

fn size(fault: Fault, knows: Knows, dice: &mut Dice) -> f64 {
    let vague = knows.vague;
    match fault {
        Fault::Spur(_) => {
            if vague {
                log_between(dice, 1.5, 40.0)
            } else {
                log_between(dice, 4.0, 25.0)
            }
        }
        Fault::Joint(..) => {
            if vague {
                log_between(dice, 0.05, 5.0)
            } else {
                log_between(dice, 0.2, 2.0)
            }
        }
        Fault::Contact(_) => {
            if vague {
                log_between(dice, 0.05, 3.0)
            } else {
                log_between(dice, 0.12, 0.8)
            }
        }
        Fault::Bridge(..) => {
            if vague {
                log_between(dice, 0.05, 1.5)
            } else {
                dice.between(0.1, 0.9)
            }
        }
        Fault::Parallel(..) => {
            if vague {
                log_between(dice, 0.002, 0.5)
            } else {
                log_between(dice, 0.005, 0.1)
            }
        }
        Fault::Leads => {
            if vague {
                log_between(dice, 0.03, 0.6)
            } else {
                dice.between(0.08, 0.35)
            }
        }
        _ => 0.0,
    }
}

/// The share of the real length that was said.
fn said_share(fault: Fault, knows: Knows, dice: &mut Dice) -> f64 {
    match fault {
        Fault::Length if knows.vague => log_between(dice, 0.3, 3.0),
        Fault::Length if dice.share() < 0.5 => dice.between(0.4, 0.65),
        Fault::Length => dice.between(1.5, 2.2),
        _ => 1.0,
    }
}

/// Resamples, evenly spaced; gives the mean of the weights.
fn resample(all: &mut Vec<Particle>, logs: &mut [f64], dice: &mut Dice) -> f64 {
    let most = logs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    if most == f64::NEG_INFINITY {
        return most;
    }
    let weights: Vec<f64> = logs.iter().map(|log| (log - most).exp()).collect();
    let sum: f64 = weights.iter().sum();
    let squares: f64 = weights.iter().map(|weight| weight * weight).sum();
    if sum * sum / squares > 0.5 * all.len() as f64 {
        return f64::NAN;
    }
    let step = sum / all.len() as f64;
    let (mut target, mut run, mut index) = (step * dice.share(), weights[0], 0);
    let mut kept = Vec::with_capacity(all.len());
    for _ in 0..all.len() {
        while run < target && index + 1 < weights.len() {
            index += 1;
            run += weights[index];
        }
        kept.push(all[index]);
        target += step;
    }
    *all = kept;
    logs.fill(0.0);
    most + (sum / all.len() as f64).ln()
}

/// The log of the evidence of a case under a fault.
pub fn evidence(case: &Case, fault: Fault, knows: Knows, dice: &mut Dice) -> f64 {
    let circuit = Circuit::of(case, fault);
    let (n, ring) = (circuit.n, circuit.ring);
    let said = case.length.map_or(50.0, Metres::get);
    let arc = Circuit::arc(fault);
    let mut total = 0.0;
    let mut all: Vec<Particle> = (0..PARTICLES)
        .map(|_| {
            let mut p = Particle {
                at: [0.0; MOST],
                whole: 0.0,
                size: size(fault, knows, dice),
                arc: 0.0,
                legs: [0.0; MOST],
                seen: false,
            };
            if let Some((from, to)) = arc {
                for node in from + 1..=to {
                    p.legs[node as usize] = knows.legs.draw(dice);
                    p.arc += p.legs[node as usize];
                }
            }
            // What was said is the real length, give or take 3 %.
            p.whole = said / said_share(fault, knows, dice) * (1.0 + 0.03 * dice.normal());
            p
        })
        .collect();
    let mut logs = vec![0.0; PARTICLES];
    if ring {
        for (p, log) in all.iter().zip(&mut logs) {
            for core in 0..3 {
                if let Some(end) = case.end_to_end[core] {
                    *log += shown(circuit.end_to_end(fault, p, core), end);
                }
            }
            for (step, check) in case.board_check.iter().enumerate() {
                if let Some(check) = check {
                    *log += shown(circuit.check(fault, p, step + 1), *check);
                }
            }
        }
    }
    let mut settle = |all: &mut Vec<Particle>, logs: &mut Vec<f64>, dice: &mut Dice| {
        let gained = resample(all, logs, dice);
        if gained.is_finite() {
            total += gained;
        }
        gained != f64::NEG_INFINITY
    };
    if !settle(&mut all, &mut logs, dice) {
        return f64::NEG_INFINITY;
    }
    for i in 0..n {
        for (p, log) in all.iter_mut().zip(&mut logs) {
            let before = if i == 0 { 0.0 } else { p.at[i - 1] };
            let inside = arc.is_some_and(|(from, to)| (i as isize) > from && (i as isize) <= to);
            p.at[i] = match fault {
                Fault::Spur(at) if at == i => before,
                _ if inside => before + p.legs[i],
                _ => before + knows.legs.draw(dice),
            };
            if ring && p.at[i] >= p.whole {
                *log = f64::NEG_INFINITY;
                continue;
            }
            for (step, read) in [case.points[i].r1_rn, case.points[i].r1_r2].into_iter().enumerate() {
                if let Some(read) = read {
                    let told = circuit.read(fault, p, step + 1, i);
                    *log += shown(told, read);
                    p.seen = p.seen || (told - circuit.read(Fault::Healthy, p, step + 1, i)).abs() > 0.06;
                }
            }
        }
        if !settle(&mut all, &mut logs, dice) {
            return f64::NEG_INFINITY;
        }
    }
    for (p, log) in all.iter().zip(&mut logs) {
        let last = p.at[n - 1];
        let seen = p.seen
            || ring
                && (0..3).any(|core| {
                    (circuit.end_to_end(fault, p, core) - circuit.end_to_end(Fault::Healthy, p, core)).abs() > 0.06
                });
        // The generator draws again until the fault shows.
        let told = knows.vague || seen || !matches!(fault, Fault::Bridge(..) | Fault::Parallel(..) | Fault::Spur(_));
        *log += if !told {
            f64::NEG_INFINITY
        } else if ring {
            knows.legs.density_of_return(p.whole - last).max(0.0).ln()
        } else {
            // A radial ends at its last point: its length is what was said, give or take.
            let z = (p.whole - last) / (0.03 * last.max(1.0));
            -0.5 * z * z - (0.03 * last.max(1.0)).ln() + p.whole.ln()
        };
    }
    let most = logs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    if most == f64::NEG_INFINITY {
        return most;
    }
    total + most + (logs.iter().map(|log| (log - most).exp()).sum::<f64>() / PARTICLES as f64).ln()
}
