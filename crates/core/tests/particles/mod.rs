//! The likelihood of the figures of a circuit under one fault, everything that nobody knows summed over by
//! sequential Monte Carlo. Closed formulas only: no network is solved.

#![allow(clippy::many_single_char_names, clippy::cast_possible_wrap)] // a and b are arms, i and n count points

use super::held_out::{Dice, Made, bunched, even};
use proof_core::diagnosis::Case;
use proof_core::installation::Shape;
use proof_core::network::description::{Fault as Said, SegmentName};
use proof_core::quantity::Metres;

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

/// One guess of everything that nobody knows.
#[derive(Clone, Copy)]
struct Particle {
    /// Where each point stands on the main line, m from the first leg's end.
    at: [f64; MOST],
    /// Length of the main line, m.
    whole: f64,
    /// Size of the fault: Ω, m, or a share.
    size: f64,
    /// The arc between two nodes, m, and each of its legs.
    arc: f64,
    legs: [f64; MOST],
    seen: bool,
}

fn parallel(a: f64, b: f64) -> f64 {
    match (a.is_finite(), b.is_finite()) {
        (true, true) => a * b / (a + b),
        (true, false) => a,
        (false, true) => b,
        _ => f64::INFINITY,
    }
}

/// The circuit as described, Ω/m of each core.
struct Circuit {
    ring: bool,
    rho: [f64; 3],
    n: usize,
}

impl Circuit {
    fn of(case: &Case, fault: Fault) -> Self {
        let mut rho = case.cores.0;
        if let Fault::Cpc(mm2) = fault {
            // IEC 60228 at 20 °C.
            rho[2] = match mm2 {
                1.0 => 0.018_10,
                1.5 => 0.012_10,
                2.5 => 0.007_41,
                _ => 0.004_61,
            };
        }
        Self { ring: case.shape == Shape::Ring, rho, n: case.points.len() }
    }

    /// The nodes of the arc that a cable or metal stands beside, as point numbers; −1 is the board.
    fn arc(fault: Fault) -> Option<(isize, isize)> {
        match fault {
            Fault::Bridge(from, to) => Some((from as isize, to as isize)),
            Fault::Parallel(from, to) => Some((from as isize - 1, to as isize - 1)),
            _ => None,
        }
    }

    /// From a point to the end of the first leg, to that of the second, and from the cable to its terminal, Ω.
    fn arms(&self, fault: Fault, p: &Particle, core: usize, i: usize) -> (f64, f64, f64) {
        let rho = self.rho[core];
        let x = p.at[i];
        let (mut a, mut b, mut tail) = (rho * x, rho * (p.whole - x), 0.0);
        match fault {
            Fault::Spur(at) if at == i => tail = rho * p.size,
            Fault::Joint(of, segment) if of == core => *(if i >= segment { &mut a } else { &mut b }) += p.size,
            Fault::Open(of, segment) if of == core => *(if i >= segment { &mut a } else { &mut b }) = f64::INFINITY,
            Fault::Contact(at) if at == i && core == 0 => tail = p.size,
            Fault::SwitchOff(at) if at == i && core == 0 => tail = f64::INFINITY,
            Fault::Bridge(..) | Fault::Parallel(..) => {
                if matches!(fault, Fault::Parallel(..)) && core != 2 {
                    return (a, b, tail);
                }
                let Some((from, to)) = Self::arc(fault) else { return (a, b, tail) };
                let beside = if matches!(fault, Fault::Bridge(..)) { rho * p.size * p.arc } else { p.size };
                let (i, arc) = (i as isize, rho * p.arc);
                let start = if from < 0 { 0.0 } else { p.at[from as usize] };
                let short = arc - parallel(arc, beside);
                if i <= from {
                    b -= short;
                } else if i >= to {
                    a -= short;
                } else {
                    let u = rho * (x - start);
                    // A ring's arc, seen from a point in it: mesh into star. A radial has no second end.
                    if self.ring {
                        a = rho * start + u * beside / (arc + beside);
                        b = rho * (p.whole - start - p.arc) + (arc - u) * beside / (arc + beside);
                        tail = u * (arc - u) / (arc + beside);
                    } else {
                        a = rho * start + parallel(u, beside + arc - u);
                    }
                }
            }
            _ => {}
        }
        (a, b, tail)
    }

    /// Line to neutral in the second step (`other` 1), to CPC in the third (2), at a point; infinite is open.
    fn read(&self, fault: Fault, p: &Particle, other: usize, i: usize) -> f64 {
        // Line and this conductor changed over read the same; any other swap reads what is linked to nothing.
        if matches!(fault, Fault::Swap(at, out) if at == i && (out == 0 || out == other)) {
            return f64::INFINITY;
        }
        let ((al, bl, tl), (ao, bo, to)) = (self.arms(fault, p, 0, i), self.arms(fault, p, other, i));
        let leads = if fault == Fault::Leads { p.size } else { 0.0 };
        let tails = tl + to + leads;
        if !self.ring {
            let open = match fault {
                Fault::Cross(out, segment) => i >= segment && (out == 0 || out == other),
                _ => false,
            };
            return if open { f64::INFINITY } else { tails + al + ao };
        }
        let own = fault == Fault::OwnLeg || fault == Fault::Once(other as u8 + 1);
        let (mut first, mut second) = if own { (al + ao, bl + bo) } else { (al + bo, bl + ao) };
        if let Fault::Cross(out, segment) = fault {
            // Beyond the crossing a core goes on as another.
            let gone = if out == 3 - other {
                return f64::INFINITY;
            } else if out == other {
                i >= segment
            } else {
                i < segment
            };
            *(if gone { &mut first } else { &mut second }) = f64::INFINITY;
        }
        tails + parallel(first, second)
    }

    /// End to end of a core of a ring.
    fn end_to_end(&self, fault: Fault, p: &Particle, core: usize) -> f64 {
        let leads = if fault == Fault::Leads { p.size } else { 0.0 };
        if matches!(fault, Fault::Cross(out, _) if out != core) {
            return f64::INFINITY;
        }
        let rho = self.rho[core];
        let mut ohm = rho * p.whole;
        match fault {
            Fault::Joint(of, _) if of == core => ohm += p.size,
            Fault::Open(of, _) if of == core => ohm = f64::INFINITY,
            Fault::Bridge(..) => ohm -= rho * p.arc - parallel(rho * p.arc, rho * p.size * p.arc),
            Fault::Parallel(..) if core == 2 => ohm -= rho * p.arc - parallel(rho * p.arc, p.size),
            _ => {}
        }
        ohm + leads
    }

    fn check(&self, fault: Fault, p: &Particle, other: usize) -> f64 {
        let leads = if fault == Fault::Leads { p.size } else { 0.0 };
        if fault == Fault::OwnLeg || fault == Fault::Once(other as u8 + 1) {
            return leads;
        }
        parallel(self.end_to_end(fault, p, 0) - leads, self.end_to_end(fault, p, other) - leads) + leads
    }
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

/// The figures of a circuit that is known in full, by the same formulas.
pub fn reads(case: &Case, made: &Made) -> Vec<Option<f64>> {
    let node = |name: &str| if name == "board" { 0 } else { name[1..].parse::<usize>().unwrap() + 1 };
    let segment = |name: &SegmentName| {
        let SegmentName::After(after) = name else { panic!("{name:?}") };
        node(after)
    };
    let core = |core: proof_core::conductor::Core| {
        proof_core::conductor::Core::ALL.iter().position(|one| *one == core).unwrap()
    };
    let out = |pair: &[proof_core::conductor::Core; 2]| 3 - core(pair[0]) - core(pair[1]);
    let mut p = Particle { at: [0.0; MOST], whole: 0.0, size: 0.0, arc: 0.0, legs: [0.0; MOST], seen: false };
    let points = &made.description.points;
    let mut fault = if made.leads > 0.0 { Fault::Leads } else { Fault::Healthy };
    let mut x = 0.0;
    for (i, point) in points.iter().enumerate() {
        if point.spur_from.is_some() {
            (fault, p.size) = (Fault::Spur(i), point.leg.get());
        } else {
            x += point.leg.get();
        }
        p.at[i] = x;
    }
    p.whole = x + made.description.return_leg.map_or(0.0, Metres::get);
    if made.leads > 0.0 {
        p.size = made.leads;
    }
    if let Some(said) = made.description.faults.first() {
        (fault, p.size) = match said {
            Said::HighResistanceJoint { conductor, segment: at, ohm } => {
                (Fault::Joint(core(*conductor), segment(at)), ohm.get())
            }
            Said::Open { conductor, segment: at } => (Fault::Open(core(*conductor), segment(at)), 0.0),
            Said::Cross { conductors, segment: at } => (Fault::Cross(out(conductors), segment(at)), 0.0),
            Said::Contact { at, ohm: Some(ohm) } => (Fault::Contact(node(at) - 1), ohm.get()),
            Said::Contact { at, ohm: None } => (Fault::SwitchOff(node(at) - 1), 0.0),
            Said::Swap { at, conductors } => (Fault::Swap(node(at) - 1, out(conductors)), 0.0),
            Said::Bridge { from, to, leg } => {
                let (from, to) = (node(from) - 1, node(to) - 1);
                (Fault::Bridge(from, to), leg.get() / (p.at[to] - p.at[from]))
            }
            Said::ParallelEarth { between: [from, to], ohm } => (Fault::Parallel(node(from), node(to)), ohm.get()),
            Said::OwnLeg => (Fault::OwnLeg, 0.0),
        };
    }
    if let Some(step) = made.own_leg_once {
        fault = Fault::Once(step as u8 + 2);
    }
    if let Some((from, to)) = Circuit::arc(fault) {
        p.arc = p.at[to as usize] - if from < 0 { 0.0 } else { p.at[from as usize] };
    }
    let circuit = Circuit { rho: made.description.cores.0, ..Circuit::of(case, fault) };
    let told = |ohm: f64| ohm.is_finite().then_some(ohm);
    (0..circuit.n).flat_map(|i| [1, 2].map(|other| told(circuit.read(fault, &p, other, i)))).collect()
}
