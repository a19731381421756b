//! Search over 10,000 jobs (budget 20 ms).

use criterion::{Criterion, criterion_group, criterion_main};
use proof_bench::demo;
use proof_store::Store;
use uuid::Uuid;

fn benches(c: &mut Criterion) {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("many.db");
    let store = Store::open(&path).expect("a database");
    let mut job = demo::jobs().remove(1);
    job.readings.clear();
    job.events.clear();
    job.id = Uuid::from_u128(0);
    job.reference = "Q-0".into();
    store.create_job(&job).expect("stored");
    // The rest in one statement: the benchmark is of the search, not of the insert.
    let bare = rusqlite::Connection::open(&path).expect("a connection");
    bare.execute_batch(
        "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 10000)
         INSERT INTO jobs (id, reference, title, client, site, created_at, description)
         SELECT printf('00000000-0000-0000-0000-%012d', i), 'Q-' || i, title || ' ' || i, client, site, created_at, description FROM n, jobs",
    )
    .expect("filled");
    for query in ["", "granary", "flat 9876", "nothing like it"] {
        c.bench_function(&format!("search “{query}” in 10,000 jobs"), |b| b.iter(|| store.jobs(query, 100)));
    }
}

criterion_group!(all, benches);
criterion_main!(all);
