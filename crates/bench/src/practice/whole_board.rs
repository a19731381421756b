//! A whole new board: dead tests, what is good energised, live tests; what is not good stays off.

use super::drawn::{BENCH_SOCKETS, GLUE_HEATER, LOFT_LIGHTS, choice, rig, way, whole, with_fault};
use super::posed::{Ask, Exercise, Level, Posed, Truth, Wrong};
use crate::meter::Meter;
use crate::rig::bench::Bench;
use crate::rig::grid::Grid;
use crate::rig::stand::RigState;
use crate::rig::terminal::{Terminal, Wire};
use crate::rig::{Feed, Fitting, Leak, Residual, Way};
use proof_physics::network::circuit::expect;
use proof_standard::conductor::Core;

/// What may be wrong, with its words.
const WRONG: [(&str, &str); 5] = [
    ("sound", "nothing"),
    ("joint", "a poor joint in a CPC"),
    ("leak", "insulation under its minimum"),
    ("reversed", "line and neutral reversed at a point"),
    ("slow", "a residual device that is too slow"),
];

/// Puts what is wrong into the ways: which it is, from zero, and what the residual device takes, ms.
fn spoil(ways: &mut [Way], what: &str, level: Level, meter: &mut Meter) -> (usize, f64) {
    let mut trips_ms = meter.between(18.0, 150.0);
    let mut bad = whole(meter, 0, 2);
    let points = ways[bad].cable.points.len();
    let at = whole(meter, 0, points - 1);
    match what {
        "joint" => {
            bad = 1 + bad % 2;
            let ohm = if level == Level::Hard { meter.between(0.4, 0.7) } else { meter.between(1.2, 2.5) };
            ways[bad].cable = with_fault(&ways[bad].cable, Wrong::Joint(Core::E, None), (ohm * 100.0).round() / 100.0);
        }
        "leak" => {
            let pair = [[Wire::L1, Wire::E], [Wire::N, Wire::E], [Wire::L1, Wire::N]][whole(meter, 0, 2)];
            let megohm = meter.between(0.05, 0.7);
            ways[bad].leaks.push(Leak { between: pair, point: at, megohm, above_v: 0.0, creeps: 0.0 });
        }
        "reversed" => ways[bad].cable = with_fault(&ways[bad].cable, Wrong::Swap(Core::L, Core::N, at), 0.0),
        "slow" => {
            bad = 0;
            trips_ms = meter.between(340.0, 480.0);
        }
        _ => {}
    }
    (bad, trips_ms)
}

/// Three ways, one of them perhaps not good; hard: a motor on three lines beside them.
pub(super) fn posed(level: Level, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let mut ways =
        vec![way(&BENCH_SOCKETS, &mut meter)?, way(&LOFT_LIGHTS, &mut meter)?, way(&GLUE_HEATER, &mut meter)?];
    let least = usize::from(level == Level::Hard);
    let what = WRONG[whole(&mut meter, least, WRONG.len() - 1)].0;
    let (bad, trips_ms) = spoil(&mut ways, what, level, &mut meter);
    ways[0].residual = Some(Residual::general(30.0, trips_ms));
    let highest = |at: usize| -> Option<f64> {
        let truth = expect(&ways[at].cable).ok()?;
        truth
            .points
            .iter()
            .filter_map(|point| point.r1_r2)
            .fold(None, |most: Option<f64>, ohm| Some(most.map_or(ohm, |most| most.max(ohm))))
    };
    let r1_r2 = [highest(0), highest(1), highest(2)];
    if level == Level::Hard {
        // A motor behind its isolator: its windings are what is read between its lines.
        let mut motor = way(&GLUE_HEATER, &mut meter)?;
        "Guillotine motor".clone_into(&mut motor.label);
        motor.feed = Feed::Three;
        motor.fittings = vec![Fitting::Motor];
        ways.push(motor);
    }
    let mut rig = rig(ways, &mut meter);
    rig.supply.three_phase = level == Level::Hard;
    let mut in_use = RigState::in_use(&rig);
    in_use.lamps.clear();
    let live = Grid::new(&rig, &in_use, 0.0);
    // The far end of the lights.
    let point = rig.ways[1].cable.points.len() - 1;
    let [line, earth] = [Wire::L1, Wire::E].map(|core| Terminal::Point { way: 1, point, core });
    let bad = (what != "sound").then_some(bad);
    let zs_ohm = (bad != Some(1)).then(|| live.ohm(line, earth)).flatten();
    let trip_ms = (bad != Some(0) || what == "slow").then_some(trips_ms);
    let mut asks: Vec<Ask> =
        [("r1_r2_1", "R1+R2 of way 1, Ω"), ("r1_r2_2", "R1+R2 of way 2, Ω"), ("r1_r2_3", "R1+R2 of way 3, Ω")]
            .map(|(name, label)| Ask::Figure { name, label })
            .into();
    asks.push(Ask::Figure { name: "zs_2", label: "Zs at the last point of way 2, where it is energised, Ω" });
    asks.push(Ask::Figure { name: "trip_1", label: "Trip time of way 1 at IΔn, where it is energised, ms" });
    asks.push(choice("what", "What is wrong", &[("", "—"), WRONG[0], WRONG[1], WRONG[2], WRONG[3], WRONG[4]]));
    let of =
        rig.ways.iter().enumerate().map(|(at, way)| ((at + 1).to_string(), format!("way {} {}", at + 1, way.label)));
    let of = [(String::new(), "—".to_owned()), ("none".to_owned(), "none".to_owned())].into_iter().chain(of).collect();
    asks.push(Ask::Choice { name: "way", label: "Which way", of });
    let stand = RigState::isolated(&rig);
    let points: usize = rig.ways.iter().map(|way| way.cable.points.len()).sum();
    let mut bench = Bench::new(rig, stand, seed).proved();
    // What the dead tests tell of is not energised.
    bench.condemned = bad.filter(|_| what != "slow");
    bench.is_new = true;
    let truth = Truth::Board { r1_r2, zs_ohm, trip_ms, what, bad };
    // Every point with either link, the ends of the ring, three pairs a way, one loop, one trip.
    let fewest = 2 * points + 3 + 9 + 2;
    let settles = "Dead tests first, all of them; then the lock, the main switch, the sound ways one by one. What is not good stays off, whatever else waits for it.";
    Some(Posed::for_exercise(Exercise::WholeBoard, bench, asks, truth, (fewest, settles)))
}
