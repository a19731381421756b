//! Every mistake of dead testing that the trade knows is committed here, one a test, on a job that
//! is right, and must be caught: by the review, by the diagnosis, by what the run asks, or at the
//! door (common practice, no source).

use proof_bench::demo;
use proof_job::installation::{Circuit, PointId};
use proof_job::job::Job;
use proof_job::reading::entry::{Field, parse};
use proof_job::reading::keys::set_key;
use proof_job::reading::{CurrentReadings, LeadNull, Place, Reading, Stage, Test, Value};
use proof_job::site::{Alteration, Event, EventKind, LeadState, Leads, open_items};
use proof_judge::explanation::circuit::case_of;
use proof_judge::finding::Severity;
use proof_physics::diagnosis::{Kind, diagnose};
use proof_standard::conductor::Pair;
use proof_standard::house_rules::{InstrumentTrust, LeadCompensation};
use proof_standard::quantity::Amps;
use proof_work::plan::disturbance::{changes, undo_first};
use proof_work::plan::sequence::circuit_steps;
use proof_work::plan::sets::set_circuits;
use proof_work::review::{Finding, review};
use proof_work::schedule::result_row;
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

fn right() -> Job {
    let job = demo::jobs().swap_remove(0);
    assert_eq!(review((&job).into()), [], "the job is right before the mistake");
    job
}

fn ring(job: &Job) -> Circuit {
    job.installation.circuits[2].clone()
}

fn of(job: &mut Job, circuit: Uuid, test: impl Fn(Test) -> bool) -> impl Iterator<Item = &mut Reading> {
    job.readings.iter_mut().filter(move |r| r.key.subject.circuit() == Some(circuit) && test(r.key.test))
}

fn point(reading: &Reading) -> Option<PointId> {
    reading.key.subject.place().and_then(Place::point)
}

fn caught(job: &Job, words: &str) -> Finding {
    let findings = review(job.into());
    let found = findings.iter().find(|finding| finding.text().contains(words)).cloned();
    found.unwrap_or_else(|| panic!("nothing says “{words}”: {findings:#?}"))
}

fn best(job: &Job, circuit: &Circuit) -> Vec<Kind> {
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let case = case_of(&job.installation, circuit, &settled).unwrap();
    diagnose(&case).unwrap().explanations.swap_remove(0).kinds
}

fn add(reading: &mut Reading, ohm: Decimal) {
    if let Value::Number(number) = &mut reading.value {
        *number += ohm;
    }
}

#[test]
fn leads_not_nulled() {
    let mut job = right();
    let ring = ring(&job);
    let low = |test| matches!(test, Test::RingEndToEnd { .. } | Test::RingBoardCheck | Test::R1Rn | Test::R1R2);
    for reading in of(&mut job, ring.id, low) {
        add(reading, dec!(0.15));
        reading.context.null = LeadNull::Unknown;
    }
    caught(&job, "leads neither nulled nor subtracted");
    assert!(best(&job, &ring).contains(&Kind::LeadsNotNulled), "{:?}", best(&job, &ring));
}

#[test]
fn pins_changed_without_nulling() {
    let nulled = EventKind::Nulled { lead_set: "plug-in lead".into(), pins: "L–N".into(), subtract_ohm: None };
    let state = LeadState::from_job(&[Event::new(uuid::Uuid::new_v4(), "A", jiff::Timestamp::UNIX_EPOCH, nulled)], &[]);
    let held = |pins| Leads { set: "plug-in lead", pins };
    for rule in [LeadCompensation::Hold, LeadCompensation::EveryTest] {
        assert!(state.serves(rule, held("L–N")) && !state.serves(rule, held("L–E")), "the run asks for a null");
    }
}

#[test]
fn the_wrong_pair_of_the_adapter() {
    let mut job = right();
    let ring = ring(&job);
    for reading in of(&mut job, ring.id, |test| test == Test::R1Rn) {
        reading.value = Value::Open;
    }
    assert_eq!(caught(&job, "open: a switch that is off, a reversal").severity, Severity::Fails);
}

#[test]
fn a_switch_that_is_off() {
    let mut job = right();
    let ring = ring(&job);
    for reading in of(&mut job, ring.id, |test| matches!(test, Test::R1Rn | Test::R1R2)) {
        if point(reading) == Some(PointId(4)) {
            reading.value = Value::Open;
        }
    }
    assert_eq!(caught(&job, "R1+Rn open at 4").severity, Severity::Fails);
    let at_4 = |kind: &Kind| match kind {
        Kind::SwitchOff { at } | Kind::Swap { at, .. } => at == "4",
        _ => false,
    };
    assert!(best(&job, &ring).iter().any(at_4), "{:?}", best(&job, &ring));
}

#[test]
fn a_leg_crossed_with_itself_is_caught_at_the_board() {
    let mut job = right();
    let ring = ring(&job);
    for reading in of(&mut job, ring.id, |test| test == Test::RingBoardCheck) {
        reading.value = Value::Number(dec!(0.01));
    }
    caught(&job, "a leg is linked to itself");
}

#[test]
fn the_first_point_recorded_instead_of_the_highest() {
    let mut job = right();
    let ring = ring(&job);
    job.readings.retain(|r| {
        r.key.subject.circuit() != Some(ring.id) || r.key.test != Test::R1R2 || point(r) == Some(PointId(1))
    });
    assert_eq!(caught(&job, "R1+R2 at each point").severity, Severity::Fails);
}

#[test]
fn contact_noise_is_not_the_highest() {
    let mut job = right();
    let radial = job.installation.circuits[4].clone();
    let settled_row =
        result_row(&job.installation, &radial, &CurrentReadings::new(&job.readings, &job.events)).printed().r1_r2;
    let mut noisy = of(&mut job, radial.id, |test| test == Test::R1R2).next().unwrap().clone();
    let steady = Reading { id: Uuid::new_v4(), ..noisy.clone() };
    noisy.id = Uuid::new_v4();
    add(&mut noisy, dec!(0.18));
    job.readings.push(noisy);
    caught(&job, "higher than this circuit should give");
    job.readings.push(steady);
    let row = result_row(&job.installation, &radial, &CurrentReadings::new(&job.readings, &job.events)).printed().r1_r2;
    assert_eq!(row, settled_row, "the settled reading counts, not the highest ever seen");
    assert_eq!(review((&job).into()), []);
}

#[test]
fn a_whole_board_above_its_circuits() {
    let mut job = right();
    let board = job.installation.boards[0].id;
    let circuits = job.installation.circuits.clone();
    for circuit in &circuits {
        for reading in of(&mut job, circuit.id, |test| matches!(test, Test::Insulation | Test::InsulationJoined)) {
            reading.value = Value::Number(dec!(320));
        }
    }
    for point in job.installation.circuits.iter_mut().flat_map(|circuit| &mut circuit.points) {
        point.connected_load.clear();
    }
    // The lights were read joined while their drivers stood in; now pair by pair like the others.
    let template = of(&mut job, circuits[4].id, |test| test == Test::Insulation).next().unwrap().clone();
    for pair in [Pair::LINE_EARTH, Pair::LINE_NEUTRAL, Pair::NEUTRAL_EARTH] {
        let mut key = template.key.clone();
        key.subject = proof_job::reading::Subject::Place { circuit: circuits[0].id, place: Place::Board };
        key.pair = Some(pair);
        job.readings.push(Reading { id: Uuid::new_v4(), key, ..template.clone() });
    }
    let key = set_key(set_circuits(&job.installation, board, None), Some(Pair::LINE_EARTH));
    let reading = Reading { id: Uuid::new_v4(), key, value: Value::Number(dec!(410)), ..template };
    job.readings.push(reading);
    caught(&job, "a whole is never above its lowest circuit");
}

#[test]
fn values_copied_down_a_column() {
    let mut job = right();
    let radial = job.installation.circuits[6].clone();
    for reading in of(&mut job, radial.id, |test| matches!(test, Test::R1Rn | Test::R1R2)) {
        reading.value = Value::Number(dec!(0.31));
    }
    caught(&job, "at each of 3 points");
}

#[test]
fn a_number_in_a_box_where_it_does_not_belong() {
    for (typed, field) in
        [("2500", Field::Continuity), (">999", Field::Loop), ("0.37", Field::Outcome), ("300000", Field::Insulation)]
    {
        let refused = parse(typed, field, dec!(999)).unwrap_err();
        assert!(!refused.allowed.is_empty(), "{typed}: {refused}");
    }
}

#[test]
fn a_link_left_in() {
    let mut job = right();
    let radial = job.installation.circuits[4].clone();
    let steps = circuit_steps(&job.installation, &radial);
    let walk = steps.iter().find(|step| step.stage == Stage::R1R2).unwrap();
    let (made, _) = changes(&job.installation, walk, &[], false);
    for one in made {
        job.events.push(Event::new(uuid::Uuid::new_v4(), "A", jiff::Timestamp::UNIX_EPOCH, one.opened(Uuid::new_v4())));
    }
    assert_eq!(caught(&job, "link at the board is not put back").severity, Severity::Fails);
    let insulation = steps.iter().find(|step| step.stage == Stage::Insulation).unwrap();
    let open = open_items(&job.events);
    assert_eq!(undo_first(&job.installation, insulation, &open).len(), 1, "and it goes back before insulation");
}

#[test]
fn a_torque_not_done() {
    let mut job = right();
    let board = job.installation.boards[0].id;
    let kind = EventKind::Altered {
        item: Uuid::new_v4(),
        board,
        circuit: None,
        alteration: Alteration::Torque,
        note: "main switch, 3.5 N m".into(),
    };
    job.events.push(Event::new(uuid::Uuid::new_v4(), "A", jiff::Timestamp::UNIX_EPOCH, kind));
    assert!(caught(&job, "torque owed").blocks());
}

#[test]
fn energised_with_a_dead_test_missing() {
    let mut job = right();
    let radial = job.installation.circuits[4].id;
    job.readings.retain(|r| r.key.subject.circuit() != Some(radial) || r.key.test != Test::Insulation);
    assert!(caught(&job, "Insulation resistance").blocks());
}

#[test]
fn an_instrument_out_of_calibration() {
    let mut job = right();
    job.instruments[0].calibration_due = Some(jiff::civil::date(2026, 9, 30));
    let found = caught(&job, "out of calibration");
    assert!(found.text().contains("readings that stand"), "{}", found.text());
    // By the other school, without a recent regular check.
    job.installation.house_rules.instruments = InstrumentTrust::Checks;
    job.instruments[0].checks.retain(|check| check.on < jiff::civil::date(2026, 8, 1));
    caught(&job, "was last checked on");
}

#[test]
fn breaker_cable_and_outlet_not_matching() {
    let mut job = right();
    job.installation.circuits[6].device.rating_a = Amps(dec!(40));
    caught(&job, "behind cable of");
    let mut job = right();
    job.installation.circuits[2].cable.line_mm2 = proof_standard::quantity::SquareMillimetres::literal(1.5);
    caught(&job, "a ring in 1.5 mm²");
}

#[test]
fn insulation_just_above_the_minimum_is_never_left_unexplained() {
    let mut job = right();
    let radial = job.installation.circuits[4].id;
    of(&mut job, radial, |test| test == Test::Insulation).next().unwrap().value = Value::Number(dec!(1.4));
    assert_eq!(caught(&job, "may be below the minimum tomorrow").severity, Severity::Odd);
}
