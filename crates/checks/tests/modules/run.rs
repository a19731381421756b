//! The run of the dead tests.

use jiff::{SignedDuration, Timestamp};
use proof_bench::demo;
use proof_bench::meter::Meter;
use proof_bench::site::{Visit, read_circuit};
use proof_job::installation::Lines;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Reading, Stage, Subject, Test, Value};
use proof_job::site::{Event, EventKind, LeadState, Leads, open_items};
use proof_standard::house_rules::{ContinuityMethod, HouseRules, InsulationBy, LeadCompensation, TwinOutlets};
use proof_work::plan::disturbance::goes_back_at_once;
use proof_work::plan::run::{Counts, Need, Order, Run};
use proof_work::plan::search::{Next, Search};
use proof_work::plan::sequence::circuit_steps;
use rust_decimal::dec;
use uuid::Uuid;

/// The press room before anything was read.
fn fresh(rule: impl Fn(&mut HouseRules)) -> Job {
    let mut job = demo::jobs().swap_remove(0);
    job.readings.clear();
    job.events.clear();
    rule(&mut job.installation.house_rules);
    job
}

fn counts(job: &Job, order: Order) -> Counts {
    Run::new(job, &CurrentReadings::new(&job.readings, &job.events), order).counts(false)
}

/// What a person who does as told has done in the end.
#[derive(Debug, Default, PartialEq)]
struct Walked {
    readings: usize,
    nulls: usize,
    made: usize,
    undone: usize,
}

/// Walks a job as the run says: proves, undoes, makes, nulls, reads, until nothing is left.
fn walk(job: &mut Job, order: Order) -> Walked {
    let mut walked = Walked::default();
    let mut clock: Timestamp = "2026-10-05T08:00:00Z".parse().unwrap();
    let mut visit = Visit {
        instrument: job.instruments[0].id,
        read_by: "Idris Kell".into(),
        entered_by: "Maud Ferrow".into(),
        clock,
        ze: 0.17,
        neutral: 0.16,
    };
    let mut truth: Vec<Reading> = Vec::new();
    let mut meter = Meter::new(5);
    for circuit in &job.installation.circuits {
        truth.extend(read_circuit(&job.installation, circuit, vec![], &mut visit, &mut meter, |_| true));
    }
    for _ in 0..2000 {
        clock = clock.checked_add(SignedDuration::from_secs(20)).unwrap();
        let (events, reading) = {
            let settled = CurrentReadings::new(&job.readings, &job.events);
            let run = Run::new(job, &settled, order);
            let Some(planned) = run.current_card(None) else { return walked };
            let mut log = Vec::new();
            match run.needs(planned).into_iter().next() {
                Some(Need::Prove { board, .. }) => {
                    log.push(EventKind::proved_dead(board, Lines::Single, "VI-1"));
                }
                Some(Need::Undo(items)) => {
                    walked.undone += items.len();
                    log.extend(items.iter().map(|item| EventKind::PutBack { item: item.item }));
                }
                Some(Need::Make(made, replaced)) => {
                    walked.made += made.len();
                    log.extend(replaced.into_iter().map(|item| EventKind::PutBack { item }));
                    log.extend(made.into_iter().map(|one| one.opened(Uuid::new_v4())));
                }
                Some(Need::Null(leads)) => {
                    walked.nulls += 1;
                    let subtract_ohm =
                        (job.installation.house_rules.leads == LeadCompensation::Subtract).then(|| dec!(0.07));
                    let (lead_set, pins) = (leads.set.to_owned(), leads.pins.to_owned());
                    log.push(EventKind::Nulled { lead_set, pins, subtract_ohm });
                }
                None => {}
            }
            let reading = log.is_empty().then(|| {
                let value = truth.iter().find(|one| one.key == planned.step.key).map_or_else(
                    || match planned.step.field {
                        proof_job::reading::entry::Field::Outcome => Value::Pass,
                        proof_job::reading::entry::Field::Insulation => Value::Over(dec!(999)),
                        _ => Value::Number(dec!(0.02)),
                    },
                    |one| one.value.clone(),
                );
                // The visit adds its own seconds to a reading.
                visit.clock = clock.checked_sub(SignedDuration::from_secs(47)).unwrap();
                visit.reading(&planned.step, value, Uuid::new_v4())
            });
            (log, reading)
        };
        job.events.extend(events.into_iter().map(|kind| Event::new(uuid::Uuid::new_v4(), "Idris Kell", clock, kind)));
        walked.readings += usize::from(reading.is_some());
        job.readings.extend(reading);
    }
    panic!("the run does not end");
}

#[test]
fn a_walk_ends_with_every_dead_test_in_and_costs_what_was_said() {
    for order in Order::ALL {
        for leads in [LeadCompensation::Hold, LeadCompensation::EveryTest, LeadCompensation::Subtract] {
            let mut job = fresh(|rules| rules.leads = leads);
            let said = counts(&job, order);
            let walked = walk(&mut job, order);
            assert_eq!((walked.readings, walked.nulls), (said.readings, said.nulls), "{order:?} {leads:?}");
            let findings = proof_work::review::review((&job).into());
            let dead: Vec<_> = findings
                .iter()
                .filter(|finding| finding.about != "Origin" && !finding.text().contains("not put back"))
                .filter(|finding| {
                    ["continuity", "insulation", "polarity", "end to end"]
                        .iter()
                        .any(|w| finding.text().to_lowercase().contains(w))
                })
                .collect();
            assert!(dead.is_empty(), "{dead:#?}");
            let left: Vec<_> = open_items(&job.events).iter().map(|item| item.alteration).collect();
            let links = left.iter().filter(|one| goes_back_at_once(**one)).count();
            assert!(links <= 1, "only the last step may have left its own: {left:?}");
        }
    }
}

#[test]
fn test_by_test_goes_to_the_board_less_often() {
    let job = fresh(|_| ());
    let (by_circuit, by_test) = (counts(&job, Order::CircuitByCircuit), counts(&job, Order::TestByTest));
    assert_eq!(by_circuit.readings, by_test.readings);
    assert!(by_test.board_visits < by_circuit.board_visits, "{by_circuit:?} {by_test:?}");
    assert!(by_test.nulls <= by_circuit.nulls, "{by_circuit:?} {by_test:?}");
    assert!(by_circuit.points > 40);
}

#[test]
fn changing_one_house_rule_changes_steps_and_counts() {
    let usual = counts(&fresh(|_| ()), Order::CircuitByCircuit);
    let with = |rule: fn(&mut HouseRules)| counts(&fresh(rule), Order::CircuitByCircuit);
    let outlets = with(|rules| rules.twin_outlets = TwinOutlets::Both);
    assert!(outlets.readings > usual.readings && outlets.points == usual.points, "{usual:?} {outlets:?}");
    let long_lead = with(|rules| rules.continuity = ContinuityMethod::R2);
    assert!(long_lead.points < usual.points && long_lead.board_visits < usual.board_visits, "{long_lead:?}");
    let whole = with(|rules| rules.insulation = InsulationBy::Board);
    assert!(whole.readings < usual.readings, "{whole:?}");
    let every = with(|rules| rules.leads = LeadCompensation::EveryTest);
    assert!(every.nulls > 3 * usual.nulls, "{every:?}");
}

/// The whole board is read with the switches as they stand; the other position is read on its own.
#[test]
fn the_whole_board_does_not_stand_for_the_other_position() {
    let mut job = fresh(|rules| rules.insulation = InsulationBy::Board);
    let lights = job.installation.circuits[0].clone();
    let over = |job: &Job| {
        let settled = CurrentReadings::new(&job.readings, &job.events);
        let run = Run::new(job, &settled, Order::CircuitByCircuit);
        let own =
            |one: &&proof_work::plan::run::Planned| one.circuit == Some(lights.id) && one.step.slug == "ir-joined-over";
        run.left().filter(own).count()
    };
    assert_eq!(over(&job), 1);
    let mut reading = demo::jobs().swap_remove(0).readings.swap_remove(0);
    let all = proof_work::plan::sets::set_circuits(&job.installation, lights.board, None);
    reading.key = proof_job::reading::keys::set_key(all, None);
    reading.value = Value::Over(dec!(999));
    job.readings.push(reading);
    assert_eq!(over(&job), 1, "both switches stood as they stood");
}

/// Joined is a first look: apart only where it was low.
#[test]
fn joined_is_split_where_it_reads_low() {
    use proof_job::reading::{Key, Place};
    use proof_standard::house_rules::NeutralEarth;
    let mut job = fresh(|rules| rules.neutral_earth = NeutralEarth::Joined);
    let ring = job.installation.circuits[2].id;
    let slugs = |job: &Job| -> Vec<String> {
        let settled = CurrentReadings::new(&job.readings, &job.events);
        let run = Run::new(job, &settled, Order::CircuitByCircuit);
        let own =
            |one: &&proof_work::plan::run::Planned| one.circuit == Some(ring) && one.step.stage == Stage::Insulation;
        run.planned.iter().filter(own).map(|planned| planned.step.slug.clone()).collect()
    };
    assert_eq!(slugs(&job), ["ir-joined", "ir-n-l"]);
    let mut reading = demo::jobs().swap_remove(0).readings.swap_remove(0);
    reading.key = Key::on_circuit(ring, Place::Board, Test::InsulationJoined);
    reading.value = Value::Over(dec!(999));
    job.readings.push(reading);
    assert_eq!(slugs(&job), ["ir-joined", "ir-n-l"], "over range: nothing more to look for");
    job.readings.last_mut().unwrap().value = Value::Number(dec!(0.4));
    assert_eq!(slugs(&job), ["ir-joined", "ir-e-l", "ir-e-n", "ir-n-l"]);
}

#[test]
fn a_step_out_of_turn_is_planned_around_and_a_run_resumes_where_it_was() {
    let mut job = fresh(|_| ());
    let ring = job.installation.circuits[2].clone();
    let steps = circuit_steps(&job.installation, &ring);
    let r1 = steps.iter().find(|step| step.slug == "r1").unwrap().clone();
    let mut reading = demo::jobs().swap_remove(0).readings.swap_remove(0);
    reading.key = r1.key.clone();
    job.readings.push(reading);
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let run = Run::new(&job, &settled, Order::CircuitByCircuit);
    assert_eq!(run.current_card(None).unwrap().step.slug, "earthing");
    assert!(!run.left().any(|planned| *planned.step == r1));
    let jumped = run.current_card(Some((ring.id, "rn"))).unwrap();
    assert_eq!((jumped.step.slug.as_str(), run.after(jumped).unwrap().step.slug.as_str()), ("rn", "r2"));
}

#[test]
fn pins_changed_ask_for_a_null_and_the_same_leads_do_not() {
    let leads = |pins| Leads { set: "plug-in lead", pins };
    let nulled = |pins: &str| {
        let kind = EventKind::Nulled { lead_set: "plug-in lead".into(), pins: pins.into(), subtract_ohm: None };
        Event::new(uuid::Uuid::new_v4(), "A", Timestamp::UNIX_EPOCH, kind)
    };
    let state = LeadState::from_job(&[nulled("L–N")], &[]);
    assert!(state.serves(LeadCompensation::Hold, leads("L–N")));
    assert!(!state.serves(LeadCompensation::Hold, leads("L–E")), "the other pair of pins");
    let state = LeadState::from_job(&[nulled("L–N"), nulled("L–E")], &[]);
    assert!(!state.serves(LeadCompensation::Hold, leads("L–N")), "a null holds for the last only");
}

/// A whole board that fails leads into the search, and the search to the circuit.
#[test]
fn a_failing_board_is_searched_in_the_run() {
    use proof_standard::house_rules::SearchOrder;
    for order in [SearchOrder::InOrder, SearchOrder::AllOff, SearchOrder::Halving] {
        let mut job = fresh(|rules| {
            rules.insulation = InsulationBy::Board;
            rules.search = order;
        });
        for point in job.installation.circuits.iter_mut().flat_map(|circuit| &mut circuit.points) {
            point.connected_load.clear();
        }
        crate::without_electronics(&mut job.installation);
        let board = job.installation.boards[0].clone();
        let culprit = job.installation.circuits[5].id;
        let (mut mended, mut whole_again) = (false, 0);
        let template = demo::jobs().swap_remove(0).readings.swap_remove(0);
        for _ in 0..60 {
            let reading = {
                let settled = CurrentReadings::new(&job.readings, &job.events);
                let run = Run::new(&job, &settled, Order::CircuitByCircuit);
                // The other position of two-way lights is read apart, whatever the board reads.
                let searched = |planned: &&proof_work::plan::run::Planned| {
                    planned.step.stage == Stage::Insulation
                        && !proof_work::plan::substitute::is_turned_over(&planned.step)
                };
                let Some(planned) = run.left().find(searched) else { break };
                whole_again += usize::from(planned.again);
                let holds = match &planned.step.key.subject {
                    Subject::CircuitSet { circuits } => circuits.contains(&culprit) && !mended,
                    subject => {
                        mended = true;
                        assert_eq!(subject.circuit(), Some(culprit), "only the one at fault is read alone");
                        false
                    }
                };
                let wrong = holds && planned.step.key.pair == Some(proof_standard::conductor::Pair::NEUTRAL_EARTH);
                let value = if wrong { Value::Number(dec!(0.21)) } else { Value::Over(dec!(999)) };
                Reading {
                    id: Uuid::new_v4(),
                    key: planned.step.key.clone(),
                    typed: value.shown(),
                    value,
                    ..template.clone()
                }
            };
            job.readings.push(reading);
        }
        assert!(mended && whole_again == 1, "{order:?}: mended, then the whole once more");
        let settled = CurrentReadings::new(&job.readings, &job.events);
        let search =
            Search::on_board(&job.installation, &board, &settled, Some(proof_standard::conductor::Pair::NEUTRAL_EARTH));
        assert_eq!(search.next(), Next::Sound, "{order:?}");
    }
}

#[test]
fn a_leg_linked_to_itself_is_read_again_at_the_board_before_walking() {
    let mut job = demo::jobs().swap_remove(0);
    let ring = job.installation.circuits[2].id;
    let walk = |test| matches!(test, Test::R1Rn | Test::R1R2);
    job.readings.retain(|r| r.key.subject.circuit() != Some(ring) || !walk(r.key.test));
    let next = |job: &Job| {
        let settled = CurrentReadings::new(&job.readings, &job.events);
        let run = Run::new(job, &settled, Order::CircuitByCircuit);
        run.left().find(|planned| planned.circuit == Some(ring)).unwrap().step.slug.clone()
    };
    assert_eq!(next(&job), "rn-p1", "the cross is right: walk");
    for reading in job.readings.iter_mut().filter(|r| r.key.test == Test::RingBoardCheck) {
        reading.value = Value::Number(dec!(0.00));
    }
    assert_eq!(next(&job), "rn-board");
}
