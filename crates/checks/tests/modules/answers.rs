//! What is found behind odd readings does what it says: it is drawn, the readings that were odd are as
//! expected, and taken back everything is as it was.

use jiff::Timestamp;
use proof_bench::demo;
use proof_job::installation::{Circuit, CircuitAnswer, NotAnswered, PointId};
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Key, Place, Test, Value};
use proof_judge::explanation::circuit::answers;
use proof_judge::verdict::{CircuitJudge, Plausibility};
use proof_standard::quantity::{Metres, SquareMillimetres};
use proof_work::plan::sequence::circuit_steps;
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

const RING: usize = 2;
const A5: PointId = PointId(10);

/// The demo's ring with what was its drawn spur listed as a point of the ring; 8 m of cable lead to it.
/// Per metre, 2.5 mm² copper is 7.41 mΩ and 1.5 mm² is 12.10 mΩ (IEC 60228).
fn undrawn() -> Job {
    let mut job = demo::jobs().swap_remove(0);
    let ring = &mut job.installation.circuits[RING];
    let spur = ring.points.last_mut().unwrap();
    (spur.spur_from, spur.leg_m) = (None, None);
    let ring = ring.id;
    let key = |point: u32, test: Test| Key::on_circuit(ring, Place::Point { point: PointId(point) }, test);
    for (test, rise) in [(Test::R1Rn, dec!(0.12)), (Test::R1R2, dec!(0.16))] {
        let value_at = |job: &Job, key: &Key| -> Decimal {
            let settled = CurrentReadings::new(&job.readings, &job.events);
            settled.value(key).and_then(Value::number).unwrap()
        };
        let there = value_at(&job, &key(5, test)) + rise;
        for reading in job.readings.iter_mut().filter(|one| one.key == key(A5.0, test)) {
            reading.value = Value::Number(there);
        }
    }
    job
}

fn now() -> Timestamp {
    "2026-11-24T10:00:00Z".parse().unwrap()
}

fn say(circuit: &mut Circuit, number: u128, answer: CircuitAnswer) -> Result<(), NotAnswered> {
    circuit.answer((Uuid::from_u128(number), "Idris Kell", now()), answer)
}

/// Continuity readings of the circuit that are not as expected.
fn odd(job: &Job, at: usize) -> Vec<String> {
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let circuit = &job.installation.circuits[at];
    let judge = CircuitJudge::new(&job.installation, circuit, &settled);
    let steps = circuit_steps(&job.installation, circuit).into_iter().filter(|step| step.stage.is_dead());
    let looked = steps.filter(|step| {
        let value = settled.value(&step.key);
        value.is_some_and(|value| judge.judge(step, value).plausibility == Plausibility::LookAgain)
    });
    looked.map(|step| step.slug).collect()
}

fn offered(job: &Job, at: usize) -> Vec<CircuitAnswer> {
    let settled = CurrentReadings::new(&job.readings, &job.events);
    answers(&job.installation, &job.installation.circuits[at], &settled).collect()
}

#[test]
fn one_cable_behind_it_draws_the_spur_and_clears_both_readings() {
    let mut job = undrawn();
    assert_eq!(odd(&job, RING), ["rn-p10", "r2-p10"]);
    let spur =
        offered(&job, RING).into_iter().find(|one| matches!(one, CircuitAnswer::Spur { point: A5, .. })).unwrap();
    let CircuitAnswer::Spur { length_m, .. } = spur else { panic!() };
    assert!((length_m.get() - 8.0).abs() <= 1.0, "{length_m:?}");
    let before = job.installation.circuits[RING].clone();
    say(&mut job.installation.circuits[RING], 1, spur).unwrap();
    let drawn = job.installation.circuits[RING].point(A5).unwrap().clone();
    assert_eq!((drawn.spur_from, drawn.leg_m), (Some(PointId(9)), Some(length_m)));
    assert_eq!(odd(&job, RING), Vec::<String>::new());
    job.installation.circuits[RING].take_back(Uuid::from_u128(1)).unwrap();
    assert_eq!(job.installation.circuits[RING], before);
    assert_eq!(odd(&job, RING), ["rn-p10", "r2-p10"]);
    assert_eq!(job.installation.circuits[RING].take_back(Uuid::from_u128(1)), Err(NotAnswered::Gone));
}

#[test]
fn the_main_line_goes_past_a_spur_as_long_as_it_was() {
    let mut job = demo::jobs().swap_remove(0);
    let circuit = &mut job.installation.circuits[RING];
    circuit.points.truncate(4);
    for (point, leg) in circuit.points.iter_mut().zip([6.0, 9.0, 4.5, 11.0]) {
        point.leg_m = Some(Metres::literal(leg));
    }
    (circuit.length_m, circuit.return_leg_m) = (None, Some(Metres::literal(12.5)));
    let whole = circuit.whole_length();
    let spur = |point: u32| CircuitAnswer::Spur { point: PointId(point), length_m: Metres::literal(3.0) };
    let untouched = circuit.clone();
    for (point, from) in [(1, 2), (2, 1), (4, 3)] {
        say(circuit, u128::from(point), spur(point)).unwrap();
        assert_eq!(circuit.point(PointId(point)).unwrap().spur_from, Some(PointId(from)));
        assert_eq!(circuit.whole_length(), whole, "point {point}");
        circuit.take_back(Uuid::from_u128(u128::from(point))).unwrap();
        assert_eq!(*circuit, untouched);
    }
    // Two answers: the later one goes first.
    say(circuit, 1, spur(2)).unwrap();
    say(circuit, 2, spur(3)).unwrap();
    assert_eq!(circuit.take_back(Uuid::from_u128(1)), Err(NotAnswered::ChangedSince));
    circuit.take_back(Uuid::from_u128(2)).unwrap();
    circuit.take_back(Uuid::from_u128(1)).unwrap();
    assert_eq!(*circuit, untouched);
    say(circuit, 1, spur(2)).unwrap();
    assert_eq!(say(circuit, 2, spur(2)), Err(NotAnswered::DrawnOtherwise));
    assert_eq!(say(circuit, 2, spur(1)), Err(NotAnswered::DrawnOtherwise), "a spur leaves from it");
    assert_eq!(say(circuit, 2, spur(77)), Err(NotAnswered::NoPoint));
    circuit.points.truncate(1);
    assert_eq!(say(circuit, 2, spur(1)), Err(NotAnswered::NothingToHangOn));
}

#[test]
fn another_length_another_cpc_metal_beside_it_change_what_is_expected() {
    let job = demo::jobs().swap_remove(0);
    // Nothing is read yet: the band is by length and size alone.
    let settled = CurrentReadings::new(&[], &job.events);
    let ring = &job.installation.circuits[RING];
    let key = Key::on_circuit(
        ring.id,
        Place::Board,
        Test::RingEndToEnd { conductor: proof_standard::conductor::Conductor::E },
    );
    let whole = ring.whole_length().unwrap();
    let high = |job: &Job| {
        let installation = &job.installation;
        let judge = CircuitJudge::new(installation, &installation.circuits[RING], &settled);
        let band = judge.known.band(&key).unwrap();
        (band.low, band.high.unwrap())
    };
    let plain = high(&job);
    for (answer, changes) in [
        (CircuitAnswer::Length { length_m: Metres::new(whole * 1.5).unwrap() }, true),
        (CircuitAnswer::Cpc { mm2: SquareMillimetres::literal(2.5) }, true),
        (CircuitAnswer::MoreCables { point: PointId(1) }, false),
    ] {
        let mut found = job.clone();
        say(&mut found.installation.circuits[RING], 1, answer).unwrap();
        assert_eq!(high(&found) != plain, changes, "{answer:?}");
        found.installation.circuits[RING].take_back(Uuid::from_u128(1)).unwrap();
        assert_eq!(found.installation.circuits[RING], job.installation.circuits[RING]);
    }
    let mut found = job.clone();
    let longer = CircuitAnswer::Length { length_m: Metres::new(whole * 1.5).unwrap() };
    say(&mut found.installation.circuits[RING], 1, longer).unwrap();
    assert!((found.installation.circuits[RING].whole_length().unwrap() - whole * 1.5).abs() < 0.06);
    let mut found = job.clone();
    assert!(!found.installation.parallel_earth_path(&found.installation.circuits[RING]));
    say(&mut found.installation.circuits[RING], 1, CircuitAnswer::MetalBeside).unwrap();
    assert!(found.installation.parallel_earth_path(&found.installation.circuits[RING]));
    assert!(!found.installation.parallel_earth_path(&found.installation.circuits[RING + 1]), "of this circuit alone");
}
