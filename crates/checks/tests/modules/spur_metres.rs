//! Points of a ring told as metres of spur.

use proof_bench::demo;
use proof_job::installation::PointId;
use proof_job::reading::{CurrentReadings, Place, Reading, Test, Value};
use proof_judge::explanation::circuit::{SpurMetres, SpurVerdict, case_of, name, spur_metres};
use proof_physics::diagnosis::{Kind, diagnose};
use rust_decimal::Decimal;
use rust_decimal::prelude::FromPrimitive;

fn bindery() -> proof_job::job::Job {
    demo::jobs().swap_remove(2)
}

#[test]
fn the_demo_fault_is_what_was_put_there() {
    let job = bindery();
    let circuit = &job.installation.circuits[0];
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let case = case_of(&job.installation, circuit, &settled).unwrap();
    let best = &diagnose(&case).unwrap().explanations[0];
    let joints: Vec<_> = best
        .kinds
        .iter()
        .filter_map(|kind| match kind {
            Kind::HighResistanceJoint { conductor, .. } => Some(*conductor),
            _ => None,
        })
        .collect();
    use proof_standard::conductor::Core;
    assert!(joints.contains(&Core::E) && joints.contains(&Core::N), "{}", best.describe());
}

/// A ring where point 5 hangs on a spur nobody drew, and point 3 has poor contacts.
fn risen(extra: [f64; 2]) -> Vec<SpurMetres> {
    let job = demo::jobs().swap_remove(0);
    let circuit = &job.installation.circuits[2];
    let readings: Vec<Reading> = job
        .readings
        .iter()
        .cloned()
        .map(|mut reading| {
            let at = reading.key.subject.place().and_then(Place::point) == Some(PointId(3));
            let step = [Test::R1Rn, Test::R1R2].iter().position(|test| *test == reading.key.test);
            if let (true, Some(step), Some(ohm)) =
                (at && reading.key.subject.circuit() == Some(circuit.id), step, reading.value.float())
            {
                reading.value =
                    Value::Number(Decimal::from_f64(((ohm + extra[step]) * 100.0).round() / 100.0).unwrap());
            }
            reading
        })
        .collect();
    let settled = CurrentReadings::new(&readings, &[]);
    spur_metres(&job.installation, circuit, &settled)
}

#[test]
fn a_spur_agrees_in_both_steps_and_contacts_do_not() {
    let of_3 = |extra| risen(extra).into_iter().find(|row| row.point == PointId(3));
    // 8 m of 2.5/1.5: 8 × 14.82 and 8 × 19.51 mΩ (table of resistances).
    let spur = of_3([0.119, 0.156]).unwrap();
    assert_eq!(spur.verdict, SpurVerdict::Spur, "{spur:?}");
    assert!((spur.about_m().unwrap() - 8.0).abs() < 2.0, "{spur:?}");
    let contact = of_3([0.25, 0.25]).unwrap();
    assert_eq!(contact.verdict, SpurVerdict::ContactOrJoint, "{contact:?}");
    let absurd = of_3([1.19, 1.56]).unwrap();
    assert_eq!(absurd.verdict, SpurVerdict::Absurd, "{absurd:?}");
    assert_eq!(of_3([0.0, 0.0]), None);
}

#[test]
fn names_are_each_once() {
    let mut circuit = demo::jobs().swap_remove(0).installation.circuits.swap_remove(2);
    circuit.points[0].name = "bench".into();
    circuit.points[1].name = "bench".into();
    circuit.points[2].name = "board".into();
    let names: std::collections::HashSet<_> = circuit.points.iter().map(|point| name(&circuit, point.id)).collect();
    assert_eq!(names.len(), circuit.points.len());
    assert!(!names.contains("board"));
}
