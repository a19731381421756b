//! Two at one board: whose lock it is, is asked before power and before the earth comes off; putting it back is refused to
//! nobody.

use jiff::Timestamp;
use proof_bench::demo;
use proof_job::job::Job;
use proof_job::site::spoken_to::{Did, IsolatedBy, before_power, not_spoken_to};
use proof_job::site::{Event, EventKind};
use proof_work::actions::{Action, Actor, Energising, Refusal, Ze, record};
use uuid::Uuid;

const KELL: &str = "Idris Kell";
const FERROW: &str = "Maud Ferrow";

fn push(job: &mut Job, by: &str, kind: EventKind) {
    job.events.push(Event::new(Uuid::new_v4(), by, Timestamp::now(), kind));
}

/// The finished job, isolated again by Kell and proved dead.
fn isolated() -> Job {
    let mut job = demo::jobs().swap_remove(0);
    let proved = job.events.iter().rev().find(|one| matches!(one.kind, EventKind::ProvedDead { .. })).unwrap().clone();
    let board = job.installation.boards[0].id;
    let lock = "7, Kell keeps the key".to_owned();
    let kind = EventKind::Isolated { board, circuits: vec![], lock, paperwork: String::new(), neutral: false };
    push(&mut job, KELL, kind);
    push(&mut job, KELL, proved.kind);
    job
}

fn energise(job: &Job, by: &str, word: &str) -> Result<(), Refusal> {
    let board = job.installation.boards[0].id;
    let circuits = job.installation.circuits_on(board).map(|circuit| circuit.id).collect();
    let given = Energising { board, circuits, covers_on: true, spoke_to: word.to_owned(), ..Energising::default() };
    record(job, &Action::Energise(given), &Actor::new(Uuid::new_v4(), by, Timestamp::now())).map(|_| ())
}

#[test]
fn another_s_isolation_is_asked_of_that_person_by_name() {
    let job = isolated();
    assert_eq!(energise(&job, KELL, ""), Ok(()), "his own lock");
    assert_eq!(energise(&job, "  idris   kell ", ""), Ok(()), "as it is typed");
    let refused = energise(&job, FERROW, "").unwrap_err();
    assert!(matches!(&refused, Refusal::NotSpokenTo { people, .. } if people.len() == 1), "{refused}");
    let text = refused.to_string();
    assert!(text.contains(KELL) && text.contains("7, Kell keeps the key"), "{text}");
    assert!(matches!(energise(&job, FERROW, "Somebody Else"), Err(Refusal::NotSpokenTo { .. })));
    assert_eq!(energise(&job, FERROW, "Idris Kell"), Ok(()));
    let expose = |by: &str, word: &str| {
        let action = Action::Expose { spoke_to: word.to_owned() };
        record(&job, &action, &Actor::new(Uuid::new_v4(), by, Timestamp::now())).map(|_| ())
    };
    assert!(matches!(expose(FERROW, ""), Err(Refusal::NotSpokenTo { .. })));
    assert_eq!((expose(KELL, ""), expose(FERROW, "Idris Kell")), (Ok(()), Ok(())));
}

#[test]
fn an_earth_is_put_back_by_whomever_and_who_took_it_off_confirms() {
    let mut job = isolated();
    let board = job.installation.boards[0].id;
    push(&mut job, KELL, EventKind::SupplyExposed { board });
    let back = Action::Ze(Ze { earth_restored: true, only_restored: true, ..Ze::default() });
    let taken = record(&job, &back, &Actor::new(Uuid::new_v4(), FERROW, Timestamp::now())).unwrap();
    job.events.extend(taken.events);
    let site = job.site();
    let restored = site.earth_restored(board).unwrap();
    assert_eq!((restored.off.1, restored.on.1), (KELL, FERROW));
    let asked = before_power(&job.installation, &site, (board, &[]), FERROW);
    assert_eq!(asked.iter().map(|one| one.did).collect::<Vec<_>>(), [Did::Isolated, Did::EarthOff]);
    assert!(matches!(energise(&job, FERROW, ""), Err(Refusal::NotSpokenTo { .. })));
    assert_eq!(energise(&job, FERROW, KELL), Ok(()));
}

#[test]
fn a_name_may_have_a_comma_and_several_stand_in_a_row() {
    let at = Timestamp::now();
    let person = |name: &str| IsolatedBy {
        name: name.to_owned(),
        did: Did::Isolated,
        of: "way 3".to_owned(),
        at,
        lock: String::new(),
    };
    let people = ["Kell, Idris", "Odile Wren", "—"].map(person);
    let left = |written: &str| not_spoken_to(&people, written).iter().map(|one| one.name.clone()).collect::<Vec<_>>();
    assert_eq!(left("Kell, Idris; odile  wren, —"), Vec::<String>::new());
    assert_eq!(left("Kell Idris and Odile Wren"), ["—"]);
    assert_eq!(left("Idris Kellaway, Wren"), ["Kell, Idris", "Odile Wren", "—"]);
    assert_eq!(left(""), ["Kell, Idris", "Odile Wren", "—"]);
}
