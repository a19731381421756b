//! A failing reading is not talked away: by asking less, by a limitation over it, by striking it out, by reading a part.

use jiff::Timestamp;
use proof_bench::demo;
use proof_job::installation::Accessory;
use proof_job::job::Job;
use proof_job::reading::{CurrentReadings, Reading, Step, Value};
use proof_job::site::{Event, EventKind};
use proof_judge::finding::Kind;
use proof_standard::house_rules::{ContinuityMethod, InsulationBy, TwinOutlets};
use proof_standard::limits::edition::RcdSchool;
use proof_work::actions::{Action, Actor, ChangedCells, Figure, Refusal, SheetStep, With, record, shown_steps_of};
use proof_work::gate::in_the_way;
use proof_work::plan::sequence::{circuit_steps, origin_steps, shown_steps};
use proof_work::plan::sets::set_step;
use proof_work::review::review;
use rust_decimal::dec;
use uuid::Uuid;

/// The finished job, its board dead again: what was read stands.
fn job() -> Job {
    let mut job = demo::jobs().swap_remove(0);
    job.events.retain(|event| !matches!(event.kind, EventKind::Energised { .. } | EventKind::Judged { .. }));
    job
}

fn add(job: &mut Job, step: &Step, value: Value) -> Uuid {
    let template = job.readings[0].clone();
    let id = Uuid::new_v4();
    job.readings.push(Reading { id, key: step.key.clone(), typed: value.shown(), value, ..template });
    id
}

fn strike(job: &mut Job, reading: Uuid) {
    let kind = EventKind::StruckOut { reading, reason: "read wrongly".to_owned() };
    job.events.push(Event::new(Uuid::new_v4(), "Maud Ferrow", Timestamp::now(), kind));
}

fn step(job: &Job, way: &str, slug: &str) -> Step {
    let circuit = job.installation.circuits.iter().find(|circuit| circuit.way == way).unwrap();
    let mut steps = shown_steps(&job.installation, circuit, &job.settled()).into_iter();
    steps.find(|step| step.slug == slug).unwrap_or_else(|| panic!("{way} {slug}"))
}

/// What keeps power away from a way.
fn bars(job: &Job, way: &str) -> Vec<Kind> {
    let circuit = job.installation.circuits.iter().find(|circuit| circuit.way == way).unwrap();
    let found = in_the_way(job.into(), circuit.board, &[circuit.id]);
    found.iter().filter(|one| one.circuit() == Some(circuit.id)).map(proof_work::review::Finding::kind).collect()
}

#[test]
fn an_open_second_outlet_stays_when_one_outlet_is_asked() {
    let mut job = job();
    job.installation.house_rules.twin_outlets = TwinOutlets::Both;
    let twin = |circuit: &&proof_job::installation::Circuit| {
        circuit.points.iter().any(|point| point.accessory == Accessory::Twin)
    };
    let way = job.installation.circuits.iter().find(twin).unwrap().way.clone();
    let circuit = job.installation.circuits.iter().find(|one| one.way == way).unwrap().clone();
    let steps = circuit_steps(&job.installation, &circuit);
    let second = steps.iter().find(|step| step.slug.starts_with("r2") && step.slug.ends_with("-o2")).unwrap().clone();
    add(&mut job, &second, Value::Open);
    assert!(bars(&job, &way).contains(&Kind::NotContinuous));
    job.installation.house_rules.twin_outlets = TwinOutlets::One;
    assert!(!circuit_steps(&job.installation, &circuit).iter().any(|step| step.key == second.key), "not asked for");
    assert!(bars(&job, &way).contains(&Kind::NotContinuous), "judged all the same");
    // It is shown where it is mended, and a figure there settles it.
    let shown = shown_steps(&job.installation, &circuit, &job.settled());
    let there = shown.iter().find(|step| step.key == second.key).unwrap().clone();
    let plain = step(&job, &way, &second.slug.replace("-o2", ""));
    let good = job.settled().value(&plain.key).unwrap().clone();
    add(&mut job, &there, good);
    assert_eq!(bars(&job, &way), []);
}

#[test]
fn another_method_or_edition_leaves_what_failed() {
    for (way, slug, value, kind) in [
        ("3", "ir-e-l", Value::Number(dec!(0.2)), Kind::InsulationLow),
        ("7", "r2-p1", Value::Open, Kind::NotContinuous),
    ] {
        let mut job = job();
        let failing = step(&job, way, slug);
        add(&mut job, &failing, value);
        assert!(bars(&job, way).contains(&kind), "{way} {slug}");
        job.installation.house_rules.continuity = ContinuityMethod::R2;
        job.installation.house_rules.neutral_earth = proof_standard::house_rules::NeutralEarth::Joined;
        assert!(bars(&job, way).contains(&kind), "{way} {slug}: {:?}", bars(&job, way));
    }
    // Half of IΔn that tripped, on a job of one test.
    let mut job = job();
    job.installation.house_rules.rcd_school = Some(RcdSchool::Series);
    let half = step(&job, "3", "rcd-half-0");
    add(&mut job, &half, Value::Number(dec!(22)));
    job.installation.house_rules.rcd_school = Some(RcdSchool::Single);
    let fails = |job: &Job| review(job.into()).iter().any(|one| one.kind() == Kind::RcdFails && one.blocks());
    assert!(fails(&job));
    // A bond of ohms that is looked at only.
    let measured = origin_steps(&job.installation).into_iter().find(|step| step.slug.starts_with("bond-")).unwrap();
    add(&mut job, &measured, Value::Number(dec!(4)));
    job.installation.house_rules.bonding = proof_standard::house_rules::BondingBy::Seen;
    let bond = review((&job).into()).into_iter().find(|one| one.kind() == Kind::NotContinuous);
    assert!(bond.is_some_and(|one| one.bars_energising));
    // The sheet shows it, and takes what is read there again.
    let shown = shown_steps_of(&job.installation, &job.settled(), None);
    let again = shown.iter().find(|step| step.key == measured.key).unwrap();
    let day = job.readings.iter().find(|one| one.key == measured.key).and_then(|one| one.context.taken_at).unwrap();
    let paper_on = day.strftime("%Y-%m-%d").to_string();
    let with = With { paper: true, paper_on, ..With::default() };
    let steps =
        vec![SheetStep { field: "bond".to_owned(), board: None, slug: again.slug.clone(), typed: "0.02".to_owned() }];
    let hand = Actor::new(Uuid::new_v4(), "Maud Ferrow", Timestamp::now());
    let taken = record(&job, &Action::Sheet(ChangedCells { steps, with, ..ChangedCells::default() }), &hand).unwrap();
    assert_eq!(taken.readings[0].key, measured.key);
    job.readings.extend(taken.readings);
    assert!(!review((&job).into()).iter().any(|one| one.kind() == Kind::NotContinuous));
}

#[test]
fn a_limitation_does_not_take_the_place_of_a_figure() {
    let mut job = job();
    let low = step(&job, "3", "ir-e-l");
    let figure = add(&mut job, &low, Value::Number(dec!(0.2)));
    for given in ["lim no access", "n/a none there"] {
        let typed = |step: &Step| {
            Action::Read(Figure {
                step: step.clone(),
                typed: given.to_owned(),
                pressed: String::new(),
                with: With { paper: true, paper_on: "2026-11-20".to_owned(), ..With::default() },
            })
        };
        let hand = Actor::new(Uuid::new_v4(), "Maud Ferrow", Timestamp::now());
        let refused = record(&job, &typed(&low), &hand).unwrap_err();
        assert!(matches!(refused, Refusal::FigureInForce { .. }), "{given}: {refused}");
    }
    // From a file it comes in, and takes no figure's place.
    add(&mut job, &low, Value::Limitation("no access".into()));
    assert_eq!(job.settled().value(&low.key), Some(&Value::Number(dec!(0.2))));
    assert!(bars(&job, "3").contains(&Kind::InsulationLow));
    // Struck out, its place still wants a figure, and nobody judges that away. The good one before is in force again
    // unless it is struck out too.
    let before: Vec<Uuid> =
        job.readings.iter().filter(|one| one.key == low.key && one.id != figure).map(|one| one.id).collect();
    strike(&mut job, figure);
    for id in before {
        strike(&mut job, id);
    }
    add(&mut job, &low, Value::Limitation("no access".into()));
    let found = review((&job).into());
    let wants = found.iter().find(|one| one.kind() == Kind::ReadingMissing && one.bars_energising).unwrap();
    assert!(!wants.may_be_judged() && wants.text().contains("0.2"), "{}", wants.text());
    // At power without any figure in its place, it is at power untested, and that is told as such.
    let mut live = job.clone();
    live.readings.retain(|one| one.key != low.key || one.value == Value::Number(dec!(0.2)));
    let board = live.installation.boards[0].id;
    let kind = EventKind::Energised { board, circuits: Vec::new() };
    live.events.push(Event::new(Uuid::new_v4(), "Maud Ferrow", Timestamp::now(), kind));
    let untested = review((&live).into()).into_iter().find(|one| one.kind() == Kind::EnergisedUntested);
    assert!(untested.is_some_and(|one| one.blocks() && one.text().contains(&low.label)));
    add(&mut job, &low, Value::Over(dec!(999)));
    assert_eq!(bars(&job, "3"), []);
}

#[test]
fn that_somebody_walked_frees_no_open_point() {
    let mut job = job();
    let at = step(&job, "7", "r2-p1");
    add(&mut job, &at, Value::Open);
    add(&mut job, &at, Value::Walked);
    assert!(bars(&job, "7").contains(&Kind::NotContinuous));
}

#[test]
fn a_set_of_ways_that_failed_is_read_again_whole() {
    let mut job = job();
    let board = job.installation.boards[0].id;
    let ids: Vec<Uuid> = job.installation.circuits_on(board).map(|circuit| circuit.id).collect();
    let part = set_step(ids[..3].to_vec(), None);
    add(&mut job, &part, Value::Number(dec!(0.3)));
    let fails = |job: &Job| in_the_way(job.into(), board, &[]).iter().any(|one| one.kind() == Kind::InsulationLow);
    assert!(fails(&job));
    job.installation.house_rules.insulation = InsulationBy::Circuit;
    assert!(fails(&job), "not asked for, and judged");
    add(&mut job, &set_step(ids.clone(), None), Value::Over(dec!(999)));
    assert!(!fails(&job), "each of them was read again with the others");
    assert_eq!(CurrentReadings::new(&job.readings, &job.events).for_sets().count(), 2);
}
