//! What the schedules show, derived from the readings: the highest settled R1+R2 and where, the
//! lowest insulation, the slower trip.

use crate::chain::external_loop;
use crate::conductor::{Conductor, Pair};
use crate::expectation::{highest, highest_r1_r2, r1_r2_for_loop};
use crate::installation::{Circuit, CircuitShape, Installation, ZsMethod};
use crate::insulation::board::{bound, least};
use crate::polarity::{Polarity, polarity};
use crate::quantity::exact;
use crate::reading::{Key, Place, Reading, Settled, Subject, Test, Value};
use crate::sequence::{Stage, Step};
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

/// Whether a step belongs to what a complete circuit wants. Polarity always does, also where it
/// falls out of other readings.
pub const fn is_wanted(step: &Step) -> bool {
    step.required || matches!(step.stage, Stage::Polarity)
}

/// How many of the steps that a circuit wants are done, and how many there are.
pub fn done_of(
    installation: &Installation,
    circuit: &Circuit,
    settled: &Settled<'_>,
    steps: &[Step],
) -> (usize, usize) {
    let wanted = steps.iter().filter(|step| is_wanted(step));
    let done = wanted.clone().filter(|step| is_done(installation, circuit, settled, step)).count();
    (done, wanted.count())
}

/// What stands for a step that has no reading of its own: polarity that fell out of other
/// readings, insulation that a reading of the whole board bounds.
pub fn stands_in(installation: &Installation, circuit: &Circuit, settled: &Settled<'_>, step: &Step) -> Option<String> {
    match step.key.test {
        Test::Polarity => boxed(&polarity(installation, circuit, settled)),
        _ => bounded(installation, circuit, settled, step),
    }
}

/// The same, where the polarity of the circuit is known.
pub fn stands_in_of(
    installation: &Installation,
    circuit: &Circuit,
    settled: &Settled<'_>,
    step: &Step,
    polarity: &Polarity,
) -> Option<String> {
    match step.key.test {
        Test::Polarity => boxed(polarity),
        _ => bounded(installation, circuit, settled, step),
    }
}

fn boxed(polarity: &Polarity) -> Option<String> {
    Some(polarity.boxed()).filter(|text| !text.is_empty())
}

fn bounded(installation: &Installation, circuit: &Circuit, settled: &Settled<'_>, step: &Step) -> Option<String> {
    match step.key.test {
        Test::Insulation | Test::InsulationJoined => bound(installation, circuit, settled, step.key.pair)
            .filter(|bound| *bound >= least())
            .map(|bound| format!("≥{}", bound.normalize())),
        // From paper: the highest of all points, written once.
        Test::R1R2 if !step.expects_open() => {
            let whole = Key::on_circuit(circuit.id, Place::Board, Test::R1R2).on_line(step.key.line);
            settled.value(&whole)?.number().map(|ohm| format!("≤{ohm}"))
        }
        Test::R1R2 => {
            let whole = Key::on_circuit(circuit.id, Place::Board, Test::R1R2).on_line(step.key.line);
            settled.value(&whole)?.number().map(|_| "paper".to_owned())
        }
        _ => None,
    }
}

/// Whether a step wants nothing more: read, or earned or covered by other readings.
pub fn is_done(installation: &Installation, circuit: &Circuit, settled: &Settled<'_>, step: &Step) -> bool {
    settled.of(&step.key).is_some() || stands_in(installation, circuit, settled, step).is_some()
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
    let keys = crate::calc::insulation::pairs(crate::sequence::conductors(circuit));
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
        filter(Pair::LINE_EARTH) || crate::sequence::conductors(circuit).len() > 3 && !filter(Pair::LINE_NEUTRAL);
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

/// Zs of a circuit for the schedule: highest measured, or summed by house rule.
pub fn recorded_zs(installation: &Installation, circuit: &Circuit, settled: &Settled<'_>) -> Option<Value> {
    if installation.house_rules.zs_method == ZsMethod::Summed {
        let ze = external_loop(installation, settled, circuit.board).and_then(exact)?;
        let r1_r2 = r1_r2_for_loop(installation, circuit, settled)?;
        let r1_r2 = (r1_r2 * 1000.0).round() / 1000.0;
        return Some(Value::Number(ze + exact(r1_r2)?));
    }
    let mut highest: Option<&Value> = None;
    let far = circuit.line_conductors().iter();
    let far = far.map(|&line| Key::on_circuit(circuit.id, Place::Board, Test::Zs).on_line(line));
    let points = circuit.points.iter();
    let points = points.map(|point| Key::on_circuit(circuit.id, Place::Point { point: point.id }, Test::Zs));
    for key in far.chain(points) {
        highest = match (highest, settled.value(&key)) {
            (Some(Value::Number(a)), Some(value @ Value::Number(b))) if b > a => Some(value),
            (Some(Value::Limitation(_)), Some(value @ Value::Number(_))) | (None, Some(value)) => Some(value),
            (kept, _) => kept,
        };
    }
    highest.cloned()
}

/// The row of one circuit.
pub fn result_row(installation: &Installation, circuit: &Circuit, settled: &Settled<'_>) -> ResultRow {
    let end = |conductor| {
        if circuit.shape == CircuitShape::Ring {
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
    if let Some((_, point)) = highest_r1_r2(circuit, settled).filter(|_| circuit.shape == CircuitShape::Ring) {
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
