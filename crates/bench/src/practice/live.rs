//! Exercises at a board that is in use, or at its origin.

use super::drawn::{
    BENCH_SOCKETS, GLUE_HEATER, LOFT_LIGHTS, PRESS_SOCKETS, VERDICT, choice, rig, way, whole, with_fault,
};
use super::posed::{Ask, Exercise, Level, Posed, Truth, Wrong};
use crate::meter::Meter;
use crate::rig::bench::Bench;
use crate::rig::grid::Grid;
use crate::rig::stand::RigState;
use crate::rig::terminal::{Terminal, Wire};
use crate::rig::{Feed, Fitting, Residual, SUPPLY_V, Second, SubBoard, Way};
use proof_job::instrument::SeriesOrder;
use proof_standard::conductor::Core;
use proof_standard::limits::devices::{DeviceStandard, Disconnection, TripType, maximum_zs};
use proof_standard::limits::rcd::RcdKind;
use proof_standard::quantity::{Amps, approximate};
use rust_decimal::Decimal;

/// Isolate and prove. Hard: three lines with their ten pairs, or a source of the installation's own.
pub(super) fn prove_dead(level: Level, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let ways = vec![way(&BENCH_SOCKETS, &mut meter)?, way(&LOFT_LIGHTS, &mut meter)?, way(&GLUE_HEATER, &mut meter)?];
    let mut rig = rig(ways, &mut meter);
    rig.supply.reversed = level != Level::First && meter.share() < 0.4;
    let mut asks = vec![choice(
        "supply",
        "The supply",
        &[("", "—"), ("right", "line and neutral as they belong"), ("reversed", "line and neutral reversed")],
    )];
    let mut pairs = 3;
    if level == Level::Hard {
        if meter.share() < 0.5 {
            rig.supply.three_phase = true;
            rig.supply.reversed = false;
            rig.ways[1].feed = Feed::One(Wire::L2);
            rig.ways[2].feed = Feed::One(Wire::L3);
            pairs = 10;
        } else {
            "Garden studio".clone_into(&mut rig.ways[2].label);
            rig.supply.reversed = false;
        }
        if pairs == 3 {
            // Its isolator is there; what stands behind it may not be connected yet.
            let ohm = if meter.share() < 0.75 { meter.between(0.3, 0.9) } else { f64::INFINITY };
            rig.second = Some(Second { name: "roof panels".into(), way: 2, ohm });
        }
        asks.push(choice(
            "second",
            "What feeds this board",
            &[("", "—"), ("supply", "the supply alone"), ("own", "the supply and a source of its own")],
        ));
    }
    let truth = Truth::Supply {
        reversed: rig.supply.reversed,
        second: rig.second.as_ref().is_some_and(|second| second.ohm.is_finite()),
        asked: level == Level::Hard,
    };
    let stand = RigState::in_use(&rig);
    let settles = "Neutral to earth while it is live: next to nothing where the supply is right, the whole voltage where it is reversed. A bar that is live with the main switch off is fed from elsewhere: find what, and isolate it too.";
    Some(Posed::for_exercise(Exercise::ProveDead, Bench::new(rig, stand, seed), asks, truth, (pairs + 3, settles)))
}

/// Ze and fault current. Hard: three lines, or an electrode.
pub(super) fn origin(level: Level, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let ways = vec![way(&BENCH_SOCKETS, &mut meter)?, way(&LOFT_LIGHTS, &mut meter)?];
    let mut rig = rig(ways, &mut meter);
    if level == Level::Hard {
        if meter.share() < 0.5 {
            rig.supply.three_phase = true;
            rig.ways[1].feed = Feed::One(Wire::L2);
        } else {
            rig.supply.earth_ohm = f64::INFINITY;
            rig.electrode_ohm = Some(whole(&mut meter, 25, 140) as f64);
        }
    }
    let [line, neutral, earth] = [Wire::L1, Wire::N, Wire::E].map(Terminal::Incoming);
    let mut alone = RigState::in_use(&rig);
    alone.earth_off = true;
    let ze_ohm = Grid::new(&rig, &alone, 0.0).ohm(line, earth)?;
    // With everything in, the ground beside the earthing conductor is in the loop as well.
    let all_in = Grid::new(&rig, &RigState::in_use(&rig), 0.0);
    let loops = [all_in.ohm(line, neutral)?, all_in.ohm(line, earth)?];
    let neutral_ka = SUPPLY_V / loops[0] / 1000.0;
    // Of three lines: twice the line–neutral current, or √3 of it by another school.
    let fault_ka = if rig.supply.three_phase {
        vec![2.0 * neutral_ka, 3.0_f64.sqrt() * neutral_ka]
    } else {
        vec![SUPPLY_V / loops[0].min(loops[1]) / 1000.0]
    };
    let stand = RigState::isolated(&rig);
    Some(Posed::for_exercise(
        Exercise::Origin,
        Bench::new(rig, stand, seed).proved(),
        vec![
            Ask::Figure { name: "ze", label: "Ze, Ω" },
            Ask::Figure { name: "fault_ka", label: "Prospective fault current, kA" },
        ],
        Truth::Origin { ze_ohm, fault_ka },
        (
            3,
            "Ze with the earth disconnected; then line to neutral and line to earth with it on: the lower loop gives the higher current. Of three lines the line–neutral current counts twice, on the safe side.",
        ),
    ))
}

/// The studio's own board on a feeder with a delayed device: its first way takes the place of a way of the main board.
fn on_a_sub_board(mut first: Way, meter: &mut Meter) -> Option<(Vec<Way>, SubBoard)> {
    let mut feeder = way(&GLUE_HEATER, meter)?;
    "Studio board".clone_into(&mut feeder.label);
    feeder.fittings = vec![Fitting::Board];
    feeder.residual = Some(Residual { rated_ma: 100.0, kind: RcdKind::Selective, trips_ms: [210.0, 240.0] });
    first.board = 1;
    Some((vec![feeder, first], SubBoard { name: "Studio board".into(), fed_by: 0 }))
}

/// Zs at the far end. Hard: on a sub-board.
pub(super) fn zs(level: Level, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let mut first = way(&PRESS_SOCKETS, &mut meter)?;
    if meter.share() < 0.45 {
        let ohm = (meter.between(1.6, 3.0) * 100.0).round() / 100.0;
        first.cable = with_fault(&first.cable, Wrong::Joint(Core::E, None), ohm);
    }
    first.residual = Some(Residual::general(30.0, meter.between(18.0, 190.0)));
    let last = first.cable.points.len() - 1;
    let (ways, board) = if level == Level::Hard {
        let (ways, board) = on_a_sub_board(first, &mut meter)?;
        (ways, Some(board))
    } else {
        (vec![first, way(&LOFT_LIGHTS, &mut meter)?], None)
    };
    let at = usize::from(board.is_some());
    let mut rig = rig(ways, &mut meter);
    rig.boards.extend(board);
    rig.supply.earth_ohm += 0.05;
    let [line, earth] = [Wire::L1, Wire::E].map(|core| Terminal::Point { way: at, point: last, core });
    let mut stand = RigState::in_use(&rig);
    stand.lamps.clear();
    let ohm = Grid::new(&rig, &stand, 0.0).ohm(line, earth)?;
    let rating = Amps(Decimal::from(20));
    let maximum = maximum_zs(DeviceStandard::BsEn60898, Some(TripType::B), rating, Disconnection::S0_4).ok()?;
    let limit_ohm = approximate(maximum.eighty_percent_ohm);
    // One that a hundredth decides is no exercise.
    if (ohm - limit_ohm).abs() < 0.12 {
        return zs(level, seed.wrapping_add(1 << 40));
    }
    let settles = format!(
        "One loop test that trips nothing, at the last point; 0.8 × {} = {} Ω.",
        maximum.printed_ohm, maximum.eighty_percent_ohm
    );
    let mut posed = Posed::for_exercise(
        Exercise::Zs,
        Bench::new(rig, stand, seed),
        vec![Ask::Figure { name: "zs", label: "Zs, Ω" }, choice("verdict", "Verdict", &VERDICT)],
        Truth::Zs { ohm, limit_ohm },
        (1, settles),
    );
    if level == Level::Hard {
        "The board is in use. Read Zs at the last point of way 2, on the studio's own board, without tripping anything, and judge it by 80 % of the printed maximum."
            .clone_into(&mut posed.goal);
    }
    Some(posed)
}

/// A residual device. Hard: its two half-cycles, the slower of them; with a delay or without; a series in the
/// instrument's own order.
pub(super) fn residual(level: Level, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let mut ways = vec![way(&PRESS_SOCKETS, &mut meter)?, way(&LOFT_LIGHTS, &mut meter)?];
    let slow = meter.share() < 0.35;
    let trips_ms = if slow { meter.between(340.0, 480.0) } else { meter.between(18.0, 190.0) };
    let mut device = Residual::general(30.0, trips_ms);
    let mut order = SeriesOrder::Pairs;
    if level == Level::Hard {
        if meter.share() < 0.5 {
            // Delayed: too fast is as wrong as too slow.
            device.kind = RcdKind::Selective;
            device.rated_ma = 100.0;
            device.trips_ms[0] = if slow { meter.between(40.0, 100.0) } else { meter.between(170.0, 380.0) };
        }
        device.trips_ms[1] = device.trips_ms[0] * meter.between(1.12, 1.2);
        if meter.share() < 0.5 {
            device.trips_ms.swap(0, 1);
        }
        order = SeriesOrder::ALL[whole(&mut meter, 0, SeriesOrder::ALL.len() - 1)];
    }
    ways[0].residual = Some(device);
    let rig = rig(ways, &mut meter);
    let stand = RigState::in_use(&rig);
    let mut bench = Bench::new(rig, stand, seed);
    bench.instrument.order = order;
    let label = if level == Level::Hard { "The slower trip time at IΔn, ms" } else { "Trip time at IΔn, ms" };
    let mut posed = Posed::for_exercise(
        Exercise::Residual,
        bench,
        vec![Ask::Figure { name: "trip", label }, choice("verdict", "Verdict", &VERDICT)],
        Truth::Trip { ms: device.trips_ms[0].max(device.trips_ms[1]), kind: device.kind },
        (
            if level == Level::Hard { 2 } else { 1 },
            "One test at the rated current, line to earth at a point of the way; on both half-cycles where the slower is recorded. A delayed device has a least time too.",
        ),
    );
    if level == Level::Hard {
        let kind = if device.kind == RcdKind::Selective { "is delayed (S), 100 mA" } else { "has no delay, 30 mA" };
        posed.goal = format!("{} It {kind}; the slower of its two half-cycles is recorded.", posed.goal);
    }
    Some(posed)
}

/// What three voltages at a point may mean.
const STATES: [(&str, &str); 6] = [
    ("", "—"),
    ("healthy", "healthy"),
    ("reversed", "line and neutral reversed"),
    ("metal-live", "line and earth reversed: metal is live"),
    ("neutral-lost", "neutral lost"),
    ("earth-lost", "earth lost"),
];

/// Voltages at a point in use. Hard: on three lines, and the point alone or everything beyond a joint.
pub(super) fn voltages(level: Level, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let mut first = way(&LOFT_LIGHTS, &mut meter)?;
    let least = if level == Level::Hard { 2 } else { 1 };
    let state = STATES[whole(&mut meter, least, STATES.len() - 1)].0;
    let points = first.cable.points.len();
    // Nearest the board, so that every point shows it; or from a joint on.
    let after = if level == Level::Hard { whole(&mut meter, 0, points - 1).checked_sub(1) } else { None };
    let wrong = match state {
        "metal-live" => Wrong::Cross(Core::L, Core::E, after),
        "neutral-lost" => Wrong::Open(Core::N, after),
        "earth-lost" => Wrong::Open(Core::E, after),
        _ => Wrong::Sound,
    };
    first.cable = with_fault(&first.cable, wrong, 0.0);
    let mut rig = rig(vec![first, way(&PRESS_SOCKETS, &mut meter)?], &mut meter);
    rig.supply.reversed = state == "reversed";
    rig.supply.three_phase = level == Level::Hard && state != "reversed";
    let mut stand = RigState::in_use(&rig);
    // With a load on, or without: what is lost then floats.
    if meter.share() < 0.5 {
        stand.lamps.clear();
    }
    let truth = Truth::Voltages { state };
    let settles = "Line to neutral, line to earth, neutral to earth. With its neutral lost a lamp brings the line to the neutral terminal; without a load it floats.";
    let mut posed = Posed::for_exercise(
        Exercise::Voltages,
        Bench::new(rig, stand, seed),
        vec![choice("state", "What they mean", &STATES)],
        truth,
        (3, settles),
    );
    if level == Level::Hard {
        "The board is in use. Read the three voltages at the last point of way 1, and say what they mean. No hands on anything."
            .clone_into(&mut posed.goal);
    }
    Some(posed)
}
