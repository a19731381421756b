//! The two outlets of a twin are one place: what is behind the accessory is behind both, a plug's contact
//! is of one.

use proof_physics::diagnosis::{Case, Explanation, Kind, ReadPoint, diagnose};
use proof_physics::network::description::OhmPerMetre;
use proof_standard::conductor::Core;
use proof_standard::quantity::{Celsius, Metres, SquareMillimetres};
use proof_standard::shape::Shape;

/// A ring of 48 m, 2.5/1.5 (7.41 and 12.10 mΩ/m, IEC 60228), with six twins, both outlets read at the third: what
/// its outlets read more in each step.
fn ring(more: [[f64; 2]; 2]) -> Vec<Explanation> {
    explained(more, None)
}

/// The same with a joint in the CPC behind a place, in m from the board: so many ohms.
fn explained(more: [[f64; 2]; 2], joint: Option<(f64, f64)>) -> Vec<Explanation> {
    let mm2 = |size| SquareMillimetres::new(size).unwrap();
    let shown = |ohm: f64| Some(Some(rounded(ohm)));
    let entry = |id: &str, at: f64, more: [f64; 2]| {
        let share = at / 48.0;
        // Crossed legs: one way by line forwards and CPC backwards, the other the other way round.
        let (r1, r2) = (48.0 * 0.007_41, 48.0 * 0.012_10);
        // The joint is on the way back of whoever stands before it, on the way out of whoever stands behind.
        let [out, back] = joint.map_or([0.0; 2], |(behind, ohm)| if at > behind { [ohm, 0.0] } else { [0.0, ohm] });
        let (a, b) = (share * r1 + (1.0 - share) * r2 + back, (1.0 - share) * r1 + share * r2 + out);
        ReadPoint {
            id: id.to_owned(),
            spur_from: None,
            leg: None,
            r1_rn: shown(r1 / 2.0 + more[0]),
            r1_r2: shown(a * b / (a + b) + more[1]),
        }
    };
    let mut points: Vec<ReadPoint> =
        [7.0, 14.0].iter().enumerate().map(|(n, at)| entry(&format!("S{}", n + 1), *at, [0.0; 2])).collect();
    points.push(entry("S3/1", 21.0, more[0]));
    points.push(entry("S3/2", 21.0, more[1]));
    points.extend([28.0, 35.0, 42.0].iter().enumerate().map(|(n, at)| entry(&format!("S{}", n + 4), *at, [0.0; 2])));
    let case = Case {
        shape: Shape::Ring,
        cores: OhmPerMetre::copper([2.5, 2.5, 1.5].map(mm2), Celsius::literal(20.0)).unwrap(),
        cpc_mm2: mm2(1.5),
        length: Metres::new(48.0).ok(),
        end_to_end: [Some(Some(0.36)), Some(Some(0.36)), Some(Some(rounded(0.58 + joint.map_or(0.0, |(_, ohm)| ohm))))],
        board_check: [None; 2],
        points,
    };
    diagnose(&case).unwrap().explanations
}

/// As an instrument shows it.
fn rounded(ohm: f64) -> f64 {
    (ohm * 100.0).round() / 100.0
}

fn first(more: [[f64; 2]; 2]) -> Vec<Kind> {
    let all = ring(more);
    assert!(all[0].share > 0.5, "{all:?}");
    all.into_iter().next().unwrap().kinds
}

#[test]
fn a_spur_is_behind_both_outlets_and_named_once() {
    // Eight metres: 8 × 14.82 and 8 × 19.51 mΩ.
    let rise = [8.0 * 0.014_82, 8.0 * 0.019_51];
    assert_eq!(first([rise, rise]), [Kind::Spur { points: vec!["S3".into()] }]);
}

#[test]
fn a_contact_is_of_the_outlet_that_shows_it_or_of_the_accessory() {
    let none = [0.0, 0.0];
    let poor = [0.30, 0.30];
    assert_eq!(first([poor, none]), [Kind::Contact { at: "S3/1".into() }]);
    assert_eq!(first([none, poor]), [Kind::Contact { at: "S3/2".into() }]);
    assert_eq!(first([poor, poor]), [Kind::Contact { at: "S3".into() }]);
    assert_eq!(first([none, none]), []);
}

#[test]
fn a_joint_behind_a_twin_is_placed_after_the_twin() {
    let joint = 0.60;
    let all = explained([[0.0; 2]; 2], Some((21.0, joint)));
    let [Kind::HighResistanceJoint { conductor: Core::E, after }] = &all[0].kinds[..] else { panic!("{:?}", all[0]) };
    assert_eq!(after.as_deref(), Some("S3"), "{:?}", all[0]);
}

#[test]
fn both_outlets_of_a_job_are_read_as_one_place() {
    use proof_bench::demo;
    use proof_job::installation::PointId;
    use proof_job::reading::{CurrentReadings, Key, Place, Reading, Test, Value};
    use proof_judge::explanation::circuit::case_of;
    let mut job = demo::jobs().swap_remove(0);
    let ring = job.installation.circuits[2].id;
    let model = job.readings.iter().find(|one| one.key.test == Test::R1R2).unwrap().clone();
    let key = Key::on_circuit(ring, Place::Outlet { point: PointId(2), outlet: 2 }, Test::R1R2);
    job.readings.push(Reading {
        id: uuid::Uuid::from_u128(9),
        key,
        value: Value::Number(rust_decimal::dec!(0.24)),
        ..model
    });
    job.installation.circuits[2].points[4].name = "5/1".into();
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let case = case_of(&job.installation, &job.installation.circuits[2], &settled).unwrap();
    let ids: Vec<&str> = case.points.iter().map(|point| point.id.as_str()).collect();
    assert_eq!(ids, ["1", "2/1", "3", "4", "5/1 (no. 5)", "6", "7", "8", "9", "5a", "2/2"]);
    assert_eq!(case.points[9].spur_from.as_deref(), Some("5/1 (no. 5)"));
    assert!(diagnose(&case).is_ok());
}
