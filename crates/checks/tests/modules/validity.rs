//! Whether a job makes sense.

use proof_bench::demo;
use proof_job::installation::{Board, Feed};
use proof_job::job::Job;
use proof_job::job::validity::job;
use proof_standard::quantity::Milliamps;
use uuid::Uuid;

#[test]
fn the_demo_makes_sense() {
    for one in demo::jobs() {
        assert_eq!(job(&one), Vec::<String>::new());
    }
}

#[test]
fn what_makes_none_is_said() {
    let break_it = |change: fn(&mut Job)| {
        let mut one = demo::jobs()[0].clone();
        change(&mut one);
        job(&one).join("\n")
    };
    assert!(break_it(|j| j.reference = "G 1/2".into()).contains("reference"));
    assert!(break_it(|j| j.title = "x".repeat(201)).contains("longer than 200"));
    assert!(break_it(|j| j.installation.circuits[0].board = Uuid::nil()).contains("board is not known"));
    assert!(break_it(|j| j.installation.circuits[1].way = "1".into()).contains("share this way"));
    assert!(break_it(|j| j.installation.circuits[0].rcd = Some(Uuid::nil())).contains("RCD is not on its board"));
    assert!(
        break_it(|j| j.installation.circuits[2].points[0].spur_from = Some(j.installation.circuits[2].points[0].id))
            .contains("circle")
    );
    assert!(break_it(|j| j.installation.circuits.truncate(2)).contains("its circuit is not known"));
    assert!(break_it(|j| j.readings.push(j.readings[0].clone())).contains("stands twice"));
    assert!(
        break_it(|j| j.installation.boards[0].rcds[0].idn_ma = Milliamps(rust_decimal::Decimal::new(1, 28)))
            .contains("IΔn from 0.1")
    );
    for number in [rust_decimal::Decimal::MAX, rust_decimal::dec!(-0.01)] {
        let mut one = demo::jobs()[0].clone();
        one.readings[3].value = proof_job::reading::Value::Number(number);
        assert!(job(&one).join("").contains("is not from 0 to"));
    }
    assert!(break_it(|j| j.installation.inspection[0].item = "roof".into()).contains("is not known"));
    assert!(break_it(|j| j.installation.circuits[0].device.trip = None).contains("has a type"));
    assert!(break_it(|j| j.installation.next_inspection_months = Some(0)).contains("1 to 240"));
}

#[test]
fn boards_in_a_circle_are_found() {
    let mut one = demo::jobs()[0].clone();
    let circuits = one.installation.circuits.clone();
    let first: &mut Board = &mut one.installation.boards[0];
    first.fed_by = Feed::Circuit { circuit: circuits[0].id };
    assert!(job(&one).join("\n").contains("circle"));
}
