//! One judge: every place that shows a verdict shows the same one. Over the demo's jobs with their figures changed at
//! random, and house rules turned.

use proof_bench::demo;
use proof_bench::meter::Meter;
use proof_job::job::Job;
use proof_job::reading::{Key, Place, Reading, Test, Value};
use proof_judge::finding::Found;
use proof_judge::verdict::{CircuitJudge, Limit, Plausibility};
use proof_standard::house_rules::{NeutralLoop, RULES, ZsLimit};
use proof_work::plan::sequence::reviewed_steps;
use proof_work::review::{Where, review};
use proof_work::schedule::result_row;
use rust_decimal::{Decimal, dec};
use uuid::Uuid;

/// A job with some of its figures changed, and read again.
fn disturbed(job: &Job, seed: u64) -> Job {
    let mut meter = Meter::new(seed);
    let mut job = job.clone();
    let rule = &RULES[(seed as usize) % RULES.len()];
    let ways = (rule.ways)();
    let way = ways[(meter.share() * ways.len() as f64) as usize % ways.len()].0;
    (rule.choose)(&mut job.installation.house_rules, way);
    if meter.share() < 0.5 {
        job.installation.house_rules.zs_limit = ZsLimit::Temperature;
    }
    job.installation.house_rules.neutral_loop = NeutralLoop::Noted;
    let all = job.readings.clone();
    for reading in &all {
        if meter.share() >= 0.25 {
            continue;
        }
        let value = match (&reading.value, meter.share()) {
            (Value::Number(_), share) if share < 0.1 => Value::Open,
            (Value::Number(number), share) if share < 0.6 => {
                let factor = Decimal::from((share * 500.0) as u32) / dec!(100);
                Value::Number((*number * factor).round_dp(2))
            }
            (Value::Number(_), _) => Value::Number(dec!(9.99)),
            (other, _) => other.clone(),
        };
        job.readings.push(Reading { id: Uuid::new_v4(), value, ..reading.clone() });
    }
    // A line–neutral loop of ohms beside sound copper.
    for circuit in &job.installation.circuits {
        let key = Key::on_circuit(circuit.id, Place::Board, Test::LineNeutralLoop);
        let (id, value) = (Uuid::new_v4(), Value::Number(dec!(9.99)));
        job.readings.push(Reading { id, key, typed: "9.99".into(), value, ..all[0].clone() });
    }
    job
}

#[test]
fn every_place_that_shows_a_verdict_shows_the_same_one() {
    let (mut judged, mut odd, mut neutral_loops) = (0, 0, 0);
    for seed in 0..60 {
        let of = &demo::jobs()[(seed % 3) as usize];
        let job = disturbed(of, seed);
        let (installation, settled) = (&job.installation, job.settled());
        let findings = review((&job).into());
        for circuit in &installation.circuits {
            let judge = CircuitJudge::new(installation, circuit, &settled);
            for step in reviewed_steps(installation, circuit, &settled) {
                let Some(value) = settled.value(&step.key) else { continue };
                let (plain, told) = (judge.judge(&step, value), judge.explain(&step, value));
                assert!(plain.same_verdict(&told), "seed {seed} {}: {plain:?} {told:?}", step.slug);
                assert!(plain.working.is_empty());
                let said = told.working.iter().any(|line| line.part == proof_judge::verdict::WorkingPart::Limit);
                assert!(said || told.limit == Limit::NotJudged, "seed {seed} {}: a limit without working", step.slug);
                judged += 1;
                neutral_loops += usize::from(step.key.test == Test::LineNeutralLoop && !plain.is_quiet());
                // What is not quiet on its page is a finding of the review, in the same words, and nothing else is.
                let place = Where::Circuit(circuit.id, Some(step.slug.clone()));
                let here = findings.iter().filter(|one| one.place == place);
                let of_reading = here.filter_map(|one| match &one.found {
                    Found::Reading(reading) if reading.value == *value => Some(reading),
                    _ => None,
                });
                let found: Vec<_> = of_reading.collect();
                if plain.is_quiet() {
                    assert!(found.is_empty(), "seed {seed} {}: {found:?}", step.slug);
                } else {
                    odd += 1;
                    assert_eq!(found.len(), 1, "seed {seed} way {} {}: {plain:?}", circuit.way, step.slug);
                    assert_eq!(found[0].outside, plain.limit == Limit::Outside);
                    assert_eq!((&found[0].reasons, &found[0].bound), (&plain.reasons, &plain.bound()));
                    assert!(plain.limit == Limit::Outside || plain.plausibility == Plausibility::LookAgain);
                }
            }
            // The schedule prints what is in force, and nothing of its own.
            let _ = result_row(installation, circuit, &settled).printed();
        }
    }
    assert!(judged > 3000 && odd > 300 && neutral_loops > 0, "{judged} {odd} {neutral_loops}");
}
