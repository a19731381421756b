//! The plan of a job of 100 rings, half of them read: what is in hand, what it needs, what both
//! orders cost. A run page does all of it once.

use criterion::{Criterion, criterion_group, criterion_main};
use proof_bench::demo;
use proof_job::reading::CurrentReadings;
use proof_work::plan::run::{Order, Run};
use std::hint::black_box;

fn run(c: &mut Criterion) {
    let mut job = demo::large(100);
    let half = job.readings.len() / 2;
    job.readings.truncate(half);
    c.bench_function("run of 100 rings, half read", |b| {
        b.iter(|| {
            let settled = CurrentReadings::new(&job.readings, &job.events);
            let run = Run::new(&job, &settled, Order::CircuitByCircuit);
            let needs = run.current_card(None).map(|planned| run.needs(planned).len());
            let costs = Order::ALL.map(|order| Run::new(&job, &settled, order).counts(true).board_visits);
            black_box((needs, costs))
        });
    });
}

criterion_group!(benches, run);
criterion_main!(benches);
