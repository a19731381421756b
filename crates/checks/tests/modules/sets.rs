//! The whole board read at once.

use proof_bench::demo;
use proof_job::installation::Lines;
use proof_job::reading::keys::set_key;
use proof_job::reading::{CurrentReadings, Key, Reading, Subject, Value};
use proof_standard::conductor::{Conductor, Pair};
use proof_work::plan::sets::{board_steps, set_circuits};
use proof_work::plan::substitute::bound;
use rust_decimal::dec;
use uuid::Uuid;

fn read(template: &Reading, key: Key, value: Value) -> Reading {
    Reading { id: Uuid::new_v4(), key, typed: value.shown(), value, ..template.clone() }
}

#[test]
fn a_sound_whole_is_a_bound_under_each_circuit() {
    let job = demo::jobs().swap_remove(1);
    let mut installation = job.installation;
    for point in installation.circuits.iter_mut().flat_map(|circuit| &mut circuit.points) {
        point.connected_load.clear();
    }
    crate::without_electronics(&mut installation);
    let board = installation.boards[0].clone();
    let all = set_circuits(&installation, board.id, None);
    let step = &board_steps(&installation, &board)[0];
    assert_eq!(step.key.pair, Some(Pair::LINE_EARTH), "the methodical order begins with earth");
    let template = &job.readings[0];
    let readings = [
        read(template, set_key(all.clone(), Some(Pair::LINE_EARTH)), Value::Number(dec!(88))),
        read(template, set_key(all[..2].to_vec(), Some(Pair::LINE_EARTH)), Value::Over(dec!(999))),
    ];
    let settled = CurrentReadings::new(&readings, &[]);
    let circuit = |id: Uuid| installation.circuit(id).unwrap();
    let bound = |id, pair| bound(&installation, circuit(id), &settled, Some(pair));
    assert_eq!(bound(all[0], Pair::LINE_EARTH), Some(dec!(999)), "the smaller set says more");
    assert_eq!(bound(all[5], Pair::LINE_EARTH), Some(dec!(88)));
    assert_eq!(bound(all[5], Pair::LINE_NEUTRAL), None);
}

/// The box prints the lower of both positions of two-way lights; of the whole board only what it is at least.
#[test]
fn the_box_prints_the_lower_of_both_positions() {
    use proof_job::reading::keys::turned_over;
    use proof_job::reading::{Place, Test};
    use proof_work::schedule::result_row;
    let job = demo::jobs().swap_remove(0);
    let mut installation = job.installation;
    installation
        .circuits
        .iter_mut()
        .flat_map(|circuit| &mut circuit.points)
        .for_each(|point| point.connected_load.clear());
    let lights = installation.circuits[0].clone();
    let over = turned_over(&lights).expect("two-way lights");
    let template = &job.readings[0];
    let at = |place: &Place, value| {
        let key = Key::on_circuit(lights.id, place.clone(), Test::Insulation).between(Pair::LINE_EARTH);
        read(template, key, value)
    };
    let of_board = |value| {
        let all = set_circuits(&installation, lights.board, Some(Pair::LINE_EARTH));
        let neutral = set_key(all.clone(), Some(Pair::NEUTRAL_EARTH));
        let line = set_key(all, Some(Pair::LINE_EARTH));
        [read(template, line, value), read(template, neutral, Value::Over(dec!(999)))]
    };
    let printed = |readings: &[Reading]| {
        let settled = CurrentReadings::new(readings, &[]);
        proof_work::schedule::ScheduleRow::Figures(Box::new(result_row(&installation, &lights, &settled)))
            .printed()
            .live_earth
    };
    let (sound, low) = (Value::Over(dec!(999)), Value::Number(dec!(0.4)));
    assert_eq!(printed(&[at(&Place::Board, sound.clone()), at(&over, low.clone())]), "0.4");
    assert_eq!(printed(&[at(&Place::Board, low.clone()), at(&over, sound.clone())]), "0.4");
    let whole_of = |value, turned| printed(&[&of_board(value)[..], &[at(&over, turned)]].concat());
    assert_eq!(whole_of(Value::Number(dec!(88)), sound), "≥88", "never more than the board said");
    assert_eq!(whole_of(Value::Number(dec!(88)), low), "0.4");
}

/// One dimmer does not take line–neutral from the other ways; extra-low voltage is never among them.
#[test]
fn what_stays_is_left_out_between_live_conductors_only() {
    use proof_job::installation::{Carried, CircuitVoltage};
    let mut installation = demo::jobs().swap_remove(0).installation;
    crate::without_electronics(&mut installation);
    let board = installation.boards[0].clone();
    for point in installation.circuits.iter_mut().flat_map(|circuit| &mut circuit.points) {
        point.connected_load.clear();
    }
    let of_set = |key: &Key| match &key.subject {
        Subject::CircuitSet { circuits } => circuits.len(),
        _ => 0,
    };
    let read = |installation: &_| -> Vec<(Option<Pair>, usize)> {
        let steps = board_steps(installation, &board);
        steps.iter().map(|step| (step.key.pair, of_set(&step.key))).collect()
    };
    let all = installation.circuits.len();
    let apart = [Pair::LINE_EARTH, Pair::NEUTRAL_EARTH, Pair::LINE_NEUTRAL];
    assert_eq!(read(&installation), apart.map(|pair| (Some(pair), all)));
    installation.circuits[0].points[0].connected_load = vec![Carried::Dimmer];
    assert_eq!(read(&installation), [(None, all), (Some(Pair::LINE_NEUTRAL), all - 1)]);
    installation.circuits[1].band = CircuitVoltage::Selv;
    assert_eq!(read(&installation), [(None, all - 1), (Some(Pair::LINE_NEUTRAL), all - 2)]);
    // A driver on extra-low voltage is not on the bar, and joins nothing.
    installation.circuits[0].points[0].connected_load.clear();
    installation.circuits[1].points[0].connected_load = vec![Carried::Electronics];
    assert_eq!(read(&installation), apart.map(|pair| (Some(pair), all - 1)));
}

#[test]
fn on_three_phases_every_line_must_be_read_before_one_circuit_is_covered() {
    let job = demo::jobs().swap_remove(1);
    let mut installation = job.installation;
    installation.boards[0].lines = Lines::Three;
    let all = set_circuits(&installation, installation.boards[0].id, None);
    let template = &job.readings[0];
    let mut readings = Vec::new();
    for line in [Conductor::L1, Conductor::L2, Conductor::L3] {
        assert_eq!(
            bound(
                &installation,
                installation.circuit(all[0]).unwrap(),
                &CurrentReadings::new(&readings, &[]),
                Some(Pair::LINE_EARTH)
            ),
            None
        );
        let pair = Pair::new(line, Conductor::E).unwrap();
        readings.push(read(template, set_key(all.clone(), Some(pair)), Value::Over(dec!(999))));
    }
    let settled = CurrentReadings::new(&readings, &[]);
    let circuit = installation.circuit(all[0]).unwrap();
    assert_eq!(bound(&installation, circuit, &settled, Some(Pair::LINE_EARTH)), Some(dec!(999)));
}

#[test]
fn joined_to_earth_bounds_each_to_earth_and_nothing_else() {
    let job = demo::jobs().swap_remove(1);
    let all = set_circuits(&job.installation, job.installation.boards[0].id, None);
    let readings = [read(&job.readings[0], set_key(all.clone(), None), Value::Number(dec!(150)))];
    let settled = CurrentReadings::new(&readings, &[]);
    let circuit = job.installation.circuit(all[0]).unwrap();
    let bound = |pair| bound(&job.installation, circuit, &settled, pair);
    assert_eq!(bound(Some(Pair::NEUTRAL_EARTH)), Some(dec!(150)));
    assert_eq!(bound(None), Some(dec!(150)));
    assert_eq!(bound(Some(Pair::LINE_NEUTRAL)), None);
}
