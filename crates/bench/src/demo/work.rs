//! What is done on the demo's site: isolation, readings, the log.

use super::register::{READER, WRITER, id};
use crate::meter::{Meter, shown};
use crate::site::{Visit, read_circuit};
use jiff::Timestamp;
use proof_job::job::Job;
use proof_job::reading::{LeadNull, Stage, Step, Subject, Test, Value, is_low_ohm};
use proof_job::site::{Event, EventKind, LeadState, leads, open_items};
use proof_physics::network::description::Fault;
use proof_standard::conductor::Pair;
use proof_work::plan::disturbance::{changes, step_disturbances, undo_first};
use proof_work::plan::run::{Order, Run};
use proof_work::plan::sequence::{board_steps, circuit_steps, origin_steps};
use rust_decimal::dec;
use uuid::Uuid;

pub(super) fn time(text: &str) -> Timestamp {
    text.parse().unwrap_or(Timestamp::UNIX_EPOCH)
}

pub(super) fn visit(job: &Job) -> Visit {
    Visit {
        instrument: id("MFT-2"),
        read_by: READER.into(),
        entered_by: WRITER.into(),
        clock: job.created_at,
        ze: 0.17,
        neutral: 0.16,
    }
}

pub(super) fn log(job: &mut Job, visit: &mut Visit, kind: EventKind) {
    visit.clock = visit.clock.checked_add(jiff::SignedDuration::from_secs(90)).unwrap_or(visit.clock);
    let number = job.events.len();
    let event = Event {
        id: Uuid::new_v5(&job.id, format!("event {number}").as_bytes()),
        at: visit.clock,
        by: READER.into(),
        kind,
    };
    job.events.push(event);
}

pub(super) fn prove_dead(job: &mut Job, visit: &mut Visit) {
    let board = job.installation.boards[0].id;
    log(
        job,
        visit,
        EventKind::Isolated {
            board,
            circuits: vec![],
            lock: "padlock 7, key with Idris Kell".into(),
            paperwork: String::new(),
            neutral: false,
        },
    );
    let lines = job.installation.boards[0].lines;
    let mut proved = EventKind::proved_dead(board, lines, "VI-1");
    if let EventKind::ProvedDead { sources, .. } = &mut proved {
        sources.extend(job.installation.sources.iter().map(|source| source.id));
    }
    log(job, visit, proved);
}

pub(super) fn read_bonds(job: &mut Job, visit: &mut Visit, meter: &mut Meter) {
    for step in origin_steps(&job.installation).iter().filter(|step| step.stage == Stage::Bonding) {
        let bond = job
            .installation
            .supply
            .bonds
            .iter()
            .find(|bond| matches!(step.key.subject, Subject::Bond { bond: id } if id == bond.id));
        let own = bond.and_then(|bond| bond.length_m).map_or(0.004, |m| m.get() * 1.83e-3);
        let value = Value::Number(meter.clipped(own));
        let reading = visit.reading(step, value, Uuid::new_v5(&job.id, step.slug.as_bytes()));
        job.readings.push(reading);
    }
}

/// Ze with the earth off and the fault current with it back on; the log says so.
pub(super) fn read_origin(job: &mut Job, visit: &mut Visit) {
    let board = job.installation.boards[0].id;
    log(job, visit, EventKind::SupplyExposed { board });
    let steps = origin_steps(&job.installation);
    let live = |step: &&Step| step.stage == Stage::Origin && step.required;
    let (exposed, back): (Vec<&Step>, Vec<&Step>) =
        steps.iter().filter(live).partition(|step| matches!(step.key.test, Test::Ze | Test::SupplyPolarity));
    for step in exposed {
        let value = if step.key.test == Test::Ze { Value::Number(shown(visit.ze, 2)) } else { Value::Pass };
        let reading = visit.reading(step, value, Uuid::new_v5(&job.id, step.slug.as_bytes()));
        job.readings.push(reading);
    }
    log(job, visit, EventKind::EarthRefitted { board });
    for step in back {
        let behind = if step.key.pair == Some(Pair::LINE_EARTH) { visit.ze - 0.015 } else { visit.neutral };
        let value = Value::Number(shown(0.23 / behind, 2));
        let reading = visit.reading(step, value, Uuid::new_v5(&job.id, step.slug.as_bytes()));
        job.readings.push(reading);
    }
}

/// What belongs to the boards as a whole, once they are energised.
pub(super) fn read_boards(job: &mut Job, visit: &mut Visit) {
    for board in job.installation.boards.clone() {
        for step in board_steps(&job.installation, &board).iter().filter(|step| step.required) {
            let id = Uuid::new_v5(&board.id, step.slug.as_bytes());
            let reading = visit.reading(step, Value::Pass, id);
            job.readings.push(reading);
        }
    }
}

pub(super) fn read(
    job: &mut Job,
    visit: &mut Visit,
    meter: &mut Meter,
    way: &str,
    faults: Vec<Fault>,
    wanted: impl Fn(&Step) -> bool,
) {
    let Some(circuit) = job.installation.circuits.iter().find(|circuit| circuit.way == way).cloned() else { return };
    let readings = read_circuit(&job.installation, &circuit, faults, visit, meter, wanted);
    job.readings.extend(readings);
}

pub(super) const DEAD: fn(&Step) -> bool = |step| step.stage < Stage::Zs;

pub(super) const LIVE: fn(&Step) -> bool = |step| step.stage >= Stage::Zs && step.required;

/// Leaves what a stage of a circuit alters on the put-back list.
pub(super) fn leave_altered(job: &mut Job, visit: &mut Visit, way: &str, stage: Stage) {
    let installation = &job.installation;
    let Some(circuit) = installation.circuits.iter().find(|circuit| circuit.way == way) else { return };
    let steps = circuit_steps(installation, circuit);
    let Some(step) = steps.iter().find(|step| step.stage == stage) else { return };
    let id = circuit.id;
    for (number, one) in step_disturbances(installation, step).into_iter().enumerate() {
        let item = Uuid::new_v5(&id, format!("{} {number}", stage.label()).as_bytes());
        log(job, visit, one.opened(item));
    }
}

/// What was typed is what the instrument showed, leads and all; the value is without them.
pub(super) fn subtracted(job: &mut Job) {
    let state = LeadState::from_job(&job.events, &[]);
    let installation = &job.installation;
    let steps: Vec<Step> = installation
        .circuits
        .iter()
        .flat_map(|circuit| circuit_steps(installation, circuit))
        .chain(origin_steps(installation))
        .collect();
    for reading in &mut job.readings {
        let Some(step) = steps.iter().find(|step| step.key == reading.key) else { continue };
        let held = leads(installation, step);
        if let (Value::Number(ohm), Some(own), true) = (&reading.value, state.subtract(held), is_low_ohm(step)) {
            reading.typed = (*ohm + own).to_string();
            reading.context.null = LeadNull::Subtract { ohm: own };
            reading.context.lead_set = Some(held.set.to_owned());
            reading.context.pins = Some(held.pins.to_owned()).filter(|pins| !pins.is_empty());
        }
    }
}

/// Reads a whole board, live conductors joined to earth, with one circuit weak, until so many readings of the search
/// are in.
pub(super) fn searched(job: &mut Job, visit: &mut Visit, weak: &str, readings: usize) {
    let board = job.installation.boards[0].id;
    let culprit = job.installation.circuits.iter().find(|circuit| circuit.way == weak).map(|circuit| circuit.id);
    let mut taken = 0;
    while taken < readings {
        let step = {
            let settled = job.settled();
            let run = Run::new(job, &settled, Order::CircuitByCircuit);
            let next = run.left().find(|planned| planned.step.stage == Stage::Insulation && planned.board == board);
            let Some(next) = next else { return };
            next.step.clone()
        };
        let holds = matches!(&step.key.subject, Subject::CircuitSet { circuits } if circuits.iter().any(|id| Some(*id) == culprit));
        let joined = step.key.test == Test::InsulationJoined;
        let wrong = holds && joined;
        taken += usize::from(joined);
        let value = if wrong { Value::Number(dec!(0.31)) } else { Value::Over(dec!(999)) };
        let (made, replaced) = changes(&job.installation, &step, &open_items(&job.events), false);
        let undo: Vec<Uuid> = {
            let open = open_items(&job.events);
            undo_first(&job.installation, &step, &open).into_iter().map(|item| item.item).collect()
        };
        for item in undo.into_iter().chain(replaced) {
            log(job, visit, EventKind::PutBack { item });
        }
        for one in made {
            let item = Uuid::new_v5(&job.id, format!("altered {}", job.events.len()).as_bytes());
            log(job, visit, one.opened(item));
        }
        let id = Uuid::new_v5(&job.id, format!("set {}", job.readings.len()).as_bytes());
        let reading = visit.reading(&step, value, id);
        job.readings.push(reading);
    }
}
