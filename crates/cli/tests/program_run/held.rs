//! For the record in docs/HOLDS.md, not of the check: many clients at once, a full disk, a clock that is wrong.
//! `cargo test --release -p proof --test held --test killed -- --ignored --nocapture`.

use crate::program::served::{get, post, serve};
use proof_bench::demo;
use proof_job::site::{Alteration, BoardState};
use proof_store::Store;
use proof_work::actions::{Action, Actor, record};
use std::io::{BufRead, BufReader};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};
use uuid::Uuid;

fn shares(mut times: Vec<Duration>) -> String {
    times.sort_unstable();
    let at = |share: f64| times[((times.len() - 1) as f64 * share) as usize].as_secs_f64() * 1000.0;
    format!("p50 {:.1} ms, p99 {:.1} ms, longest {:.1} ms", at(0.5), at(0.99), at(1.0))
}

#[test]
#[ignore = "for the record"]
fn sixteen_clients_at_once() {
    const CLIENTS: usize = 16;
    const EACH: usize = 60;
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("many.db");
    let store = Store::open(&db).unwrap();
    let jobs = demo::jobs();
    for job in &jobs {
        store.create_job(job).unwrap();
    }
    let served = serve(&db);
    let job = &jobs[1];
    let circuit = job.installation.circuits.iter().find(|circuit| circuit.way == "2").unwrap().id;
    let path = format!("/jobs/{}/circuits/{circuit}/readings", job.id);
    let began = Instant::now();
    let times: Vec<Duration> = std::thread::scope(|scope| {
        let threads: Vec<_> = (0..CLIENTS)
            .map(|_| {
                scope.spawn(|| {
                    let mut times = Vec::new();
                    for number in 0..EACH {
                        let id = Uuid::new_v4().to_string();
                        let form = [("step", "r2-p1"), ("id", &id), ("typed", "0.27"), ("entered_by", "Idris Kell")];
                        let began = Instant::now();
                        assert_eq!(post(&served.address, &path, &form).unwrap().0, 303);
                        times.push(began.elapsed());
                        if number % 10 == 0 {
                            assert_eq!(get(&served.address, &format!("/jobs/{}", job.id)).unwrap().0, 200);
                        }
                    }
                    times
                })
            })
            .collect();
        threads.into_iter().flat_map(|thread| thread.join().unwrap()).collect()
    });
    let stored = Store::open(&db).unwrap().job(job.id).unwrap().job.readings.len() - job.readings.len();
    let seconds = began.elapsed().as_secs_f64();
    println!("{CLIENTS} clients, {stored} readings in {seconds:.1} s: {}", shares(times));
    assert_eq!(stored, CLIENTS * EACH);
    assert!(Store::open(&db).unwrap().altered().unwrap().is_empty());
}

/// A file that cannot grow: what is refused is told, nothing that was answered is lost, and with room again it goes on.
#[test]
#[ignore = "for the record"]
fn a_disk_that_is_full() {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("full.db");
    let job = demo::jobs().swap_remove(1);
    Store::open(&db).unwrap().create_job(&job).unwrap();
    let blocks = std::fs::metadata(&db).unwrap().len() / 1024 + 300;
    // A limit of the shell's on every file that is written, instead of a small disk.
    let mut child = Command::new("bash")
        .args(["-c", &format!("trap '' XFSZ; ulimit -f {blocks}; exec \"$0\" serve --db \"$1\" --listen 127.0.0.1:0")])
        .args([env!("CARGO_BIN_EXE_proof"), db.to_str().unwrap()])
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let mut lines = BufReader::new(child.stdout.take().unwrap()).lines();
    let address =
        lines.find_map(|line| Some(line.ok()?.split_once("http://")?.1.split('/').next()?.to_owned())).unwrap();
    let circuit = job.installation.circuits.iter().find(|circuit| circuit.way == "2").unwrap().id;
    let path = format!("/jobs/{}/circuits/{circuit}/readings", job.id);
    let read = |address: &str| {
        let id = Uuid::new_v4().to_string();
        let form = [("step", "r2-p1"), ("id", &id), ("typed", "0.27"), ("entered_by", "Idris Kell")];
        post(address, &path, &form).map(|(status, _)| status)
    };
    let (mut answered, mut refused) = (0, 0);
    for _ in 0..3000 {
        match read(&address) {
            Some(303) => answered += 1,
            Some(500) => refused += 1,
            other => panic!("{other:?}"),
        }
        if refused >= 5 {
            break;
        }
    }
    assert!(refused >= 5, "the disk was never full: {answered} answered");
    assert_eq!(get(&address, &format!("/jobs/{}", job.id)).unwrap().0, 200, "pages are shown all the same");
    child.kill().unwrap();
    child.wait().unwrap();
    let store = Store::open(&db).unwrap();
    let stored = store.job(job.id).unwrap().job.readings.len() - job.readings.len();
    println!("disk full: {answered} answered, {refused} refused, {stored} stored");
    assert_eq!(stored, answered);
    assert!(store.altered().unwrap().is_empty());
    drop(store);
    let served = serve(&db);
    assert_eq!(read(&served.address), Some(303), "with room again it goes on");
}

/// A clock that is put back, and one that is put forward: the log keeps its order, and what follows from it follows
/// from the order and not from the times.
#[test]
#[ignore = "for the record"]
fn a_clock_that_is_wrong() {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("clock.db")).unwrap();
    let job = demo::jobs().swap_remove(1);
    store.create_job(&job).unwrap();
    let board = job.installation.boards[0].id;
    let now = jiff::Timestamp::now();
    let days = |days: i64| now + jiff::SignedDuration::from_hours(24 * days);
    for (at, alteration) in [(0, Alteration::LampOut), (-400, Alteration::LampOut), (3000, Alteration::LampOut)] {
        let action = Action::Alter { board, circuit: None, alteration, note: format!("{at} days") };
        let hand = Actor::new(Uuid::new_v4(), "Idris Kell", days(at));
        store.record(job.id, |job| record(job, &action, &hand)).unwrap().unwrap();
    }
    let log = store.job(job.id).unwrap().job.clone();
    let notes: Vec<String> =
        log.site().open().iter().map(|item| item.note.to_owned()).filter(|n| n.ends_with("days")).collect();
    assert_eq!(notes, ["0 days", "-400 days", "3000 days"]);
    assert_eq!(log.site().board(board).0, BoardState::ProvedDead);
    let file = proof_paper::job_file::write(&log, &proof_job::installation::Documents::new()).unwrap();
    assert_eq!(proof_paper::job_file::read(&file).unwrap().job, log);
    println!("clock: 400 days back and 3,000 forward, the log keeps its order");
}
