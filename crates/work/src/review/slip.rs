//! How the record was made: who wrote it, with what, at which voltage; figures that can hardly be; what
//! was touched again after its tests.

use crate::review::{Finding, Reviewed, Where};
use jiff::Timestamp;
use proof_job::installation::{Board, Circuit, Installation};
use proof_job::instrument::Instrument;
use proof_job::job::TakenBy;
use proof_job::reading::entry::{Field, parse};
use proof_job::reading::{CurrentReadings, LeadNull, Method, Reading, Subject, Test, Value, WorkedOut};
use proof_job::site::{Alteration, EventKind};
use proof_judge::finding::{Found, Unlikely};
use proof_standard::limits::insulation::{REDUCED_VOLTAGE, test_voltage};
use proof_standard::limits::supply::EarthingSystem;
use proof_standard::shape::Shape;
use rust_decimal::{Decimal, dec};
use rustc_hash::{FxHashMap, FxHashSet};
use std::str::FromStr;
use uuid::Uuid;

/// Of what a field takes for a test.
pub(super) const fn field_of(test: Test, method: Method) -> Option<Field> {
    Some(match test {
        Test::RingEndToEnd { .. } | Test::RingBoardCheck | Test::R1Rn | Test::R1R2 | Test::R2 => Field::Continuity,
        Test::BondContinuity | Test::EarthingConductor => match method {
            Method::ByEye => return None,
            _ => Field::Continuity,
        },
        Test::Insulation | Test::InsulationJoined => Field::Insulation,
        Test::Ze | Test::Zs | Test::LineNeutralLoop | Test::Electrode => Field::Loop,
        Test::FaultCurrent => Field::FaultCurrent,
        Test::RcdTrip { .. } => Field::TripTime,
        _ => return None,
    })
}

/// Standing readings without an instrument, in the order of the settled ones.
pub fn without_instrument(reviewed: Reviewed<'_>) -> Vec<Uuid> {
    let settled = reviewed.job.settled();
    let instruments = TakenBy::from_events(reviewed.instruments, reviewed.events);
    settled
        .standing()
        .filter(|reading| wants_instrument(reading) && instruments.took(reading).is_none())
        .map(|one| one.id)
        .collect()
}

fn wants_instrument(reading: &Reading) -> bool {
    let figure = matches!(reading.value, Value::Number(_) | Value::Over(_) | Value::Open | Value::NoTrip);
    figure && field_of(reading.key.test, reading.key.method).is_some()
}

fn place_of(installation: &Installation, reading: &Reading) -> (String, Where) {
    match reading.key.subject.circuit().and_then(|id| installation.circuit(id)) {
        Some(circuit) => (crate::review::about::about(circuit), Where::Circuit(circuit.id, None)),
        None => match &reading.key.subject {
            Subject::Board { board } => {
                (installation.board(*board).map_or_else(String::new, |board| board.name.clone()), Where::Board(*board))
            }
            _ => ("Origin".to_owned(), Where::Origin(String::new())),
        },
    }
}

/// Whether a reading of a circuit has a slip of its own, kept until a reading touches it.
struct HasSlips(bool);

impl WorkedOut for HasSlips {
    const DESCRIBED: bool = false;
}

fn has_slips(
    reviewed: Reviewed<'_>,
    circuit: &Circuit,
    settled: &CurrentReadings<'_>,
    instruments: &TakenBy<'_>,
) -> bool {
    let installation = reviewed.installation;
    let slips = |reading: &Reading| !reading_findings(installation, reading, instruments.took(reading)).is_empty();
    settled.cached(installation, circuit, || HasSlips(settled.standing_of(circuit.id).any(slips))).0
}

/// Findings of the record.
pub(super) fn findings(reviewed: Reviewed<'_>, settled: &CurrentReadings<'_>, findings: &mut Vec<Finding>) {
    let installation = reviewed.installation;
    let instruments = TakenBy::from_events(reviewed.instruments, reviewed.events);
    let (mut unsaid, mut unwritten) = (0, 0);
    let slipped: FxHashSet<Uuid> = installation
        .circuits
        .iter()
        .filter(|one| has_slips(reviewed, one, settled, &instruments))
        .map(|one| one.id)
        .collect();
    for reading in settled.standing() {
        unsaid += usize::from(wants_instrument(reading) && instruments.took(reading).is_none());
        unwritten += usize::from(reading.context.entered_by.trim().is_empty());
        if reading.key.subject.circuit().is_some_and(|circuit| !slipped.contains(&circuit)) {
            continue;
        }
        for slip in reading_findings(installation, reading, instruments.took(reading)) {
            let (about, place) = place_of(installation, reading);
            findings.push(Finding::new(&about, slip, place));
        }
    }
    for (readings, slip) in [
        (unsaid, Found::InstrumentUnsaid { readings: unsaid }),
        (unwritten, Found::WriterUnsaid { readings: unwritten }),
    ] {
        if readings > 0 {
            findings.push(Finding::new("Readings", slip, Where::Firm));
        }
    }
    let touched = touched_last(reviewed);
    let tested = tested_last(settled);
    for circuit in installation.circuits.iter().filter(|circuit| !installation.out_of_scope(circuit)) {
        let place = || Where::Circuit(circuit.id, None);
        let about = crate::review::about::about(circuit);
        let mut tell = |slip: Found| {
            findings.push(Finding::new(&about, slip, place()));
        };
        if let Some((what, at)) = touched.get(&circuit.id)
            && tested.get(&circuit.id).is_some_and(|last| last < at)
        {
            tell(Found::AlteredAfter { what: *what });
        }
        let of_ring = |reading: &Reading| matches!(reading.key.test, Test::RingEndToEnd { .. });
        if circuit.shape == Shape::Radial && settled.standing_of(circuit.id).any(of_ring) {
            tell(Found::ShapeChanged);
        }
        if let Some(label) = only_walked(circuit, settled) {
            tell(Found::NoFigure { label });
        }
    }
    for event in reviewed.events {
        if let EventKind::Judged { finding, position, reason, .. } = &event.kind
            && !is_complete(&event.by, position, reason)
        {
            let slip = Found::JudgementIncomplete { finding: finding.clone() };
            findings.push(Finding::new("Judgements", slip, Where::Particulars));
        }
    }
}

/// Whether a judgement says who, by what right, and why.
pub(super) fn is_complete(by: &str, position: &str, reason: &str) -> bool {
    [by, position, reason].iter().all(|text| !text.trim().is_empty())
}

/// A circuit whose points were walked, and none of them has a figure.
fn only_walked(circuit: &Circuit, settled: &CurrentReadings<'_>) -> Option<String> {
    let of_walk = |reading: &&Reading| matches!(reading.key.test, Test::R1R2 | Test::R2);
    let all: Vec<&Reading> = settled.standing_of(circuit.id).filter(of_walk).collect();
    let walked = all.iter().any(|reading| reading.value == Value::Walked);
    let figure = all.iter().any(|reading| reading.value.number().is_some());
    (walked && !figure).then(|| if all[0].key.test == Test::R2 { "R2" } else { "R1+R2" }.to_owned())
}

fn reading_findings(installation: &Installation, reading: &Reading, by: Option<&Instrument>) -> Vec<Found> {
    let mut found = Vec::new();
    found.extend(unlikely(installation, reading, by));
    found.extend(voltage(installation, reading));
    found.extend(typed_differs(reading, by));
    found
}

/// The board that a reading is of as a whole.
fn board_of<'a>(installation: &'a Installation, reading: &Reading) -> Option<&'a Board> {
    match &reading.key.subject {
        Subject::Board { board } => installation.board(*board),
        _ => None,
    }
}

/// A figure that its instrument does not show, or that nothing gives.
fn unlikely(installation: &Installation, reading: &Reading, by: Option<&Instrument>) -> Option<Found> {
    let value = reading.value.number()?;
    let field = field_of(reading.key.test, reading.key.method)?;
    let most = match field {
        Field::Insulation => by.map(|one| one.over_range_mohm),
        Field::Continuity => by.and_then(|one| one.over_range_ohm),
        _ => None,
    };
    let earth = reading.key.pair.is_some_and(|pair| pair.both().1 == proof_standard::conductor::Conductor::E);
    let tt = installation.supply.system == EarthingSystem::Tt
        || board_of(installation, reading).is_some_and(|board| board.system == EarthingSystem::Tt);
    let what = if most.is_some_and(|most| value > most) {
        Unlikely::AboveRange
    } else if field == Field::FaultCurrent && value == Decimal::ZERO && !(tt && earth) {
        Unlikely::NoCurrent
    } else {
        return None;
    };
    Some(Found::Unlikely { what, value, unit: field.unit() })
}

/// Insulation of a circuit, at the voltage of its band; at 250 V where something stays in it.
fn voltage(installation: &Installation, reading: &Reading) -> Option<Found> {
    if !matches!(reading.key.test, Test::Insulation | Test::InsulationJoined) {
        return None;
    }
    let volts = reading.context.test_voltage_v?.get();
    let circuit = installation.circuit(reading.key.subject.circuit()?)?;
    let wanted = test_voltage(circuit.band.row()).get();
    let reduced = circuit.has_fixed_load() && (volts - REDUCED_VOLTAGE.get()).abs() < 1.0 && volts < wanted;
    ((volts - wanted).abs() >= 1.0 && !reduced).then_some(Found::TestVoltage { volts, wanted })
}

/// What was typed says another thing than what is kept.
fn typed_differs(reading: &Reading, by: Option<&Instrument>) -> Option<Found> {
    // Nearly every reading is kept as it was typed.
    let plainly = match &reading.value {
        Value::Number(kept) => Decimal::from_str(&reading.typed).is_ok_and(|typed| typed == *kept),
        Value::Over(_) => reading.typed.starts_with('>'),
        Value::Walked => true,
        _ => false,
    };
    if plainly {
        return None;
    }
    let field = field_of(reading.key.test, reading.key.method)?;
    let over = by.map_or(dec!(999), |one| one.over_range_mohm);
    let says = parse(&reading.typed, field, over).ok()?;
    let same = match (&says, &reading.value) {
        (Value::Number(typed), Value::Number(kept)) => match reading.context.null {
            LeadNull::Subtract { ohm } => *typed == *kept || *typed == *kept + ohm,
            _ => typed == kept,
        },
        // Over range is what the instrument showed then.
        (Value::Over(_), Value::Over(_)) | (_, Value::Walked) => true,
        (says, kept) => says == kept,
    };
    (!same).then(|| Found::TypedDiffers { typed: reading.typed.clone(), value: reading.value.shown() })
}

/// The alteration of each circuit's conductors that was put back last, and when it was made.
fn touched_last(reviewed: Reviewed<'_>) -> FxHashMap<Uuid, (Alteration, Timestamp)> {
    let back: FxHashSet<Uuid> = reviewed
        .events
        .iter()
        .filter_map(|event| match &event.kind {
            EventKind::PutBack { item } => Some(*item),
            _ => None,
        })
        .collect();
    let mut touched = FxHashMap::default();
    for event in reviewed.events {
        if let EventKind::Altered { item, circuit: Some(circuit), alteration, .. } = &event.kind
            && matches!(alteration, Alteration::EndsOut | Alteration::CrossedLegs | Alteration::WayOut)
            && back.contains(item)
        {
            touched.insert(*circuit, (*alteration, event.at));
        }
    }
    touched
}

/// When the last dead reading of each circuit that stands was taken.
fn tested_last(settled: &CurrentReadings<'_>) -> FxHashMap<Uuid, Timestamp> {
    let mut last: FxHashMap<Uuid, Timestamp> = FxHashMap::default();
    for reading in settled.standing() {
        let dead = proof_job::site::Wanted::for_key(&reading.key) == proof_job::site::Wanted::Dead;
        let (Some(circuit), Some(at), true) = (reading.key.subject.circuit(), reading.context.taken_at, dead) else {
            continue;
        };
        let entry = last.entry(circuit).or_insert(at);
        *entry = (*entry).max(at);
    }
    last
}
