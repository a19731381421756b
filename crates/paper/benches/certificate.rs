//! The certificate of 60 circuits as PDF, with the job inside, signed (budget 400 ms, warm).

use criterion::{Criterion, criterion_group, criterion_main};
use jiff::Timestamp;
use proof_bench::demo;
use proof_job::installation::Documents;
use proof_paper::sealed::papers;
use proof_seal::{FirmKey, Issued};
use proof_work::certificate::{Application, Form, prepare};

fn benches(c: &mut Criterion) {
    let job = demo::large(60);
    let certificate = prepare(&job, Application::draft(&job, Form::Installation, Timestamp::UNIX_EPOCH));
    let issued = Issued::freeze(&certificate).expect("it serialises");
    let key = FirmKey::from_seed(&[7; 32]);
    c.bench_function("PDF, 60 circuits", |b| b.iter(|| papers(&certificate, &issued, &Documents::new(), &key)));
}

criterion_group!(all, benches);
criterion_main!(all);
