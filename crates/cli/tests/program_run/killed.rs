//! SIGKILL in mid-request under several writers: no reading that was answered is lost, none is
//! half-stored.

use crate::program::served::serve;
use proof_bench::demo;
use proof_job::reading::entry::parse;
use proof_store::Store;
use proof_work::plan::sequence::circuit_steps;
use std::collections::HashSet;
use std::io::{Read, Write};
use std::net::TcpStream;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex};
use std::time::Duration;
use uuid::Uuid;

const ROUNDS: u64 = 20;
const WRITERS: usize = 4;

/// Posts one reading; `Some(status)` when an answer came.
fn post(address: &str, path: &str, id: Uuid, typed: &str) -> Option<u16> {
    let body = format!("step=r2-p1&id={id}&typed={typed}&entered_by=Idris+Kell");
    let mut stream = TcpStream::connect(address).ok()?;
    stream.set_read_timeout(Some(Duration::from_secs(5))).ok()?;
    write!(
        stream,
        "POST {path} HTTP/1.1\r\nHost: {address}\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: {}\r\nConnection: close\r\n\r\n{body}",
        body.len()
    )
    .ok()?;
    let mut answer = [0_u8; 64];
    let read = stream.read(&mut answer).ok()?;
    let text = std::str::from_utf8(&answer[..read]).ok()?;
    text.strip_prefix("HTTP/1.1 ")?.get(..3)?.parse().ok()
}

#[test]
fn what_was_answered_is_there_after_every_kill() {
    killed(ROUNDS);
}

/// The figure of docs/HOLDS.md.
#[test]
#[ignore = "a minute: for the record"]
fn a_hundred_kills() {
    killed(100);
}

fn killed(rounds: u64) {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("killed.db");
    let job = demo::jobs().remove(1);
    let circuit = job.installation.circuits.iter().find(|circuit| circuit.way == "2").unwrap().clone();
    let step = circuit_steps(&job.installation, &circuit).into_iter().find(|step| step.slug == "r2-p1").unwrap();
    let before = job.readings.len();
    {
        let store = Store::open(&db).unwrap();
        store.create_job(&job).unwrap();
        let levels = store.synchronous_of_every_connection().unwrap();
        assert!(
            levels.len() > 1 && levels.iter().all(|level| *level == 2),
            "synchronous=FULL on every pooled connection: {levels:?}"
        );
    }
    let path = format!("/jobs/{}/circuits/{}/readings", job.id, circuit.id);
    let answered: Arc<Mutex<HashSet<Uuid>>> = Arc::default();
    let sent: Arc<Mutex<HashSet<Uuid>>> = Arc::default();
    let mut cut = 0;
    for round in 0..rounds {
        let mut served = serve(&db);
        let address = served.address.clone();
        let stop = Arc::new(AtomicBool::new(false));
        let writers: Vec<_> = (0..WRITERS)
            .map(|writer| {
                let (address, path, stop) = (address.clone(), path.clone(), stop.clone());
                let (answered, sent) = (answered.clone(), sent.clone());
                std::thread::spawn(move || {
                    let mut cut = 0;
                    while !stop.load(Ordering::Relaxed) {
                        let id = Uuid::new_v4();
                        sent.lock().unwrap().insert(id);
                        match post(&address, &path, id, &format!("0.{writer}7")) {
                            Some(303) => {
                                answered.lock().unwrap().insert(id);
                            }
                            Some(other) => panic!("status {other}"),
                            None => cut += 1,
                        }
                    }
                    cut
                })
            })
            .collect();
        // Long enough for some to be answered, and never the same moment of a request.
        std::thread::sleep(Duration::from_millis(120 + 17 * (round % 7)));
        served.child.kill().unwrap();
        served.child.wait().unwrap();
        stop.store(true, Ordering::Relaxed);
        for writer in writers {
            cut += writer.join().unwrap();
        }
        let stored = Store::open(&db).unwrap().job(job.id).unwrap().job.readings.clone();
        let ids: HashSet<Uuid> = stored.iter().map(|reading| reading.id).collect();
        assert_eq!(ids.len(), stored.len());
        let answered = answered.lock().unwrap();
        let lost: Vec<_> = answered.difference(&ids).collect();
        assert!(lost.is_empty(), "round {round}: {lost:?} were answered and are lost");
        // None is half-stored: every one beyond the demo's was sent, and reads back as what was typed.
        let sent = sent.lock().unwrap();
        for reading in &stored[before..] {
            assert!(sent.contains(&reading.id));
            assert_eq!(reading.key, step.key);
            assert_eq!(parse(&reading.typed, step.field, rust_decimal::dec!(999)).as_ref(), Ok(&reading.value));
        }
    }
    let answered = answered.lock().unwrap().len();
    println!("{rounds} kills: {answered} answered, none lost; {cut} cut");
    assert!(answered > rounds as usize, "only {answered} answered: the test proved little");
    assert!(cut >= rounds as usize / 2, "only {cut} requests were cut: the kill came between requests");
}
