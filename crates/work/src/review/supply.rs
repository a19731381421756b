//! Findings at the origin and at the boards: what was read there, what stands open there, and every
//! device against the fault level at its own board.

use crate::plan::outstanding::{Need, OutstandingQuery, StepState, outstanding, steps_reviewed};
use crate::plan::sets::{set_circuits, set_step};
use crate::plan::substitute::Scope;
use crate::review::{Circumstances, Finding, Reviewed, Where, judged, struck_out};
use proof_job::installation::{Board, Feed, Installation};
use proof_job::reading::keys::{current_key, own_loop_key};
use proof_job::reading::{CurrentReadings, Reading, Stage, Step, Subject, Test, Value};
use proof_job::site::Site;
use proof_judge::finding::{Found, Kind};
use proof_judge::supply_chain::fault_level;
use proof_judge::verdict::{Limit, Reason as Odd, judge_origin, judge_set};
use proof_standard::conductor::Pair;
use proof_standard::limits::insulation::least;
use std::sync::Arc;
use uuid::Uuid;

/// The readings of the origin.
pub(super) fn origin(installation: &Installation, settled: &CurrentReadings<'_>, findings: &mut Vec<Finding>) {
    let outstanding = outstanding(installation, Scope::Origin, settled);
    for step in steps_reviewed(installation, Scope::Origin, settled) {
        let place = Where::Origin(step.slug.clone());
        read((installation, settled), &step, outstanding.need(&step), ("Origin", place), findings);
    }
}

fn read(
    (installation, settled): (&Installation, &CurrentReadings<'_>),
    step: &Step,
    need: Option<&Need>,
    (about, place): (&str, Where),
    findings: &mut Vec<Finding>,
) {
    if let Some(StepState::StruckOut(value)) = need.map(|need| &need.state) {
        findings.push(struck_out(step, value, (about, &place)));
    }
    match settled.value(&step.key) {
        None if need.is_some_and(|need| need.state == StepState::NotRead) => {
            let seen = step.field == proof_job::reading::entry::Field::Outcome;
            let reason = Found::NotTaken { label: step.label.clone(), seen, stage: step.stage };
            let mut finding = Finding::new(about, reason, place);
            // Required only where it stands for Ze.
            let stands_for_ze = step.key.test == Test::Zs && step.key.subject == Subject::Supply;
            let before = stands_for_ze || matches!(step.key.test, Test::SupplyPolarity | Test::Ze);
            finding.bars_energising = step.stage == Stage::Bonding || before;
            findings.push(finding);
        }
        None => {}
        Some(value) => {
            let judgement = judge_origin(installation, settled, step, value);
            let mut found = judged((step, value), judgement, (about, &place), Circumstances::default());
            // Where Ze could not be read with the earth off, a loop that was read with it on says that there
            // is one.
            if let Some(found) = found.as_mut().filter(|found| found.kind() == Kind::Limitation)
                && step.key.test == Test::Ze
                && earth_loop_read(settled, step)
            {
                found.bars_energising = false;
            }
            findings.extend(found);
        }
    }
}

/// Whether a loop to earth was read at the origin with the earthing conductor on.
fn earth_loop_read(settled: &CurrentReadings<'_>, step: &Step) -> bool {
    let line = step.key.line;
    [own_loop_key(Pair::LINE_EARTH, line), current_key(Pair::LINE_EARTH, line)]
        .iter()
        .any(|key| settled.value(key).is_some_and(|value| value.number().is_some()))
}

/// Boards: put-back list, exposure, their own steps, their devices, insulation of the whole.
pub(super) fn boards(
    reviewed: Reviewed<'_>,
    site: &Site<'_>,
    (asked, settled): (&OutstandingQuery<'_>, &CurrentReadings<'_>),
    findings: &mut Vec<Finding>,
) {
    let installation = reviewed.installation;
    for item in site.open() {
        let reason = Found::NotPutBack { alteration: item.alteration, note: item.note.to_owned() };
        let place = Where::Board(item.board);
        findings.push(Finding::new("Put-back list", reason, place).barring());
    }
    for item in site.outstanding_points() {
        let about = installation.circuit(item.circuit).map_or_else(String::new, crate::review::about::about);
        let reason = Found::PointOutstanding { thing: item.thing.to_owned(), made_safe: item.made_safe.to_owned() };
        let place = Where::Circuit(item.circuit, None);
        findings.push(Finding::new(&about, reason, place));
    }
    for board in &installation.boards {
        if site.earth_off(board.id).is_some() {
            let place = Where::Board(board.id);
            findings.push(Finding::new(&board.name, Found::EarthOff, place).barring());
        }
        let needed = if asked.board(board) { asked.outstanding(Scope::Board(board)) } else { Arc::default() };
        for step in steps_reviewed(installation, Scope::Board(board), settled) {
            let place = Where::BoardStep(board.id, step.slug.clone());
            read((installation, settled), &step, needed.need(&step), (&board.name, place), findings);
        }
        devices(installation, board, settled, findings);
        sets(installation, board, settled, findings);
    }
}

/// Every device against the fault level at its own board.
fn devices(installation: &Installation, board: &Board, settled: &CurrentReadings<'_>, findings: &mut Vec<Finding>) {
    let Some(level) = fault_level(installation, settled, board.id) else { return };
    let below: Vec<_> = installation
        .circuits_on(board.id)
        .filter_map(|circuit| Some((circuit, circuit.device.breaking_ka?)))
        .filter(|(_, capacity)| *capacity < level.ka && board.conditional_ka.is_none_or(|most| most < level.ka))
        .collect();
    let Some((first, capacity)) = below.first() else { return };
    let reason = Found::DevicesBelow {
        ka: level.ka,
        how: level.how,
        way: first.way.clone(),
        device: first.device.shown(),
        breaks_ka: capacity.normalize(),
        more: below.len() - 1,
    };
    // At the origin the reading itself has said so.
    if board.fed_by != Feed::Supply || !findings.iter().any(|finding| finding.kind() == Kind::BreakingCapacity) {
        let place = Where::Board(board.id);
        findings.push(Finding::new(&board.name, reason, place));
    }
}

/// The circuits of a set that failed and was not answered since: each of its ways read again, alone or with others.
fn unanswered<'a>(
    installation: &Installation,
    settled: &CurrentReadings<'a>,
    reading: &'a Reading,
) -> Option<(&'a [Uuid], Option<Pair>)> {
    let Subject::CircuitSet { circuits } = &reading.key.subject else { return None };
    let low = matches!(&reading.value, Value::Number(mohm) | Value::Over(mohm) if *mohm < least());
    let at = settled.order_of(&reading.key)?;
    let answered = |id: &Uuid| settled.is_insulation_answered((&reading.key, at), *id, least());
    let mut known = circuits.iter().filter(|id| installation.circuit(**id).is_some());
    (low && !known.all(answered)).then_some((circuits.as_slice(), reading.key.pair))
}

/// Insulation of sets of ways: of a whole board as it stands; of any set that failed and was not answered since, the
/// largest where one is in the other, as a search reads them; of any that reads more than its lowest way.
fn sets(installation: &Installation, board: &Board, settled: &CurrentReadings<'_>, findings: &mut Vec<Finding>) {
    let failing: Vec<_> = settled.for_sets().filter_map(|reading| unanswered(installation, settled, reading)).collect();
    for reading in settled.for_sets() {
        let Subject::CircuitSet { circuits } = &reading.key.subject else { continue };
        let on_board = |id: &Uuid| installation.circuit(*id).is_some_and(|circuit| circuit.board == board.id);
        if !circuits.iter().any(on_board) {
            continue;
        }
        let whole = *circuits == set_circuits(installation, board.id, reading.key.pair);
        let mut step = set_step(circuits.clone(), reading.key.pair);
        step.label = if whole {
            format!("the whole board, {}", step.label)
        } else {
            let ways = installation.circuits_on(board.id).filter(|circuit| circuits.contains(&circuit.id));
            let ways: Vec<&str> = ways.map(|circuit| circuit.way.as_str()).collect();
            format!("ways {} together, {}", ways.join(", "), step.label)
        };
        let judgement = judge_set(installation, settled, &step, &reading.value);
        let (fails, above) = (judgement.limit == Limit::Outside, judgement.reasons.contains(&Odd::WholeAboveLowest));
        let larger = |(others, pair): &(&[Uuid], Option<Pair>)| {
            *pair == reading.key.pair && others.len() > circuits.len() && circuits.iter().all(|id| others.contains(id))
        };
        let told = unanswered(installation, settled, reading).is_some() && !failing.iter().any(larger);
        if fails && !told || !fails && !whole && !above {
            continue;
        }
        let place = Where::Board(board.id);
        findings.extend(judged((&step, &reading.value), judgement, (&board.name, &place), Circumstances::default()));
    }
}
