//! A generator of faulty circuits that shares nothing with the diagnosis but the network solver:
//! its own priors, sizes, legs, noise and random numbers.

use proof_physics::diagnosis::{Case, ReadPoint};
use proof_physics::network::circuit::{Expected, expect};
use proof_physics::network::description::{Description, Fault, OhmPerMetre, Point, SegmentName};
use proof_standard::conductor::Core;
use proof_standard::quantity::{Celsius, Metres, Ohms, SquareMillimetres};
use proof_standard::shape::Shape;

/// Xorshift with a scrambled seed.
pub struct Dice(u64);

impl Dice {
    pub fn new(seed: u64) -> Self {
        let mut dice = Self(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ 0xD1B5_4A32_D192_ED03);
        for _ in 0..8 {
            dice.next();
        }
        dice
    }

    fn next(&mut self) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0
    }

    pub fn share(&mut self) -> f64 {
        (self.next() >> 11) as f64 / (1_u64 << 53) as f64
    }

    pub fn between(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * self.share()
    }

    /// From `low` up to and without `high`.
    pub fn whole(&mut self, low: usize, high: usize) -> usize {
        low + (self.share() * (high - low) as f64) as usize
    }

    pub fn pick<T: Clone>(&mut self, list: &[T]) -> T {
        list[self.whole(0, list.len())].clone()
    }

    pub fn normal(&mut self) -> f64 {
        let (u, v) = (self.share().max(1e-300), self.share());
        (-2.0 * u.ln()).sqrt() * (std::f64::consts::TAU * v).cos()
    }
}

/// How the instrument behaves and how well the length is known.
#[derive(Clone, Copy)]
pub struct Meter {
    pub scatter: f64,
    pub contacts: f64,
    pub length: f64,
}

pub const GOOD: Meter = Meter { scatter: 0.01, contacts: 0.0, length: 0.03 };
#[allow(dead_code)]
pub const ROUGH: Meter = Meter { scatter: 0.01, contacts: 0.04, length: 0.10 };

/// What really is wrong.
#[derive(Debug, Clone, PartialEq)]
pub enum Truth {
    Healthy,
    Spur(String),
    Joint(Core, usize),
    Open(Core, usize),
    Cross([Core; 2], usize),
    Contact(String),
    SwitchOff(String),
    Swap(String, [Core; 2]),
    Bridge,
    ParallelEarth,
    OwnLeg,
    /// In one step only, 2 or 3.
    OwnLegOnce(u8),
    Leads,
    WrongCpc,
    WrongLength,
}

pub const RING_KINDS: [&str; 13] = [
    "healthy",
    "spur",
    "high_resistance_joint",
    "open",
    "cross",
    "contact",
    "switch_off",
    "swap",
    "bridge",
    "own_leg",
    "leads_not_nulled",
    "parallel_earth",
    "wrong_cpc",
];
pub const RADIAL_KINDS: [&str; 12] = [
    "healthy",
    "spur",
    "high_resistance_joint",
    "open",
    "cross",
    "contact",
    "switch_off",
    "swap",
    "leads_not_nulled",
    "parallel_earth",
    "wrong_cpc",
    "wrong_length",
];
const PAIRS: [[Core; 2]; 3] = [[Core::L, Core::N], [Core::L, Core::E], [Core::N, Core::E]];

/// A circuit, what is wrong with it, and the figures.
pub struct Drawn {
    pub case: Case,
    pub truths: Vec<Truth>,
}

/// A circuit in full, as it was made.
#[allow(dead_code)] // read by those who work its figures out otherwise
pub struct Made {
    pub description: Description,
    pub leads: f64,
    pub own_leg_once: Option<usize>,
}

struct Making {
    description: Description,
    leads: f64,
    cpc_mm2: f64,
    said_share: f64,
    truths: Vec<Truth>,
    /// The step whose legs alone are linked to themselves, 0 or 1.
    own_leg_once: Option<usize>,
}

fn name(index: usize) -> String {
    format!("S{index}")
}

fn segment(index: usize) -> SegmentName {
    if index == 0 { SegmentName::After("board".into()) } else { SegmentName::After(name(index - 1)) }
}

fn cores(mm2: [f64; 3]) -> OhmPerMetre {
    let sizes = mm2.map(|size| SquareMillimetres::new(size).unwrap());
    OhmPerMetre::copper(sizes, Celsius::literal(20.0)).unwrap()
}

fn add(making: &mut Making, kind: &str, mm2: [f64; 3], dice: &mut Dice) {
    let points = making.description.points.len();
    let ring = making.description.shape == Shape::Ring;
    let segments = points + usize::from(ring);
    let log_between = |dice: &mut Dice, low: f64, high: f64| dice.between(low.ln(), high.ln()).exp();
    let ohms = |ohm: f64| Ohms::new(ohm).unwrap();
    let core = dice.pick(&Core::ALL);
    let at = dice.whole(0, points);
    let place = dice.whole(0, segments);
    let faults = &mut making.description.faults;
    let truth = match kind {
        "healthy" => Truth::Healthy,
        "spur" => {
            // The point hangs on a cable from the one before it.
            let at = at.max(1);
            let leg = Metres::new(log_between(dice, 4.0, 25.0)).unwrap();
            let from = (0..at).rev().find(|&index| making.description.points[index].spur_from.is_none()).unwrap();
            making.description.points[at].spur_from = Some(name(from));
            making.description.points[at].leg = leg;
            Truth::Spur(name(at))
        }
        "high_resistance_joint" => {
            let ohm = ohms(log_between(dice, 0.2, 2.0));
            faults.push(Fault::HighResistanceJoint { conductor: core, segment: segment(place), ohm });
            Truth::Joint(core, place)
        }
        "open" => {
            faults.push(Fault::Open { conductor: core, segment: segment(place) });
            Truth::Open(core, place)
        }
        "cross" => {
            let pair = dice.pick(&PAIRS);
            faults.push(Fault::Cross { conductors: pair, segment: segment(place) });
            Truth::Cross(pair, place)
        }
        "contact" => {
            faults.push(Fault::Contact { at: name(at), ohm: Some(ohms(log_between(dice, 0.12, 0.8))) });
            Truth::Contact(name(at))
        }
        "switch_off" => {
            faults.push(Fault::Contact { at: name(at), ohm: None });
            Truth::SwitchOff(name(at))
        }
        "swap" => {
            let pair = dice.pick(&PAIRS);
            faults.push(Fault::Swap { at: name(at), conductors: pair });
            Truth::Swap(name(at), pair)
        }
        "bridge" => {
            let from = dice.whole(0, points - 3);
            let to = dice.whole(from + 3, points);
            let direct: f64 = making.description.points[from + 1..=to].iter().map(|point| point.leg.get()).sum();
            let leg = Metres::new(direct * dice.between(0.1, 0.9)).unwrap();
            faults.push(Fault::Bridge { from: name(from), to: name(to), leg });
            Truth::Bridge
        }
        "own_leg" => {
            faults.push(Fault::OwnLeg);
            Truth::OwnLeg
        }
        "own_leg_once" => {
            let step = dice.whole(0, 2);
            making.own_leg_once = Some(step);
            Truth::OwnLegOnce(if step == 0 { 2 } else { 3 })
        }
        "leads_not_nulled" => {
            making.leads = dice.between(0.08, 0.35);
            Truth::Leads
        }
        "parallel_earth" => {
            let from = dice.whole(0, points - 3);
            let to = dice.whole(from + 3, points + 1);
            let place = |node: usize| if node == 0 { "board".to_owned() } else { name(node - 1) };
            let ohm = ohms(log_between(dice, 0.005, 0.1));
            faults.push(Fault::ParallelEarth { between: [place(from), place(to)], ohm });
            Truth::ParallelEarth
        }
        "wrong_cpc" => {
            let sizes = [1.0, 1.5, 2.5, 4.0];
            let other = dice.pick(&sizes.into_iter().filter(|size| *size != mm2[2]).collect::<Vec<_>>());
            making.description.cores = cores([mm2[0], mm2[1], other]);
            Truth::WrongCpc
        }
        "wrong_length" => {
            making.said_share = if dice.share() < 0.5 { dice.between(0.4, 0.65) } else { dice.between(1.5, 2.2) };
            Truth::WrongLength
        }
        other => panic!("{other}"),
    };
    making.truths.push(truth);
}

/// Legs as they are in a flat: most of a few metres.
pub fn even(dice: &mut Dice) -> f64 {
    1.5 + (-(1.0 - dice.share()).ln() * 3.5).min(14.0)
}

/// Sockets in bunches: half a metre within one, up to forty between them.
pub fn bunched(dice: &mut Dice) -> f64 {
    if dice.share() < 0.6 { dice.between(0.5, 1.5) } else { dice.between(0.5_f64.ln(), 40.0_f64.ln()).exp() }
}

/// Draws a circuit with these kinds of fault and reads it.
pub fn draw(shape: Shape, kinds: &[&str], points: usize, meter: Meter, dice: &mut Dice) -> Drawn {
    drawn(shape, kinds, points, (meter, even), dice)
}

/// The same with its sockets in bunches.
pub fn draw_bunched(shape: Shape, kinds: &[&str], points: usize, meter: Meter, dice: &mut Dice) -> Drawn {
    drawn(shape, kinds, points, (meter, bunched), dice)
}

/// One fault in a circuit that is known in full.
#[allow(dead_code)]
pub fn draw_known(shape: Shape, kind: &str, points: usize, meter: Meter, dice: &mut Dice) -> (Drawn, Made) {
    made(shape, &[kind], points, (meter, even), dice)
}

fn drawn(shape: Shape, kinds: &[&str], points: usize, how: (Meter, fn(&mut Dice) -> f64), dice: &mut Dice) -> Drawn {
    made(shape, kinds, points, how, dice).0
}

fn made(
    shape: Shape,
    kinds: &[&str],
    points: usize,
    (meter, leg): (Meter, fn(&mut Dice) -> f64),
    dice: &mut Dice,
) -> (Drawn, Made) {
    let mm2 = dice.pick(&[[2.5, 2.5, 1.5], [2.5, 2.5, 1.5], [2.5, 2.5, 1.5], [4.0, 4.0, 1.5], [2.5, 2.5, 2.5]]);
    let ring = shape == Shape::Ring;
    let description = Description {
        shape,
        cores: cores(mm2),
        points: (0..points)
            .map(|index| Point { id: name(index), spur_from: None, leg: Metres::new(leg(dice)).unwrap() })
            .collect(),
        return_leg: ring.then(|| Metres::new(2.0 + 1.5 * leg(dice)).unwrap()),
        faults: Vec::new(),
    };
    let mut making =
        Making { description, leads: 0.0, cpc_mm2: mm2[2], said_share: 1.0, truths: Vec::new(), own_leg_once: None };
    // A spur re-hangs points, so it comes before faults that name segments.
    let mut order: Vec<&str> = kinds.to_vec();
    order.sort_by_key(|kind| *kind != "spur");
    for kind in order {
        add(&mut making, kind, mm2, dice);
    }
    let Ok(mut truth) = expect(&making.description) else {
        // A fault that names the segment after a spur: draw another.
        return made(shape, kinds, points, (meter, leg), dice);
    };
    if !each_is_seen(&making.description, &truth) {
        return made(shape, kinds, points, (meter, leg), dice);
    }
    if let Some(step) = making.own_leg_once {
        let mut linked = making.description.clone();
        linked.faults.push(Fault::OwnLeg);
        let linked = expect(&linked).unwrap();
        if !once(&mut truth, &linked, step) {
            return made(shape, kinds, points, (meter, leg), dice);
        }
    }
    let case = read(&making, &truth, mm2, meter, dice);
    let Making { description, leads, own_leg_once, truths, .. } = making;
    (Drawn { case, truths }, Made { description, leads, own_leg_once })
}

/// Lays one step as it reads with the legs linked to themselves over what reads right; whether that is seen.
fn once(truth: &mut Expected, linked: &Expected, step: usize) -> bool {
    let mut seen = false;
    for (right, own) in truth.points.iter_mut().zip(&linked.points) {
        let (to, from) = if step == 0 { (&mut right.r1_rn, own.r1_rn) } else { (&mut right.r1_r2, own.r1_r2) };
        seen |= to.zip(from).is_none_or(|(a, b)| (a - b).abs() > 0.06);
        *to = from;
    }
    if let (Some(right), Some(own)) = (&mut truth.board_check, &linked.board_check) {
        if step == 0 { right.r1_rn = own.r1_rn } else { right.r1_r2 = own.r1_r2 }
    }
    seen
}

/// Whether taking any one of the faults away changes some figure by enough to be seen.
fn each_is_seen(description: &Description, with: &Expected) -> bool {
    const SEEN_OHM: f64 = 0.06;
    let figures = |read: &Expected| -> Vec<Option<f64>> {
        let ends = read.end_to_end.iter().flat_map(|ends| [ends.r1, ends.rn, ends.r2]);
        ends.chain(read.points.iter().flat_map(|point| [point.r1_rn, point.r1_r2])).collect()
    };
    (0..description.faults.len()).all(|fault| {
        let mut without = description.clone();
        without.faults.remove(fault);
        let without = figures(&expect(&without).unwrap());
        figures(with).iter().zip(&without).any(|pair| match pair {
            (Some(a), Some(b)) => (a - b).abs() > SEEN_OHM,
            (None, None) => false,
            _ => true,
        })
    })
}

fn read(making: &Making, truth: &Expected, mm2: [f64; 3], meter: Meter, dice: &mut Dice) -> Case {
    let shown = |ohm: f64| ((ohm * 100.0).round() / 100.0).max(0.0);
    let clipped =
        |ohm: Option<f64>, dice: &mut Dice| ohm.map(|ohm| shown(ohm + making.leads + meter.scatter * dice.normal()));
    let probed = |ohm: Option<f64>, dice: &mut Dice| {
        let contact = meter.contacts * dice.share();
        clipped(ohm.map(|ohm| ohm + contact), dice)
    };
    let mains = making.description.points.iter().filter(|point| point.spur_from.is_none());
    let whole: f64 =
        mains.map(|point| point.leg.get()).sum::<f64>() + making.description.return_leg.map_or(0.0, Metres::get);
    let said = whole
        * making.said_share
        * (1.0 + meter.length * if meter.contacts > 0.0 { dice.between(-1.0, 1.0) } else { dice.normal() });
    let ends = truth.end_to_end.map_or([None; 3], |ends| [Some(ends.r1), Some(ends.rn), Some(ends.r2)]);
    let check = truth.board_check.filter(|_| dice.share() < 0.5);
    Case {
        shape: making.description.shape,
        cores: cores(mm2),
        cpc_mm2: SquareMillimetres::new(making.cpc_mm2).unwrap(),
        length: Metres::new(said).ok(),
        end_to_end: ends.map(|end| end.map(|ohm| clipped(ohm, dice))),
        board_check: check
            .map_or([None; 2], |check| [Some(clipped(check.r1_rn, dice)), Some(clipped(check.r1_r2, dice))]),
        points: making
            .description
            .points
            .iter()
            .zip(&truth.points)
            .map(|(point, read)| ReadPoint {
                id: point.id.clone(),
                spur_from: None,
                leg: None,
                r1_rn: Some(probed(read.r1_rn, dice)),
                r1_r2: Some(probed(read.r1_r2, dice)),
            })
            .collect(),
    }
}
