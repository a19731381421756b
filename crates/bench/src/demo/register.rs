//! The demo's firm, people and instruments.

use jiff::civil::date;
use proof_job::installation::{Firm, Person};
use proof_job::instrument::{CheckOf, FixedCheck, Instrument};
use proof_standard::house_rules::HouseRules;
use rust_decimal::dec;
use uuid::Uuid;

pub(super) const READER: &str = "Idris Kell";

pub(super) const WRITER: &str = "Maud Ferrow";

pub(super) fn id(name: &str) -> Uuid {
    Uuid::new_v5(&Uuid::NAMESPACE_OID, name.as_bytes())
}

/// The demo firm.
pub fn firm() -> Firm {
    Firm {
        name: "Ferrow & Kell Electrical".into(),
        address: "2 Chandler's Yard, Brackwater".into(),
        contact: "office@ferrowkell.example".into(),
        house_rules: HouseRules::default(),
    }
}

/// Its people.
pub fn people() -> Vec<Person> {
    [(WRITER, "Qualified supervisor"), (READER, "Electrician"), ("Tova Brandreth", "Designer")]
        .map(|(name, position)| Person { id: id(name), name: name.into(), position: position.into() })
        .to_vec()
}

/// A signature as somebody of that name might draw it: a wave as long as the name.
pub fn signature(name: &str) -> Vec<proof_work::certificate::Stroke> {
    let letters = name.bytes().enumerate();
    let wave = letters.flat_map(|(index, letter)| {
        let x = 20 + 30 * u16::try_from(index).unwrap_or(0);
        let height = 30 + u16::from(letter) % 70;
        [(x.min(580), 110), (x.min(580) + 10, 120 - height), (x.min(580) + 18, 112)]
    });
    vec![wave.collect(), vec![(20, 130), (200, 124), (420, 132)]]
}

/// Its instruments.
pub fn instruments() -> Vec<Instrument> {
    let check = |on, of, fixed, read| FixedCheck { on, of, fixed, read, by: WRITER.into() };
    // Twelve months against the same resistors: the low-ohm range creeps up, within its tolerance.
    let creep = [100, 100, 101, 100, 101, 101, 102, 101, 102, 103, 102, 103];
    let mut checks = Vec::new();
    for (index, hundredths) in creep.into_iter().enumerate() {
        let (year, month) = if index == 0 { (2025, 12) } else { (2026, index as i8) };
        let on = date(year, month, 3);
        checks.push(check(on, CheckOf::Continuity, dec!(1.00), rust_decimal::Decimal::new(hundredths, 2)));
        checks.push(check(on, CheckOf::Insulation, dec!(1.00), dec!(1.00)));
    }
    vec![
        Instrument {
            id: id("MFT-2"),
            kind: "multifunction tester".into(),
            reference: "MFT-2".into(),
            serial: "40217".into(),
            calibration_due: Some(date(2027, 6, 30)),
            over_range_mohm: dec!(999),
            over_range_ohm: Some(dec!(99.9)),
            over_range_loop_ohm: Some(dec!(1999)),
            continuity_v: Some(dec!(5)),
            insulation_v: vec![250, 500, 1000],
            line_to_line: true,
            series: None,
            checks,
            calibrated: Vec::new(),
        },
        Instrument {
            id: id("VI-1"),
            kind: "voltage indicator and proving unit".into(),
            reference: "VI-1".into(),
            over_range_mohm: dec!(999),
            ..Instrument::default()
        },
    ]
}
