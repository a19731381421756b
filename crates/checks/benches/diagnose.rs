//! `diagnose` of a 12-point ring (budget 20 ms) and of a 60-point ring (250 ms): healthy, with one
//! fault and with two.

use criterion::{Criterion, criterion_group, criterion_main};
use proof_bench::meter::Meter;
use proof_physics::diagnosis::{Case, ReadPoint, diagnose};
use proof_physics::network::circuit::expect;
use proof_physics::network::description::{Description, Fault, OhmPerMetre, Point, SegmentName};
use proof_standard::conductor::Core;
use proof_standard::quantity::{Celsius, Metres, Ohms, SquareMillimetres, approximate};
use proof_standard::shape::Shape;

fn case(points: usize, faults: Vec<Fault>) -> Case {
    let mm2 = SquareMillimetres::literal;
    let cores =
        OhmPerMetre::copper([mm2(2.5), mm2(2.5), mm2(1.5)], Celsius::literal(20.0)).expect("sizes of the table");
    let leg = |n: usize| 2.0 + (n % 5) as f64;
    let description = Description {
        shape: Shape::Ring,
        cores,
        points: (0..points)
            .map(|n| Point { id: format!("p{n}"), spur_from: None, leg: Metres::literal(leg(n)) })
            .collect(),
        return_leg: Some(Metres::literal(5.0)),
        faults,
    };
    let read = expect(&description).expect("a sound description");
    let mut meter = Meter::new(7);
    let mut shown = |ohm: Option<f64>| Some(ohm.map(|ohm| approximate(meter.probed(ohm))));
    let ends = read.end_to_end.expect("a ring");
    Case {
        shape: Shape::Ring,
        cores,
        cpc_mm2: mm2(1.5),
        length: Metres::new((0..points).map(leg).sum::<f64>() + 5.0).ok(),
        end_to_end: [ends.r1, ends.rn, ends.r2].map(&mut shown),
        board_check: [None; 2],
        points: read
            .points
            .iter()
            .enumerate()
            .map(|(n, two)| ReadPoint {
                id: format!("p{n}"),
                spur_from: None,
                leg: None,
                r1_rn: shown(two.r1_rn),
                r1_r2: shown(two.r1_r2),
            })
            .collect(),
    }
}

fn benches(c: &mut Criterion) {
    let joint = |at: &str, conductor, ohm| Fault::HighResistanceJoint {
        conductor,
        segment: SegmentName::After(at.into()),
        ohm: Ohms::literal(ohm),
    };
    for points in [12, 60] {
        let two = vec![joint("p3", Core::E, 0.42), joint("p5", Core::N, 0.19)];
        for (name, faults) in [("healthy", vec![]), ("one joint", two[..1].to_vec()), ("two joints", two)] {
            let case = case(points, faults);
            c.bench_function(&format!("diagnose, ring of {points} points, {name}"), |b| b.iter(|| diagnose(&case)));
        }
    }
}

criterion_group!(all, benches);
criterion_main!(all);
