//! Two people at one board at the same moment, over two connections to the program: every pair of what can be done,
//! at gaps from nothing to 20 ms. What came of it is what would have come of doing the two in turn, one way round or
//! the other, and the log that is left can be exported and imported.

use crate::program::served::{Served, post, serve};
use proof_bench::demo;
use proof_job::installation::Documents;
use proof_job::job::Job;
use proof_job::site::EventKind;
use proof_store::Store;
use std::collections::HashMap;
use std::sync::Barrier;
use std::time::Duration;
use uuid::Uuid;

/// Every gap up to this many ms is met by some pair.
const LONGEST_GAP_MS: u64 = 20;

/// Gaps tried of each pair and state: one in the check, three in the long one (`./check long`).
fn gaps() -> u64 {
    if std::env::var_os("PROOF_LONG").is_some() { 3 } else { 1 }
}

/// What can be done at a board.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Act {
    Expose,
    Isolate,
    Energise,
    Alter,
    PutBack,
    Read,
    Describe,
    Issue,
    StrikeOut,
    Withdraw,
}

const ACTS: [Act; 10] = [
    Act::Expose,
    Act::Isolate,
    Act::Energise,
    Act::Alter,
    Act::PutBack,
    Act::Read,
    Act::Describe,
    Act::Issue,
    Act::StrikeOut,
    Act::Withdraw,
];

/// How a board stands before the two come.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Before {
    /// As the finished job of the demo is left: energised, everything read.
    Live,
    /// Locked and proved dead, everything read.
    Dead,
    /// The same with an item open.
    Open,
}

/// The same job with every id another, so that one database holds it many times.
fn another(job: &Job, name: &str) -> Job {
    let text = serde_json::to_string(job).unwrap();
    let mut ids: HashMap<String, String> = HashMap::new();
    let mut out = String::with_capacity(text.len());
    let mut at = 0;
    while at < text.len() {
        let id = text.get(at..at + 36).filter(|part| Uuid::try_parse(part).is_ok());
        if let Some(id) = id {
            let new = ids.entry(id.to_owned()).or_insert_with(|| Uuid::new_v4().to_string());
            out.push_str(new);
            at += 36;
        } else {
            let next = text[at..].chars().next().unwrap();
            out.push(next);
            at += next.len_utf8();
        }
    }
    let mut job: Job = serde_json::from_str(&out).unwrap();
    name.clone_into(&mut job.reference);
    job
}

struct Site {
    store: Store,
    served: Served,
    finished: Job,
    count: std::cell::Cell<usize>,
}

impl Site {
    fn did(&self, path: &str, form: &[(&str, &str)]) -> u16 {
        post(&self.served.address, path, form).expect("an answer").0
    }

    /// A job that nobody else touches, as it stands before.
    fn job(&self, before: Before) -> Job {
        let number = self.count.get();
        self.count.set(number + 1);
        let job = another(&self.finished, &format!("R-{number}"));
        self.store.create_job(&job).unwrap();
        let board = format!("/jobs/{}/boards/{}", job.id, job.installation.boards[0].id);
        if before != Before::Live {
            assert_eq!(self.did(&format!("{board}/isolate"), &proved()), 303, "{before:?}");
        }
        if before == Before::Open {
            let link = [("what", "altered"), ("alteration", "lamp_out"), ("note", "way 1"), ("by", "A")];
            assert_eq!(self.did(&format!("{board}/put-back"), &link), 303);
        }
        self.store.job(job.id).unwrap().job.clone()
    }

    fn act(&self, job: &Job, act: Act, by: &str) -> u16 {
        post_act(&self.served.address, job, act, by)
    }

    /// What is left of a job, but for ids and times.
    fn left(&self, job: &Job) -> Left {
        let now = self.store.job(job.id).unwrap();
        let kind = |kind: &EventKind| serde_json::to_value(kind).unwrap()["what"].as_str().unwrap().to_owned();
        let events = now.job.events.iter().map(|event| kind(&event.kind)).collect();
        let certificates = self.store.certificates(job.id).unwrap().len();
        Left { events, readings: now.job.readings.len(), circuits: now.job.installation.circuits.len(), certificates }
    }
}

/// Does one of them over a connection of its own; the status of the answer.
fn post_act(address: &str, job: &Job, act: Act, by: &str) -> u16 {
    let did = |path: &str, form: &[(&str, &str)]| post(address, path, form).expect("an answer").0;
    let base = format!("/jobs/{}", job.id);
    let board = format!("{base}/boards/{}", job.installation.boards[0].id);
    let ring = &job.installation.circuits[2];
    let circuit = format!("{base}/circuits/{}", ring.id);
    let id = Uuid::new_v4().to_string();
    match act {
        Act::Expose => did(&format!("{base}/origin/expose"), &[("by", by)]),
        Act::Isolate => {
            let mut form = proved();
            form[0] = ("by", by);
            did(&format!("{board}/isolate"), &form)
        }
        Act::Energise => {
            let ways: Vec<String> = job.installation.circuits.iter().map(|one| format!("c-{}", one.id)).collect();
            let mut form = vec![("what", "live"), ("by", by), ("covers", "yes")];
            form.extend(ways.iter().map(|way| (way.as_str(), "yes")));
            did(&format!("{board}/energise"), &form)
        }
        Act::Alter => {
            let form = [("what", "altered"), ("alteration", "link"), ("note", "way 3"), ("by", by)];
            did(&format!("{board}/put-back"), &form)
        }
        Act::PutBack => {
            let open = proof_job::site::open_items(&job.events).first().map(|item| item.item.to_string());
            let form = [("what", open.as_deref().unwrap_or("all")), ("seen", "yes"), ("by", by)];
            did(&format!("{board}/put-back"), &form)
        }
        Act::Read => {
            let form = [("step", "r2-p1"), ("id", id.as_str()), ("typed", "0.27"), ("entered_by", by)];
            did(&format!("{circuit}/readings"), &form)
        }
        Act::Describe => {
            let line = format!("{} radial B16 2.5/1.5 12m 3pts N9 E9 'Added by {by}'", 20 + by.len());
            did(
                &format!("{board}/circuits"),
                &[("line", line.as_str()), ("told", (20 + by.len()).to_string().as_str()), ("then", "more")],
            )
        }
        Act::Issue => {
            // The key stays open from the first on: what is raced is the issuing, and not the opening of the key.
            let mut form = vec![("form", "installation"), ("confirm", "yes"), ("passphrase", PASSPHRASE)];
            form.push(("keep_open", "yes"));
            for [name, position] in [
                ["name_design", "position_design"],
                ["name_construction", "position_construction"],
                ["name_inspection", "position_inspection"],
            ] {
                form.extend([(name, by), (position, "Electrician")]);
            }
            did(&format!("{base}/certificate"), &form)
        }
        Act::StrikeOut => {
            let reading = job.readings.iter().rfind(|one| one.key.subject.circuit() == Some(ring.id)).unwrap().id;
            let (reading, reason) = (reading.to_string(), "slipped");
            did(&format!("{circuit}/strike"), &[("reading", &reading), ("reason", reason), ("by", by)])
        }
        Act::Withdraw => did(&format!("{circuit}/withdraw"), &[("by", by), ("reason", "not built")]),
    }
}

#[derive(Debug, PartialEq, Eq)]
struct Left {
    events: Vec<String>,
    readings: usize,
    circuits: usize,
    certificates: usize,
}

fn proved() -> Vec<(&'static str, &'static str)> {
    vec![
        ("by", "Idris Kell"),
        ("lock", "padlock 2"),
        ("loads", "yes"),
        ("locked", "yes"),
        ("before", "yes"),
        ("after", "yes"),
        ("v-l-n", "0"),
        ("v-l-e", "0"),
        ("v-n-e", "0"),
    ]
}

const PASSPHRASE: &str = "two at one board";

/// A line of three letters or four: the two describe other ways.
const WHO: [&str; 2] = ["Idris", "Tova"];

#[test]
fn two_at_once_are_two_in_turn() {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("raced.db");
    let store = Store::open(&db).unwrap();
    let finished = demo::jobs().swap_remove(0);
    let at = finished.created_at;
    let key = proof_seal::LockedKey::new(&proof_seal::FirmKey::from_seed(&[5; 32]), PASSPHRASE).unwrap();
    store.use_key(&proof_seal::KeptKey::Locked(key), "made", "A", "", at).unwrap();
    store.key_exported("A", at).unwrap();
    let site = Site { store, served: serve(&db), finished, count: std::cell::Cell::new(0) };
    let (mut races, mut taken) = (0_u64, HashMap::<&str, usize>::new());
    for (index, &first) in ACTS.iter().enumerate() {
        for &second in &ACTS[index..] {
            for before in [Before::Live, Before::Dead, Before::Open] {
                // An item that stands open matters to what puts back and to what waits for it.
                if before == Before::Open && first != Act::PutBack && second != Act::PutBack {
                    continue;
                }
                let in_turn = |swapped: bool| {
                    let job = site.job(before);
                    let mut done = [0, 0];
                    for at in if swapped { [1, 0] } else { [0, 1] } {
                        done[at] = site.act(&job, [first, second][at], WHO[at]);
                    }
                    (done, site.left(&job))
                };
                let both = [in_turn(false), in_turn(true)];
                // What neither order lets either of them do is no race.
                let nothing = both.iter().all(|(done, _)| done.iter().all(|status| *status >= 400));
                for _ in 0..if nothing { 0 } else { gaps() } {
                    let gap = races * 7 % (LONGEST_GAP_MS + 1);
                    let job = site.job(before);
                    let barrier = Barrier::new(2);
                    let at_once = |at: usize| {
                        barrier.wait();
                        std::thread::sleep(Duration::from_millis(gap * at as u64));
                        post_act(&site.served.address, &job, [first, second][at], WHO[at])
                    };
                    let done = std::thread::scope(|scope| {
                        let (one, other) = (scope.spawn(|| at_once(0)), scope.spawn(|| at_once(1)));
                        [one.join().unwrap(), other.join().unwrap()]
                    });
                    let left = site.left(&job);
                    let what = format!("{first:?} and {second:?}, {before:?}, {gap} ms");
                    assert!(both.contains(&(done, left)), "{what}: {done:?} {:?}\nin turn: {both:?}", site.left(&job));
                    let now = site.store.job(job.id).unwrap();
                    let file = proof_paper::job_file::write(&now.job, &Documents::new()).unwrap();
                    assert_eq!(proof_paper::job_file::read(&file).unwrap().job, now.job, "{what}: imports");
                    races += 1;
                    *taken.entry(if done.iter().all(|status| *status < 400) { "both" } else { "one" }).or_default() +=
                        1;
                }
            }
        }
    }
    println!("{races} races: {taken:?}");
    assert!(races >= 70 * gaps(), "only {races} races");
    assert!(
        taken["both"] as u64 > 16 * gaps() && taken["one"] as u64 > 16 * gaps(),
        "the test proved little: {taken:?}"
    );
}
