//! What the schedules show, derived from the readings: the highest settled R1+R2 and where, the
//! lowest insulation, the slower trip.

use crate::conductor::{Conductor, Pair};
use crate::installation::{Circuit, Installation, Shape};
use crate::plan::polarity::{Polarity, polarity};
use crate::plan::standing::{bound, recorded_zs};
use crate::reading::{Key, Place, Reading, Settled, Subject, Test, Value, highest, highest_r1_r2};
use crate::standard::rcd::{HalfCycle, Multiple};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};

/// One row of the schedule of test results, as printed. Empty: not taken.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields, default)]
pub struct ResultRow {
    /// Way of the board.
    pub way: String,
    /// r1, Ω.
    pub r1: String,
    /// rn, Ω.
    pub rn: String,
    /// r2, Ω.
    pub r2: String,
    /// Highest R1+R2, Ω.
    pub r1_r2: String,
    /// Lowest insulation between live conductors, MΩ.
    pub live_live: String,
    /// Lowest insulation between live conductors and earth, MΩ.
    pub live_earth: String,
    /// Insulation test voltage, V.
    pub test_v: String,
    /// Polarity.
    pub polarity: String,
    /// How the tick was earned; not printed in a box of its own.
    pub polarity_by: String,
    /// Highest Zs, Ω.
    pub zs: String,
    /// Slower time at IΔn, ms.
    pub rcd_one: String,
    /// Slower time at 5 IΔn, ms.
    pub rcd_five: String,
    /// RCD test button.
    pub rcd_button: String,
    /// Remarks.
    pub remarks: String,
}

/// Shows the value that stands for a key.
fn shown(settled: &Settled<'_>, key: &Key) -> String {
    settled.value(key).map(Value::shown).unwrap_or_default()
}

/// Least of the insulation values that pass `filter`; a number outranks over range.
/// Without any of its own: what a reading of the whole board says it is at least, as `≥88`; joined
/// live conductors to earth where something stays.
fn lowest_insulation(
    installation: &Installation,
    settled: &Settled<'_>,
    circuit: &Circuit,
    filter: impl Fn(Pair) -> bool,
) -> String {
    let keys = crate::calc::insulation::pairs(crate::installation::conductors(circuit));
    let mut bounds: Vec<Option<Decimal>> = Vec::new();
    let mut least: Option<(Decimal, bool, String)> = None;
    for (a, b) in keys {
        let Ok(pair) = Pair::new(a, b) else { continue };
        if !filter(pair) {
            continue;
        }
        let key = Key::on_circuit(circuit.id, Place::Board, Test::Insulation).between(pair);
        bounds.push(bound(installation, circuit, settled, Some(pair)));
        let candidate = match settled.value(&key) {
            Some(Value::Number(megohms)) => (*megohms, false),
            Some(Value::Over(bound)) => (*bound, true),
            Some(value) => {
                if least.is_none() {
                    least = Some((Decimal::MAX, true, value.shown()));
                }
                continue;
            }
            None => continue,
        };
        if least.as_ref().is_none_or(|(megohms, over, _)| candidate < (*megohms, *over)) {
            least = Some((candidate.0, candidate.1, settled.value(&key).map(Value::shown).unwrap_or_default()));
        }
    }
    if let Some((_, _, text)) = least {
        return text;
    }
    let earth =
        filter(Pair::LINE_EARTH) || crate::installation::conductors(circuit).len() > 3 && !filter(Pair::LINE_NEUTRAL);
    let joined = settled.value(&Key::on_circuit(circuit.id, Place::Board, Test::InsulationJoined));
    match (joined, earth) {
        (Some(value), true) => return value.shown(),
        (Some(_), false) => return "—".to_owned(),
        (None, _) => {}
    }
    bounds
        .into_iter()
        .collect::<Option<Vec<_>>>()
        .and_then(|all| all.into_iter().min())
        .map_or_else(String::new, |least| format!("≥{}", least.normalize()))
}

/// The box of R1+R2, or of R2 by long lead: the highest; without a number, a limitation or an open
/// circuit still belongs in it.
fn continuity_box(circuit: &Circuit, settled: &Settled<'_>) -> String {
    if let Some(reading) = highest(circuit, settled, Test::R1R2) {
        return reading.value.shown();
    }
    if let Some(reading) = highest(circuit, settled, Test::R2) {
        return format!("R2 {}", reading.value.shown());
    }
    settled
        .standing_of(circuit.id)
        .find(|reading| {
            matches!(reading.key.test, Test::R1R2 | Test::R2)
                && reading.key.subject.place().is_some_and(|place| !place.expects_open())
        })
        .map(|reading| reading.value.shown())
        .unwrap_or_default()
}

/// Slower of the two half-cycles at a multiple.
fn slower(settled: &Settled<'_>, circuit: &Circuit, multiple: Multiple) -> String {
    let values = [HalfCycle::Deg0, HalfCycle::Deg180].into_iter().filter_map(|half_cycle| {
        settled.value(&Key::on_circuit(circuit.id, Place::Board, Test::RcdTrip { multiple, half_cycle }))
    });
    let mut slowest: Option<&Value> = None;
    for value in values {
        slowest = match (slowest, value) {
            (None, value) => Some(value),
            (Some(Value::Number(a)), Value::Number(b)) if b > a => Some(value),
            (Some(Value::Number(_)), Value::NoTrip | Value::Over(_)) => Some(value),
            (kept, _) => kept,
        };
    }
    slowest.map(Value::shown).unwrap_or_default()
}

/// The row of one circuit.
pub fn result_row(installation: &Installation, circuit: &Circuit, settled: &Settled<'_>) -> ResultRow {
    let end = |conductor| {
        if circuit.shape == Shape::Ring {
            shown(settled, &Key::on_circuit(circuit.id, Place::Board, Test::RingEndToEnd { conductor }))
        } else {
            "—".to_owned()
        }
    };
    let r1_r2 = continuity_box(circuit, settled);
    let polarity = polarity(installation, circuit, settled);
    let of_whole = |reading: &&Reading| matches!(&reading.key.subject, Subject::CircuitSet { circuits } if circuits.contains(&circuit.id));
    let taken = settled
        .standing_of(circuit.id)
        .chain(settled.of_sets().filter(of_whole))
        .find_map(|reading| reading.context.test_voltage_v);
    let has_rcd = installation.rcd_of(circuit).is_some();
    let if_rcd = |text: String| if has_rcd { text } else { "—".to_owned() };
    ResultRow {
        way: circuit.way.clone(),
        r1: end(Conductor::L),
        rn: end(Conductor::N),
        r2: end(Conductor::E),
        r1_r2,
        live_live: lowest_insulation(installation, settled, circuit, |pair| pair.both().1 != Conductor::E),
        live_earth: lowest_insulation(installation, settled, circuit, |pair| {
            pair.both().1 == Conductor::E && pair.both().0 != Conductor::N
        }),
        test_v: taken.map(|volts| volts.get().to_string()).unwrap_or_default(),
        polarity: polarity.boxed(),
        polarity_by: if matches!(polarity, Polarity::Earned(_)) { polarity.said().to_owned() } else { String::new() },
        zs: recorded_zs(installation, circuit, settled).map(|value| value.shown()).unwrap_or_default(),
        rcd_one: if_rcd(slower(settled, circuit, Multiple::One)),
        rcd_five: if_rcd(slower(settled, circuit, Multiple::Five)),
        rcd_button: if_rcd(match settled.value(&Key::on_circuit(circuit.id, Place::Board, Test::RcdButton)) {
            Some(Value::Pass) => "✓".to_owned(),
            Some(value) => value.shown(),
            None => String::new(),
        }),
        remarks: remarks(circuit, settled),
    }
}

/// Remarks of a circuit: its own, then the reasons of limitations.
fn remarks(circuit: &Circuit, settled: &Settled<'_>) -> String {
    let mut parts: Vec<String> = Vec::new();
    if !circuit.remarks.trim().is_empty() {
        parts.push(circuit.remarks.trim().to_owned());
    }
    let spurs: Vec<&str> = circuit.points.iter().filter(|p| p.spur_from.is_some()).map(|p| p.name.as_str()).collect();
    if !spurs.is_empty() {
        parts.push(format!("spur: {}", spurs.join(", ")));
    }
    if let Some((_, point)) = highest_r1_r2(circuit, settled).filter(|_| circuit.shape == Shape::Ring) {
        let name = circuit.point(point).map_or("", |point| point.name.as_str());
        parts.push(format!("R1+R2 at {name}"));
    }
    let mut reasons: Vec<String> = settled
        .standing_of(circuit.id)
        .filter_map(|reading| match &reading.value {
            Value::Limitation(reason) => Some(format!("LIM: {reason}")),
            _ => None,
        })
        .collect();
    reasons.sort();
    reasons.dedup();
    parts.extend(reasons);
    parts.join("; ")
}
