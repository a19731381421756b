//! What stands for a step, and whether a circuit wants more.

use crate::calc::insulation::pairs;
use crate::conductor::{Conductor, Pair};
use crate::house_rules::ZsMethod;
use crate::installation::{Circuit, Installation, conductors_of};
use crate::plan::at_switch::read_at_its_switch;
use crate::plan::polarity::{Polarity, polarity};
use crate::plan::sequence::steps_kept;
use crate::quantity::exact;
use crate::reading::{Key, Place, Settled, Stage, Step, Subject, Test, Value, WorkedOut};
use crate::standard::insulation::least;
use crate::supply_chain::{external_loop, r1_r2_for_loop};
use rust_decimal::Decimal;
use std::sync::Arc;

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
    settled: &Settled<'_>,
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
    for reading in settled.of_sets() {
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

/// Whether a step belongs to what a complete circuit wants. Polarity always does, also where it
/// falls out of other readings.
pub const fn is_wanted(step: &Step) -> bool {
    step.required || matches!(step.stage, Stage::Polarity)
}

/// How far a circuit is: of the steps that it wants, those done and how many there are.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Stand {
    /// Dead tests, done and in all.
    pub dead: (usize, usize),
    /// Live tests, done and in all.
    pub live: (usize, usize),
    /// The first dead test that is left, by its name in addresses.
    pub next_dead: Option<String>,
    /// The first live test that is left.
    pub next_live: Option<String>,
}

impl WorkedOut for Stand {
    const DESCRIBED: bool = false;
}

impl Stand {
    /// Dead and live together: done, and in all.
    pub const fn whole(&self) -> (usize, usize) {
        (self.dead.0 + self.live.0, self.dead.1 + self.live.1)
    }

    /// Whether a reading is left.
    pub const fn wants_more(&self) -> bool {
        self.next_dead.is_some() || self.next_live.is_some()
    }
}

/// How far a circuit is, worked out once where the job is kept.
pub fn stand(installation: &Installation, circuit: &Circuit, settled: &Settled<'_>) -> Arc<Stand> {
    settled.once(installation, circuit, || {
        let mut stand = Stand::default();
        let steps = steps_kept(installation, circuit, settled);
        for step in steps.iter().filter(|step| is_wanted(step)) {
            let dead = step.stage < Stage::Zs;
            let (count, next) =
                if dead { (&mut stand.dead, &mut stand.next_dead) } else { (&mut stand.live, &mut stand.next_live) };
            count.1 += 1;
            if is_done(installation, circuit, settled, step) {
                count.0 += 1;
            } else {
                next.get_or_insert_with(|| step.slug.clone());
            }
        }
        stand
    })
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

pub(crate) fn boxed(polarity: &Polarity) -> Option<String> {
    Some(polarity.boxed()).filter(|text| !text.is_empty())
}

fn bounded(installation: &Installation, circuit: &Circuit, settled: &Settled<'_>, step: &Step) -> Option<String> {
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

/// Whether a step wants nothing more: read, or earned or covered by other readings.
pub fn is_done(installation: &Installation, circuit: &Circuit, settled: &Settled<'_>, step: &Step) -> bool {
    settled.of(&step.key).is_some() || stands_in(installation, circuit, settled, step).is_some()
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
