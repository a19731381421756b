//! Readings that are in force and that no step asks for any more: the method of the job or the description changed
//! after they were taken. They are judged all the same, so that no failing figure goes away by asking less.

use proof_job::installation::{Bond, Circuit, Installation, Position};
use proof_job::reading::entry::Field;
use proof_job::reading::{CurrentReadings, GoesTo, Key, Method, Place, Stage, Step, Subject, Test};
use proof_standard::limits::insulation::{least, test_voltage};
use std::collections::HashSet;
use uuid::Uuid;

/// What may be typed for a test, by the method it was taken with.
const fn field(test: Test, method: Method) -> Field {
    match (test, method) {
        (_, Method::ByEye) => Field::Outcome,
        (
            Test::RingEndToEnd { .. }
            | Test::RingBoardCheck
            | Test::R1Rn
            | Test::R1R2
            | Test::R2
            | Test::BondContinuity
            | Test::EarthingConductor,
            _,
        ) => Field::Continuity,
        (Test::Insulation | Test::InsulationJoined, _) => Field::Insulation,
        (Test::Ze | Test::Zs | Test::LineNeutralLoop | Test::Electrode, _) => Field::Loop,
        (Test::FaultCurrent, _) => Field::FaultCurrent,
        (Test::RcdTrip { .. }, _) => Field::TripTime,
        _ => Field::Outcome,
    }
}

/// The stage that a test of a circuit belongs to.
const fn stage(test: Test) -> Stage {
    match test {
        Test::RingEndToEnd { .. } => Stage::EndToEnd,
        Test::R1Rn => Stage::R1Rn,
        Test::RingBoardCheck | Test::R1R2 => Stage::R1R2,
        Test::R2 => Stage::R2,
        Test::Insulation | Test::InsulationJoined => Stage::Insulation,
        Test::Polarity => Stage::Polarity,
        Test::Zs | Test::LineNeutralLoop => Stage::Zs,
        Test::RcdTrip { .. } | Test::RcdButton => Stage::Rcd,
        Test::BondContinuity | Test::EarthingConductor => Stage::Bonding,
        Test::Ze | Test::SupplyPolarity | Test::FaultCurrent | Test::Electrode => Stage::Origin,
        Test::AfddButton | Test::PhaseSequence | Test::Functional | Test::SurgeIndicator | Test::Labelling => {
            Stage::Functional
        }
    }
}

/// What was read, without where.
fn test_label(key: &Key) -> String {
    match key.test {
        Test::RingEndToEnd { conductor } => format!("ring end to end, {conductor}"),
        Test::RingBoardCheck => "board".to_owned(),
        Test::R1Rn => "R1+Rn".to_owned(),
        Test::R1R2 => "R1+R2".to_owned(),
        Test::R2 => "R2".to_owned(),
        Test::Insulation => key.pair.map_or_else(|| "insulation".to_owned(), |pair| pair.to_string()),
        Test::InsulationJoined => "live joined–E".to_owned(),
        Test::Polarity => "Polarity".to_owned(),
        Test::Ze => "Ze".to_owned(),
        Test::SupplyPolarity => "Polarity of the supply".to_owned(),
        Test::FaultCurrent => key.pair.map_or_else(|| "PFC".to_owned(), |pair| format!("PFC {pair}")),
        Test::Zs => "Zs".to_owned(),
        Test::LineNeutralLoop => "Line–neutral loop".to_owned(),
        Test::RcdTrip { multiple, half_cycle } => format!("{} at {}", multiple.label(), half_cycle.label()),
        Test::RcdButton => "Test button".to_owned(),
        Test::AfddButton => "AFDD test button".to_owned(),
        Test::BondContinuity => "Bond".to_owned(),
        Test::EarthingConductor => "Earthing conductor".to_owned(),
        Test::Electrode => "Electrode, Ra".to_owned(),
        Test::PhaseSequence => "Phase sequence".to_owned(),
        Test::Functional => "Functional".to_owned(),
        Test::SurgeIndicator => "Surge protection: its indicator".to_owned(),
        Test::Labelling => "Labels and chart".to_owned(),
    }
}

/// Where on a circuit it was read.
fn place_label(circuit: &Circuit, place: &Place) -> Option<String> {
    let name =
        place.point().map(|id| circuit.point(id).map_or_else(|| id.0.to_string(), |point| point.name.clone()))?;
    Some(match place {
        Place::Board => return None,
        Place::Point { .. } => name,
        Place::Outlet { outlet, .. } => format!("{name} outlet {outlet}"),
        Place::Switch { position: Position::On, .. } => format!("{name} on"),
        Place::Switch { position, .. } => format!("{name} {position}"),
        Place::Switched { .. } => format!("{name}, switches thrown"),
        Place::Metalwork { name: metal, .. } => format!("{name} {metal}"),
    })
}

/// Names the step in a form: the same for the same key, whatever else is described.
fn slug(key: &Key) -> String {
    let written = serde_json::to_string(key).unwrap_or_default();
    format!("unasked-{}", &Uuid::new_v5(&Uuid::NAMESPACE_OID, written.as_bytes()).simple().to_string()[..12])
}

/// The step of a key that no method asks for.
fn unasked(key: &Key, label: String) -> Step {
    let goes_to = GoesTo::NotOnSchedule("no longer asked for: it is judged until it is read again or struck out");
    Step::new(slug(key), key.clone(), stage(key.test), label, field(key.test, key.method), goes_to).unused_if(true)
}

/// A part of a circuit that was opened to find an insulation fault: superseded by a reading of the whole, later.
fn is_part_of_search(key: &Key) -> bool {
    stage(key.test) == Stage::Insulation && matches!(key.subject.place(), Some(Place::Point { .. }))
}

/// Steps of a circuit for its readings, in force or struck out, that none of `steps` asks for.
pub fn unasked_steps(circuit: &Circuit, steps: &[Step], settled: &CurrentReadings<'_>) -> Vec<Step> {
    let asked: HashSet<&Key> = steps.iter().map(|step| &step.key).collect();
    let keys = settled.keys_of(circuit.id).filter(|key| !asked.contains(key));
    let wanted = |key: &&Key| {
        key.subject.place().is_some_and(|place| place.point().is_none_or(|id| circuit.point(id).is_some()))
            && !(is_part_of_search(key)
                && settled
                    .order_of(key)
                    .is_none_or(|at| settled.is_insulation_answered((key, at), circuit.id, least())))
    };
    let step = |key: &Key| {
        let at = key.subject.place().and_then(|place| place_label(circuit, place));
        let what = test_label(key);
        let line = key.line.map(|line| format!(" {line}")).unwrap_or_default();
        let label = match at {
            // Of a walk the place says it all.
            Some(at) if matches!(stage(key.test), Stage::R1R2 | Stage::R1Rn | Stage::R2) => format!("{at}{line}"),
            Some(at) => format!("{what} at {at}{line}"),
            None if matches!(key.test, Test::R1R2 | Test::R2) => format!("the whole circuit{line}"),
            None => format!("{what}{line}"),
        };
        let mut step = unasked(key, label);
        step.test_voltage = (step.field == Field::Insulation).then(|| *test_voltage(circuit.band.row()));
        step
    };
    keys.filter(wanted).map(step).collect()
}

/// The steps of a circuit with those that its readings alone stand for, each at the end of its stage.
pub fn with_unasked(mut steps: Vec<Step>, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Vec<Step> {
    for step in unasked_steps(circuit, &steps, settled) {
        let after = steps.iter().rposition(|other| other.stage == step.stage).map_or(steps.len(), |at| at + 1);
        steps.insert(after, step);
    }
    steps
}

/// Steps for readings of the supply and its bonds that none of `steps` asks for.
pub fn unasked_at_origin(installation: &Installation, steps: &[Step], settled: &CurrentReadings<'_>) -> Vec<Step> {
    let asked: HashSet<&Key> = steps.iter().map(|step| &step.key).collect();
    let of_origin = |key: &&Key| match &key.subject {
        Subject::Supply => true,
        Subject::Bond { bond } => installation.supply.bonds.iter().any(|one| one.id == *bond),
        _ => false,
    };
    let name =
        |bond: &Bond| format!("{} to {}", if bond.supplementary { "Supplementary bond" } else { "Bond" }, bond.to);
    let keys = settled.keys_of_no_circuit().filter(|key| !asked.contains(key)).filter(of_origin);
    keys.map(|key| {
        let label = match &key.subject {
            Subject::Bond { bond } => installation.supply.bonds.iter().find(|one| one.id == *bond).map(name),
            _ => None,
        };
        let line = key.line.map(|line| format!(" {line}")).unwrap_or_default();
        unasked(key, label.unwrap_or_else(|| format!("{}{line}", test_label(key))))
    })
    .collect()
}

/// Steps for readings of a board as a whole that none of `steps` asks for.
pub fn unasked_at_board(board: Uuid, steps: &[Step], settled: &CurrentReadings<'_>) -> Vec<Step> {
    let asked: HashSet<&Key> = steps.iter().map(|step| &step.key).collect();
    let for_board = |key: &&Key| key.subject == Subject::Board { board };
    let keys = settled.keys_of_no_circuit().filter(|key| !asked.contains(key)).filter(for_board);
    keys.map(|key| unasked(key, test_label(key))).collect()
}
