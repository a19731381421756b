//! Every house rule, chosen the other way, changes something in some job: the plan, what is altered for it,
//! or how it is judged.

use proof_bench::demo;
use proof_job::installation::{CableFamily, Installation};
use proof_job::job::Job;
use proof_job::reading::keys::{current_key, own_loop_key};
use proof_job::reading::{Key, Place, Test, Value};
use proof_standard::conductor::Pair;
use proof_standard::house_rules::{HouseRules, NeutralReading, PolarityBy, RULES};
use proof_work::plan::run::Order;
use proof_work::rule_effects::{Effect, cost, effect};
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

/// In which order the card offers the pairs of one test, and how a verdict comes over: no reading, no
/// alteration and no judgement knows of these.
const OF_THE_SCREEN: [&str; 2] = ["pair_order", "sign"];

/// The demo's jobs, unread too, with metal beside the CPCs, an armoured cable, and by other rules.
fn jobs() -> Vec<Job> {
    let mut all = demo::jobs();
    let mut with = |change: fn(&mut Installation)| {
        for mut job in demo::jobs() {
            (job.readings, job.events) = (Vec::new(), Vec::new());
            change(&mut job.installation);
            all.push(job);
        }
    };
    with(|_| ());
    with(|installation| installation.boards.iter_mut().for_each(|board| board.parallel_earth = Some(true)));
    with(|installation| installation.circuits[0].cable.kind = CableFamily::Armoured.into());
    with(|installation| {
        installation.house_rules = HouseRules {
            polarity_by: PolarityBy::R1R2Alone,
            neutral_reading: NeutralReading::Skipped,
            ..HouseRules::default()
        };
    });
    with(|installation| installation.house_rules.polarity_by = PolarityBy::Eye);
    all.push(between_the_limits());
    all.push(under_its_length());
    all
}

/// Zs above 80 % of its maximum, and under it when its copper is taken warm; a current that its loop gives at
/// 210 V: within 10 % of 230 V, and not within 6 %.
fn between_the_limits() -> Job {
    let mut job = demo::jobs().swap_remove(0);
    let ring = job.installation.circuits[2].id;
    let zs = Key::on_circuit(ring, Place::Board, Test::Zs);
    let own = |job: &Job, key: Key, value: Decimal| {
        let mut reading = job.readings[0].clone();
        (reading.id, reading.key, reading.value) = (Uuid::new_v4(), key, Value::Number(value));
        reading
    };
    let (current, of_loop) = (current_key(Pair::LINE_NEUTRAL, None), own_loop_key(Pair::LINE_NEUTRAL, None));
    job.readings.retain(|one| one.key != zs && one.key != current);
    let more = [own(&job, zs, dec!(1.12)), own(&job, current, dec!(1.00)), own(&job, of_loop, dec!(0.21))];
    job.readings.extend(more);
    job
}

/// A radial in armour that reads a third of what its CPC alone would give.
fn under_its_length() -> Job {
    let mut job = demo::jobs().swap_remove(0);
    job.installation.circuits[6].cable.kind = CableFamily::Armoured.into();
    let radial = job.installation.circuits[6].id;
    for reading in job.readings.iter_mut().filter(|one| one.key.subject.circuit() == Some(radial)) {
        if let (Test::R1R2, Value::Number(ohm)) = (reading.key.test, &mut reading.value) {
            *ohm /= dec!(3);
        }
    }
    job
}

#[test]
fn every_house_rule_chosen_the_other_way_changes_something() {
    let jobs = jobs();
    let costs: Vec<_> = jobs.iter().map(|job| cost(job, Order::default())).collect();
    let changes = |rule, way| {
        jobs.iter().zip(&costs).any(|(job, before)| effect(job, before, rule, way, Order::default()) != Effect::Nothing)
    };
    let idle: Vec<&str> = RULES
        .iter()
        .filter(|rule| !(rule.ways)().into_iter().any(|(way, _)| changes(rule, way)))
        .map(|rule| rule.key)
        .collect();
    assert_eq!(idle, OF_THE_SCREEN);
}
