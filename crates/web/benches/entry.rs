//! One reading stored and the changed parts rendered, and any page, in a job of 100 circuits and
//! 3,000 readings (budgets: p99 15 ms and 40 ms in the server). Prints p50 and p99 beside criterion's mean.

use actix_web::http::header::{ContentType, HOST};
use actix_web::test::{TestRequest, call_service, init_service, read_body};
use criterion::{Criterion, criterion_group, criterion_main};
use proof_bench::demo;
use proof_job::site::EventKind;
use proof_store::Store;
use proof_web::{Shared, application};
use std::time::{Duration, Instant};
use uuid::Uuid;

const PORT: u16 = 7671;

fn percentiles(name: &str, budget_ms: f64, mut times: Vec<Duration>) {
    times.sort_unstable();
    let at = |share: f64| times[((times.len() - 1) as f64 * share) as usize].as_secs_f64() * 1000.0;
    println!(
        "{name}: p50 {:.2} ms, p99 {:.2} ms, {:.2} of the budget of {budget_ms} ms",
        at(0.5),
        at(0.99),
        at(0.99) / budget_ms
    );
}

fn benches(c: &mut Criterion) {
    let folder = tempfile::tempdir().expect("a folder");
    let store = Store::open(&folder.path().join("large.db")).expect("a database");
    let mut job = demo::large(100);
    // Dead again, as it is while it is read dead.
    job.events.retain(|event| !matches!(event.kind, EventKind::Energised { .. }));
    store.create_job(&job).expect("stored");
    let circuit = job.installation.circuits[41].id;
    let board = job.installation.boards[0].id;
    let base = format!("/jobs/{}", job.id);
    let system = actix_web::rt::System::new();
    let service = system.block_on(init_service(application(Shared::new(store), PORT)));
    let enter = || async {
        let body = format!("step=r2-p5&id={}&typed=0.31&entered_by=Idris+Kell", Uuid::new_v4());
        let request = TestRequest::post()
            .uri(&format!("{base}/circuits/{circuit}/readings"))
            .insert_header((HOST, format!("127.0.0.1:{PORT}")))
            .insert_header(("hx-request", "true"))
            .insert_header(ContentType::form_url_encoded())
            .set_payload(body)
            .to_request();
        let response = call_service(&service, request).await;
        assert_eq!(response.status(), 200);
        read_body(response).await
    };
    let timed: Vec<Duration> = (0..400)
        .map(|_| {
            let began = Instant::now();
            system.block_on(enter());
            began.elapsed()
        })
        .collect();
    percentiles("one reading stored and rendered", 15.0, timed);
    c.bench_function("one reading stored and rendered", |b| b.iter(|| system.block_on(enter())));
    for (name, path) in [
        ("job", base.clone()),
        ("board", format!("{base}/boards/{board}")),
        ("circuit", format!("{base}/circuits/{circuit}")),
        ("origin", format!("{base}/origin")),
        ("particulars", format!("{base}/particulars")),
        ("review", format!("{base}/review")),
        ("certificate", format!("{base}/certificate")),
        ("job list", "/".to_owned()),
    ] {
        let get = || async {
            let request = TestRequest::get().uri(&path).insert_header((HOST, format!("127.0.0.1:{PORT}"))).to_request();
            let response = call_service(&service, request).await;
            assert_eq!(response.status(), 200);
            read_body(response).await
        };
        let timed: Vec<Duration> = (0..150)
            .map(|_| {
                let began = Instant::now();
                system.block_on(get());
                began.elapsed()
            })
            .collect();
        percentiles(&format!("page, {name}"), 40.0, timed);
    }
}

criterion_group!(all, benches);
criterion_main!(all);
