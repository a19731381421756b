//! What counts for a reading that was not taken itself: other readings bound it or give it.

use crate::plan::at_switch::read_at_its_switch;
use crate::plan::polarity::polarity;
use proof_job::installation::{Board, Circuit, Installation, Lines, conductors_of};
use proof_job::reading::keys::{current_key, electrode_key, lines_of, own_loop_key, ze_key};
use proof_job::reading::{CurrentReadings, Key, Place, Stage, Step, Subject, Test, Value};
use proof_judge::supply_chain::{external_loop, r1_r2_for_loop};
use proof_standard::calc::insulation::pairs;
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::house_rules::ZsMethod;
use proof_standard::limits::insulation::least;
use proof_standard::quantity::exact;
use rust_decimal::Decimal;

/// What readings are asked of.
#[derive(Debug, Clone, Copy)]
pub enum Scope<'a> {
    /// The supply, its earthing and its bonds.
    Origin,
    /// A board as a whole.
    Board(&'a Board),
    /// A circuit.
    Circuit(&'a Circuit),
}

/// Whether a pair read on a board bears on a pair of a circuit. A single-phase circuit of a
/// three-phase board hangs on one of its lines, and nothing says on which.
fn bears(read: Option<Pair>, wanted: Option<Pair>) -> bool {
    let line = |conductor| !matches!(conductor, Conductor::N | Conductor::E);
    match (read, wanted) {
        (None, None) => true,
        // Joined to earth is below each to earth; it says nothing between live conductors.
        (None, Some(wanted)) => wanted.is_to_earth(),
        (Some(_), None) => false,
        (Some(read), Some(wanted)) if read == wanted => true,
        (Some(read), Some(wanted)) => {
            let ((a, b), (c, d)) = (read.both(), wanted.both());
            c == Conductor::L && b == d && line(a)
        }
    }
}

/// What readings of sets say of a circuit's pair: it is at least this. `None` when no set that
/// stands holds it, or not every line that it may hang on was read.
pub fn bound(
    installation: &Installation,
    circuit: &Circuit,
    settled: &CurrentReadings<'_>,
    wanted: Option<Pair>,
) -> Option<Decimal> {
    let lines = installation.board(circuit.board)?.lines;
    let needed: Vec<Option<Pair>> = pairs(conductors_of(lines))
        .into_iter()
        .filter_map(|(a, b)| Pair::new(a, b).ok().map(Some))
        .filter(|pair| bears(*pair, wanted))
        .collect();
    let mut best: Vec<Option<Decimal>> = vec![None; needed.len()];
    let mut joined: Option<Decimal> = None;
    for reading in settled.for_sets() {
        let Subject::CircuitSet { circuits } = &reading.key.subject else { continue };
        if !circuits.contains(&circuit.id) {
            continue;
        }
        let (Value::Number(megohms) | Value::Over(megohms)) = &reading.value else { continue };
        match reading.key.pair {
            None if bears(None, wanted) => joined = joined.max(Some(*megohms)),
            pair => {
                for (index, needed) in needed.iter().enumerate() {
                    if *needed == pair {
                        best[index] = best[index].max(Some(*megohms));
                    }
                }
            }
        }
    }
    let apart: Option<Vec<Decimal>> = best.into_iter().collect();
    apart.and_then(|all| all.into_iter().min()).max(joined)
}

/// What counts for a step that has no reading of its own, as its box shows it: polarity that follows from other
/// readings, insulation that a reading of the whole board bounds, a current given by its own loop.
pub fn substitute(
    installation: &Installation,
    scope: Scope<'_>,
    settled: &CurrentReadings<'_>,
    step: &Step,
) -> Option<String> {
    match scope {
        Scope::Circuit(circuit) => match step.key.test {
            Test::Polarity => Some(polarity(installation, circuit, settled).boxed()).filter(|text| !text.is_empty()),
            _ => bounded(installation, circuit, settled, step),
        },
        Scope::Origin | Scope::Board(_) => given_beside(settled, step).map(str::to_owned),
    }
}

/// What gives a reading of the origin or of a board that was not taken: a current its own loop, Ze of a TT supply its
/// electrode.
fn given_beside(settled: &CurrentReadings<'_>, step: &Step) -> Option<&'static str> {
    let by = |key: &Key| settled.value(key).is_some_and(|value| value.number().is_some());
    let (given, how) = match (step.key.test, step.key.pair, &step.key.subject) {
        (Test::FaultCurrent, Some(pair), Subject::Supply) => (by(&own_loop_key(pair, step.key.line)), "by its loop"),
        (Test::Zs, Some(pair), Subject::Supply) => (by(&current_key(pair, step.key.line)), "by its current"),
        (Test::Ze, ..) => (by(&electrode_key(None)), "by Ra"),
        (Test::Electrode, _, Subject::Supply) => {
            let lines = lines_of(Lines::Three).iter().chain(lines_of(Lines::Single));
            (lines.into_iter().any(|line| by(&ze_key(*line))), "by Ze")
        }
        _ => (false, ""),
    };
    given.then_some(how)
}

fn bounded(
    installation: &Installation,
    circuit: &Circuit,
    settled: &CurrentReadings<'_>,
    step: &Step,
) -> Option<String> {
    match step.key.test {
        // The whole board was read with the switches as they stood: the other position is read on its own.
        Test::Insulation | Test::InsulationJoined if is_turned_over(step) => None,
        Test::Insulation | Test::InsulationJoined => bound(installation, circuit, settled, step.key.pair)
            .filter(|bound| *bound >= least())
            .map(|bound| format!("≥{}", bound.normalize())),
        Test::R1R2 if read_at_its_switch(circuit, settled, step) => Some("at the switch".to_owned()),
        // From paper: the highest of all points, written once.
        Test::R1R2 | Test::R2 if !step.expects_open() => {
            let whole = Key::on_circuit(circuit.id, Place::Board, step.key.test).on_line(step.key.line);
            settled.value(&whole)?.number().map(|ohm| format!("≤{ohm}"))
        }
        Test::R1R2 => {
            let whole = Key::on_circuit(circuit.id, Place::Board, Test::R1R2).on_line(step.key.line);
            settled.value(&whole)?.number().map(|_| "paper".to_owned())
        }
        _ => None,
    }
}

/// Whether a step reads insulation with a two-way switch turned over.
pub fn is_turned_over(step: &Step) -> bool {
    step.stage == Stage::Insulation && matches!(step.key.subject.place(), Some(Place::Switch { .. }))
}

/// Zs of a circuit for the schedule: highest measured, or summed by house rule.
pub fn recorded_zs(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Option<Value> {
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
