//! Whether an instrument may be trusted.

use jiff::civil::date;
use proof_bench::demo;
use proof_job::instrument::{CheckOf, Distrust, FixedCheck, Instrument, distrust, drift_percent_a_year};
use proof_standard::house_rules::InstrumentTrust;
use rust_decimal::dec;

fn tester() -> Instrument {
    demo::instruments().swap_remove(0)
}

#[test]
fn calibration_is_trusted_until_its_day() {
    let one = tester();
    let rule = InstrumentTrust::Calibration;
    assert_eq!(distrust(&one, rule, CheckOf::Continuity, date(2027, 6, 30)), None);
    let why = distrust(&one, rule, CheckOf::Continuity, date(2027, 7, 1)).unwrap();
    assert!(matches!(why, Distrust::OutOfCalibration { .. }), "{why}");
}

#[test]
fn regular_checks_must_be_recent_and_right() {
    let mut one = tester();
    let rule = InstrumentTrust::Checks;
    one.calibration_due = None;
    assert_eq!(distrust(&one, rule, CheckOf::Continuity, date(2026, 11, 20)), None);
    let old = distrust(&one, rule, CheckOf::Continuity, date(2027, 1, 20)).unwrap();
    assert!(matches!(old, Distrust::CheckedLongAgo { days: 60.., .. }), "{old}");
    let none = distrust(&one, rule, CheckOf::Loop, date(2026, 11, 20)).unwrap();
    assert!(matches!(none, Distrust::NeverChecked { of: CheckOf::Loop, .. }), "{none}");
    let off = FixedCheck {
        on: date(2026, 11, 18),
        of: CheckOf::Continuity,
        fixed: dec!(1),
        read: dec!(1.09),
        by: "A".into(),
    };
    one.checks.push(off);
    let wrong = distrust(&one, rule, CheckOf::Continuity, date(2026, 11, 20)).unwrap();
    assert!(matches!(wrong, Distrust::ShowedWrong { read, .. } if read == dec!(1.09)), "{wrong}");
}

#[test]
fn a_creeping_range_shows_its_drift() {
    let drift = drift_percent_a_year(&tester(), CheckOf::Continuity).unwrap();
    assert!((2.0..5.0).contains(&drift), "{drift}");
    assert!(drift_percent_a_year(&tester(), CheckOf::Insulation).unwrap().abs() < 0.1);
    assert_eq!(drift_percent_a_year(&tester(), CheckOf::Loop), None);
}

fn at(hour: i8) -> jiff::Timestamp {
    date(2026, 11, 24).at(hour, 0, 0, 0).to_zoned(jiff::tz::TimeZone::UTC).unwrap().timestamp()
}

#[test]
fn what_is_not_right_before_use_stands_until_it_is_right_again() {
    use proof_job::site::{before_use, found_wrong};
    use proof_work::actions::{Action, Actor, Beginning, record};
    let mut job = demo::jobs().swap_remove(0);
    job.events.clear();
    let mft = job.instruments[0].id;
    for (hour, by, wrong) in [(8, "Idris Kell", "battery low"), (10, "Idris Kell", ""), (9, "Odile Wren", "")] {
        let not_right = !wrong.is_empty();
        let beginning = Beginning { instrument: Some(mft), not_right, wrong: wrong.into(), ..Beginning::default() };
        let hand = Actor::new(uuid::Uuid::new_v4(), by, at(hour));
        job.events.extend(record(&job, &Action::Begin(beginning), &hand).unwrap().events);
    }
    assert_eq!(before_use(&job.events, "Idris Kell", at(23)).map(|event| event.at), Some(at(10)));
    assert_eq!(
        before_use(&job.events, "Idris Kell", at(23) + jiff::SignedDuration::from_hours(2)),
        None,
        "the next day"
    );
    assert_eq!(before_use(&job.events, "Maud Ferrer", at(12)), None);
    assert_eq!(found_wrong(&job.events, mft, at(7)), None);
    assert_eq!(found_wrong(&job.events, mft, at(8)), Some((date(2026, 11, 24), "battery low")));
    assert_eq!(found_wrong(&job.events, mft, at(9)), None, "right again by another person");
    assert_eq!(found_wrong(&job.events, uuid::Uuid::from_u128(1), at(8)), None);
}

#[test]
fn a_reading_taken_while_it_was_not_right_is_said_in_the_review() {
    use proof_job::site::{Event, EventKind};
    use proof_judge::finding::Kind;
    use proof_work::review::review;
    let mut job = demo::jobs().swap_remove(0);
    let doubted = |job: &proof_job::job::Job| {
        review(job.into())
            .into_iter()
            .filter(|one| one.kind() == Kind::InstrumentDoubtful)
            .map(|one| one.text())
            .collect::<Vec<_>>()
    };
    assert_eq!(doubted(&job), Vec::<String>::new());
    let first =
        job.readings.iter().filter(|one| one.context.instrument.is_some()).filter_map(|one| one.context.taken_at).min();
    let instrument = Some(job.instruments[0].id);
    let kind = EventKind::BeforeUse { instrument, read_by: String::new(), wrong: "battery low".into() };
    job.events.push(Event::new(uuid::Uuid::from_u128(5), "Idris Kell", first.unwrap(), kind));
    let said = doubted(&job);
    assert!(said.len() == 1 && said[0].contains("battery low"), "{said:?}");
}

#[test]
fn the_series_is_taken_in_the_order_that_the_instrument_shows() {
    use proof_job::instrument::SeriesOrder;
    use proof_standard::limits::rcd::{HalfCycle, Multiple};
    // Each order against its own words: the figures of the label, read from left to right.
    for order in SeriesOrder::ALL {
        let mut all = Vec::new();
        for (multiple, name) in [(Multiple::Half, "½"), (Multiple::One, "1"), (Multiple::Five, "5")] {
            for (half, degrees) in [(HalfCycle::Deg0, "0°"), (HalfCycle::Deg180, "180°")] {
                all.extend(order.place(multiple, half).map(|place| (place, format!("{name} {degrees}"))));
            }
        }
        all.sort();
        let said = all.into_iter().map(|(_, name)| name).collect::<Vec<_>>().join(", ");
        assert_eq!(said, order.label().split(" (").next().unwrap());
    }
    let mut job = demo::jobs().swap_remove(0);
    assert_eq!(job.series_order(None), SeriesOrder::Pairs);
    job.instruments[0].series = Some(SeriesOrder::HalfLast);
    assert_eq!(job.series_order(None), SeriesOrder::HalfLast, "the only one that says so");
    job.instruments[1].series = Some(SeriesOrder::Halves);
    assert_eq!(job.series_order(None), SeriesOrder::Pairs, "two that differ say nothing");
    assert_eq!(job.series_order(Some(job.instruments[1].id)), SeriesOrder::Halves);
}

#[test]
fn the_run_at_power_asks_for_trips_as_the_instrument_shows_them() {
    use proof_job::instrument::SeriesOrder;
    use proof_job::reading::{CurrentReadings, Test};
    use proof_work::live_tests::Live;
    use proof_work::plan::run::Order;
    let mut job = demo::jobs().swap_remove(0);
    job.installation.house_rules.rcd_school = Some(proof_standard::limits::edition::RcdSchool::Series);
    job.readings.clear();
    let trips = |job: &proof_job::job::Job| {
        let settled = CurrentReadings::new(&job.readings, &job.events);
        let live = Live::new(job, &settled, Order::default());
        let first = live.planned.iter().find(|one| matches!(one.step.key.test, Test::RcdTrip { .. })).unwrap().circuit;
        let of = live.planned.iter().filter(|one| one.circuit == first);
        of.filter(|one| one.step.slug.starts_with("rcd-")).map(|one| one.step.slug.clone()).collect::<Vec<_>>()
    };
    let usual = ["rcd-half-0", "rcd-half-180", "rcd-1", "rcd-1-180", "rcd-5-0", "rcd-5-180", "rcd-button"];
    assert_eq!(trips(&job), usual);
    job.instruments[0].series = Some(SeriesOrder::HalfLast);
    let half_last = ["rcd-1", "rcd-1-180", "rcd-5-0", "rcd-5-180", "rcd-half-0", "rcd-half-180", "rcd-button"];
    assert_eq!(trips(&job), half_last);
}

#[test]
fn a_loop_over_the_range_of_its_own_instrument_is_open() {
    use proof_job::reading::{Test, Value};
    use proof_work::actions::{Action, Actor, Figure, With, record};
    use proof_work::plan::sequence::circuit_steps;
    let mut job = demo::jobs().swap_remove(0);
    let circuit = &job.installation.circuits[0];
    let step = circuit_steps(&job.installation, circuit).into_iter().find(|step| step.key.test == Test::Zs).unwrap();
    let read = |job: &proof_job::job::Job, typed: &str| {
        let with = With {
            instrument: Some(job.instruments[0].id),
            paper: true,
            paper_on: "2026-01-05".into(),
            ..With::default()
        };
        let figure = Figure { step: step.clone(), typed: typed.into(), pressed: String::new(), with };
        let hand = Actor::new(uuid::Uuid::new_v4(), "Idris Kell", at(12));
        record(job, &Action::Read(figure), &hand).map(|taken| taken.readings[0].value.clone())
    };
    assert_eq!(read(&job, ">1999").unwrap(), Value::Open);
    assert!(read(&job, ">999").is_err(), "an insulation figure in the wrong box");
    job.instruments[0].over_range_loop_ohm = None;
    assert!(read(&job, ">1999").is_err());
}
