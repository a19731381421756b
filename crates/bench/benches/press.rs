//! A press of the test button on a board with 40 points: budget 15 ms in the server, of which this is the working.

use criterion::{Criterion, criterion_group, criterion_main};
use proof_bench::practice::Exercise;
use proof_bench::practice::made::pose;
use proof_bench::rig::act::Act;
use proof_bench::rig::bench::Bench;
use proof_bench::rig::stand::RigState;
use std::hint::black_box;

/// Ways until there are 40 points.
fn large() -> Option<Bench> {
    let mut rig = pose(Exercise::Insulation, 1)?.bench.rig;
    let mut seed = 2;
    while rig.ways.iter().map(|way| way.cable.points.len()).sum::<usize>() < 40 {
        rig.ways.extend(pose(Exercise::Insulation, seed)?.bench.rig.ways);
        seed += 1;
    }
    let stand = RigState::isolated(&rig);
    Some(Bench::new(rig, stand, 1).proved())
}

fn press(c: &mut Criterion) {
    let Some(bench) = large() else { return };
    let acts = |texts: &[&str]| -> Vec<Act> { texts.iter().filter_map(|text| text.parse().ok()).collect() };
    let ready = |texts: &[&str]| {
        let mut bench = bench.clone();
        for act in acts(texts) {
            bench.act(act);
        }
        bench
    };
    let low = ready(&["knob low", "link w1t1-L bar-E on", "probe 1 w1p3-L", "probe 2 w1p3-E"]);
    let insulation = ready(&["knob ir500", "probe 1 bar-L", "probe 2 bar-E"]);
    for (name, ready) in [("low ohm", low), ("insulation", insulation)] {
        c.bench_function(&format!("press at 40 points, {name}"), |b| {
            b.iter_batched(
                || ready.clone(),
                |mut bench| {
                    bench.act(Act::Press);
                    black_box(bench.shown)
                },
                criterion::BatchSize::SmallInput,
            )
        });
    }
}

criterion_group!(benches, press);
criterion_main!(benches);
