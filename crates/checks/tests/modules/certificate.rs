//! What a certificate waits for, and what is frozen in it.

use jiff::Timestamp;
use proof_bench::demo;
use proof_job::installation::Nature;
use proof_job::job::Job;
use proof_job::reading::CurrentReadings;
use proof_standard::house_rules::ContinuityMethod;
use proof_standard::shape::Shape;
use proof_work::certificate::{
    Application, Form, MOST_SIGNATURE_POINTS, NotDrawn, NotIssued, NotMinor, Role, Signature, Stroke, blocking,
    how_it_was_tested, issue, prepare, strokes,
};
use proof_work::schedule::ScheduleRow;
use uuid::Uuid;

fn asked(number: &str, signatures: Vec<Signature>) -> Application {
    let (form, replaces, key, now) = (Form::Installation, None, "k".into(), Timestamp::UNIX_EPOCH);
    Application { form, number: number.into(), replaces, signatures, key, now }
}

#[test]
fn nothing_is_issued_while_something_blocks_or_is_unsigned() {
    let [finished, half, ..] = &demo::jobs()[..] else { panic!() };
    let refused = issue(half, asked("X", demo::signed(&[]))).unwrap_err();
    assert!(matches!(&refused, NotIssued::Blocked(why) if !why.is_empty()), "{refused}");
    for missing in 0..3 {
        let mut signatures = demo::signed(&[]);
        signatures[missing].position = " ".into();
        assert!(matches!(issue(finished, asked("X", signatures)), Err(NotIssued::Unsigned(_))));
    }
    // A second designer need not sign; one who does signs with name and position.
    let mut signatures = demo::signed(&[]);
    let second =
        Signature { role: Role::SecondDesign, firm: "Reed & Sallow, 4 Kiln Row".into(), ..signatures[0].clone() };
    signatures.push(second);
    assert!(issue(finished, asked("X", signatures.clone())).is_ok());
    signatures[3].name.clear();
    let unsigned = issue(finished, asked("X", signatures)).unwrap_err();
    assert!(matches!(unsigned, NotIssued::Unsigned(Role::SecondDesign)), "{unsigned}");
}

#[test]
fn the_schedule_shows_the_highest_the_lowest_the_slower() {
    let job = demo::jobs().remove(0);
    let certificate = prepare(&job, asked("X", vec![]));
    let row = certificate.results[0].rows.iter().map(ScheduleRow::printed).find(|row| row.way == "3").unwrap();
    let settled = CurrentReadings::new(&job.readings, &job.events);
    let circuit = job.installation.circuits.iter().find(|c| c.way == "3").unwrap();
    let highest = proof_job::reading::highest_r1_r2(circuit, &settled).unwrap();
    assert_eq!(row.r1_r2, format!("{:.2}", highest.0));
    assert_eq!((row.live_earth.as_str(), row.polarity.as_str(), row.test_v.as_str()), (">999", "✓", "500"));
    assert_eq!(row.remarks, "spur: 5a; R1+R2 at 5a");
    let radial = certificate.results[0].rows.iter().map(ScheduleRow::printed).find(|row| row.way == "8").unwrap();
    assert_eq!((radial.r1.as_str(), radial.rcd_one.as_str()), ("—", "—"));
    // Industrial: three years (Guidance Note 3 Table 3.2, from memory).
    assert_eq!(certificate.next_inspection, jiff::civil::date(1973, 1, 1));
}

#[test]
fn minor_works_are_one_circuit_of_an_alteration() {
    let [finished, _, altered, ..] = &demo::jobs()[..] else { panic!() };
    let circuit = finished.installation.circuits[2].id;
    let minor = |job: &Job, circuit| {
        let application = Application { form: Form::MinorWorks { circuit }, ..asked("M-1", demo::signed(&[])) };
        issue(job, application)
    };
    assert!(matches!(minor(finished, circuit), Err(NotIssued::NotMinor(why)) if why == NotMinor::NewInstallation));
    assert!(matches!(minor(altered, circuit), Err(NotIssued::NotMinor(why)) if why == NotMinor::NoCircuit));
    let mut job = finished.clone();
    job.installation.nature = Nature::Addition;
    job.installation.origin_altered = Some(false);
    // What is outstanding elsewhere does not hold it up.
    let other = job.installation.circuits[6].id;
    job.readings.retain(|reading| reading.key.subject.circuit() != Some(other));
    job.readings.retain(|reading| reading.key.test != proof_job::reading::Test::Ze);
    let certificate = minor(&job, circuit).unwrap();
    let rows: Vec<String> = certificate.results.iter().flat_map(|r| &r.rows).map(|row| row.printed().way).collect();
    assert_eq!(rows, ["3"]);
    assert!(issue(&job, asked("C", demo::signed(&[]))).is_err(), "the whole is blocked");
    job.readings.retain(|reading| reading.key.subject.circuit() != Some(circuit));
    assert!(matches!(minor(&job, circuit), Err(NotIssued::Blocked(_))));
}

/// The residual device of minor works may stand over other ways: its test is at the first of them.
#[test]
fn minor_works_wait_for_the_device_that_they_share() {
    use proof_job::reading::{Reading, Test};
    let mut job = demo::jobs().remove(0);
    job.installation.nature = Nature::Addition;
    job.installation.origin_altered = Some(false);
    let residual = |reading: &Reading| matches!(reading.key.test, Test::RcdTrip { .. });
    let tested = |job: &Job, id| job.readings.iter().any(|r| residual(r) && r.key.subject.circuit() == Some(id));
    let ids: Vec<_> = job.installation.circuits.iter().map(|one| one.id).filter(|id| tested(&job, *id)).collect();
    let (first, second) = (ids[0], ids[1]);
    let shared = job.installation.circuit(first).unwrap().rcd;
    job.installation.circuits.iter_mut().find(|one| one.id == second).unwrap().rcd = shared;
    job.readings.retain(|reading| !residual(reading) || reading.key.subject.circuit() != Some(second));
    let minor = |job: &Job| {
        let form = Form::MinorWorks { circuit: second };
        issue(job, Application { form, ..asked("M-2", demo::signed(&[])) })
    };
    minor(&job).expect("the device is tested at the first way");
    job.readings.retain(|reading| !residual(reading) || reading.key.subject.circuit() != Some(first));
    let Err(NotIssued::Blocked(why)) = minor(&job) else { panic!("issued without the test of its device") };
    assert_eq!(why.len(), 1, "{why:?}");
    // With the first way left dead it is missing at the next one behind it, which need not be this.
    let third = ids[2];
    job.installation.circuits.iter_mut().find(|one| one.id == third).unwrap().rcd = shared;
    let at = |id| job.installation.circuits.iter().position(|one| one.id == id).unwrap();
    let (one, two) = (at(second), at(third));
    job.installation.circuits.swap(one, two);
    let board = job.installation.boards[0].id;
    let kind = proof_job::site::EventKind::LockedOff {
        board,
        circuits: vec![first],
        lock: "key 9".into(),
        reason: "fan".into(),
    };
    job.events.push(proof_job::site::Event::new(Uuid::new_v4(), "A", Timestamp::UNIX_EPOCH, kind));
    job.readings.retain(|reading| reading.key.subject.circuit() != Some(first));
    job.readings.retain(|reading| !residual(reading) || reading.key.subject.circuit() != Some(third));
    let Err(NotIssued::Blocked(why)) = minor(&job) else { panic!("issued without the test of its device") };
    assert_eq!(why.len(), 1, "{why:?}");
}

/// Readings that named no instrument, said later to be taken with one: it is printed as used.
#[test]
fn an_instrument_said_later_is_one_that_was_used() {
    use proof_job::site::{Event, EventKind};
    let mut job = demo::jobs().remove(0);
    let before: Vec<_> = job.instruments_used().iter().map(|one| one.id).collect();
    let mut late = job.instruments[0].clone();
    late.id = Uuid::from_u128(77);
    job.instruments.push(late);
    assert_eq!(job.instruments_used().len(), before.len(), "nothing was read with it");
    let unsaid = job.readings[0].id;
    job.readings[0].context.instrument = None;
    let kind = EventKind::TakenWith { readings: vec![unsaid], instrument: Uuid::from_u128(77) };
    job.events.push(Event::new(Uuid::new_v4(), "A", Timestamp::UNIX_EPOCH, kind));
    let after: Vec<_> = job.instruments_used().iter().map(|one| one.id).collect();
    assert_eq!(after, [before, vec![Uuid::from_u128(77)]].concat());
}

#[test]
fn what_is_not_covered_and_who_judged_what_is_frozen_with_it() {
    use proof_job::site::{Event, EventKind};
    let mut job = demo::jobs().swap_remove(0);
    let (board, dead, lamp) =
        (job.installation.boards[0].id, job.installation.circuits[7].id, job.installation.circuits[0].id);
    let mut log = |kind| job.events.push(Event::new(uuid::Uuid::new_v4(), "Maud Ferrow", Timestamp::UNIX_EPOCH, kind));
    log(EventKind::LockedOff { board, circuits: vec![dead], lock: "key 9".into(), reason: "fan is late".into() });
    let (thing, made_safe) = ("lamp, stair".to_owned(), "connector, boxed".to_owned());
    log(EventKind::PointOutstanding { item: Uuid::nil(), circuit: lamp, thing, made_safe });
    job.installation.circuits[6].rcd = None;
    job.installation.circuits[6].device.standard = proof_standard::limits::devices::DeviceStandard::BsEn60898;
    let finding = blocking(&job, Form::Installation).remove(0);
    let (id, said, bound) = (finding.id(), finding.text(), Some(finding.bound()));
    let (position, reason) = ("Supervisor".to_owned(), "risk assessment 4".to_owned());
    let judged = EventKind::Judged { finding: id, said, bound, position, reason };
    job.events.push(Event::new(uuid::Uuid::new_v4(), "Maud Ferrow", Timestamp::UNIX_EPOCH, judged));
    let because = Some(("G-101-C1".to_owned(), "a rating was wrong".to_owned()));
    let certificate = issue(&job, Application { replaces: because, ..asked("G-101-C2", demo::signed(&[])) }).unwrap();
    assert_eq!(certificate.left_out.len(), 2, "{:?}", certificate.left_out);
    assert!(certificate.left_out[0].contains("way 8 Extractor fan; fan is late"));
    assert_eq!(certificate.judged[0].reason, "risk assessment 4");
    assert_eq!(certificate.replaces_because, "a rating was wrong");
    let row = certificate.results[0].rows.iter().map(ScheduleRow::printed).find(|row| row.way == "8").unwrap();
    assert!(row.remarks.starts_with("left dead and locked"));
}

#[test]
fn a_drawn_signature_is_bounded() {
    assert_eq!(strokes("1,2 3,4;5,6").unwrap(), [vec![(1, 2), (3, 4)], vec![(5, 6)]]);
    assert_eq!(strokes(" ; ").unwrap(), Vec::<Stroke>::new());
    let many = "1,1 ".repeat(MOST_SIGNATURE_POINTS + 1);
    for bad in ["1", "1,x", "-1,2", "601,2", "1,161", "70000,1", many.as_str()] {
        assert_eq!(strokes(bad).unwrap_err(), NotDrawn, "{}", &bad[..bad.len().min(20)]);
    }
}

/// The signed bytes carry figures with the id of their circuit; words and dashes are the printer's.
#[test]
fn results_are_figures_and_read_back_as_they_were() {
    let job = demo::jobs().swap_remove(0);
    let certificate = issue(&job, asked("G-101-C1", demo::signed(&[]))).unwrap();
    let bytes = serde_json::to_string(&certificate).unwrap();
    let value: serde_json::Value = serde_json::from_str(&bytes).unwrap();
    assert_eq!(value["version"], 2);
    assert!(!value["results"].to_string().contains('—'), "a dash is signed");
    for (board, results) in job.installation.boards.iter().zip(&certificate.results) {
        for (row, circuit) in results.rows.iter().zip(job.installation.circuits_on(board.id)) {
            assert_eq!(row.circuit(&job.installation, board.id).map(|of| of.id), Some(circuit.id));
        }
    }
    let way = value["results"][0]["rows"].as_array().unwrap().iter().find(|row| row["way"] == "3").unwrap();
    assert_eq!(way["r1"], serde_json::json!({"stands": "read", "figure": {"is": "number", "value": "0.46"}}));
    let again: proof_work::certificate::Certificate = serde_json::from_str(&bytes).unwrap();
    assert!(again == certificate);
}

/// How it was tested is what was done: a job read by long lead does not say that two rounds proved its polarity, one
/// without three phases says nothing of them, and one that was not read says nothing of polarity.
#[test]
fn how_it_was_tested_is_what_was_done() {
    let said = |job: &Job| how_it_was_tested(job, Form::Installation).join(" ");
    let mut job = demo::jobs().swap_remove(0);
    let done = said(&job);
    assert!(done.contains("Polarity was proved: R1+Rn and R1+R2 at every point"), "{done}");
    assert!(done.contains("timed by one test") && !done.contains("Three-phase") && !done.contains("Armour"), "{done}");
    job.installation.house_rules.continuity = ContinuityMethod::R2;
    let by_long_lead = said(&job);
    assert!(by_long_lead.contains("or by itself with a long lead (R2)"), "a ring never is: {by_long_lead}");
    job.installation.circuits.retain(|circuit| circuit.shape != Shape::Ring);
    let radials = said(&job);
    assert!(radials.contains("by itself with a long lead (R2).") && !radials.contains("R1+Rn and R1+R2"), "{radials}");
    job.readings.clear();
    assert!(!said(&job).contains("Polarity was proved"), "a rule alone has proved nothing");
}
