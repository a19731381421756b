//! What a circuit reads under one fault: two conductors in parallel, star and mesh. No network is solved.

use super::{Fault, MOST};
use crate::held_out::Made;
use proof_physics::diagnosis::Case;
use proof_physics::network::description::{Fault as Said, SegmentName};
use proof_standard::conductor::Core;
use proof_standard::quantity::Metres;
use proof_standard::shape::Shape;

/// One guess of everything that nobody knows.
#[derive(Clone, Copy)]
pub struct Particle {
    /// Where each point stands on the main line, m from the first leg's end.
    pub at: [f64; MOST],
    /// Length of the main line, m.
    pub whole: f64,
    /// Size of the fault: Ω, m, or a share.
    pub size: f64,
    /// The arc between two nodes, m, and each of its legs.
    pub arc: f64,
    pub legs: [f64; MOST],
    pub seen: bool,
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
pub struct Circuit {
    pub ring: bool,
    pub rho: [f64; 3],
    pub n: usize,
}

impl Circuit {
    pub fn of(case: &Case, fault: Fault) -> Self {
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
    pub fn arc(fault: Fault) -> Option<(isize, isize)> {
        match fault {
            Fault::Bridge(from, to) => Some((from as isize, to as isize)),
            Fault::Parallel(from, to) => Some((from as isize - 1, to as isize - 1)),
            _ => None,
        }
    }

    /// From a point to the end of the first leg, to that of the second, and from the cable to its terminal, Ω.
    pub fn arms(&self, fault: Fault, p: &Particle, core: usize, i: usize) -> (f64, f64, f64) {
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
    pub fn read(&self, fault: Fault, p: &Particle, other: usize, i: usize) -> f64 {
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
    pub fn end_to_end(&self, fault: Fault, p: &Particle, core: usize) -> f64 {
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

    pub fn check(&self, fault: Fault, p: &Particle, other: usize) -> f64 {
        let leads = if fault == Fault::Leads { p.size } else { 0.0 };
        if fault == Fault::OwnLeg || fault == Fault::Once(other as u8 + 1) {
            return leads;
        }
        parallel(self.end_to_end(fault, p, 0) - leads, self.end_to_end(fault, p, other) - leads) + leads
    }
}

/// The figures of a circuit that is known in full, by the same formulas.
pub fn reads(case: &Case, made: &Made) -> Vec<Option<f64>> {
    let node = |name: &str| if name == "board" { 0 } else { name[1..].parse::<usize>().unwrap() + 1 };
    let segment = |name: &SegmentName| {
        let SegmentName::After(after) = name else { panic!("{name:?}") };
        node(after)
    };
    let core = |core: Core| Core::ALL.iter().position(|one| *one == core).unwrap();
    let out = |pair: &[Core; 2]| 3 - core(pair[0]) - core(pair[1]);
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
