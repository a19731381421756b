//! What was added by mistake is withdrawn, once nothing of it stands.

use jiff::Timestamp;
use proof_bench::demo;
use proof_job::installation::shorthand::parse;
use proof_job::installation::{Board, Feed};
use proof_job::job::{Job, validity};
use proof_job::reading::CurrentReadings;
use proof_job::site::{Alteration, Event, EventKind};
use proof_work::actions::{Actor, NotWithdrawn, withdraw_board, withdraw_circuit};
use proof_work::plan::run::{Order, Run};
use uuid::Uuid;

fn hand() -> Actor {
    Actor::new(Uuid::from_u128(77), "Odile Wren", Timestamp::UNIX_EPOCH)
}

fn strike(job: &mut Job, wanted: impl Fn(&proof_job::reading::Reading) -> bool) {
    for reading in job.readings.iter().filter(|one| wanted(one)) {
        let kind = EventKind::StruckOut { reading: reading.id, reason: "another circuit".into() };
        job.events.push(Event::new(Uuid::new_v4(), "Odile Wren", Timestamp::UNIX_EPOCH, kind));
    }
}

#[test]
fn a_circuit_goes_from_plan_and_papers_and_stays_in_the_file() {
    let mut job = demo::jobs().swap_remove(1);
    let circuit = job.readings.iter().find_map(|one| one.key.subject.circuit()).unwrap();
    let refused = withdraw_circuit(&job, circuit, "written twice", &hand()).unwrap_err();
    assert!(matches!(refused, NotWithdrawn::Readings { count } if count > 0), "{refused}");
    strike(&mut job, |one| one.key.subject.circuit() == Some(circuit));
    let board = job.installation.circuit(circuit).unwrap().board;
    let log = |job: &mut Job, kind: EventKind| {
        job.events.push(Event::new(Uuid::new_v4(), "Odile Wren", Timestamp::UNIX_EPOCH, kind));
    };
    let item = Uuid::new_v4();
    let (alteration, note) = (Alteration::Link, "way, line to CPC".to_owned());
    log(&mut job, EventKind::Altered { item, board, circuit: Some(circuit), alteration, note });
    let open: Vec<Uuid> =
        job.site().open().iter().filter(|one| one.circuit == Some(circuit)).map(|one| one.item).collect();
    assert!(open.contains(&item));
    assert!(matches!(withdraw_circuit(&job, circuit, "twice", &hand()), Err(NotWithdrawn::Open { .. })));
    for item in open {
        log(&mut job, EventKind::PutBack { item });
    }
    // A tail that is made safe says that something is there.
    let item = Uuid::new_v4();
    let (thing, made_safe) = ("lamp".to_owned(), "boxed".to_owned());
    log(&mut job, EventKind::PointOutstanding { item, circuit, thing, made_safe });
    let outstanding = NotWithdrawn::Outstanding { thing: "lamp".into() };
    assert_eq!(withdraw_circuit(&job, circuit, "twice", &hand()), Err(outstanding));
    log(&mut job, EventKind::PointDone { item });
    let (circuits, lock, reason) = (vec![circuit], "padlock 2".to_owned(), "the next trade".to_owned());
    let mut locked = job.clone();
    log(&mut locked, EventKind::LockedOff { board, circuits, lock, reason });
    assert_eq!(withdraw_circuit(&locked, circuit, "twice", &hand()), Err(NotWithdrawn::LockedOff));
    assert_eq!(withdraw_circuit(&job, circuit, " ", &hand()), Err(NotWithdrawn::NoReason));
    let nobody = Actor::new(Uuid::nil(), "", Timestamp::UNIX_EPOCH);
    assert_eq!(withdraw_circuit(&job, circuit, "twice", &nobody), Err(NotWithdrawn::Nobody));
    let read = job.readings.len();
    job.installation = withdraw_circuit(&job, circuit, "written twice", &hand()).unwrap();
    assert!(job.installation.circuit(circuit).is_none() && job.installation.circuit_ever(circuit).is_some());
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let run = Run::new(&job, &settled, Order::default());
    assert!(run.planned.iter().all(|one| one.circuit != Some(circuit)), "no step of it is planned");
    assert_eq!(job.readings.len(), read, "what was read is kept");
    assert_eq!(validity::job(&job), Vec::<String>::new(), "and the file is read again");
    let bytes = serde_json::to_string(&job).unwrap();
    assert_eq!(serde_json::from_str::<Job>(&bytes).unwrap(), job);
}

#[test]
fn a_board_goes_with_its_ways_and_not_while_something_hangs_on_it() {
    let mut job = demo::jobs().swap_remove(1);
    let new = Uuid::from_u128(5);
    let feeder = Uuid::from_u128(6);
    let board = Board {
        id: new,
        name: "Twice".into(),
        fed_by: Feed::Supply,
        rcds: Vec::new(),
        ..job.installation.boards[0].clone()
    };
    job.installation.boards.push(board);
    let (circuit, rcd) = parse("1 board B32 6/2.5 1pt Feed").unwrap().build(new, feeder);
    assert!(rcd.is_none());
    job.installation.circuits.push(circuit);
    let below = Uuid::from_u128(7);
    let fed = Board {
        id: below,
        name: "Below".into(),
        fed_by: Feed::Circuit { circuit: feeder },
        ..job.installation.boards[0].clone()
    };
    job.installation.boards.push(fed);
    assert_eq!(withdraw_board(&job, new, "twice", &hand()), Err(NotWithdrawn::Feeds { board: "Below".into() }));
    assert_eq!(withdraw_circuit(&job, feeder, "twice", &hand()), Err(NotWithdrawn::Feeds { board: "Below".into() }));
    job.installation = withdraw_board(&job, below, "twice", &hand()).unwrap();
    let item = Uuid::new_v4();
    let altered =
        EventKind::Altered { item, board: new, circuit: None, alteration: Alteration::Link, note: "way 1".into() };
    job.events.push(Event::new(Uuid::new_v4(), "O", Timestamp::UNIX_EPOCH, altered));
    assert!(matches!(withdraw_board(&job, new, "twice", &hand()), Err(NotWithdrawn::Open { .. })));
    job.events.push(Event::new(Uuid::new_v4(), "O", Timestamp::UNIX_EPOCH, EventKind::PutBack { item }));
    job.installation = withdraw_board(&job, new, "twice", &hand()).unwrap();
    assert!(job.installation.board(new).is_none() && job.installation.board_ever(new).is_some());
    assert!(job.installation.circuit(feeder).is_none() && job.installation.circuit_ever(feeder).is_some());
    assert_eq!(job.installation.withdrawn.len(), 2);
    assert_eq!(withdraw_board(&job, new, "twice", &hand()), Err(NotWithdrawn::Unknown));
    assert_eq!(validity::job(&job), Vec::<String>::new());
}
