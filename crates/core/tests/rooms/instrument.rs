//! Whether an instrument may be trusted.

use jiff::civil::date;
use proof_bench::demo;
use proof_core::house_rules::InstrumentTrust;
use proof_core::instrument::{CheckOf, Distrust, FixedCheck, Instrument, distrust, drift_percent_a_year};
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
