//! The board itself on paper: what feeds it and protects it, what was read there, with what and by whom.

use jiff::tz::TimeZone;
use proof_job::installation::{Board, Carried, Feed, Installation, Lines};
use proof_job::instrument::Instrument;
use proof_job::job::{Job, TakenBy};
use proof_job::reading::keys::followed_key;
use proof_job::reading::{CurrentReadings, Reading, Step, Subject, Test, Value};
use proof_judge::supply_chain::{external_loop, fault_level};
use proof_standard::limits::rcd::Multiple;
use proof_work::certificate::{Certificate, Role};
use proof_work::plan::sequence::board_steps;

/// The fields of a board.
pub(crate) fn board_fields(
    certificate: &Certificate,
    settled: &CurrentReadings<'_>,
    board: &Board,
) -> Vec<(&'static str, String)> {
    let installation = &certificate.job.installation;
    let shown = |test: Test| {
        let steps = board_steps(installation, board);
        let found = steps.iter().find(|one| one.key.test == test).and_then(|one| settled.value(&one.key));
        found.map(Value::shown).unwrap_or_default()
    };
    let taken: Vec<&Reading> =
        settled.standing().filter(|reading| is_of(installation, board, &reading.key.subject)).collect();
    let surge = board.surge.trim();
    let main = main_residual(installation, settled, board);
    let mut fields = vec![
        ("Device before it", before(installation, board)),
        (
            "Zdb at the board",
            external_loop(installation, settled, board.id).map(|ohm| format!("{ohm:.2} Ω")).unwrap_or_default(),
        ),
        (
            "Fault level at the board",
            fault_level(installation, settled, board.id).map(|level| format!("{} kA", level.ka)).unwrap_or_default(),
        ),
        (
            "Phase sequence",
            if board.lines == Lines::Three {
                sequence(settled, board, shown(Test::PhaseSequence))
            } else {
                "one phase".to_owned()
            },
        ),
        (
            "Surge device, status",
            if surge.is_empty() {
                "none described".to_owned()
            } else {
                format!("{surge}, {}", shown(Test::SurgeIndicator))
            },
        ),
        ("Instruments by function", instruments(&certificate.job, &taken)),
        ("Tested by, last on", tested(&taken)),
        ("Signed for the tests of this board", signed(certificate)),
        ("Left connected while insulation was read", left_connected(installation, board)),
    ];
    fields.extend(main.map(|said| ("Main residual device", said)));
    fields
}

/// The residual main device of a board, and what its test gave: the slower of two.
fn main_residual(installation: &Installation, settled: &CurrentReadings<'_>, board: &Board) -> Option<String> {
    let residual = board.main_switch.residual()?;
    let steps = board_steps(installation, board);
    let at = |wanted: Multiple| {
        let of = |step: &&Step| matches!(step.key.test, Test::RcdTrip { multiple, .. } if multiple == wanted);
        let values = steps.iter().filter(of).filter_map(|step| settled.value(&step.key));
        let slower = values.max_by_key(|value| (value.number().is_none(), value.number()))?;
        let unit = if slower.number().is_some() { " ms" } else { "" };
        Some(format!("{}: {}{unit}", wanted.label(), slower.shown()))
    };
    let read = [Multiple::One, Multiple::Five].into_iter().filter_map(at);
    let described = format!("{} mA, {}", residual.idn_ma.normalize(), residual.kind.name());
    Some(std::iter::once(described).chain(read).collect::<Vec<_>>().join("; "))
}

/// The phase sequence by a tester at the board, else as followed dead along the circuit that feeds it.
fn sequence(settled: &CurrentReadings<'_>, board: &Board, by_tester: String) -> String {
    let Feed::Circuit { circuit } = board.fed_by else { return by_tester };
    match settled.value(&followed_key(circuit)) {
        Some(value) if by_tester.is_empty() => format!("{}, by continuity", value.shown()),
        _ => by_tester,
    }
}

/// Who signs for inspection and testing, and when; nothing on a draft.
fn signed(certificate: &Certificate) -> String {
    let signs = certificate.signatures.iter().find(|signature| signature.role == Role::Inspection);
    let on = |at: jiff::Timestamp| at.to_zoned(TimeZone::UTC).strftime("%-d %B %Y").to_string();
    signs.map(|one| format!("{}, {}, {}", one.name, one.position, on(one.at))).unwrap_or_default()
}

/// Whether a reading was taken on a board or one of its circuits.
fn is_of(installation: &Installation, board: &Board, subject: &Subject) -> bool {
    match subject {
        Subject::Board { board: of } => *of == board.id,
        other => {
            other.circuit().and_then(|id| installation.circuit(id)).is_some_and(|circuit| circuit.board == board.id)
        }
    }
}

fn before(installation: &Installation, board: &Board) -> String {
    match board.fed_by {
        Feed::Supply => installation.supply.device.clone(),
        Feed::Circuit { circuit } => {
            installation.circuit(circuit).map(|feeder| feeder.device.shown()).unwrap_or_default()
        }
    }
}

/// An instrument by its reference and serial number.
pub(crate) fn numbered(one: &Instrument) -> String {
    if one.serial.is_empty() { one.reference.clone() } else { format!("{}, serial {}", one.reference, one.serial) }
}

/// Each once, in order.
fn once<T: AsRef<str> + Ord>(mut names: Vec<T>) -> String {
    names.sort_unstable();
    names.dedup();
    names.iter().map(AsRef::as_ref).collect::<Vec<_>>().join(", ")
}

/// The instruments by what was read with them.
fn instruments(job: &Job, taken: &[&Reading]) -> String {
    let taken_by = TakenBy::from_events(&job.instruments, &job.events);
    let with = |of: fn(Test) -> bool| {
        let known = taken.iter().filter(|reading| of(reading.key.test)).filter_map(|reading| taken_by.took(reading));
        once(known.map(numbered).collect())
    };
    let continuity =
        |test| matches!(test, Test::RingEndToEnd { .. } | Test::RingBoardCheck | Test::R1Rn | Test::R1R2 | Test::R2);
    let all = [
        ("continuity", with(continuity)),
        ("insulation", with(|test| matches!(test, Test::Insulation | Test::InsulationJoined))),
        ("loop", with(|test| matches!(test, Test::Zs | Test::LineNeutralLoop | Test::FaultCurrent))),
        ("RCD", with(|test| matches!(test, Test::RcdTrip { .. }))),
    ];
    let said: Vec<String> =
        all.into_iter().filter(|(_, by)| !by.is_empty()).map(|(of, by)| format!("{of} {by}")).collect();
    said.join("; ")
}

/// Who read, and when the last of it was read.
fn tested(taken: &[&Reading]) -> String {
    let by = |reading: &&Reading| reading.context.read_by.is_some();
    let read = taken.iter().copied().filter(by).filter_map(|reading| reading.context.read_by.as_deref());
    let wrote = taken.iter().filter(|reading| !by(reading)).map(|reading| reading.context.entered_by.as_str());
    let last = taken.iter().filter_map(|reading| reading.context.moment()).max();
    let on = last.map(|at| format!(", {}", at.to_zoned(TimeZone::UTC).strftime("%-d %B %Y")));
    format!("{}{}", once(read.chain(wrote).collect()), on.unwrap_or_default())
}

/// What stayed connected while insulation was read, and the next tester may damage.
fn left_connected(installation: &Installation, board: &Board) -> String {
    let points = installation.circuits_on(board.id).flat_map(|circuit| &circuit.points);
    let stays = points.flat_map(|point| &point.connected_load).copied().filter(|carried| carried.stays());
    let said = once(stays.map(Carried::label).collect());
    if said.is_empty() { "nothing described".to_owned() } else { said }
}
