//! Exercises of the dead tests: a circuit with its fault, insulation, a bond.

use super::drawn::{
    BENCH_SOCKETS, GLUE_HEATER, LOFT_LIGHTS, PRESS_SOCKETS, Pattern, VERDICT, ask_fault, ask_second, choice, fault,
    hard_fault, rig, tenths, way, way_at, whole, with_faults,
};
use super::posed::{Ask, Exercise, Level, Posed, Truth, Wrong};
use crate::meter::Meter;
use crate::rig::bench::Bench;
use crate::rig::instrument::Leads;
use crate::rig::stand::RigState;
use crate::rig::terminal::Wire;
use crate::rig::{Bond, Fitting, Leak};
use proof_physics::network::description::Point;
use proof_standard::conductor::Core;
use proof_standard::quantity::Metres;

const CIRCUIT_SETTLES: &str = "With the link to earth a walk tells line and CPC together, with the link to neutral line and neutral: the conductor that is in both, or in one alone, is the one. The point where the figures jump is the place.";

/// A ring or a radial: easy with a large joint on a short one; hard with a small one, perhaps two faults, a spur on a
/// ring, copper that is no 20 °C, and an instrument that somebody nulled on other leads.
pub(super) fn circuit(exercise: Exercise, level: Level, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let usual = if exercise == Exercise::Ring { &BENCH_SOCKETS } else { &PRESS_SOCKETS };
    let points = match level {
        Level::First => (usual.points.0 - 1, usual.points.0),
        Level::Usual => usual.points,
        Level::Hard => (usual.points.1, usual.points.1 + 3),
    };
    let pattern = Pattern { points, ..*usual };
    let hard = level == Level::Hard;
    let copper_c = if hard { whole(&mut meter, 4, 32) as f64 } else { 20.0 };
    let mut first = way_at(&pattern, copper_c, &mut meter)?;
    if hard && exercise == Exercise::Ring {
        let from = whole(&mut meter, 0, first.cable.points.len() - 1);
        let spur_from = Some(first.cable.points[from].id.clone());
        let leg = Metres::new(tenths(meter.between(3.0, 7.0))).ok()?;
        let id = format!("point {}", first.cable.points.len() + 1);
        first.cable.points.push(Point { id, spur_from, leg });
        first.fittings.push(Fitting::Socket);
    }
    let joints = match level {
        Level::First => (0.8, 1.6),
        Level::Usual => (0.4, 1.2),
        Level::Hard => (0.2, 0.5),
    };
    let draw = if hard { hard_fault } else { fault };
    let (wrong, ohm) = draw(&first.cable, joints, &mut meter);
    let mut wrongs = vec![(wrong, ohm)];
    if hard && wrong != Wrong::Sound && meter.share() < 0.5 {
        wrongs.extend(Some(draw(&first.cable, joints, &mut meter)).filter(|(also, _)| *also != wrong));
    }
    first.cable = with_faults(&first.cable, &wrongs);
    let built = first.cable.clone();
    let points = built.points.len();
    let mut rig = rig(vec![first, way(&LOFT_LIGHTS, &mut meter)?], &mut meter);
    rig.copper_c = copper_c;
    let mut asks: Vec<Ask> = if exercise == Exercise::Ring {
        [("r1", "r1, Ω"), ("rn", "rn, Ω"), ("r2", "r2, Ω")].map(|(name, label)| Ask::Figure { name, label }).into()
    } else {
        Vec::new()
    };
    asks.push(Ask::Figure { name: "r1_r2", label: "R1+R2 for the schedule, Ω" });
    asks.extend(ask_fault(points));
    if hard {
        asks.extend(ask_second(points));
    }
    let stand = RigState::isolated(&rig);
    let ring = usize::from(exercise == Exercise::Ring) * 3;
    let mut bench = Bench::new(rig, stand, seed).proved();
    if hard {
        bench.instrument.null = Some((Leads::Long, Leads::Long.ohm()));
    }
    let also = wrongs.get(1).copied();
    // Every point with either link, and the ends of a ring.
    let settled = (2 * points + ring, CIRCUIT_SETTLES);
    Some(Posed::for_exercise(exercise, bench, asks, Truth::Circuit { built, wrong, ohm, also }, settled))
}

/// Which way, which pair, and what it is.
fn ask_leak(ways: &[String]) -> Vec<Ask> {
    let of = ways.iter().enumerate().map(|(index, way)| ((index + 1).to_string(), way.clone()));
    let of = std::iter::once((String::new(), "—".to_owned())).chain(of).collect();
    vec![
        Ask::Choice { name: "way", label: "Which way", of },
        choice(
            "pair",
            "Between which",
            &[("", "—"), ("LN", "line and neutral"), ("LE", "line and earth"), ("NE", "neutral and earth")],
        ),
        choice(
            "what",
            "What it is",
            &[
                ("", "—"),
                ("short", "a short"),
                ("neon", "a neon indicator"),
                ("damaged", "damaged cable, well under 1 MΩ"),
                ("damp", "damp, over 1 MΩ"),
            ],
        ),
    ]
}

/// A leak somewhere on the board. Hard: fresh plaster on another way, which creeps up and is no fault, and a surge device
/// that is not yet unplugged.
pub(super) fn insulation(level: Level, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let patterns: &[&Pattern] = match level {
        Level::First => &[&PRESS_SOCKETS, &LOFT_LIGHTS],
        _ => &[&BENCH_SOCKETS, &LOFT_LIGHTS, &PRESS_SOCKETS, &GLUE_HEATER],
    };
    let mut ways = Vec::new();
    for pattern in patterns {
        ways.push(way(pattern, &mut meter)?);
    }
    let at = whole(&mut meter, 0, ways.len() - 1);
    let pairs = [[Core::L, Core::N], [Core::L, Core::E], [Core::N, Core::E]];
    let what = ["short", "neon", "damaged", "damp"][whole(&mut meter, 0, 3)];
    // A neon is between line and neutral.
    let between = if what == "neon" { pairs[0] } else { pairs[whole(&mut meter, 0, 2)] };
    let (megohm, above_v) = match what {
        "short" => (2e-6, 0.0),
        "neon" => (meter.between(0.2, 0.3), 90.0),
        "damaged" => (meter.between(0.05, 0.6), 0.0),
        _ => (meter.between(1.5, 6.0), 0.0),
    };
    let point = whole(&mut meter, 0, ways[at].cable.points.len() - 1);
    ways[at].leaks.push(Leak { between: between.map(Wire::from), point, megohm, above_v, creeps: 0.0 });
    if level == Level::Hard {
        // A driver of the lights: electronics, which 500 V between line and neutral breaks.
        ways[1].delicate = Some(0);
        let other = (at + whole(&mut meter, 1, ways.len() - 1)) % ways.len();
        let megohm = meter.between(120.0, 400.0);
        ways[other].leaks.push(Leak { between: [Wire::L1, Wire::E], point: 0, megohm, above_v: 0.0, creeps: 0.97 });
    }
    let ways_named: Vec<String> =
        ways.iter().enumerate().map(|(index, way)| format!("way {} {}", index + 1, way.label)).collect();
    let mut rig = rig(ways, &mut meter);
    rig.surge_megohm = (level == Level::Hard).then_some(0.04);
    let mut stand = RigState::isolated(&rig);
    stand.lamps = RigState::in_use(&rig).lamps;
    Some(Posed::for_exercise(
        Exercise::Insulation,
        Bench::new(rig, stand, seed).proved(),
        ask_leak(&ways_named),
        Truth::Leak { way: at, between, what },
        // Ways one at a time, three pairs of the one that is low, and the ohmmeter.
        (
            patterns.len() + 3,
            "Neutral and earth of all ways are joined at the bars: with its tails out a way reads for itself alone. What the ohmmeter reads too is no neon. What creeps up while the button is held is fresh plaster. Electronics are read at 250 V, or line and neutral together to earth.",
        ),
    ))
}

/// A main bond. Hard: the instrument was nulled on other leads.
pub(super) fn bonding(level: Level, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let ways = vec![way(&PRESS_SOCKETS, &mut meter)?];
    let mut rig = rig(ways, &mut meter);
    let bad = meter.share() < 0.45;
    let ohm = match (bad, level) {
        (true, Level::Hard) => meter.between(0.12, 0.3),
        (true, _) => meter.between(0.25, 1.5),
        (false, _) => meter.between(0.01, 0.03),
    };
    // The ground beside it would hide a bad clamp.
    rig.bonds[0] = Bond { ohm, ground_ohm: meter.between(0.2, 0.8), ..rig.bonds[0].clone() };
    let stand = RigState::isolated(&rig);
    let mut bench = Bench::new(rig, stand, seed).proved();
    if level == Level::Hard {
        bench.instrument.null = Some((Leads::Short, Leads::Short.ohm()));
    }
    Some(Posed::for_exercise(
        Exercise::Bonding,
        bench,
        vec![Ask::Figure { name: "bond", label: "The bond, Ω" }, choice("verdict", "Verdict", &VERDICT)],
        Truth::Bond { ohm },
        (1, "Long lead nulled, one end off, copper to pipe beyond the clamp; the end back on."),
    ))
}
