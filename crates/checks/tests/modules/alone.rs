//! One circuit isolated by its own device, the rest of the board in use.

use super::occupied::{CIRCUIT, Person, occupied, ring};
use jiff::SignedDuration;
use proof_bench::demo;
use proof_job::reading::{CurrentReadings, Stage};
use proof_job::site::{Alteration, BoardState, EventKind, breaches};
use proof_judge::finding::{Kind, Severity};
use proof_standard::conductor::Pair;
use proof_standard::limits::supply::EarthingSystem;
use proof_work::actions::{Action, Isolating, Leaving, Refusal};
use proof_work::gate::{GateReason, check_alter, check_read};
use proof_work::plan::reach::{Inside, inside_board, possible_alone};
use proof_work::plan::sequence::circuit_steps;
use proof_work::review::review;
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

/// With one way dead and the rest live nothing inside the board is done, by any page or file.
#[test]
fn nothing_inside_a_live_board_is_touched() {
    let mut person = Person::new(ring());
    person.did(&Action::Isolate(person.isolating(true, Decimal::ZERO)));
    let board = person.job.installation.boards[0].id;
    let inside = [
        Alteration::Link,
        Alteration::CrossedLegs,
        Alteration::EndsOut,
        Alteration::NeutralOut,
        Alteration::WayOut,
        Alteration::EarthOff,
        Alteration::BondOff,
        Alteration::TailOff,
    ];
    for alteration in inside {
        for circuit in [Some(CIRCUIT), None] {
            assert!(check_alter(&person.job, board, circuit, alteration).is_err(), "{alteration:?} {circuit:?}");
        }
    }
    for alteration in [Alteration::LampOut, Alteration::AccessoryOff, Alteration::EarthTailOff, Alteration::LoadOff] {
        assert_eq!(
            check_alter(&person.job, board, Some(CIRCUIT), alteration),
            Ok(()),
            "{alteration:?} is at the point"
        );
    }
    let settled = CurrentReadings::new(&person.job.readings, &person.job.events);
    let circuit = person.job.installation.circuits[0].clone();
    for step in circuit_steps(&person.job.installation, &circuit).iter().filter(|step| step.stage.is_dead()) {
        let inside = inside_board(&person.job.installation, step, false);
        let refused = check_read((&person.job).into(), &settled, step).err();
        assert_eq!(refused.is_some(), inside.is_some(), "{}: {refused:?}", step.slug);
        if let Some(refused) = refused {
            assert!(matches!(refused.because, GateReason::BoardWantsDead { .. }), "{refused}");
        }
    }
    // A file that did it all the same is told of it.
    let kind = EventKind::Altered {
        item: Uuid::from_u128(3),
        board,
        circuit: Some(CIRCUIT),
        alteration: Alteration::EndsOut,
        note: "way 4".into(),
    };
    let mut job = person.job.clone();
    job.events.push(proof_job::site::Event::new(Uuid::new_v4(), "A", person.clock, kind));
    assert_eq!(breaches(&job.installation, &job.events).len(), 1);
    // And a reading taken so is out of order.
    let r1 = circuit_steps(&job.installation, &circuit).into_iter().find(|step| step.slug == "r1").unwrap();
    let mut reading = demo::jobs()[0].readings[0].clone();
    (reading.key, reading.value) = (r1.key, proof_job::reading::Value::Number(dec!(0.32)));
    reading.context.taken_at = Some(person.clock + SignedDuration::from_mins(1));
    job.readings.push(reading);
    assert!(review((&job).into()).iter().any(|one| one.kind() == Kind::OutOfOrder && one.severity == Severity::Odd));
}

/// What the device breaks decides what can be read of the neutral.
#[test]
fn the_neutral_on_the_bar_is_not_read_with_the_board_live() {
    let job = occupied(r#"2 radial B16 6kA 2.5/1.5 legs 8,4 2pts work 2 existing "Bench""#, EarthingSystem::TnCS);
    let (installation, circuit) = (&job.installation, &job.installation.circuits[0]);
    let steps = circuit_steps(installation, circuit);
    let inside = |slug: &str, neutral| {
        inside_board(
            installation,
            steps.iter().find(|step| step.slug == slug).unwrap_or_else(|| panic!("{slug}")),
            neutral,
        )
    };
    let insulation: Vec<&str> =
        steps.iter().filter(|step| step.stage == Stage::Insulation).map(|step| step.slug.as_str()).collect();
    assert_eq!(insulation.len(), 3, "{insulation:?}");
    for slug in insulation {
        let of_neutral = slug.contains("-n");
        assert_eq!(inside(slug, false), of_neutral.then_some(Inside::NeutralOnBar), "{slug}");
        assert_eq!(inside(slug, true), None, "{slug}");
    }
    assert_eq!(inside("r2-p2", true), Some(Inside::Altered(Alteration::Link)), "the link is in the board");
    let (single, double) = (possible_alone(installation, circuit, false), possible_alone(installation, circuit, true));
    assert!(single.0 < double.0 && double.0 < double.1, "{single:?} {double:?}");
}

/// A proof at the point of work wants every pair, the place, the lock, the indicator twice; volts on any
/// pair are written down as what they are.
#[test]
fn a_circuit_is_proved_by_the_same_rules() {
    let mut person = Person::new(ring());
    let board = person.job.installation.boards[0].id;
    type Change = fn(&mut Isolating);
    let changes: [(&str, Change); 6] = [
        ("place", |one| one.place.clear()),
        ("lock", |one| one.lock.clear()),
        ("locked", |one| one.locked = false),
        ("before", |one| one.before = false),
        ("after", |one| one.after = false),
        ("v-l-e", |one| {
            one.shown.retain(|shown| shown.pair != Pair::LINE_EARTH);
        }),
    ];
    for (field, change) in changes {
        let mut given = person.isolating(true, Decimal::ZERO);
        change(&mut given);
        let why = person.tries(&Action::Isolate(given)).unwrap_err();
        assert!(why.fields().iter().any(|(name, _)| name == field), "{field}: {why:?}");
    }
    person.did(&Action::Isolate(person.isolating(true, dec!(230))));
    let not = person.job.events.last().unwrap();
    assert!(matches!(&not.kind, EventKind::NotIsolated { circuits, .. } if circuits == &[CIRCUIT]), "{not:?}");
    assert_eq!(person.job.site().circuit(board, CIRCUIT).0, BoardState::NotProved);
    // The device that is off is not the one of this circuit: nothing is left dead on the strength of it.
    let leaving =
        Leaving { board, circuits: vec![CIRCUIT], whole: false, lock: "key 4".into(), reason: "later".into() };
    assert_eq!(person.tries(&Action::LeaveDead(leaving.clone())), Err(Refusal::NotDead("4".into())));
    person.did(&Action::Isolate(person.isolating(true, Decimal::ZERO)));
    person.did(&Action::LeaveDead(leaving));
    assert_eq!(person.job.site().left_dead().len(), 1);
    let again = Action::InUse(board);
    assert!(matches!(person.tries(&again), Err(Refusal::Gate(_))), "it is known to be in use");
}

/// Isolated alone, nothing is asked to be unplugged or switched at the live board.
#[test]
fn alone_nothing_is_seen_to_at_the_board() {
    use proof_work::plan::hook_up::{hook_up, hook_up_alone};
    let mut job = ring();
    job.installation.boards[0].surge = "type 2".into();
    let (installation, circuit) = (&job.installation, &job.installation.circuits[0]);
    let steps = circuit_steps(installation, circuit);
    let step = steps.iter().find(|step| step.slug == "ir-e-l").unwrap();
    let (whole, alone) = (hook_up(installation, step), hook_up_alone(installation, step, "the new socket"));
    let at_board = ["surge device", "the RCBO off"];
    for words in at_board {
        assert!(whole.notes.iter().any(|note| note.contains(words)), "{words}: {:?}", whole.notes);
        assert!(!alone.notes.iter().any(|note| note.contains(words)), "{words}: {:?}", alone.notes);
    }
    assert_eq!(alone.where_to_stand, "the new socket");
    assert!(alone.terminals.iter().all(|one| one.side == proof_work::plan::hook_up::Side::Point));
}
