//! `expect` of a 100-point ring (budget 1 ms in-process), and the findings of a large job (5 ms).

use criterion::{Criterion, criterion_group, criterion_main};
use proof_bench::demo;
use proof_physics::network::circuit::expect;
use proof_physics::network::description::{Description, OhmPerMetre, Point};
use proof_standard::quantity::{Celsius, Metres, SquareMillimetres};
use proof_standard::shape::Shape;
use proof_work::review::review;

fn ring(points: usize) -> Description {
    let mm2 = SquareMillimetres::literal;
    Description {
        shape: Shape::Ring,
        cores: OhmPerMetre::copper([mm2(2.5), mm2(2.5), mm2(1.5)], Celsius::literal(20.0)).expect("sizes of the table"),
        points: (0..points)
            .map(|n| Point { id: format!("p{n}"), spur_from: None, leg: Metres::literal(1.0 + (n % 7) as f64) })
            .collect(),
        return_leg: Some(Metres::literal(5.0)),
        faults: Vec::new(),
    }
}

fn benches(c: &mut Criterion) {
    for points in [12, 100, 500] {
        let ring = ring(points);
        c.bench_function(&format!("expect, ring of {points} points"), |b| b.iter(|| expect(&ring)));
    }
    let job = demo::large(100);
    assert!(job.readings.len() >= 3000);
    c.bench_function("findings, 100 circuits and 3000 readings", |b| b.iter(|| review((&job).into())));
}

criterion_group!(all, benches);
criterion_main!(all);
