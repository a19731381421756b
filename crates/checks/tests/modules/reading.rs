//! What supersedes what.

use jiff::Timestamp;
use proof_job::installation::PointId;
use proof_job::reading::{Context, CurrentReadings, Key, Place, Reading, Test, Value};
use proof_job::site::{Event, EventKind};
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::limits::rcd::{HalfCycle, Multiple};
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

fn reading(key: Key, value: Decimal) -> Reading {
    Reading {
        id: Uuid::new_v4(),
        key,
        typed: value.to_string(),
        value: Value::Number(value),
        unsteady: false,
        context: Context::from_paper("A. Fitter", Timestamp::UNIX_EPOCH),
    }
}

#[test]
fn the_latest_stands_until_it_is_struck_out() {
    let circuit = Uuid::new_v4();
    let key = Key::on_circuit(circuit, Place::Point { point: PointId(1) }, Test::R1R2);
    let readings = [reading(key.clone(), dec!(0.31)), reading(key.clone(), dec!(0.24))];
    assert_eq!(CurrentReadings::new(&readings, &[]).value(&key), Some(&Value::Number(dec!(0.24))));
    let strike = [Event::new(
        uuid::Uuid::new_v4(),
        "A. Fitter",
        Timestamp::UNIX_EPOCH,
        EventKind::StruckOut { reading: readings[1].id, reason: "wrong point".into() },
    )];
    let settled = CurrentReadings::new(&readings, &strike);
    assert_eq!(settled.value(&key), Some(&Value::Number(dec!(0.31))));
    assert_eq!(settled.history(&key)[1].1, Some("wrong point"));
}

#[test]
fn the_second_outlet_and_the_other_half_cycle_are_no_repeats() {
    let circuit = Uuid::new_v4();
    let first = Key::on_circuit(circuit, Place::Point { point: PointId(1) }, Test::R1R2);
    let second = Key::on_circuit(circuit, Place::Outlet { point: PointId(1), outlet: 2 }, Test::R1R2);
    let readings = [reading(first.clone(), dec!(0.2)), reading(second.clone(), dec!(0.3))];
    let settled = CurrentReadings::new(&readings, &[]);
    assert_eq!(settled.float(&first), Some(0.2));
    assert_eq!(settled.float(&second), Some(0.3));
    let trip = |half_cycle| Test::RcdTrip { multiple: Multiple::One, half_cycle };
    assert_ne!(
        Key::on_circuit(circuit, Place::Board, trip(HalfCycle::Deg0)),
        Key::on_circuit(circuit, Place::Board, trip(HalfCycle::Deg180))
    );
}

#[test]
fn a_pair_is_the_same_either_way_round() {
    let key = Key::on_circuit(Uuid::nil(), Place::Board, Test::Insulation);
    let a = key.clone().between(Pair::new(Conductor::E, Conductor::L).unwrap());
    assert_eq!(a, key.between(Pair::LINE_EARTH));
}
