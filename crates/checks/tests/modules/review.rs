//! Findings across a job.

use jiff::Timestamp;
use proof_bench::demo;
use proof_job::installation::PointId;
use proof_job::installation::inspection::{InspectionAnswer, InspectionOutcome};
use proof_job::job::Job;
use proof_job::reading::{Place, Reading, Test};
use proof_job::site::{Alteration, Event, EventKind};
use proof_judge::finding::{Kind, Severity};
use proof_standard::quantity::Kiloamps;
use proof_work::review::{Finding, Where, nothing_blocks, review};
use uuid::Uuid;

fn finished() -> Job {
    demo::jobs().remove(0)
}

/// The findings that `change` brings into a job that has none.
fn after(change: impl FnOnce(&mut Job)) -> Vec<Finding> {
    let mut job = finished();
    change(&mut job);
    review((&job).into())
}

fn one(findings: &[Finding], severity: Severity, words: &str) {
    let found = findings
        .iter()
        .any(|finding| finding.severity == severity && format!("{} {}", finding.about, finding.text()).contains(words));
    assert!(found, "no {severity:?} “{words}” in {findings:#?}");
}

#[test]
fn a_finished_job_has_no_finding() {
    assert_eq!(after(|_| {}), Vec::new());
    assert!(nothing_blocks(&[]));
}

#[test]
fn what_is_missing_is_named_with_its_place() {
    let on_the_spur = |reading: &Reading| {
        reading.key.test == Test::R1R2 && reading.key.subject.place().and_then(Place::point) == Some(PointId(10))
    };
    let findings = after(|job| job.readings.retain(|reading| !on_the_spur(reading)));
    one(&findings, Severity::Fails, "polarity is not proved: read R1+R2 at 5a");
    one(&findings, Severity::Fails, "energised with a dead test missing: R1+R2 at each point: 5a not read");
    assert!(!nothing_blocks(&findings));
    assert!(findings.iter().any(|f| matches!(&f.place, Where::Circuit(_, Some(step)) if step == "r2-p10")));
    one(&after(|job| job.installation.extent.clear()), Severity::Missing, "extent");
    one(&after(|job| job.firm.name.clear()), Severity::Missing, "firm that issues");
    one(&after(|job| job.installation.inspection.truncate(3)), Severity::Missing, "21 of 24 items");
    one(&after(|job| job.installation.supply.bonds.clear()), Severity::Missing, "bonding");
    one(&after(|job| job.installation.circuits.clear()), Severity::Missing, "no circuit");
}

#[test]
fn what_stands_open_blocks() {
    let open = |job: &mut Job| {
        let board = job.installation.boards[0].id;
        let altered = EventKind::Altered {
            item: Uuid::nil(),
            board,
            circuit: None,
            alteration: Alteration::BondOff,
            note: "water".into(),
        };
        job.events.push(Event::new(uuid::Uuid::new_v4(), "A", Timestamp::UNIX_EPOCH, altered));
    };
    one(&after(open), Severity::Fails, "bond off is not put back");
    let exposed = |job: &mut Job| {
        let board = job.installation.boards[0].id;
        job.events.push(Event::new(
            uuid::Uuid::new_v4(),
            "A",
            Timestamp::UNIX_EPOCH,
            EventKind::SupplyExposed { board },
        ));
    };
    one(&after(exposed), Severity::Fails, "earth is disconnected");
}

#[test]
fn a_departure_wants_its_reason() {
    let depart = |note: &'static str| {
        after(move |job| {
            job.installation.inspection[0] = InspectionAnswer {
                item: proof_job::installation::inspection::ITEMS[0].key.into(),
                outcome: InspectionOutcome::Departure,
                note: note.into(),
            };
        })
    };
    one(&depart(""), Severity::Missing, "departure without its reason");
    assert_eq!(depart("Head is the distributor's; reported."), Vec::new());
}

#[test]
fn breaker_cable_and_outlet_match() {
    one(
        &after(|job| {
            job.installation.circuits[6].cable.method = Some(proof_standard::limits::capacity::ReferenceMethod::M103)
        }),
        Severity::Odd,
        "behind cable of 13.5 A",
    );
    one(
        &after(|job| {
            job.installation.circuits[2].cable.method = Some(proof_standard::limits::capacity::ReferenceMethod::M101)
        }),
        Severity::Odd,
        "each leg carries 17 A",
    );
    one(&after(|job| job.installation.circuits[6].rcd = None), Severity::Odd, "without an RCD");
    one(&after(|job| job.installation.circuits[0].device.breaking_ka = None), Severity::Odd, "short-circuit capacity");
}

#[test]
fn findings_stand_worst_first() {
    let findings = after(|job| {
        job.installation.extent.clear();
        job.installation.circuits[0].device.breaking_ka = None;
        job.events.push(Event::new(
            uuid::Uuid::new_v4(),
            "A",
            Timestamp::UNIX_EPOCH,
            EventKind::SupplyExposed { board: job.installation.boards[0].id },
        ));
    });
    assert!(findings.windows(2).all(|w| w[0].severity <= w[1].severity));
    assert_eq!(findings[0].severity, Severity::Fails);
}

#[test]
fn a_judgement_settles_what_may_be_judged_while_its_words_stand() {
    let mut job = finished();
    job.installation.circuits[6].rcd = None;
    let odd = |job: &Job| {
        review(job.into()).into_iter().find(|finding| finding.kind() == Kind::NoAdditionalProtection).unwrap()
    };
    let finding = odd(&job);
    assert!(finding.blocks() && finding.may_be_judged());
    let judged = |said: &str, bound: Option<String>| EventKind::Judged {
        finding: finding.id(),
        said: said.into(),
        bound,
        position: "Supervisor".into(),
        reason: "documented risk assessment 4".into(),
    };
    let mut other = job.clone();
    other.events.push(Event::new(
        uuid::Uuid::new_v4(),
        "Maud Ferrow",
        Timestamp::UNIX_EPOCH,
        judged("something else", None),
    ));
    assert!(odd(&other).blocks(), "a judgement of other words is of another finding");
    let mut bound = job.clone();
    let to_others = judged(&finding.text(), Some("{\"found\":\"capacity_unknown\"}".to_owned()));
    bound.events.push(Event::new(uuid::Uuid::new_v4(), "Maud Ferrow", Timestamp::UNIX_EPOCH, to_others));
    assert!(odd(&bound).blocks(), "bound to other numbers, whatever the words");
    let to_these = judged("worded otherwise since", Some(finding.bound()));
    bound.events.push(Event::new(uuid::Uuid::new_v4(), "Maud Ferrow", Timestamp::UNIX_EPOCH, to_these));
    assert!(!odd(&bound).blocks(), "bound to its numbers, whatever the words");
    let by_words = judged(&finding.text(), None);
    job.events.push(Event::new(uuid::Uuid::new_v4(), "Maud Ferrow", Timestamp::UNIX_EPOCH, by_words));
    let settled = odd(&job);
    assert!(!settled.blocks());
    assert_eq!(settled.judged.map(|written| written.by).as_deref(), Some("Maud Ferrow"));
}

#[test]
fn what_kills_is_not_settled_by_any_words() {
    let mut job = finished();
    for reading in &mut job.readings {
        if matches!(reading.key.test, Test::RcdTrip { .. }) {
            reading.value = proof_job::reading::Value::NoTrip;
        }
    }
    let fails: Vec<Finding> = review((&job).into()).into_iter().filter(|f| f.kind() == Kind::RcdFails).collect();
    assert!(fails.len() > 5);
    for finding in &fails {
        let (id, said, bound) = (finding.id(), finding.text(), Some(finding.bound()));
        let (position, reason) = ("Supervisor".to_owned(), "it tripped yesterday".to_owned());
        let kind = EventKind::Judged { finding: id, said, bound, position, reason };
        job.events.push(Event::new(uuid::Uuid::new_v4(), "Maud Ferrow", Timestamp::UNIX_EPOCH, kind));
    }
    let still = review((&job).into()).into_iter().filter(|f| f.kind() == Kind::RcdFails && f.blocks()).count();
    assert_eq!(still, fails.len());
}

#[test]
fn an_rcd_must_see_what_hangs_on_its_circuit() {
    use proof_job::installation::Carried;
    use proof_standard::limits::rcd::RcdType;
    let with = |carried, detects| {
        after(move |job| {
            job.installation.circuits[4].points[0].connected_load = vec![carried];
            let id = job.installation.circuits[4].rcd;
            for rcd in job.installation.boards[0].rcds.iter_mut().filter(|rcd| Some(rcd.id) == id) {
                rcd.detects = detects;
            }
        })
    };
    let blinded = |carried, detects| with(carried, detects).iter().any(|finding| finding.kind() == Kind::RcdType);
    assert!(blinded(Carried::Electronics, RcdType::AC) && !blinded(Carried::Electronics, RcdType::A));
    assert!(blinded(Carried::Drive, RcdType::A) && !blinded(Carried::Drive, RcdType::F));
    assert!(blinded(Carried::VehicleCharger, RcdType::F) && !blinded(Carried::VehicleCharger, RcdType::B));
    assert!(!blinded(Carried::Lamp, RcdType::AC));
}

#[test]
fn a_limitation_is_accepted_by_name_and_a_dead_circuit_is_not_accused() {
    let limited = after(|job| {
        let one = job.readings.iter_mut().find(|reading| reading.key.test == Test::Insulation).unwrap();
        one.value = proof_job::reading::Value::Limitation("ceiling closed".into());
        one.typed = "lim ceiling closed".into();
    });
    one(&limited, Severity::Odd, "limitation: ceiling closed");
    assert!(limited.iter().all(|finding| finding.kind() == Kind::Limitation && finding.may_be_judged()));
    let left = after(|job| {
        let circuit = job.installation.circuits[7].id;
        job.readings.retain(|reading| reading.key.subject.circuit() != Some(circuit));
        let board = job.installation.boards[0].id;
        let kind = EventKind::LockedOff { board, circuits: vec![circuit], lock: "key 9".into(), reason: "fan".into() };
        job.events.push(Event::new(uuid::Uuid::new_v4(), "A", Timestamp::UNIX_EPOCH, kind));
    });
    assert_eq!(left, Vec::new(), "left dead and locked: not on this certificate");
}

/// A residual device over two ways is tested at the first; where that stays dead, at the other.
#[test]
fn a_shared_device_behind_a_dead_way_is_tested_at_another() {
    let mut job = finished();
    let residual = |reading: &Reading| matches!(reading.key.test, Test::RcdTrip { .. });
    let tested: Vec<Uuid> =
        job.readings.iter().filter(|r| residual(r)).filter_map(|r| r.key.subject.circuit()).collect();
    let first = job.installation.circuits.iter().find(|one| tested.contains(&one.id)).unwrap().clone();
    let second =
        job.installation.circuits.iter().find(|one| tested.contains(&one.id) && one.id != first.id).unwrap().id;
    job.installation.circuits.iter_mut().find(|one| one.id == second).unwrap().rcd = first.rcd;
    let at_second = job.readings.clone();
    job.readings.retain(|reading| !residual(reading) || reading.key.subject.circuit() != Some(second));
    let missing = |job: &Job| -> Vec<(Severity, Where)> {
        let shares = "the residual device that it shares";
        let findings = review(job.into());
        findings.into_iter().filter(|finding| finding.text().contains(shares)).map(|f| (f.severity, f.place)).collect()
    };
    assert_eq!(missing(&job), vec![], "tested at the first way");
    let board = first.board;
    let kind = EventKind::LockedOff { board, circuits: vec![first.id], lock: "key 9".into(), reason: "fan".into() };
    job.events.push(Event::new(Uuid::new_v4(), "A", Timestamp::UNIX_EPOCH, kind));
    job.readings.retain(|reading| reading.key.subject.circuit() != Some(first.id));
    assert_eq!(missing(&job), vec![(Severity::Missing, Where::Circuit(second, None))]);
    job.readings.extend(at_second.into_iter().filter(|r| residual(r) && r.key.subject.circuit() == Some(second)));
    assert_eq!(missing(&job), vec![], "tested at the way that is live");
}

#[test]
fn a_device_is_held_against_the_level_at_its_own_board() {
    let breaks = |change: fn(&mut Job)| {
        let findings = after(change);
        findings.iter().filter(|finding| finding.kind() == Kind::BreakingCapacity).count()
    };
    let high = |job: &mut Job| {
        for reading in job.readings.iter_mut().filter(|reading| reading.key.test == Test::FaultCurrent) {
            reading.value = proof_job::reading::Value::Number(rust_decimal::dec!(9.2));
        }
    };
    assert_eq!(breaks(|_| {}), 0);
    assert!(breaks(high) > 0);
    let conditional = |job: &mut Job| {
        for reading in job.readings.iter_mut().filter(|reading| reading.key.test == Test::FaultCurrent) {
            reading.value = proof_job::reading::Value::Number(rust_decimal::dec!(9.2));
        }
        job.installation.boards[0].conditional_ka = Some(Kiloamps(rust_decimal::dec!(16)));
    };
    assert_eq!(breaks(conditional), 0, "the assembly stands it conditionally");
}

/// What an installation does not have is not asked; what it gains is.
#[test]
fn the_inspection_follows_what_is_described() {
    use proof_job::installation::inspection::asked;
    use proof_standard::limits::inspection::Premises;
    let mut job = finished();
    let keys = |job: &Job| asked(&job.installation).map(|item| item.key).collect::<Vec<_>>();
    assert!(keys(&job).contains(&"special-machines"), "a works has machines");
    job.installation.premises = Premises::Dwelling;
    let few = keys(&job);
    assert!(
        ["special-machines", "earthing-electrode", "measures-other", "sources-isolation"]
            .iter()
            .all(|k| !few.contains(k))
    );
    assert!(["measures-basic", "cable-influences"].iter().all(|key| few.contains(key)));
    job.installation.supply.system = proof_standard::limits::supply::EarthingSystem::Tt;
    job.installation.circuits[0].band = proof_job::installation::CircuitVoltage::Selv;
    job.installation.sources = demo::jobs().pop().unwrap().installation.sources;
    let more = keys(&job);
    let gained: Vec<_> = more.iter().filter(|key| !few.contains(key)).copied().collect();
    assert_eq!(gained, ["earthing-electrode", "sources-isolation", "sources-earthing", "measures-other"]);
    let open = review((&job).into()).into_iter().find(|finding| finding.kind() == Kind::InspectionMissing).unwrap();
    assert_eq!(open.text(), format!("4 of {} items of the schedule of inspections are not answered", more.len()));
}

/// The whole review of the two unfinished demo jobs, as a person reads it.
#[test]
fn the_review_reads_well() {
    for (job, name) in [(&demo::jobs()[1], "half done"), (&demo::jobs()[2], "fault in the ring")] {
        let text: Vec<String> = review(job.into())
            .iter()
            .map(|finding| format!("{} | {} | {}", finding.severity.label(), finding.about, finding.text()))
            .collect();
        insta::with_settings!({ description => format!("review of the demo job “{name}”"), omit_expression => true }, {
            insta::assert_snapshot!(name.replace(' ', "_"), text.join("\n"));
        });
    }
}
