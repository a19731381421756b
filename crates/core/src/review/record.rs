//! The record itself: readings out of order with the isolation, instruments that were not to be
//! trusted, leads whose state nobody said.

use crate::instrument::{CheckOf, distrust};
use crate::reading::{LeadNull, Origin, Settled, Test};
use crate::review::{Finding, Kind, Reviewed, Severity, Where};
use crate::site::{BoardState, Timeline, Wanted, taken_on};
use rustc_hash::FxHashMap;
use uuid::Uuid;

/// Findings of the record.
pub(super) fn findings(reviewed: Reviewed<'_>, settled: &Settled<'_>, findings: &mut Vec<Finding>) {
    instruments(reviewed, settled, findings);
    order(reviewed, settled, findings);
}

/// Which range a reading was taken on.
const fn range_of(test: Test) -> Option<CheckOf> {
    match test {
        Test::Insulation | Test::InsulationJoined => Some(CheckOf::Insulation),
        Test::Ze | Test::Zs | Test::LineNeutralLoop | Test::FaultCurrent => Some(CheckOf::Loop),
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
fn instruments(reviewed: Reviewed<'_>, settled: &Settled<'_>, findings: &mut Vec<Finding>) {
    let rule = reviewed.installation.house_rules.instruments;
    let mut distrusted: Vec<(String, usize, Where)> = Vec::new();
    let mut unsaid: Vec<(Where, String, usize)> = Vec::new();
    let mut trusted: FxHashMap<(Uuid, CheckOf, i64), Option<String>> = FxHashMap::default();
    for reading in settled.standing() {
        let circuit = reading.key.subject.circuit();
        let place = || circuit.map_or_else(|| Where::Origin(String::new()), |id| Where::Circuit(id, None));
        let low_ohm = range_of(reading.key.test) == Some(CheckOf::Continuity) && reading.value.number().is_some();
        if low_ohm && reading.context.origin == Origin::Typed && reading.context.null == LeadNull::Unknown {
            let about = || {
                circuit.and_then(|id| reviewed.installation.circuit(id)).map_or_else(
                    || "Earthing and bonding".to_owned(),
                    |circuit| format!("Way {} {}", circuit.way, circuit.description),
                )
            };
            let place = place();
            if let Some((.., count)) = unsaid.iter_mut().find(|(other, ..)| *other == place) {
                *count += 1;
            } else {
                unsaid.push((place, about(), 1));
            }
        }
        // What was read from paper has no day of its own.
        let (Some(of), Some(at)) = (range_of(reading.key.test), reading.context.taken_at) else { continue };
        let by = reading.context.instrument.and_then(|id| reviewed.instruments.iter().find(|one| one.id == id));
        let Some(by) = by else { continue };
        // A day's readings on one range are trusted or not together.
        let asked = (by.id, of, at.as_second().div_euclid(86_400));
        let known =
            trusted.entry(asked).or_insert_with(|| distrust(by, rule, of, at.to_zoned(jiff::tz::TimeZone::UTC).date()));
        let Some(why) = known.clone() else { continue };
        match distrusted.iter_mut().find(|(other, ..)| *other == why) {
            Some((_, count, _)) => *count += 1,
            None => distrusted.push((why, 1, place())),
        }
    }
    for (why, count, _) in distrusted {
        let what = format!("{why}: it took {count} of the readings that stand");
        let then = "Check it against fixed values and write that down, or read again with one that is in date.";
        findings.push(Finding::new(Kind::InstrumentDoubtful, Severity::Odd, "Instruments", what, then, Where::Firm));
    }
    for (place, about, count) in unsaid {
        let what = format!("{count} low-resistance readings with leads neither nulled nor subtracted");
        let then = "Null the leads in use, pins included, and read again; or say that they were nulled.";
        findings.push(Finding::new(Kind::LeadsUnsaid, Severity::Odd, &about, what, then, place));
    }
}

/// What a test is called that was taken in the wrong state; `None`: any state will do.
const fn called(wanted: Wanted) -> Option<&'static str> {
    match wanted {
        Wanted::Dead => Some("a dead test"),
        Wanted::Exposed => Some("Ze, read with the earthing conductor off"),
        Wanted::EarthOn => Some("a fault current, read with the earth back on"),
        Wanted::Live => Some("a live test"),
        Wanted::Incoming | Wanted::Nothing => None,
    }
}

const fn said(state: BoardState) -> &'static str {
    match state {
        BoardState::NotProved => "not proved dead",
        BoardState::ProvedDead => "proved dead",
        BoardState::SupplyExposed => "exposed",
        BoardState::Energised => "energised",
    }
}

/// Readings out of order with the record of isolation. What came from paper has no time and is not
/// accused; nor is a job whose log says nothing of the board.
fn order(reviewed: Reviewed<'_>, settled: &Settled<'_>, findings: &mut Vec<Finding>) {
    let timeline = Timeline::of(reviewed.events);
    let mut found: Vec<(Uuid, Option<Uuid>, &'static str, &'static str, usize)> = Vec::new();
    for reading in settled.standing() {
        if !matches!(reading.context.origin, Origin::Typed | Origin::Instrument) {
            continue;
        }
        let wanted = Wanted::of(&reading.key);
        let (Some(at), Some(what)) = (reading.context.taken_at, called(wanted)) else { continue };
        let Some((board, circuit)) = taken_on(reviewed.installation, &reading.key.subject) else { continue };
        let Some(state) = timeline.at(board, circuit, at) else { continue };
        if wanted.allows(state) {
            continue;
        }
        match found.iter_mut().find(|(b, c, w, s, _)| (*b, *c, *w, *s) == (board, circuit, what, said(state))) {
            Some((.., count)) => *count += 1,
            None => found.push((board, circuit, what, said(state), 1)),
        }
    }
    for (board, circuit, what, state, count) in found {
        let name = reviewed.installation.board(board).map_or("", |board| board.name.as_str());
        let (about, place) = match circuit.and_then(|id| reviewed.installation.circuit(id)) {
            Some(circuit) => (crate::review::circuit::about(circuit), Where::Circuit(circuit.id, None)),
            None => (name.to_owned(), Where::Board(board)),
        };
        let readings = if count == 1 { "1 reading".to_owned() } else { format!("{count} readings") };
        let what = format!("{readings} of {what}, taken while the log has {name} {state}");
        let then = "Read again in the right state, or say what the log leaves out.";
        findings.push(Finding::new(Kind::OutOfOrder, Severity::Odd, &about, what, then, place));
    }
}
