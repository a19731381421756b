//! Minor works in an occupied house: a socket more on a ring that is there, its circuit isolated alone
//! where that will do, the rest of the board in use.

use super::occupied::{CIRCUIT, Person, occupied, ring, signed};
use jiff::{SignedDuration, Timestamp};
use proof_bench::demo;
use proof_job::installation::{Feed, Nature, Point, PointId, Wiring};
use proof_job::job::Job;
use proof_job::reading::entry::Field;
use proof_job::reading::{CurrentReadings, Stage, Test};
use proof_job::site::{Alteration, BoardState, EventKind, board_as_fed, breaches};
use proof_standard::house_rules::ContinuityMethod;
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::shape::Shape;
use proof_work::actions::{Action, Leaving, Refusal};
use proof_work::certificate::{Application, Form, issue, left_out};
use proof_work::gate::{check_energise, check_read};
use proof_work::live_tests::Live;
use proof_work::plan::run::{Order, Planned, Run};
use proof_work::plan::sequence::origin_steps;
use proof_work::review::review;
use rust_decimal::Decimal;
use uuid::Uuid;

/// A socket on an existing ring: its point, the ring, insulation, polarity, Zs, RCD; no earth off.
#[test]
fn a_socket_on_a_ring_asks_for_what_the_form_wants() {
    let job = ring();
    let settled = CurrentReadings::new(&[], &[]);
    let (run, live) = (Run::new(&job, &settled, Order::default()), Live::new(&job, &settled, Order::default()));
    let names = |planned: &[Planned]| planned.iter().map(|one| one.step.slug.clone()).collect::<Vec<_>>();
    let (dead, power) = (names(&run.planned), names(&live.planned));
    assert!(dead.len() + power.len() <= 22, "{dead:?} {power:?}");
    for slug in ["earthing", "r1", "rn", "r2", "r2-p4", "ir-l-n", "ir-l-e", "ir-n-e"] {
        let there = dead.iter().any(|one| one == slug);
        assert!(there || slug.starts_with("ir-"), "{slug}: {dead:?}");
    }
    assert!(!dead.iter().any(|one| one == "r2-p1" || one == "rn-p2"), "points that stood are not asked: {dead:?}");
    for slug in ["supply-polarity", "loop-le", "zs", "rcd-1", "rcd-button"] {
        assert!(power.iter().any(|one| one == slug), "{slug}: {power:?}");
    }
    assert!(!power.iter().any(|one| one == "ze" || one.starts_with("pfc")), "{power:?}");
    // The earth and the bonds are looked at: nothing comes off for them.
    for step in origin_steps(&job.installation).iter().filter(|step| step.stage == Stage::Bonding) {
        assert_eq!(step.field, Field::Outcome);
        assert_eq!(check_read((&job).into(), &settled, step), Ok(()), "on a board of which nothing is known");
    }
    // In a new installation every point is asked, whatever is said of it.
    let mut new = job;
    new.installation.nature = Nature::New;
    let all = Run::new(&new, &settled, Order::default()).planned.len();
    assert!(all >= dead.len() + 6, "{all} {dead:?}");
}

/// The ring by its ends: the board is dead for the whole of the dead tests, or only for what is in it.
#[test]
fn from_an_occupied_house_to_the_certificate() {
    for alone in [false, true] {
        let mut person = Person::new(ring());
        person.walk(alone);
        let count = |what: &str| person.done.iter().filter(|one| **one == what).count();
        assert_eq!(count("power"), 1, "{:?}", person.done);
        assert!(count("board") >= 1, "ring ends come out of a dead board");
        let findings = review((&person.job).into());
        let form = Form::MinorWorks { circuit: CIRCUIT };
        let blocking: Vec<_> =
            findings.into_iter().filter(|one| one.blocks() && form.waits_for(&person.job, one)).collect();
        assert_eq!(blocking, vec![], "alone {alone}");
        assert!(breaches(&person.job.installation, &person.job.events).is_empty());
        let application = Application {
            form,
            number: "M-1".into(),
            replaces: None,
            signatures: signed(),
            key: "k".into(),
            now: person.clock,
        };
        let certificate = issue(&person.job, application).unwrap();
        assert_eq!(certificate.form, form);
    }
}

/// A lamp on a radial, by long lead: nothing inside the board is touched, and it never goes dead.
#[test]
fn by_long_lead_the_rest_of_the_house_stays_in_use() {
    let line = r#"2 lights RCBO B6 6kA 1.5/1.0 legs 8,4,5 3pts work 3 existing "Landing""#;
    let mut job = occupied(line, EarthingSystem::TnCS);
    job.installation.house_rules.continuity = ContinuityMethod::R2;
    let mut person = Person::new(job);
    let mut isolating = person.isolating(true, Decimal::ZERO);
    isolating.neutral = true;
    person.did(&Action::Isolate(isolating));
    let site = person.job.site();
    let board = person.job.installation.boards[0].id;
    assert_eq!(site.board(board).0, BoardState::Energised, "the rest is in use, and said to be");
    assert_eq!(site.circuit(board, CIRCUIT).0, BoardState::ProvedDead);
    drop(site);
    person.walk(true);
    assert!(!person.done.contains(&"board"), "{:?}", person.done);
    assert_eq!(person.job.site().circuit(board, CIRCUIT).0, BoardState::Energised);
}

/// A sub-board left dead: its feeder, or all of its ways; nothing of it is asked, and the papers say so.
#[test]
fn a_whole_board_is_left_dead() {
    let mut job = demo::jobs().swap_remove(0);
    let main = job.installation.boards[0].id;
    let mut below = job.installation.boards[0].clone();
    (below.id, below.name) = (Uuid::from_u128(0xb), "Studio board".into());
    let feeder = job.installation.circuits[4].id;
    below.fed_by = Feed::Circuit { circuit: feeder };
    below.rcds.clear();
    let ways: Vec<Uuid> = (0..2).map(|number| Uuid::from_u128(0xc0 + number)).collect();
    for (number, id) in ways.iter().enumerate() {
        let mut way = job.installation.circuits[5].clone();
        (way.id, way.board, way.rcd, way.way) = (*id, below.id, None, (number + 1).to_string());
        way.points = vec![Point { id: PointId(1), name: "tail".into(), ..Point::default() }];
        way.shape = Shape::Radial;
        job.installation.circuits.push(way);
    }
    job.installation.boards.push(below.clone());
    let mut person = Person::new(job);
    person.clock = person.job.events.last().unwrap().at + SignedDuration::from_hours(1);
    let asked = |job: &Job| {
        let of = |id: &Uuid| ways.contains(id);
        review(job.into()).iter().filter(|one| one.circuit().is_some_and(|id| of(&id)) && one.blocks()).count()
    };
    assert!(asked(&person.job) >= 2, "two ways, nothing read");
    let leaving = |board, circuits, whole| {
        Action::LeaveDead(Leaving {
            board,
            circuits,
            whole,
            lock: "padlock 7".into(),
            reason: "studio in spring".into(),
        })
    };
    assert!(matches!(person.tries(&leaving(main, vec![feeder], false)), Err(Refusal::NotDead(_))), "it is live");
    let lines = person.job.installation.boards[0].lines;
    let proved = |board| EventKind::proved_dead(board, lines, "VI-1");
    let (main_dead, below_dead) = (proved(main), proved(below.id));
    let mut one = Person::new(person.job.clone());
    one.clock = person.clock;
    one.job.events.push(proof_job::site::Event::new(Uuid::new_v4(), "A", one.clock, main_dead));
    one.did(&leaving(main, vec![feeder], false));
    assert_eq!(asked(&one.job), 0);
    let out = left_out(&one.job, Form::Installation).join("\n");
    assert!(out.contains("and with it Studio board") && out.contains("padlock 7"), "{out}");
    // Live below, and then its feeder off above: it is neither live any more, nor proved dead.
    let mut fed = person.job.clone();
    let log = |job: &mut Job, kind| {
        job.events.push(proof_job::site::Event::new(Uuid::new_v4(), "A", person.clock, kind));
    };
    log(&mut fed, EventKind::Energised { board: main, circuits: vec![] });
    log(&mut fed, EventKind::Energised { board: below.id, circuits: vec![] });
    let state = |job: &Job| board_as_fed(&job.installation, &job.site(), below.id);
    assert_eq!(state(&fed), BoardState::Energised);
    log(&mut fed, proved(main));
    assert_eq!((fed.site().board(below.id).0, state(&fed)), (BoardState::Energised, BoardState::NotProved));
    log(&mut fed, proved(below.id));
    assert_eq!(state(&fed), BoardState::ProvedDead);
    person.job.events.push(proof_job::site::Event::new(Uuid::new_v4(), "A", person.clock, below_dead));
    person.did(&leaving(below.id, vec![], true));
    assert_eq!(asked(&person.job), 0);
    let out = left_out(&person.job, Form::Installation).join("\n");
    assert!(out.contains("the whole of Studio board") && !out.contains("way 1"), "{out}");
    assert!(check_energise((&person.job).into(), below.id, &ways, true).is_err(), "untested ways stay dead");
}

/// A board on which something stands altered, or of which the log knows, is not waved into use; a way that
/// was left dead on it stays dead.
#[test]
fn only_a_board_of_which_nothing_is_known_is_found_in_use() {
    use proof_work::gate::check_in_use;
    let mut person = Person::new(ring());
    let board = person.job.installation.boards[0].id;
    assert_eq!(check_in_use(&person.job, board), Ok(()));
    let log = |job: &mut Job, kind| {
        job.events.push(proof_job::site::Event::new(Uuid::new_v4(), "A", Timestamp::UNIX_EPOCH, kind))
    };
    let mut looked_at = person.job.clone();
    let (shown, because) = (Vec::new(), "live".to_owned());
    log(&mut looked_at, EventKind::NotIsolated { board, circuits: vec![], shown, because });
    assert!(check_in_use(&looked_at, board).is_err(), "the tester is at it");
    let mut linked = person.job.clone();
    let (item, alteration, note) = (Uuid::from_u128(9), Alteration::Link, "way 4".to_owned());
    log(&mut linked, EventKind::Altered { item, board, circuit: Some(CIRCUIT), alteration, note });
    linked.history = linked.events.len();
    assert!(check_in_use(&linked, board).is_err(), "a link is in, by a file");
    let (lock, reason) = ("key 1".to_owned(), "later".to_owned());
    log(&mut person.job, EventKind::LockedOff { board, circuits: vec![CIRCUIT], lock, reason });
    person.job.history = person.job.events.len();
    person.did(&Action::InUse(board));
    assert_eq!(person.job.site().board(board).0, BoardState::Energised);
    assert_eq!(person.job.site().circuit(board, CIRCUIT).0, BoardState::NotProved, "locked off, and not in use");
}

/// With no point named as the work every point is asked: nothing is certified on none.
#[test]
fn where_every_point_stood_every_point_is_asked() {
    let mut job = ring();
    for point in &mut job.installation.circuits[0].points {
        point.existing = true;
    }
    let settled = CurrentReadings::new(&[], &[]);
    let run = Run::new(&job, &settled, Order::default());
    let walked = run.planned.iter().filter(|one| one.step.key.test == Test::R1R2 && one.step.required).count();
    assert_eq!(walked, job.installation.circuits[0].points.len());
}

/// Minor works are asked less than an installation certificate rests on: none is issued of them.
#[test]
fn no_installation_certificate_is_issued_of_minor_works() {
    let mut person = Person::new(ring());
    person.walk(false);
    let form = Form::Installation;
    let signatures = demo::signed(&[]);
    let application =
        Application { form, number: "M-1".into(), replaces: None, signatures, key: "k".into(), now: person.clock };
    let refused = issue(&person.job, application).unwrap_err();
    assert!(refused.to_string().contains("choose another nature"), "{refused}");
}

/// The old cable is in every reading of a circuit that was there, whether a point is marked as standing or not.
#[test]
fn minor_works_are_held_to_what_older_wiring_gives() {
    let mut job = ring();
    let circuit = &mut job.installation.circuits[0];
    circuit.wiring = Wiring::New;
    for point in &mut circuit.points {
        point.existing = false;
    }
    assert!(job.installation.is_older_wiring(&job.installation.circuits[0]));
    job.installation.nature = Nature::New;
    assert!(!job.installation.is_older_wiring(&job.installation.circuits[0]));
}
