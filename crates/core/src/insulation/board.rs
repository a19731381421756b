//! The whole board read at once.
//!
//! Readings in parallel add as 1/Σ(1/R): the whole is never above its lowest circuit, so a sound
//! whole is a bound under every circuit's own.

use crate::calc::insulation::{Insulation, combine, pairs};
use crate::conductor::{Conductor, Pair};
use crate::entry::Field;
use crate::expectation::Band;
use crate::house_rules::NeutralEarth;
use crate::installation::{Board, Circuit, Installation, Wiring};
use crate::quantity::{approximate, exact};
use crate::reading::{Key, Method, Settled, Subject, Test, Value};
use crate::sequence::{GoesTo, Stage, Step, conductors_of};
use crate::standard::Source;
use crate::standard::insulation::{LOOK_AGAIN_NEW, LOOK_AGAIN_OLD, VoltageBand, minimum, test_voltage};
use rust_decimal::Decimal;
use uuid::Uuid;

const PARALLEL: Source = Source::practice("readings in parallel add as 1/Σ(1/R)");

/// Key of a set of circuits read together between a pair; joined live conductors to earth without.
pub fn set_key(mut circuits: Vec<Uuid>, pair: Option<Pair>) -> Key {
    circuits.sort_unstable();
    let test = if pair.is_some() { Test::Insulation } else { Test::InsulationJoined };
    Key { subject: Subject::CircuitSet { circuits }, test, pair, line: None, method: Method::Instrument }
}

/// All circuits of a board, as a set.
pub fn whole(installation: &Installation, board: Uuid) -> Vec<Uuid> {
    let mut all: Vec<Uuid> = installation.circuits_of(board).map(|circuit| circuit.id).collect();
    all.sort_unstable();
    all
}

/// The pairs of a board in the methodical order; joined where something stays.
pub fn board_pairs(installation: &Installation, board: &Board) -> Vec<Option<Pair>> {
    if installation.circuits_of(board.id).any(Circuit::has_what_stays) {
        return vec![None];
    }
    let skip = installation.house_rules.neutral_earth == NeutralEarth::Skipped;
    pairs(conductors_of(board.lines))
        .into_iter()
        .filter_map(|(a, b)| Pair::new(a, b).ok())
        .filter(|pair| !(skip && *pair == Pair::NEUTRAL_EARTH))
        .map(Some)
        .collect()
}

/// The step that reads a set of circuits between a pair.
pub fn set_step(circuits: Vec<Uuid>, pair: Option<Pair>) -> Step {
    let (slug, label) = pair.map_or_else(
        || ("board-ir-joined".to_owned(), "live joined–E".to_owned()),
        |pair| {
            let (a, b) = pair.both();
            (format!("board-ir-{a}-{b}").to_lowercase(), format!("{pair}"))
        },
    );
    Step {
        slug,
        key: set_key(circuits, pair),
        stage: Stage::Insulation,
        label,
        field: Field::Insulation,
        goes_to: GoesTo::NotOnSchedule("kept: it is a bound under each circuit's box"),
        required: false,
        test_voltage: Some(test_voltage(VoltageBand::UpTo500)),
    }
}

/// The steps that read a whole board.
pub fn board_steps(installation: &Installation, board: &Board) -> Vec<Step> {
    let all = whole(installation, board.id);
    if all.is_empty() {
        return Vec::new();
    }
    board_pairs(installation, board).into_iter().map(|pair| set_step(all.clone(), pair)).collect()
}

/// Whether a pair read on a board bears on a pair of a circuit. A single-phase circuit of a
/// three-phase board hangs on one of its lines, and nothing says on which.
fn bears(read: Option<Pair>, wanted: Option<Pair>) -> bool {
    let line = |conductor| !matches!(conductor, Conductor::N | Conductor::E);
    match (read, wanted) {
        (None, None) => true,
        // Joined to earth is below each to earth; it says nothing between live conductors.
        (None, Some(wanted)) => wanted.both().1 == Conductor::E,
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

/// Least that passes, MΩ.
pub fn least() -> Decimal {
    exact(minimum(VoltageBand::UpTo500).get()).unwrap_or(Decimal::ONE)
}

/// What a set of circuits should read between a pair: the parallel sum of what their own readings
/// say, else what its wiring should give.
pub fn set_band(installation: &Installation, settled: &Settled<'_>, key: &Key) -> Option<Band> {
    let Subject::CircuitSet { circuits } = &key.subject else { return None };
    let members: Vec<&Circuit> = circuits.iter().filter_map(|id| installation.circuit(*id)).collect();
    let own: Vec<Insulation> = members
        .iter()
        .filter_map(|circuit| {
            let mut of = Key::on_circuit(circuit.id, crate::reading::Place::Board, key.test);
            of.pair = key.pair;
            match settled.value(&of)? {
                Value::Number(megohms) => Some(Insulation::Reads(*megohms)),
                Value::Over(bound) => Some(Insulation::Over(*bound)),
                _ => None,
            }
        })
        .collect();
    let old = members.iter().any(|circuit| circuit.wiring == Wiring::Existing);
    let (usual, said) = if old { (LOOK_AGAIN_OLD.get(), "older wiring") } else { (LOOK_AGAIN_NEW.get(), "new wiring") };
    if own.len() == members.len() && !own.is_empty() {
        let (low, high) = combine(&own);
        if high.is_some() {
            return Some(Band {
                low: 0.8 * low,
                high: high.map(|high| 1.2 * high),
                centre: Some(low),
                basis: format!("the parallel sum of {} circuits read one by one", own.len()),
                source: PARALLEL,
            });
        }
    }
    // So many circuits in parallel, each as its wiring should be.
    let least = usual / approximate(Decimal::from(members.len().max(1)));
    Some(Band {
        low: least,
        high: None,
        centre: None,
        basis: format!("{said}: {usual} MΩ and up for each of {} in parallel", members.len()),
        source: PARALLEL,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::bench::demo;
    use crate::installation::Lines;
    use crate::reading::Reading;
    use rust_decimal::dec;

    fn read(template: &Reading, key: Key, value: Value) -> Reading {
        Reading { id: Uuid::new_v4(), key, typed: value.shown(), value, ..template.clone() }
    }

    #[test]
    fn a_sound_whole_is_a_bound_under_each_circuit() {
        let job = demo::jobs().swap_remove(1);
        let mut installation = job.installation;
        for point in installation.circuits.iter_mut().flat_map(|circuit| &mut circuit.points) {
            point.carries.clear();
        }
        let board = installation.boards[0].clone();
        let all = whole(&installation, board.id);
        let step = &board_steps(&installation, &board)[0];
        assert_eq!(step.key.pair, Some(Pair::LINE_EARTH), "the methodical order begins with earth");
        let template = &job.readings[0];
        let readings = [
            read(template, set_key(all.clone(), Some(Pair::LINE_EARTH)), Value::Number(dec!(88))),
            read(template, set_key(all[..2].to_vec(), Some(Pair::LINE_EARTH)), Value::Over(dec!(999))),
        ];
        let settled = Settled::new(&readings, &[]);
        let circuit = |id: Uuid| installation.circuit(id).unwrap();
        let bound = |id, pair| bound(&installation, circuit(id), &settled, Some(pair));
        assert_eq!(bound(all[0], Pair::LINE_EARTH), Some(dec!(999)), "the smaller set says more");
        assert_eq!(bound(all[5], Pair::LINE_EARTH), Some(dec!(88)));
        assert_eq!(bound(all[5], Pair::LINE_NEUTRAL), None);
    }

    #[test]
    fn on_three_phases_every_line_must_be_read_before_one_circuit_is_covered() {
        let job = demo::jobs().swap_remove(1);
        let mut installation = job.installation;
        installation.boards[0].lines = Lines::Three;
        let all = whole(&installation, installation.boards[0].id);
        let template = &job.readings[0];
        let mut readings = Vec::new();
        for line in [Conductor::L1, Conductor::L2, Conductor::L3] {
            assert_eq!(
                bound(
                    &installation,
                    installation.circuit(all[0]).unwrap(),
                    &Settled::new(&readings, &[]),
                    Some(Pair::LINE_EARTH)
                ),
                None
            );
            let pair = Pair::new(line, Conductor::E).unwrap();
            readings.push(read(template, set_key(all.clone(), Some(pair)), Value::Over(dec!(999))));
        }
        let settled = Settled::new(&readings, &[]);
        let circuit = installation.circuit(all[0]).unwrap();
        assert_eq!(bound(&installation, circuit, &settled, Some(Pair::LINE_EARTH)), Some(dec!(999)));
    }

    #[test]
    fn joined_to_earth_bounds_each_to_earth_and_nothing_else() {
        let job = demo::jobs().swap_remove(1);
        let all = whole(&job.installation, job.installation.boards[0].id);
        let readings = [read(&job.readings[0], set_key(all.clone(), None), Value::Number(dec!(150)))];
        let settled = Settled::new(&readings, &[]);
        let circuit = job.installation.circuit(all[0]).unwrap();
        let bound = |pair| bound(&job.installation, circuit, &settled, pair);
        assert_eq!(bound(Some(Pair::NEUTRAL_EARTH)), Some(dec!(150)));
        assert_eq!(bound(None), Some(dec!(150)));
        assert_eq!(bound(Some(Pair::LINE_NEUTRAL)), None);
    }
}
