//! An instrument joined to a run: two hundred readings with the line cut ten times and both programs killed twice: none
//! lost, none doubled, each in the card that was at hand.

use crate::program::served::{Served, post, serve};
use jiff::Timestamp;
use proof_bench::demo;
use proof_bench::simulated_instrument::job_messages;
use proof_job::installation::Circuit;
use proof_job::job::{Job, MadeAs};
use proof_job::reading::message::Message;
use proof_job::reading::{Key, Origin};
use proof_job::site::EventKind;
use proof_store::Store;
use proof_work::actions::{Action, Actor, CardAction, CardKind, Runs, record};
use proof_work::plan::run::{Need, Order};
use std::collections::{HashMap, HashSet};
use std::io::{Read, Write};
use std::net::{SocketAddr, TcpListener, TcpStream};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};
use uuid::Uuid;

const READINGS: usize = 200;
/// Before these readings something is done to the line or to a program.
const CUTS: [usize; 10] = [3, 21, 22, 57, 80, 95, 120, 144, 171, 199];
const PROGRAM_KILLED: [usize; 2] = [40, 130];
const INSTRUMENT_KILLED: [usize; 2] = [66, 160];

/// A job isolated and proved dead, with nothing read yet.
fn practice_job() -> Job {
    let mut job = demo::jobs().remove(0);
    job.made_as = MadeAs::Practice;
    job.readings.clear();
    job.events.retain(|event| matches!(event.kind, EventKind::Isolated { .. } | EventKind::ProvedDead { .. }));
    job.events.truncate(2);
    job.installation.boards[0].parallel_earth = Some(false);
    // The same circuits again, until there is enough to read dead.
    for floor in 1..4_usize {
        let again: Vec<Circuit> = job.installation.circuits.iter().filter(|one| one.way.len() < 2).cloned().collect();
        job.installation.circuits.extend(again.into_iter().map(|circuit| Circuit {
            id: Uuid::new_v5(&circuit.id, &[floor as u8]),
            way: format!("{floor}{}", circuit.way),
            ..circuit
        }));
    }
    job
}

/// A line between the program and the instrument that can be cut.
struct Line {
    address: SocketAddr,
    open: Arc<Mutex<Vec<TcpStream>>>,
    calls: Arc<AtomicU64>,
}

impl Line {
    fn to(instrument: SocketAddr) -> Self {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let address = listener.local_addr().unwrap();
        let (open, calls): (Arc<Mutex<Vec<TcpStream>>>, Arc<AtomicU64>) = Default::default();
        let (held, counted) = (open.clone(), calls.clone());
        std::thread::spawn(move || {
            for call in listener.incoming() {
                let call = call.unwrap();
                let Ok(other) = TcpStream::connect(instrument) else { continue };
                counted.fetch_add(1, Ordering::SeqCst);
                for (from, to) in [(&call, &other), (&other, &call)] {
                    let (mut from, mut to) = (from.try_clone().unwrap(), to.try_clone().unwrap());
                    std::thread::spawn(move || {
                        let mut bytes = [0; 256];
                        while let Ok(count @ 1..) = from.read(&mut bytes) {
                            if to.write_all(&bytes[..count]).is_err() {
                                break;
                            }
                        }
                        let _ = to.shutdown(std::net::Shutdown::Both);
                    });
                }
                held.lock().unwrap().extend([call, other]);
            }
        });
        Self { address, open, calls }
    }

    fn cut(&self) {
        for end in self.open.lock().unwrap().drain(..) {
            let _ = end.shutdown(std::net::Shutdown::Both);
        }
    }
}

struct StandIn(Child);

impl StandIn {
    fn on(address: SocketAddr, memory: &Path) -> Self {
        let child = Command::new(env!("CARGO_BIN_EXE_proof"))
            .args(["instrument", "--as", "MFT-2", "--listen", &address.to_string(), "--memory"])
            .arg(memory)
            .stdin(Stdio::piped())
            .stdout(Stdio::null())
            .spawn()
            .unwrap();
        Self(child)
    }

    /// Presses its button; a press that never reached its memory made no reading.
    fn press(&mut self, message: &Message) {
        let mut line = serde_json::to_vec(message).unwrap();
        line.push(b'\n');
        let _ = self.0.stdin.as_mut().unwrap().write_all(&line);
    }

    /// Goes as it goes out of hand: killed.
    fn killed(self) {
        drop(self);
    }
}

impl Drop for StandIn {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

fn free() -> SocketAddr {
    TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap()
}

/// Does what the card at hand says until its reading can be taken; which reading that is.
fn prepared(store: &Store, job: Uuid) -> Key {
    for _ in 0..12 {
        let head = store.job(job).unwrap();
        let settled = head.job.settled();
        let runs = Runs::for_job(&head.job, &settled, Order::default());
        let planned = runs.current_card(None, None).unwrap();
        if runs.is_prepared(planned) {
            return planned.step.key.clone();
        }
        let open = runs.dead.open().iter().map(|item| item.item).collect();
        let cards = [CardKind::MakeAndNull, CardKind::Null(None), CardKind::Undo(open)];
        let undo_first = runs.dead.needs(planned).iter().any(|need| matches!(need, Need::Undo(_)));
        for card in cards.into_iter().skip(if undo_first { 2 } else { 0 }).take(if undo_first { 1 } else { 2 }) {
            let hand = Actor::new(Uuid::new_v4(), "Idris Kell", Timestamp::now());
            let act = Action::Card(CardAction { asked: None, order: Order::default(), card });
            store.record(job, |job| record(job, &act, &hand)).unwrap().unwrap();
        }
    }
    panic!("the card at hand cannot be prepared");
}

fn join(served: &Served, job: &Job, line: &Line) {
    let instrument = job.instruments.iter().find(|one| one.reference == "MFT-2").unwrap().id;
    let (sent, instrument, address) = (Uuid::new_v4().to_string(), instrument.to_string(), line.address.to_string());
    let form = [("sent", sent.as_str()), ("address", &address), ("joined", &instrument), ("by", "Idris Kell")];
    let (status, text) = post(&served.address, &format!("/jobs/{}/run/join", job.id), &form).unwrap();
    assert_eq!(status, 303, "{text}");
}

#[test]
fn none_is_lost_and_none_is_doubled() {
    let folder = tempfile::tempdir().unwrap();
    let (db, memory) = (folder.path().join("feed.db"), folder.path().join("instrument.jsonl"));
    let job = practice_job();
    let store = Store::open(&db).unwrap();
    store.create_job(&job).unwrap();
    let simulated: HashMap<Key, Message> = {
        let settled = job.settled();
        let runs = Runs::for_job(&job, &settled, Order::default());
        let readings = job_messages(&job, "MFT-2", 7);
        let named = |message: &Message| message.at.clone().unwrap().step.unwrap();
        let all = runs.dead.planned.iter();
        all.filter_map(|planned| {
            let circuit = planned.circuit.and_then(|id| job.installation.circuit(id)).map(|one| one.way.clone());
            let message = readings
                .iter()
                .find(|message| named(message) == planned.step.slug && message.at.as_ref().unwrap().way == circuit)?;
            Some((planned.step.key.clone(), message.clone()))
        })
        .collect()
    };
    assert!(simulated.len() > READINGS, "{} are simulated", simulated.len());
    let instrument = free();
    let line = Line::to(instrument);
    let mut stand_in = StandIn::on(instrument, &memory);
    let mut served = serve(&db);
    join(&served, &job, &line);
    let mut pressed: Vec<(Uuid, Key)> = Vec::new();
    while pressed.len() < READINGS {
        let number = pressed.len();
        let key = prepared(&store, job.id);
        let Some(message) = simulated.get(&key) else { panic!("{key:?} is not simulated") };
        // Read again where the run asks for it again.
        let message = Message { id: Uuid::new_v4(), ..message.clone() };
        stand_in.press(&message);
        if CUTS.contains(&number) {
            std::thread::sleep(Duration::from_millis(3 * (number as u64 % 7)));
            line.cut();
        }
        if PROGRAM_KILLED.contains(&number) {
            std::thread::sleep(Duration::from_millis(number as u64 % 11));
            served.child.kill().unwrap();
            served.child.wait().unwrap();
            served = serve(&db);
        }
        if INSTRUMENT_KILLED.contains(&number) {
            std::thread::sleep(Duration::from_millis(number as u64 % 5));
            stand_in.killed();
            stand_in = StandIn::on(instrument, &memory);
            stand_in.press(&message);
        }
        let since = Instant::now();
        while store.reading(job.id, message.id).is_err() {
            assert!(
                since.elapsed() < Duration::from_secs(20),
                "reading {number} never came: {message:?}, {:?}",
                store.feed_of(job.id).unwrap().map(|feed| store.received(feed.id, 3))
            );
            std::thread::sleep(Duration::from_millis(2));
        }
        pressed.push((message.id, key));
    }
    let stored = store.job(job.id).unwrap().job.readings.clone();
    let ids: Vec<(Uuid, Key)> = stored.iter().map(|reading| (reading.id, reading.key.clone())).collect();
    assert_eq!(ids, pressed, "each once, in order, in the card that was at hand");
    assert!(stored.iter().all(|one| one.context.simulated && one.context.origin == Origin::Instrument));
    let distinct: HashSet<&Key> = pressed.iter().map(|(_, key)| key).collect();
    println!(
        "{READINGS} readings of {} kinds of place, {} calls, {} cuts, 4 kills",
        distinct.len(),
        line.calls.load(Ordering::SeqCst),
        CUTS.len()
    );
    assert!(line.calls.load(Ordering::SeqCst) >= 14, "every cut and kill was called again after");
    let feed = store.feed_of(job.id).unwrap().unwrap();
    assert_eq!(store.came_in(feed.id).unwrap(), proof_store::Counts { taken: READINGS as u64, refused: 0 });
    // All of it once more, as a memory that lost its answers would send it: nothing is stored again.
    stand_in.killed();
    let kept = std::fs::read_to_string(&memory).unwrap();
    let made: Vec<&str> = kept.lines().filter(|line| line.starts_with("{\"made\"")).collect();
    let made = made.join("\n") + "\n";
    assert_eq!(made.lines().count(), READINGS);
    std::fs::write(&memory, made).unwrap();
    let stand_in = StandIn::on(instrument, &memory);
    let since = Instant::now();
    while std::fs::read_to_string(&memory).unwrap().lines().filter(|line| line.starts_with("{\"answered\"")).count()
        < READINGS
    {
        assert!(since.elapsed() < Duration::from_secs(30), "not all are answered again");
        std::thread::sleep(Duration::from_millis(20));
    }
    assert_eq!(store.job(job.id).unwrap().job.readings, stored);
    stand_in.killed();
    served.child.kill().unwrap();
    served.child.wait().unwrap();
}
