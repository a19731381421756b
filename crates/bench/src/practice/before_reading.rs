//! Exercises of what is known before a reading: what the leads alone read, and what r2 should be.

use super::drawn::{BENCH_SOCKETS, PRESS_SOCKETS, VERDICT_OF_RATIO, choice, rig, way, whole, with_fault};
use super::posed::{Ask, Exercise, Level, Posed, Truth, Wrong};
use crate::meter::Meter;
use crate::rig::bench::Bench;
use crate::rig::instrument::Leads;
use crate::rig::stand::RigState;
use proof_physics::network::circuit::expect;
use proof_standard::calc::ring::{r2_by_size, r2_by_table};
use proof_standard::conductor::Core;
use proof_standard::quantity::SquareMillimetres;

/// The leads alone, and a reading from which they are taken off.
pub(super) fn null(level: Level, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let first = way(&PRESS_SOCKETS, &mut meter)?;
    let r1_rn = expect(&first.cable).ok()?.points.last()?.r1_rn?;
    let rig = rig(vec![first], &mut meter);
    let stand = RigState::isolated(&rig);
    let mut asks = vec![
        Ask::Figure { name: "short", label: "The short leads alone, Ω" },
        Ask::Figure { name: "plug", label: "The plug-in lead alone, Ω" },
    ];
    let settles = "Each lead with its tips together before it is nulled; nulled again after the leads were changed.";
    let mut bench = Bench::new(rig, stand, seed).proved();
    let [short_ohm, plug_ohm] = [Leads::Short, Leads::Plug].map(Leads::ohm);
    if level != Level::Hard {
        asks.push(Ask::Figure { name: "r1_rn", label: "R1+Rn at the last point, by the plug-in lead, Ω" });
        let truth = Truth::Leads { short_ohm, plug_ohm, r1_rn: Some(r1_rn), fit: None };
        return Some(Posed::for_exercise(Exercise::Null, bench, asks, truth, (3, settles)));
    }
    // What somebody nulled on other leads is taken off until it is nulled again.
    bench.instrument.null = Some((Leads::Long, Leads::Long.ohm()));
    let fit = FIT[whole(&mut meter, 1, 3)].0;
    match fit {
        "apart" => bench.instrument.gain = meter.between(1.08, 1.2),
        "tired" => bench.instrument.tired = true,
        _ => {}
    }
    asks.push(choice("fit", "Is the instrument fit to use", &FIT));
    let truth = Truth::Leads { short_ohm, plug_ohm, r1_rn: None, fit: Some(fit) };
    let mut posed = Posed::for_exercise(Exercise::Null, bench, asks, truth, (4, settles));
    "The board is locked off and proved dead. Read what two sets of leads read alone; then say by the fixed values whether the instrument is fit to use."
        .clone_into(&mut posed.goal);
    Some(posed)
}

/// What fixed values say of an instrument.
const FIT: [(&str, &str); 4] = [
    ("", "—"),
    ("fit", "yes: both fixed values are right"),
    ("apart", "no: it reads apart from both"),
    ("tired", "no: its insulation range reads low, the battery"),
];

/// What r2 of a ring should be, from r1 and the sizes; and whether it is.
pub(super) fn ratio(level: Level, seed: u64) -> Option<Posed> {
    let mut meter = Meter::new(seed);
    let mut first = way(&BENCH_SOCKETS, &mut meter)?;
    let bad = meter.share() < 0.45;
    if bad {
        let (least, most) = match level {
            Level::First => (0.8, 1.4),
            Level::Usual => (0.3, 0.9),
            Level::Hard => (0.18, 0.3),
        };
        let ohm = (meter.between(least, most) * 100.0).round() / 100.0;
        first.cable = with_fault(&first.cable, Wrong::Joint(Core::E, Some(0)), ohm);
    }
    let ends = expect(&first.cable).ok()?.end_to_end?;
    let (r1, r2) = (ends.r1?, ends.r2?);
    let [line, _, cpc] = BENCH_SOCKETS.mm2.map(SquareMillimetres::try_from);
    let (line, cpc) = (line.ok()?, cpc.ok()?);
    let expected = [r2_by_table(r1, line, cpc).ok()?, r2_by_size(r1, line, cpc)];
    let rig = rig(vec![first], &mut meter);
    let stand = RigState::isolated(&rig);
    let asks = vec![
        Ask::Figure { name: "r1", label: "r1, Ω" },
        Ask::Figure { name: "expected", label: "What r2 should be, before it is read, Ω" },
        Ask::Figure { name: "r2", label: "r2 as read, Ω" },
        choice("verdict", "What it says", &VERDICT_OF_RATIO),
    ];
    let truth = Truth::Ratio { r1, expected, r2, fits: !bad };
    let settles = "r1 times 2.5/1.5 by the sizes, or times 12.10/7.41 by the resistance table; a joint in the CPC lifts r2 alone.";
    Some(Posed::for_exercise(Exercise::Ratio, Bench::new(rig, stand, seed).proved(), asks, truth, (2, settles)))
}
