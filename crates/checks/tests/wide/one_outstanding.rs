//! One answer to what a circuit, a board or the origin still needs: run, run at power, counts, review and gate give the
//! same one. Over drawn jobs with readings taken away, struck out, limited, of ways left dead at random, and house rules
//! turned.

use jiff::Timestamp;
use proof_bench::meter::Meter;
use proof_checks::good_job::{Wanted, good_job};
use proof_job::job::Job;
use proof_job::reading::{Reading, Stage, Step, Subject, Test, Value};
use proof_job::site::{Event, EventKind};
use proof_judge::finding::Found;
use proof_standard::house_rules::RULES;
use proof_work::gate::in_the_way;
use proof_work::live_tests::Live;
use proof_work::plan::outstanding::{OutstandingQuery, StepState, outstanding};
use proof_work::plan::run::{Order, Planned, Run};
use proof_work::plan::substitute::Scope;
use proof_work::review::{Finding, Where, review};
use rust_decimal::dec;
use std::collections::BTreeSet;
use uuid::Uuid;

/// The same instant for all: what happened is in the order of the log.
fn event(kind: EventKind) -> Event {
    Event::new(Uuid::new_v4(), "Maud Ferrow", Timestamp::from_second(1_790_900_000).unwrap(), kind)
}

/// A drawn job with gaps of every kind.
fn with_gaps(seed: u64) -> Job {
    let mut job = good_job(seed, Wanted { below: seed.is_multiple_of(3), series: true, electrode: false });
    let mut meter = Meter::new(seed ^ 0x6a95);
    // Some were never read.
    let keep: Vec<bool> = job.readings.iter().map(|_| meter.share() < 0.8).collect();
    let mut keep = keep.into_iter();
    job.readings.retain(|_| keep.next().unwrap());
    for reading in job.readings.clone() {
        let share = meter.share();
        if share > 0.12 {
            continue;
        }
        // Failed and struck out; in some a limitation follows, in some a figure.
        let fails = match reading.key.test {
            Test::Insulation | Test::InsulationJoined => Value::Number(dec!(0.2)),
            Test::RcdTrip { .. } => Value::Number(dec!(900)),
            _ if matches!(reading.value, Value::Pass) => Value::Fail,
            _ if matches!(reading.value, Value::Number(_)) => Value::Number(dec!(9999)),
            _ => continue,
        };
        let id = Uuid::new_v4();
        job.readings.push(Reading { id, value: fails, ..reading.clone() });
        let before: Vec<Uuid> = job.readings.iter().filter(|one| one.key == reading.key).map(|one| one.id).collect();
        let reason = || "read wrongly".to_owned();
        job.events.extend(before.into_iter().map(|id| event(EventKind::StruckOut { reading: id, reason: reason() })));
        let after = match share {
            share if share < 0.03 => Value::Limitation("behind the press".to_owned()),
            share if share < 0.06 => reading.value.clone(),
            _ => continue,
        };
        job.readings.push(Reading { id: Uuid::new_v4(), value: after, ..reading });
    }
    // A way stays dead.
    let installation = &mut job.installation;
    if meter.share() < 0.4 {
        let left = &installation.circuits[(meter.share() * installation.circuits.len() as f64) as usize];
        let (board, circuits) = (left.board, vec![left.id]);
        let (lock, reason) = ("key 7, Maud Ferrow".to_owned(), "the hob".to_owned());
        job.events.push(event(EventKind::LockedOff { board, circuits, lock, reason }));
    }
    // What asks for less, or for other things, than when it was read.
    for rule in RULES {
        if meter.share() > 0.25 {
            continue;
        }
        let ways = (rule.ways)();
        let way = ways[(meter.share() * ways.len() as f64) as usize % ways.len()].0;
        (rule.choose)(&mut installation.house_rules, way);
    }
    job
}

/// Polarity that follows from other readings is told in words of its own.
fn follows(step: &Step) -> bool {
    step.stage == Stage::Polarity && !step.required
}

/// What the review says is not read of a circuit, a board or the origin: the names of the steps.
fn missing_in_review(findings: &[Finding], scope: Scope<'_>) -> BTreeSet<String> {
    let here = |finding: &&Finding| match (scope, &finding.place) {
        (Scope::Origin, Where::Origin(_)) => true,
        (Scope::Board(board), Where::BoardStep(id, _)) => *id == board.id,
        (Scope::Circuit(circuit), Where::Circuit(id, _)) => *id == circuit.id,
        _ => false,
    };
    let of = |finding: &Finding| match &finding.found {
        Found::NotRead { labels, .. } => labels.clone(),
        Found::NotTaken { label, .. } | Found::StruckOut { label, .. } => vec![label.clone()],
        Found::PolarityOutstanding { .. } => vec!["polarity follows".to_owned()],
        _ => Vec::new(),
    };
    findings.iter().filter(here).flat_map(of).collect()
}

/// Whether a planned reading is of a need: the very one; a set of ways that bounds it; a reading that polarity follows
/// from.
fn serves(planned: &Planned, need: &Step) -> bool {
    let circuit = need.key.subject.circuit();
    let set = match &planned.step.key.subject {
        Subject::CircuitSet { circuits } => {
            circuit.is_some_and(|id| circuits.contains(&id)) && need.stage == Stage::Insulation
        }
        _ => false,
    };
    let walked = follows(need) && planned.circuit == circuit && planned.step.stage.is_dead();
    planned.step.key == need.key || set || walked
}

#[test]
fn everybody_is_told_the_same_needs() {
    let (mut needed, mut struck, mut none) = (0, 0, 0);
    for seed in 0..crate::of_all(100, 1500) {
        let job = with_gaps(seed);
        let (installation, settled) = (&job.installation, job.settled());
        let asked = OutstandingQuery::new(installation, &settled, &job.site(), &|_| false);
        let findings = review((&job).into());
        let order = if seed.is_multiple_of(2) { Order::CircuitByCircuit } else { Order::TestByTest };
        let (run, live) = (Run::new(&job, &settled, order), Live::new(&job, &settled, order));
        let left: Vec<&Planned> = run.left().chain(live.left()).collect();
        let mut all_needs: Vec<std::sync::Arc<Step>> = Vec::new();
        for scope in asked.scopes() {
            let own = asked.outstanding(scope);
            let told = format!("seed {seed} {scope:?}").chars().take(90).collect::<String>();
            // Counts.
            assert_eq!(own.all().of - own.all().done, own.needs.len(), "{told}");
            // Review.
            let of_shared = match scope {
                Scope::Circuit(circuit) => asked.shared_device(circuit),
                _ => Vec::new(),
            };
            let shared = |step: &Step| of_shared.iter().any(|other| other.key == step.key);
            let pointless = matches!(scope, Scope::Circuit(circuit) if circuit.points.is_empty());
            let name = |step: &Step| match step {
                step if follows(step) => "polarity follows".to_owned(),
                step if shared(step) => "the residual device that it shares".to_owned(),
                step => step.label.clone(),
            };
            let needs: BTreeSet<String> = own.needs.iter().map(|need| name(&need.step)).collect();
            if !pointless {
                assert_eq!(missing_in_review(&findings, scope), needs, "{told}");
            }
            // Runs.
            for need in &own.needs {
                let planned = left.iter().any(|planned| serves(planned, &need.step));
                assert!(planned, "{told}: {} is needed and no run asks for it", need.step.slug);
                struck += usize::from(matches!(need.state, StepState::StruckOut(_)));
            }
            needed += own.needs.len();
            all_needs.extend(own.needs.iter().map(|need| need.step.clone()));
            // Gate.
            if let Scope::Circuit(circuit) = scope {
                let dead = own.needs.iter().any(|need| need.step.stage.is_dead());
                let way = in_the_way((&job).into(), circuit.board, &[circuit.id]);
                assert!(!dead || way.iter().any(|one| one.circuit() == Some(circuit.id)), "{told}: power is let in");
            }
        }
        // Nothing that is wanted is planned beside.
        for planned in left.iter().filter(|planned| planned.step.required && !planned.again) {
            let is_needed = all_needs.iter().any(|need| serves(planned, need));
            assert!(is_needed, "seed {seed}: {} is asked for and not needed", planned.step.slug);
        }
        // What stays dead is asked nothing.
        for circuit in installation.circuits.iter().filter(|circuit| !asked.circuit(circuit)) {
            let of_it = missing_in_review(&findings, Scope::Circuit(circuit));
            assert_eq!(of_it, BTreeSet::new(), "seed {seed} way {}", circuit.way);
            assert!(!left.iter().any(|planned| planned.circuit == Some(circuit.id)), "seed {seed} way {}", circuit.way);
            let _ = outstanding(installation, Scope::Circuit(circuit), &settled);
        }
        none += usize::from(left.is_empty());
    }
    assert!(needed > 1000 && struck > 100, "{needed} {struck} {none}");
}
