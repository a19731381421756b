//! What is kept beside a job and grown reading by reading says the same as what is worked out anew.

use proof_bench::demo;
use proof_job::job::Job;
use proof_job::site::{Event, EventKind};
use proof_judge::finding::Severity;
use proof_work::live_tests::Live;
use proof_work::plan::outstanding::outstanding;
use proof_work::plan::run::{Order, Run};
use proof_work::plan::substitute::Scope;
use proof_work::review::{failures, review};
use uuid::Uuid;

/// Everything that pages ask of a job; asked of the one that is kept, it fills what is kept.
fn same(kept: &Job, when: &str) {
    let fresh = kept.clone();
    assert_eq!(review(kept.into()), review((&fresh).into()), "{}: findings {when}", kept.reference);
    let fails = review((&fresh).into()).into_iter().filter(|finding| finding.severity == Severity::Fails);
    assert_eq!(failures(kept.into()), fails.collect::<Vec<_>>(), "{}: failures {when}", kept.reference);
    let (kept_settled, settled) = (kept.settled(), fresh.settled());
    for (a, b) in kept.installation.circuits.iter().zip(&fresh.installation.circuits) {
        let stands = outstanding(&kept.installation, Scope::Circuit(a), &kept_settled);
        assert_eq!(
            stands,
            outstanding(&fresh.installation, Scope::Circuit(b), &settled),
            "{}: way {} {when}",
            kept.reference,
            a.way
        );
        assert!(
            kept_settled.standing_of(a.id).eq(settled.standing_of(b.id)),
            "{}: way {} {when}",
            kept.reference,
            a.way
        );
    }
    assert!(kept_settled.standing().eq(settled.standing()), "{}: {when}", kept.reference);
    assert!(kept_settled.for_sets().eq(settled.for_sets()), "{}: {when}", kept.reference);
    for order in Order::ALL {
        let (run, live) = (Run::new(kept, &kept_settled, order), Live::new(kept, &kept_settled, order));
        let (other_run, other_live) = (Run::new(&fresh, &settled, order), Live::new(&fresh, &settled, order));
        assert_eq!(run.planned, other_run.planned, "{when}");
        assert_eq!(live.planned, other_live.planned, "{when}");
        assert!(run.left().eq(other_run.left()), "{when}");
        assert!(live.left().eq(other_live.left()), "{when}");
        for of in
            kept.installation.circuits.iter().map(|one| one.id).chain(kept.installation.boards.iter().map(|one| one.id))
        {
            let one = Run::for_place(kept, &kept_settled, order, of);
            assert!(
                one.planned
                    .iter()
                    .all(|planned| run.find(planned.circuit_or_board(), &planned.step.slug) == Some(planned)),
                "{when}"
            );
            assert_eq!(
                one.planned.iter().filter(|one| one.circuit_or_board() == of).count(),
                run.planned.iter().filter(|one| one.circuit_or_board() == of).count()
            );
        }
    }
}

/// Every job of the demo from its first reading to its last, event by event, with readings struck out between.
#[test]
fn what_grows_is_what_would_be_worked_out_anew() {
    for whole in demo::jobs() {
        let mut job = whole.clone();
        (job.readings, job.events) = (Vec::new(), Vec::new());
        let (mut readings, mut events) = (whole.readings.iter(), whole.events.iter());
        let mut count = 0;
        loop {
            // Five readings, an event: about as they were taken.
            let before = (job.readings.len(), job.events.len());
            job.readings.extend(readings.by_ref().take(5).cloned());
            job.events.extend(events.by_ref().take(1).cloned());
            if before == (job.readings.len(), job.events.len()) {
                break;
            }
            count += 1;
            if count % 7 == 3 && !job.readings.is_empty() {
                let reading = job.readings[count * 31 % job.readings.len()].id;
                let kind = EventKind::StruckOut { reading, reason: "slipped".into() };
                job.events.push(Event::new(Uuid::new_v4(), "Idris Kell", whole.created_at, kind));
            }
            job.keep();
            same(&job, &format!("after {} readings and {} events", job.readings.len(), job.events.len()));
        }
        assert!(count > 3, "{}: {count}", whole.reference);
    }
}

/// A description that is changed on a copy is worked out as changed, also where readings are asked of the original.
#[test]
fn a_changed_copy_is_worked_out_as_changed() {
    let mut job = demo::jobs().swap_remove(1);
    job.keep();
    let before = review((&job).into());
    let mut other = job.clone();
    other.installation.house_rules.neutral_reading = proof_standard::house_rules::NeutralReading::Skipped;
    other.installation.circuits[2].points.clear();
    let settled = job.settled();
    let changed = outstanding(&other.installation, Scope::Circuit(&other.installation.circuits[2]), &settled);
    assert_ne!(changed, outstanding(&job.installation, Scope::Circuit(&job.installation.circuits[2]), &settled));
    assert_ne!(review((&other).into()), before);
    assert_eq!(review((&job).into()), before);
}
