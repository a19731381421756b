//! The certificate of 60 circuits as PDF (budget 400 ms, warm).

use criterion::{Criterion, criterion_group, criterion_main};
use jiff::Timestamp;
use proof_core::bench::demo;
use proof_core::certificate::draw_up;
use proof_paper::certificate::{Copy, pdf};

fn benches(c: &mut Criterion) {
    let certificate = draw_up(&demo::large(60), "LARGE-C1", None, Vec::new(), Timestamp::UNIX_EPOCH);
    c.bench_function("PDF, 60 circuits", |b| b.iter(|| pdf(&certificate, Copy::Issued("00"))));
}

criterion_group!(all, benches);
criterion_main!(all);
