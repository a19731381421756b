//! What may kill, asked of every page that could do it: each is refused, and nothing of it is stored.

use crate::site::{FINISHED, Site, site};
use actix_web::http::StatusCode;
use proof_job::installation::{Feed, Lines, OtherSource, SourceKind};
use proof_job::job::Job;
use proof_job::reading::{Test, Value};
use proof_job::site::{BoardState, Event, EventKind};
use uuid::Uuid;

/// A finished job as it stood before it was energised, changed and imported afresh as one begun here.
fn before_power(change: impl FnOnce(&mut Job)) -> (Site, usize) {
    let mut site = site();
    let mut job = site.jobs[FINISHED].clone();
    job.id = Uuid::new_v4();
    job.reference = "T-1".into();
    let mut ids = std::collections::HashMap::new();
    for reading in &mut job.readings {
        reading.id = *ids.entry(reading.id).or_insert_with(Uuid::new_v4);
    }
    job.events.retain(|event| !matches!(event.kind, EventKind::Energised { .. }));
    for event in &mut job.events {
        event.id = Uuid::new_v4();
    }
    let board = job.installation.boards[0].id;
    prove(&mut job, board, Lines::Single);
    change(&mut job);
    site.store.create_job(&job).unwrap();
    site.jobs.push(job);
    let index = site.jobs.len() - 1;
    (site, index)
}

fn log(job: &mut Job, kind: EventKind) {
    let at = job.events.last().map_or(job.created_at, |event| event.at) + jiff::SignedDuration::from_secs(60);
    job.events.push(Event::new(Uuid::new_v4(), "Idris Kell", at, kind));
}

fn prove(job: &mut Job, board: Uuid, lines: Lines) {
    let circuits = vec![];
    log(
        job,
        EventKind::Isolated { board, circuits, lock: "padlock 7".into(), paperwork: String::new(), neutral: false },
    );
    log(job, EventKind::proved_dead(board, lines, "VI-1"));
}

/// A second board on the same supply, of which nothing is known.
fn beside(job: &mut Job) -> Uuid {
    let mut board = job.installation.boards[0].clone();
    (board.id, board.name) = (Uuid::new_v4(), "Bindery board".into());
    board.rcds.clear();
    job.installation.boards.push(board.clone());
    board.id
}

/// Asks, and holds that it is refused for the reason that it should be, and that nothing came of it.
fn refused(site: &Site, index: usize, path: &str, form: &[(&str, &str)], says: &str) {
    let path = path.replace("JOB", &format!("/jobs/{}", site.jobs[index].id));
    let before = site.job(index);
    let form = [&[("by", "Maud Ferrow"), ("entered_by", "Maud Ferrow")], form].concat();
    let (status, body) = site.post(&path, &form);
    assert!(status.is_client_error(), "{path} {form:?}: {status}");
    let told = body.to_lowercase().contains(&says.to_lowercase());
    assert!(told, "{path} does not say “{says}”: {}", &body[body.find("<main").unwrap_or(0)..]);
    let after = site.job(index);
    assert!(after.readings == before.readings, "{path}: a reading came of it");
    let more = &after.events[before.events.len()..];
    let only_told = more.iter().all(|event| matches!(event.kind, EventKind::NotIsolated { .. }));
    assert!(only_told, "{path}: {more:?}");
}

fn board(site: &Site, index: usize) -> String {
    format!("JOB/boards/{}", site.jobs[index].installation.boards[0].id)
}

fn ticks(job: &Job) -> Vec<(String, String)> {
    job.installation.circuits.iter().map(|circuit| (format!("c-{}", circuit.id), "yes".to_owned())).collect()
}

fn energise(site: &Site, index: usize, says: &str) {
    let ticks = ticks(&site.jobs[index]);
    let mut form = vec![("what", "live"), ("covers", "yes")];
    form.extend(ticks.iter().map(|(name, value)| (name.as_str(), value.as_str())));
    refused(site, index, &format!("{}/energise", board(site, index)), &form, says);
}

#[test]
fn the_job_that_the_others_are_made_from_is_energised() {
    let (site, index) = before_power(|_| ());
    let ticks = ticks(&site.jobs[index]);
    let mut form = vec![("what", "live"), ("covers", "yes"), ("by", "Maud Ferrow"), ("word", "Idris Kell")];
    form.extend(ticks.iter().map(|(name, value)| (name.as_str(), value.as_str())));
    let path = board(&site, index).replace("JOB", &format!("/jobs/{}", site.jobs[index].id));
    assert_eq!(site.post(&format!("{path}/energise"), &form).0, StatusCode::SEE_OTHER);
}

#[test]
fn nothing_is_energised_on_what_is_missing_wrong_or_off() {
    type Change = fn(&mut Job);
    let cases: [(&str, Change); 9] = [
        ("Polarity of the supply", |job| job.readings.retain(|one| one.key.test != Test::SupplyPolarity)),
        ("Polarity of the supply", |job| {
            job.readings.iter_mut().find(|one| one.key.test == Test::SupplyPolarity).unwrap().value = Value::Fail;
        }),
        ("Ze is not read", |job| job.readings.retain(|one| one.key.test != Test::Ze)),
        ("Ze open", |job| {
            job.readings.iter_mut().find(|one| one.key.test == Test::Ze).unwrap().value = Value::Open;
        }),
        ("schedule of inspections", |job| job.installation.inspection.clear()),
        ("insulation", |job| job.readings.retain(|one| one.key.test != Test::Insulation)),
        ("outside its limit", |job| {
            let open = |one: &&mut proof_job::reading::Reading| {
                one.key.test == Test::R1R2
                    && one.value == Value::Open
                    && one.key.subject.place().is_some_and(|place| place.point().is_some())
            };
            job.readings.iter_mut().find(open).unwrap().value = Value::Number(rust_decimal::dec!(0.11));
        }),
        ("bond off", |job| {
            let (board, alteration) = (job.installation.boards[0].id, proof_job::site::Alteration::BondOff);
            let (item, note) = (Uuid::new_v4(), "water".to_owned());
            log(job, EventKind::Altered { item, board, circuit: None, alteration, note });
        }),
        ("earthing conductor is off", |job| {
            let board = job.installation.boards[0].id;
            log(job, EventKind::SupplyExposed { board });
        }),
    ];
    for (says, change) in cases {
        let (site, index) = before_power(change);
        energise(&site, index, says);
    }
    let (site, index) = before_power(|job| {
        let other = beside(job);
        let (alteration, note) = (proof_job::site::Alteration::EarthOff, "main terminal".to_owned());
        log(job, EventKind::Altered { item: Uuid::new_v4(), board: other, circuit: None, alteration, note });
    });
    energise(&site, index, "earthing conductor off is not put back");
}

#[test]
fn no_earth_no_bond_no_neutral_and_no_tail_comes_off_what_is_not_proved_dead() {
    let (site, index) = before_power(|job| {
        beside(job);
    });
    let (at, origin) = (format!("{}/put-back", board(&site, index)), "JOB/origin/expose");
    for alteration in ["earth_off", "bond_off", "tail_off"] {
        let form = [("what", "altered"), ("alteration", alteration), ("note", "here")];
        refused(&site, index, &at, &form, "Bindery board is not proved dead");
    }
    refused(&site, index, origin, &[], "Bindery board is not proved dead");
    let (site, index) = before_power(|job| job.events.clear());
    for alteration in ["earth_off", "bond_off", "tail_off", "neutral_out", "link", "ends_out", "way_out"] {
        let form = [("what", "altered"), ("alteration", alteration), ("note", "here")];
        refused(&site, index, &format!("{}/put-back", board(&site, index)), &form, "is not proved dead");
    }
    refused(&site, index, origin, &[], "is not proved dead");
}

/// A way that stays dead for the next trade is asked its tests when it comes to power.
#[test]
fn what_was_left_dead_comes_to_power_by_its_tests() {
    let left = |job: &Job| job.installation.circuits[7].id;
    let (site, index) = before_power(|job| {
        let (circuit, board) = (left(job), job.installation.boards[0].id);
        job.readings.retain(|reading| reading.key.subject.circuit() != Some(circuit));
        let (lock, reason) = ("padlock 9".to_owned(), "fan comes later".to_owned());
        log(job, EventKind::LockedOff { board, circuits: vec![circuit], lock, reason });
    });
    let way = left(&site.jobs[index]).to_string();
    let (board, tick) = (board(&site, index), format!("c-{way}"));
    let form = [("what", "live"), ("covers", "yes"), (tick.as_str(), "yes"), ("lock", "7"), ("reason", "later")];
    refused(&site, index, &format!("{board}/energise"), &form, "to be done before");
    for ways in ["all", "one"] {
        let form =
            [("board", &board[board.len() - 36..]), ("ways", ways), ("all", &way), ("one", &way), ("covers", "yes")];
        refused(&site, index, "JOB/run/energise", &form, "");
    }
}

/// One way isolated alone: what is done inside the board wants the board dead, on every page.
#[test]
fn with_one_way_alone_nothing_inside_the_live_board_is_touched() {
    let (site, index) = before_power(|job| {
        let (board, circuits) = (job.installation.boards[0].id, vec![job.installation.circuits[2].id]);
        log(job, EventKind::Energised { board, circuits: vec![] });
        let (lock, paperwork) = ("padlock 8".to_owned(), String::new());
        log(job, EventKind::Isolated { board, circuits: circuits.clone(), lock, paperwork, neutral: false });
        let mut proved = EventKind::proved_dead(board, Lines::Single, "VI-1");
        if let EventKind::ProvedDead { circuits: of, place, .. } = &mut proved {
            (*of, *place) = (circuits, "bench 4".into());
        }
        log(job, proved);
    });
    let ring = site.jobs[index].installation.circuits[2].id.to_string();
    let at = format!("{}/put-back", board(&site, index));
    for alteration in ["link", "crossed_legs", "ends_out", "neutral_out", "way_out"] {
        let form = [("what", "altered"), ("alteration", alteration), ("circuit", ring.as_str()), ("note", "here")];
        refused(&site, index, &at, &form, "is live: isolate the whole board");
    }
    let on_board = [("what", "altered"), ("alteration", "neutral_out"), ("note", "here")];
    refused(&site, index, &at, &on_board, "energised");
    for step in ["r1", "r2-p1", "ir-n-e", "ir-joined"] {
        let id = Site::id();
        let read = [("step", step), ("typed", "0.41"), ("id", id.as_str())];
        let path = format!("JOB/circuits/{ring}/readings");
        let says = if step.starts_with("ir-") { "" } else { "isolate the whole board" };
        refused(&site, index, &path, &read, says);
    }
    refused(&site, index, "JOB/origin/expose", &[], "proved dead");
    let leave = [("whole", "yes"), ("lock", "7"), ("reason", "later")];
    refused(&site, index, &format!("{}/leave-dead", board(&site, index)), &leave, "is not dead and locked");
    refused(&site, index, &format!("{}/in-use", board(&site, index)), &[], "stood before");
}

#[test]
fn no_dead_test_is_read_on_what_is_not_proved_dead() {
    let ring = |job: &Job| job.installation.circuits[2].id;
    let cases: [fn(&mut Job); 4] = [
        |job| job.events.clear(),
        |job| {
            let board = job.installation.boards[0].id;
            log(job, EventKind::SupplyExposed { board });
            log(job, EventKind::EarthRefitted { board });
        },
        |job| {
            let board = job.installation.boards[0].id;
            log(job, EventKind::SupplyExposed { board });
            prove(job, board, Lines::Single);
        },
        |job| job.installation.boards[0].lines = Lines::Three,
    ];
    for change in cases {
        let (site, index) = before_power(change);
        let circuit = ring(&site.jobs[index]);
        let id = Site::id();
        let read = [("step", "r1"), ("typed", "0.41"), ("id", id.as_str())];
        refused(&site, index, &format!("JOB/circuits/{circuit}/readings"), &read, "rove");
        let of = circuit.to_string();
        let (in_run, id) = ([("of", of.as_str()), ("step", "r1"), ("typed", "0.41")], Site::id());
        refused(&site, index, "JOB/run/readings", &[&in_run[..], &[("id", id.as_str())]].concat(), "rove");
    }
}

#[test]
fn no_live_test_is_read_on_what_is_dead_or_came_with_a_file() {
    let (site, index) = before_power(|_| ());
    let circuit = site.jobs[index].installation.circuits[2].id;
    for (step, typed) in [("zs", "0.61"), ("rcd-1", "22"), ("functional", "pass"), ("rcd-button", "pass")] {
        let id = Site::id();
        let form = [("step", step), ("typed", typed), ("id", id.as_str())];
        refused(&site, index, &format!("JOB/circuits/{circuit}/readings"), &form, "energise it first");
    }
    // A finished job of another database: energised, says its log.
    let mut site = site;
    let mut job = site.jobs[FINISHED].clone();
    (job.id, job.reference) = (Uuid::new_v4(), "T-2".into());
    for reading in &mut job.readings {
        reading.id = Uuid::new_v4();
    }
    for event in &mut job.events {
        event.id = Uuid::new_v4();
    }
    let bytes = proof_paper::job_file::write(&job, &proof_job::installation::Documents::new()).unwrap();
    let (status, _) = site.upload("/import", "job.json", &bytes);
    assert_eq!(status, StatusCode::SEE_OTHER);
    site.jobs.push(job);
    let index = site.jobs.len() - 1;
    let here = site.job(index);
    assert_eq!(here.site().board(here.installation.boards[0].id).0, BoardState::NotProved);
    assert!(site.page(&format!("/jobs/{}", here.id)).contains("its log is history"));
    for (step, typed) in [("zs", "0.61"), ("r1", "0.41")] {
        let id = Site::id();
        let form = [("step", step), ("typed", typed), ("id", id.as_str())];
        refused(&site, index, &format!("JOB/circuits/{circuit}/readings"), &form, "not proved");
    }
    let out = site.get(&format!("/jobs/{}/job.json", here.id));
    assert_eq!(out.as_bytes(), bytes, "the job file is as it came");
}

/// Proving a single-phase board dead, as the form that is filled in says it.
const PROOF: [(&str, &str); 8] = [
    ("loads", "yes"),
    ("locked", "yes"),
    ("lock", "padlock 7"),
    ("before", "yes"),
    ("after", "yes"),
    ("v-l-n", "0"),
    ("v-l-e", "0"),
    ("v-n-e", "0"),
];

#[test]
fn nothing_is_proved_by_a_proof_that_lacks_something() {
    let (site, index) = before_power(|job| {
        let board = job.installation.boards[0].id;
        let source = OtherSource {
            id: Uuid::from_u128(9),
            kind: SourceKind::Solar,
            board: Some(board),
            isolator: "beside the inverter, drying loft".into(),
            ..OtherSource::default()
        };
        job.installation.sources.push(source);
    });
    let at = format!("{}/isolate", board(&site, index));
    let source = format!("source-{}", Uuid::from_u128(9));
    let whole = [&PROOF[..], &[(source.as_str(), "yes")]].concat();
    for (left_out, says) in [
        ("locked", "Main switch off"),
        ("lock", "Name the lock"),
        ("before", "proved before"),
        ("after", "proved again"),
        ("v-n-e", "Every pair"),
        (source.as_str(), "may feed the board"),
    ] {
        let form: Vec<_> = whole.iter().copied().filter(|(name, _)| *name != left_out).collect();
        refused(&site, index, &at, &form, says);
    }
    for shown in ["lit", "10", "230"] {
        let other = |&(name, value): &(_, _)| (name, if name == "v-l-e" { shown } else { value });
        let form: Vec<_> = whole.iter().map(other).collect();
        refused(&site, index, &at, &form, "Not isolated");
    }
    let ticked = [&whole[..], &[("lit-v-n-e", "yes")]].concat();
    refused(&site, index, &at, &ticked, "Not isolated");
    let path = at.replace("JOB", &format!("/jobs/{}", site.jobs[index].id));
    let by = [&whole[..], &[("by", "Maud Ferrow")]].concat();
    assert_eq!(site.post(&path, &by).0, StatusCode::SEE_OTHER);
}

#[test]
fn what_hangs_below_a_dead_way_stays_dead_and_an_exposure_ends_with_the_earth() {
    let (site, index) = before_power(|job| {
        let feeder = job.installation.circuits[4].id;
        let mut below = job.installation.boards[0].clone();
        (below.id, below.name) = (Uuid::from_u128(78), "Studio board".into());
        (below.fed_by, below.rcds) = (Feed::Circuit { circuit: feeder }, vec![]);
        job.installation.boards.push(below);
        let mut lights = job.installation.circuits[1].clone();
        (lights.id, lights.board, lights.rcd) = (Uuid::from_u128(79), Uuid::from_u128(78), None);
        job.installation.circuits.push(lights);
    });
    let tick = format!("c-{}", Uuid::from_u128(79));
    let form = [("what", "live"), ("covers", "yes"), (tick.as_str(), "yes")];
    refused(&site, index, &format!("JOB/boards/{}/energise", Uuid::from_u128(78)), &form, "which is dead");
    let (site, index) = before_power(|job| {
        let board = job.installation.boards[0].id;
        log(job, EventKind::SupplyExposed { board });
    });
    refused(&site, index, &format!("{}/isolate", board(&site, index)), &PROOF, "put it back");
    energise(&site, index, "earthing conductor is off");
}
