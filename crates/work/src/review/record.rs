//! The record itself: readings out of order with the isolation, instruments that were not to be
//! trusted, leads whose state nobody said.

use crate::plan::reach::inside_board;
use crate::plan::sequence::steps_kept;
use crate::review::{Finding, Reviewed, Where};
use jiff::Timestamp;
use proof_job::instrument::{CheckOf, Distrust, distrust};
use proof_job::job::TakenBy;
use proof_job::reading::{CurrentReadings, LeadNull, Reading, Test};
use proof_job::site::{BoardState, EventKind, Replay, Site, Wanted, breaches, found_wrong, taken_on};
use proof_judge::finding::Found;
use rustc_hash::FxHashMap;
use uuid::Uuid;

/// Findings of the record.
pub(super) fn findings(reviewed: Reviewed<'_>, settled: &CurrentReadings<'_>, findings: &mut Vec<Finding>) {
    instruments(reviewed, settled, findings);
    order(reviewed, settled, findings);
    for broken in breaches(reviewed.installation, reviewed.events) {
        let name = reviewed.installation.board(broken.board).map_or("", |board| board.name.as_str());
        let reason = Found::Breach { breach: broken.breach, at: broken.at };
        findings.push(Finding::new(name, reason, Where::Board(broken.board)));
    }
}

/// Which range a reading was taken on.
const fn range_of(test: Test) -> Option<CheckOf> {
    match test {
        Test::Insulation | Test::InsulationJoined => Some(CheckOf::Insulation),
        Test::Ze | Test::Zs | Test::LineNeutralLoop | Test::FaultCurrent | Test::RcdTrip { .. } | Test::Electrode => {
            Some(CheckOf::Loop)
        }
        Test::RingEndToEnd { .. }
        | Test::RingBoardCheck
        | Test::R1Rn
        | Test::R1R2
        | Test::R2
        | Test::BondContinuity
        | Test::EarthingConductor => Some(CheckOf::Continuity),
        _ => None,
    }
}

/// Instruments that were not to be trusted when they read, and leads whose state nobody said.
fn instruments(reviewed: Reviewed<'_>, settled: &CurrentReadings<'_>, findings: &mut Vec<Finding>) {
    let rule = reviewed.installation.house_rules.instruments;
    let instruments = TakenBy::from_events(reviewed.instruments, reviewed.events);
    let mut distrusted: Vec<(Distrust, usize)> = Vec::new();
    let mut unsaid: Vec<(Where, String, usize)> = Vec::new();
    let looked_at = reviewed.events.iter().any(|event| matches!(event.kind, EventKind::BeforeUse { .. }));
    let mut trusted: FxHashMap<(Uuid, CheckOf, i64), Option<Distrust>> = FxHashMap::default();
    for reading in settled.standing() {
        let circuit = reading.key.subject.circuit();
        let place = || circuit.map_or_else(|| Where::Origin(String::new()), |id| Where::Circuit(id, None));
        let low_ohm = range_of(reading.key.test) == Some(CheckOf::Continuity) && reading.value.number().is_some();
        if low_ohm && reading.context.origin.is_on_site() && reading.context.null == LeadNull::Unknown {
            let about = || {
                circuit.and_then(|id| reviewed.installation.circuit(id)).map_or_else(
                    || "Earthing and bonding".to_owned(),
                    |circuit| format!("Way {} {}", circuit.way, circuit.description),
                )
            };
            let place = place();
            // Readings of a place mostly stand together: the last is looked at first.
            if let Some((.., count)) = unsaid.iter_mut().rfind(|(other, ..)| *other == place) {
                *count += 1;
            } else {
                unsaid.push((place, about(), 1));
            }
        }
        // What was read from paper has the day that stands on it, where it was said.
        let (Some(of), Some(at)) = (range_of(reading.key.test), reading.context.moment()) else { continue };
        let Some(by) = instruments.took(reading) else { continue };
        // A day's readings on one range are trusted or not together.
        let asked = (by.id, of, at.as_second().div_euclid(86_400));
        let known =
            trusted.entry(asked).or_insert_with(|| distrust(by, rule, of, at.to_zoned(jiff::tz::TimeZone::UTC).date()));
        let not_right = || {
            let (on, said) = found_wrong(reviewed.events, by.id, at)?;
            Some(Distrust::NotRight { name: by.reference.clone(), on, said: said.to_owned() })
        };
        let Some(why) = known.clone().or_else(|| looked_at.then(not_right).flatten()) else { continue };
        match distrusted.iter_mut().find(|(other, ..)| *other == why) {
            Some((_, count)) => *count += 1,
            None => distrusted.push((why, 1)),
        }
    }
    for (why, readings) in distrusted {
        let reason = Found::InstrumentDoubtful { why, readings };
        findings.push(Finding::new("Instruments", reason, Where::Firm));
    }
    for (place, about, readings) in unsaid {
        findings.push(Finding::new(&about, Found::LeadsUnsaid { readings }, place));
    }
}

/// Board, circuit, the state that was wanted, the state that the log has.
type Misplaced = (Uuid, Option<Uuid>, Wanted, BoardState);

/// Whether a reading was taken inside a board that was live, its circuit alone being isolated.
fn touches_live_board(
    reviewed: Reviewed<'_>,
    site: &Site<'_>,
    settled: &CurrentReadings<'_>,
    (board, circuit): (Uuid, Option<Uuid>),
    reading: &Reading,
) -> bool {
    let Some(alone) = circuit.and_then(|circuit| site.alone(board, circuit)) else { return false };
    let Some(circuit) = circuit.and_then(|id| reviewed.installation.circuit(id)) else { return false };
    let steps = steps_kept(reviewed.installation, circuit, settled);
    let step = steps.iter().find(|step| step.key == reading.key);
    step.is_some_and(|step| inside_board(reviewed.installation, step, alone.neutral).is_some())
}

/// Readings out of order with the record of isolation. What came from paper has no time and is not
/// accused; nor is a job whose log says nothing of the board.
fn order(reviewed: Reviewed<'_>, settled: &CurrentReadings<'_>, findings: &mut Vec<Finding>) {
    let mut replay = Replay::from_events(reviewed.events);
    let mut found: Vec<(Misplaced, usize)> = Vec::new();
    let mut known: FxHashMap<Misplaced, usize> = FxHashMap::default();
    let on_site = |reading: &&Reading| reading.context.origin.is_on_site();
    let mut taken: Vec<(Timestamp, &Reading)> =
        settled.standing().filter(on_site).filter_map(|reading| Some((reading.context.taken_at?, reading))).collect();
    taken.sort_by_key(|(at, _)| *at);
    let boards: FxHashMap<Uuid, Uuid> = reviewed.installation.circuits.iter().map(|one| (one.id, one.board)).collect();
    for (at, reading) in taken {
        let wanted = Wanted::for_key(&reading.key);
        // What may be read in any state that is known is out of order in none.
        if matches!(wanted, Wanted::Incoming | Wanted::Nothing) {
            continue;
        }
        let place = match reading.key.subject.circuit() {
            Some(circuit) => boards.get(&circuit).map(|board| (*board, Some(circuit))),
            None => taken_on(reviewed.installation, &reading.key.subject),
        };
        let Some((board, circuit)) = place else { continue };
        let Some(state) = replay.at(board, circuit, at) else { continue };
        let inside =
            wanted == Wanted::Dead && touches_live_board(reviewed, replay.site(), settled, (board, circuit), reading);
        if replay.site().allows(wanted, board, circuit) && !inside {
            continue;
        }
        let state = if inside { replay.site().board(board).0 } else { state };
        let this = (board, circuit, wanted, state);
        let at = *known.entry(this).or_insert(found.len());
        match found.get_mut(at) {
            Some((_, count)) => *count += 1,
            None => found.push((this, 1)),
        }
    }
    for ((board, circuit, wanted, state), readings) in found {
        let name = reviewed.installation.board(board).map_or("", |board| board.name.as_str());
        let (about, place) = match circuit.and_then(|id| reviewed.installation.circuit(id)) {
            Some(circuit) => (crate::review::about::about(circuit), Where::Circuit(circuit.id, None)),
            None => (name.to_owned(), Where::Board(board)),
        };
        let reason = Found::OutOfOrder { readings, wanted, board: name.to_owned(), state };
        findings.push(Finding::new(&about, reason, place));
    }
}
