//! Polarity, earned.

use proof_bench::demo;
use proof_job::installation::Installation;
use proof_job::reading::keys::polarity_key;
use proof_job::reading::{CurrentReadings, Key, Place, Reading, Test, Value};
use proof_standard::house_rules::{ContinuityMethod, PolarityBy};
use proof_work::plan::polarity::{Polarity, polarity};
use proof_work::plan::sequence::circuit_steps;

fn of(readings: &[Reading], change: impl Fn(&mut Installation)) -> Polarity {
    let mut job = demo::jobs().swap_remove(0);
    change(&mut job.installation);
    let circuit = job.installation.circuits[2].clone();
    (*polarity(&job.installation, &circuit, &CurrentReadings::new(readings, &[]))).clone()
}

fn walked() -> Vec<Reading> {
    let job = demo::jobs().swap_remove(0);
    let circuit = job.installation.circuits[2].id;
    let walk = |test| matches!(test, Test::R1Rn | Test::R1R2);
    let mut all = job.readings;
    all.retain(|reading| reading.key.subject.circuit() == Some(circuit) && walk(reading.key.test));
    all
}

fn seen(value: Value) -> Reading {
    let mut one = walked().swap_remove(0);
    one.key = polarity_key(one.key.subject.circuit().unwrap());
    one.value = value;
    one
}

#[test]
fn both_pairs_at_every_point_earn_it() {
    assert_eq!(of(&walked(), |_| ()), Polarity::Earned("R1+Rn and R1+R2 at every point"));
    let mut less = walked();
    less.retain(|reading| reading.key.test == Test::R1R2);
    let Polarity::Outstanding(wanting) = of(&less, |_| ()) else { panic!() };
    assert!(wanting.starts_with("read R1+Rn at") && wanting.contains("more"), "{wanting}");
    assert_eq!(
        of(&less, |i| i.house_rules.polarity_by = PolarityBy::R1R2Alone),
        Polarity::Earned("R1+R2 at every point")
    );
    assert!(matches!(of(&less, |i| i.house_rules.polarity_by = PolarityBy::Eye), Polarity::Outstanding(_)));
}

#[test]
fn one_open_point_is_wrong_until_read_again() {
    let mut readings = walked();
    let mut open = readings[3].clone();
    open.value = Value::Open;
    readings.push(open);
    let Polarity::Wrong(why) = of(&readings, |_| ()) else { panic!() };
    assert!(why.contains("open at"), "{why}");
    readings.push(readings[3].clone());
    assert!(matches!(of(&readings, |_| ()), Polarity::Earned(_)));
}

#[test]
fn the_eye_stands_in_and_a_fail_outweighs_all() {
    assert!(matches!(of(&[seen(Value::Pass)], |_| ()), Polarity::Earned(how) if how.starts_with("seen")));
    let mut readings = walked();
    readings.push(seen(Value::Fail));
    assert!(matches!(of(&readings, |_| ()), Polarity::Wrong(_)));
    let excused = of(&[seen(Value::Limitation("sealed".into()))], |_| ());
    assert_eq!(excused.boxed(), "LIM");
}

#[test]
fn a_long_lead_leaves_polarity_owed() {
    let job = demo::jobs().swap_remove(0);
    let mut installation = job.installation;
    installation.house_rules.continuity = ContinuityMethod::R2;
    let radial = installation.circuits[4].clone();
    let readings: Vec<Reading> = job.readings.into_iter().filter(|r| r.key.test != Test::Polarity).collect();
    let settled = CurrentReadings::new(&readings, &[]);
    assert!(matches!(*polarity(&installation, &radial, &settled), Polarity::Outstanding(_)));
    assert!(circuit_steps(&installation, &radial).iter().all(|step| step.key.test != Test::R1R2));
    let key = Key::on_circuit(radial.id, Place::Point { point: radial.points[0].id }, Test::R2);
    assert!(circuit_steps(&installation, &radial).iter().any(|step| step.key == key));
}
