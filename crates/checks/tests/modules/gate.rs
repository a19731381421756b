//! What may be done now.

use jiff::Timestamp;
use proof_bench::demo;
use proof_job::installation::{Feed, Lines};
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Test, Value};
use proof_job::site::{Alteration, Event, EventKind, breaches};
use proof_judge::finding::Kind;
use proof_work::gate::{
    GateReason, check_alter, check_energise, check_expose, check_isolate, check_read, in_the_way, to_energise,
};
use proof_work::plan::sequence::{board_steps, circuit_steps, origin_steps};
use uuid::Uuid;

fn finished() -> Job {
    demo::jobs().swap_remove(0)
}

/// A finished job as it stood before it was energised, locked and proved again after Ze.
fn dead() -> Job {
    let mut job = finished();
    job.events.retain(|event| !matches!(event.kind, EventKind::Energised { .. }));
    let board = job.installation.boards[0].id;
    log(&mut job, EventKind::proved_dead(board, Lines::Single, "VI-1"));
    job
}

fn log(job: &mut Job, kind: EventKind) {
    job.events.push(Event::new(uuid::Uuid::new_v4(), "A. Fitter", Timestamp::now(), kind));
}

fn refused(job: &Job, slug: &str) -> Option<String> {
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let board = &job.installation.boards[0];
    let circuit = &job.installation.circuits[2];
    let steps = circuit_steps(&job.installation, circuit)
        .into_iter()
        .chain(origin_steps(&job.installation))
        .chain(board_steps(&job.installation, board));
    let step = steps.into_iter().find(|step| step.slug == slug).unwrap();
    check_read(job.into(), &settled, &step).err().map(|refusal| refusal.to_string())
}

#[test]
fn each_reading_waits_for_its_state() {
    let mut job = dead();
    let board = job.installation.boards[0].id;
    let open = |job: &Job| {
        ["r1", "ze", "supply-polarity", "pfc-ln", "zs", "rcd-1", "labels"].map(|slug| refused(job, slug).is_none())
    };
    assert_eq!(open(&job), [true, false, true, true, false, false, true], "proved dead");
    log(&mut job, EventKind::SupplyExposed { board });
    assert_eq!(open(&job), [false, true, true, false, false, false, true], "supply exposed");
    log(&mut job, EventKind::EarthRefitted { board });
    assert_eq!(open(&job), [false, false, true, true, false, false, true], "the lock came off for Ze");
    log(&mut job, EventKind::Energised { board, circuits: vec![] });
    assert_eq!(open(&job), [false, false, true, true, true, true, true], "energised");
    let circuits = vec![job.installation.circuits[2].id];
    let isolated =
        EventKind::Isolated { board, circuits, lock: "key 4".into(), paperwork: String::new(), neutral: false };
    log(&mut job, isolated);
    assert_eq!(open(&job), [false, false, true, true, false, false, true], "its own circuit isolated, not proved");
    job.events.clear();
    assert_eq!(open(&job), [false, false, false, false, false, false, true], "nothing is known");
}

#[test]
fn energising_wants_every_dead_test_in_and_right_and_everything_back() {
    let job = dead();
    let board = job.installation.boards[0].id;
    assert_eq!(check_energise((&job).into(), board, &[], true), Ok(()));
    assert_eq!(check_energise((&job).into(), board, &[], false).unwrap_err().because, GateReason::CoversOff);
    type Change = fn(&mut Job);
    let changes: [(&str, Change); 6] = [
        ("a reading missing", |job| job.readings.retain(|r| r.key.test != Test::InsulationJoined)),
        ("insulation under the minimum", |job| {
            let one = job.readings.iter_mut().find(|r| r.key.test == Test::Insulation).unwrap();
            one.value = Value::Number(rust_decimal::dec!(0.4));
        }),
        ("a CPC open", |job| {
            let one = job.readings.iter_mut().find(|r| r.key.test == Test::R1R2 && r.value != Value::Open).unwrap();
            one.value = Value::Open;
        }),
        ("a bond not read", |job| job.readings.retain(|r| r.key.test != Test::BondContinuity)),
        ("the earth off", |job| {
            let board = job.installation.boards[0].id;
            log(job, EventKind::SupplyExposed { board });
        }),
        ("a link left in", |job| {
            let board = job.installation.boards[0].id;
            let alteration = Alteration::Link;
            log(job, EventKind::Altered { item: Uuid::nil(), board, circuit: None, alteration, note: "way 3".into() });
        }),
    ];
    for (what, change) in changes {
        let mut changed = dead();
        change(&mut changed);
        let refusal = check_energise((&changed).into(), board, &[], true).unwrap_err();
        assert!(!refusal.in_the_way.is_empty(), "{what}");
    }
}

#[test]
fn only_the_circuits_concerned_are_asked_for() {
    let mut job = dead();
    let board = job.installation.boards[0].id;
    let (left_out, wanted) = (job.installation.circuits[7].id, job.installation.circuits[2].id);
    job.readings.retain(|reading| reading.key.subject.circuit() != Some(left_out));
    assert!(check_energise((&job).into(), board, &[], true).is_err());
    assert_eq!(check_energise((&job).into(), board, &[wanted], true), Ok(()));
    let (lock, reason) = ("padlock 9".to_owned(), "fan comes later".to_owned());
    log(&mut job, EventKind::LockedOff { board, circuits: vec![left_out], lock, reason });
    assert!(!to_energise(&job, board).contains(&left_out));
    log(&mut job, EventKind::Energised { board, circuits: vec![wanted] });
    assert_eq!(refused(&job, "zs"), None);
}

#[test]
fn a_judgement_opens_only_what_may_be_judged() {
    let mut job = dead();
    let board = job.installation.boards[0].id;
    let one = job.readings.iter_mut().find(|reading| reading.key.test == Test::BondContinuity).unwrap();
    one.value = Value::Number(rust_decimal::dec!(0.11));
    let judge = |job: &mut Job| {
        let finding = in_the_way((&*job).into(), board, &[]).remove(0);
        let (position, reason) = ("Supervisor".to_owned(), "long run, looked at".to_owned());
        let (id, said, bound) = (finding.id(), finding.text(), Some(finding.bound()));
        log(job, EventKind::Judged { finding: id, said, bound, position, reason });
    };
    judge(&mut job);
    assert_eq!(in_the_way((&job).into(), board, &[]), [], "a bond over its limit is judged");
    let one = job.readings.iter_mut().find(|reading| reading.key.test == Test::Insulation).unwrap();
    one.value = Value::Number(rust_decimal::dec!(0.4));
    judge(&mut job);
    assert_eq!(in_the_way((&job).into(), board, &[]).len(), 1, "insulation under the minimum is not");
}

/// A file that says "energised" opens no live test without its dead tests.
#[test]
fn what_a_file_says_opens_no_gate() {
    let mut job = finished();
    let ring = job.installation.circuits[2].id;
    job.readings.retain(|reading| reading.key.subject.circuit() != Some(ring) || reading.key.test != Test::Insulation);
    assert!(refused(&job, "zs").unwrap().contains("do not bear it"));
    assert!(breaches(&job.installation, &job.events).is_empty());
    let board = job.installation.boards[0].id;
    let exposed = Event::new(uuid::Uuid::new_v4(), "A", Timestamp::now(), EventKind::SupplyExposed { board });
    let live =
        Event::new(uuid::Uuid::new_v4(), "A", Timestamp::now(), EventKind::Energised { board, circuits: vec![] });
    let broken = breaches(&job.installation, &[exposed, live]);
    assert_eq!(broken.len(), 2, "{broken:?}");
    // The same file, imported: its log is history, and opens nothing until the board is proved here.
    let mut job = finished();
    job.history = job.events.len();
    assert!(["r1", "zs", "rcd-1", "supply-polarity", "ze"].into_iter().all(|slug| refused(&job, slug).is_some()));
    let board = job.installation.boards[0].id;
    log(&mut job, EventKind::proved_dead(board, Lines::Single, "VI-1"));
    assert_eq!((refused(&job, "r1"), refused(&job, "zs").is_some()), (None, true));
}

#[test]
fn nothing_is_altered_and_no_earth_taken_off_on_a_live_board() {
    let (live, dead) = (finished(), dead());
    let board = live.installation.boards[0].id;
    let altered = |job: &Job, what| check_alter(job, board, None, what);
    assert!(altered(&live, Alteration::Link).is_err());
    assert_eq!(altered(&dead, Alteration::Link), Ok(()));
    assert_eq!(altered(&dead, Alteration::BondOff), Ok(()));
    assert!(check_expose(&live, board).is_err());
    assert_eq!(check_expose(&dead, board), Ok(()));
}

/// A second board on the same supply, live while the first is dead.
fn beside(job: &mut Job) -> Uuid {
    let mut board = job.installation.boards[0].clone();
    board.id = Uuid::from_u128(77);
    board.name = "Bindery board".into();
    board.rcds.clear();
    job.installation.boards.push(board);
    log(job, EventKind::Energised { board: Uuid::from_u128(77), circuits: vec![] });
    Uuid::from_u128(77)
}

/// The earth and the bonds serve every board: asked of one board, the gate must see the others.
#[test]
fn no_earth_comes_off_while_another_board_is_live() {
    let mut job = dead();
    let board = job.installation.boards[0].id;
    let other = beside(&mut job);
    let off = |job: &Job, what| check_alter(job, board, None, what);
    for what in [Alteration::EarthOff, Alteration::BondOff] {
        let refusal = off(&job, what).unwrap_err();
        assert!(matches!(refusal.because, GateReason::EarthWantsDead { .. }), "{refusal}");
        assert!(refusal.to_string().starts_with("Bindery board is energised"), "{refusal}");
    }
    assert_eq!(off(&job, Alteration::Link), Ok(()), "a link is of its own board");
    let refusal = check_expose(&job, board).unwrap_err();
    assert!(matches!(refusal.because, GateReason::EarthWantsDead { .. }), "{refusal}");
    log(
        &mut job,
        EventKind::Isolated {
            board: other,
            circuits: vec![],
            lock: "key 5".into(),
            paperwork: String::new(),
            neutral: false,
        },
    );
    assert!(off(&job, Alteration::BondOff).is_err(), "isolated is not proved");
    let proved = EventKind::proved_dead(other, Lines::Single, "VI-1");
    log(&mut job, proved);
    assert_eq!(off(&job, Alteration::BondOff), Ok(()));
    assert_eq!(check_expose(&job, board), Ok(()));
}

#[test]
fn no_board_is_energised_while_an_earth_is_off_at_another() {
    type Change = fn(&mut Job, Uuid);
    let changes: [(&str, Change); 3] = [
        ("the supply exposed", |job, board| log(job, EventKind::SupplyExposed { board })),
        ("exposed, then isolated again", |job, board| {
            log(job, EventKind::SupplyExposed { board });
            log(
                job,
                EventKind::Isolated {
                    board,
                    circuits: vec![],
                    lock: "key 4".into(),
                    paperwork: String::new(),
                    neutral: false,
                },
            );
        }),
        ("a bond off", |job, board| {
            let (alteration, note) = (Alteration::BondOff, "water".to_owned());
            log(job, EventKind::Altered { item: Uuid::nil(), board, circuit: None, alteration, note });
        }),
    ];
    for (what, change) in changes {
        let mut job = dead();
        let first = job.installation.boards[0].id;
        let mut board = job.installation.boards[0].clone();
        (board.id, board.name) = (Uuid::from_u128(77), "Bindery board".into());
        board.rcds.clear();
        job.installation.boards.push(board);
        let only_own = |job: &Job| {
            in_the_way(job.into(), Uuid::from_u128(77), &[Uuid::nil()])
                .into_iter()
                .filter(|finding| matches!(finding.kind(), Kind::SupplyExposed | Kind::NotPutBack))
                .count()
        };
        assert_eq!(only_own(&job), 0, "{what}");
        change(&mut job, first);
        assert!(only_own(&job) > 0, "{what}");
        assert!(check_energise((&job).into(), Uuid::from_u128(77), &[], true).is_err(), "{what}");
    }
}

#[test]
fn a_board_below_a_dead_way_is_not_energised_nor_read_live() {
    let mut job = dead();
    let (above, circuit) = (job.installation.boards[0].id, job.installation.circuits[4].id);
    let mut below = job.installation.boards[0].clone();
    (below.id, below.name) = (Uuid::from_u128(78), "Studio board".into());
    (below.fed_by, below.rcds) = (Feed::Circuit { circuit }, vec![]);
    let mut lights = job.installation.circuits[1].clone();
    (lights.id, lights.board, lights.rcd) = (Uuid::from_u128(79), below.id, None);
    job.installation.circuits.push(lights);
    job.installation.boards.push(below.clone());
    let job = &mut job;
    job.events.clear();
    let refused = |job: &Job| check_energise(job.into(), below.id, &[], true).unwrap_err().because;
    assert!(!matches!(refused(job), GateReason::FeederDead { .. }), "nothing is known of the feeder");
    let proved = EventKind::proved_dead(above, Lines::Single, "VI-1");
    log(job, proved);
    assert!(matches!(refused(job), GateReason::FeederDead { .. }));
    log(job, EventKind::Energised { board: below.id, circuits: vec![] });
    let circuit = job.installation.circuits_on(below.id).next().unwrap().clone();
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let zs = circuit_steps(&job.installation, &circuit).into_iter().find(|step| step.key.test == Test::Zs).unwrap();
    let refusal = check_read((&*job).into(), &settled, &zs).unwrap_err();
    assert!(matches!(refusal.because, GateReason::FeederDead { .. }), "{refusal}");
    log(job, EventKind::Energised { board: above, circuits: vec![] });
    assert!(!matches!(refused(job), GateReason::FeederDead { .. }));
}

/// A record of proving dead that proves nothing opens no dead test.
#[test]
fn a_proof_that_does_not_prove_opens_nothing() {
    use proof_job::site::isolation::PairShown;
    use proof_standard::conductor::Pair;
    let shown = |volts: i64, lit| PairShown { pair: Pair::LINE_EARTH, volts: volts.into(), lit };
    let proof = |board, pairs, shown: Vec<PairShown>, [before, after]: [Option<bool>; 2]| EventKind::ProvedDead {
        board,
        circuits: vec![],
        pairs,
        shown,
        indicator: "VI-1".into(),
        before,
        after,
        sources: vec![],
        place: String::new(),
    };
    let said = [Some(true), Some(true)];
    for (what, pairs, seen, indicator, opens) in [
        ("as it should be", 3, vec![shown(0, false)], said, true),
        ("written before the indicator's proofs were kept", 3, vec![], [None, None], true),
        ("two pairs of three", 2, vec![], said, false),
        ("10 V on one", 3, vec![shown(10, false)], said, false),
        ("a lamp without a figure", 3, vec![shown(0, true)], said, false),
        ("not proved again", 3, vec![], [Some(true), Some(false)], false),
        ("not proved before", 3, vec![], [Some(false), Some(true)], false),
    ] {
        let mut job = dead();
        job.events.clear();
        let board = job.installation.boards[0].id;
        log(&mut job, proof(board, pairs, seen, indicator));
        assert_eq!(refused(&job, "r1").is_none(), opens, "{what}");
        let told = breaches(&job.installation, &job.events).len();
        assert_eq!(told, usize::from(!opens), "{what}");
    }
    let mut job = dead();
    job.installation.boards[0].lines = Lines::Three;
    assert!(refused(&job, "r1").unwrap().contains("3 pairs"), "three pairs prove nothing of five conductors");
}

/// Only the word that the earth is back ends an exposure; a lock and a proof in between do not.
#[test]
fn no_detour_ends_an_exposure() {
    let mut job = dead();
    let board = job.installation.boards[0].id;
    log(&mut job, EventKind::SupplyExposed { board });
    log(
        &mut job,
        EventKind::Isolated { board, circuits: vec![], lock: "key 4".into(), paperwork: String::new(), neutral: false },
    );
    log(&mut job, EventKind::proved_dead(board, Lines::Single, "VI-1"));
    assert!(refused(&job, "r1").is_some(), "no dead test with the earth off");
    assert!(check_energise((&job).into(), board, &[], true).is_err());
    assert_eq!(check_isolate(&job).unwrap_err().because, GateReason::EarthOff);
    job.history = job.events.len();
    assert!(check_energise((&job).into(), board, &[], true).is_err(), "nor does a file");
    log(&mut job, EventKind::EarthRefitted { board });
    assert_eq!(check_energise((&job).into(), board, &[], true), Ok(()));
}

#[test]
fn nothing_is_energised_on_what_was_not_looked_at_or_is_odd() {
    use proof_job::reading::Place;
    type Change = fn(&mut Job);
    let changes: [(&str, Kind, Change); 8] = [
        ("an item of the inspection open", Kind::InspectionMissing, |job| job.installation.inspection.truncate(3)),
        ("supply polarity not read", Kind::ReadingMissing, |job| {
            job.readings.retain(|one| one.key.test != Test::SupplyPolarity);
        }),
        ("supply polarity wrong", Kind::PolarityWrong, |job| {
            let one = job.readings.iter_mut().find(|one| one.key.test == Test::SupplyPolarity).unwrap();
            one.value = Value::Fail;
        }),
        ("Ze not read", Kind::ReadingMissing, |job| job.readings.retain(|one| one.key.test != Test::Ze)),
        ("Ze open", Kind::NotContinuous, |job| {
            job.readings.iter_mut().find(|one| one.key.test == Test::Ze).unwrap().value = Value::Open;
        }),
        ("Ze a limitation, and no loop read", Kind::Limitation, |job| {
            let ze = job.readings.iter_mut().find(|one| one.key.test == Test::Ze).unwrap();
            ze.value = Value::Limitation("others in use".into());
            job.readings.retain(|one| one.key.test != Test::FaultCurrent);
        }),
        ("a switch that does not break", Kind::PolarityWrong, |job| {
            let open = |one: &&mut proof_job::reading::Reading| {
                let place = one.key.subject.place();
                place.is_some_and(|place| matches!(place, Place::Switch { position, .. } if position.opens()))
            };
            job.readings.iter_mut().find(open).unwrap().value = Value::Number(rust_decimal::dec!(0.12));
        }),
        ("an odd reading nobody judged", Kind::LookAgain, |job| {
            let one = job.readings.iter_mut().find(|one| matches!(one.key.test, Test::RingEndToEnd { .. })).unwrap();
            one.value = Value::Number(rust_decimal::dec!(1.12));
        }),
    ];
    for (what, kind, change) in changes {
        let mut job = dead();
        let board = job.installation.boards[0].id;
        change(&mut job);
        let refusal = check_energise((&job).into(), board, &[], true).expect_err(what);
        assert!(refusal.in_the_way.iter().any(|one| one.kind() == kind), "{what}: {:?}", refusal.in_the_way);
    }
    let mut job = dead();
    let board = job.installation.boards[0].id;
    job.readings.iter_mut().find(|one| one.key.test == Test::Ze).unwrap().value =
        Value::Limitation("others in use".into());
    assert!(
        check_energise((&job).into(), board, &[], true).is_ok(),
        "a loop read with the earth on says that there is one"
    );
}

/// An existing board whose origin is no part of the work: its earth stays on, and the ways that the work
/// does not touch are asked nothing.
#[test]
fn what_the_work_does_not_touch_is_asked_nothing() {
    use proof_job::installation::Nature;
    use proof_job::reading::keys::own_loop_key;
    let mut job = dead();
    let board = job.installation.boards[0].id;
    job.installation.nature = Nature::Addition;
    job.installation.origin_altered = Some(false);
    job.readings.retain(|one| !matches!(one.key.test, Test::Ze | Test::FaultCurrent));
    let touched = job.installation.circuits[2].id;
    job.readings.retain(|one| one.key.subject.circuit().is_none_or(|circuit| circuit == touched));
    for circuit in job.installation.circuits.iter_mut().filter(|circuit| circuit.id != touched) {
        circuit.untouched = true;
    }
    let refusal = check_energise((&job).into(), board, &[], true).unwrap_err();
    assert_eq!(refusal.in_the_way.len(), 1, "the loop there: {:?}", refusal.in_the_way);
    let mut read = job.readings[0].clone();
    read.id = Uuid::from_u128(5);
    read.key = own_loop_key(proof_standard::conductor::Pair::LINE_EARTH, None);
    read.value = Value::Number(rust_decimal::dec!(0.19));
    job.readings.push(read);
    assert_eq!(check_energise((&job).into(), board, &[], true), Ok(()));
    // In a new installation nothing is left as it was, whatever is said of a circuit.
    job.installation.nature = Nature::New;
    assert!(check_energise((&job).into(), board, &[], true).unwrap_err().in_the_way.len() > 5);
}
