//! A walk of points of which only the highest is written down; and a circuit read with its run open.

use super::{Actor, Figure, Recorded, Refusal, With, reading};
use crate::plan::outstanding::{StepState, step_state};
use crate::plan::sequence::circuit_steps;
use crate::plan::substitute::Scope;
use proof_job::installation::{Circuit, PointId};
use proof_job::job::Job;
use proof_job::reading::keys::broken_key;
use proof_job::reading::{CurrentReadings, Place, Stage, Step};
use uuid::Uuid;

/// A walk as typed.
#[derive(Debug, Clone)]
pub struct Walk {
    /// Of which circuit.
    pub circuit: Uuid,
    /// Which round: R1+Rn, R1+R2 or R2.
    pub stage: Stage,
    /// Where the highest was read.
    pub point: Option<PointId>,
    /// The highest.
    pub typed: String,
    /// How it was read.
    pub with: With,
}

/// The plain readings of a round, one a point. Of three lines there is no such walk: each is read on its own.
pub fn walk_steps(job: &Job, circuit: &Circuit, stage: Stage) -> Vec<Step> {
    let plain = |step: &Step| matches!(step.key.subject.place(), Some(Place::Point { .. })) && step.key.line.is_none();
    let mut steps = circuit_steps(&job.installation, circuit);
    steps.retain(|step| step.stage == stage && matches!(stage, Stage::R1Rn | Stage::R1R2 | Stage::R2) && plain(step));
    steps
}

/// Those of them that were not read themselves.
pub fn unread_in_walk(job: &Job, circuit: &Circuit, stage: Stage, settled: &CurrentReadings<'_>) -> Vec<Step> {
    let read = |step: &Step| step_state(&job.installation, Scope::Circuit(circuit), settled, step) == StepState::Read;
    let mut steps = walk_steps(job, circuit, stage);
    steps.retain(|step| !read(step));
    steps
}

/// All points of the walk or none: what one of them is refused for, all are.
pub(super) fn record(job: &Job, walk: &Walk, hand: &Actor) -> Result<Recorded, Refusal> {
    let circuit = job.installation.circuit(walk.circuit).ok_or(Refusal::NoWalk)?;
    if walk_steps(job, circuit, walk.stage).is_empty() {
        return Err(Refusal::NoWalk);
    }
    let settled = job.settled();
    let mut steps = unread_in_walk(job, circuit, walk.stage, &settled);
    let of = |step: &Step| step.key.subject.place().and_then(Place::point);
    let at = walk.point.and_then(|point| steps.iter().position(|step| of(step) == Some(point)));
    let highest = steps.remove(at.ok_or(Refusal::NoPoint)?);
    let typed = std::iter::once((highest, walk.typed.clone()));
    let walked = steps.into_iter().map(|step| (step, "walked".to_owned()));
    let mut taken = Recorded::default();
    let mut now = job.clone();
    for (step, typed) in typed.chain(walked) {
        let figure = Figure { step, typed, pressed: String::new(), with: walk.with.clone() };
        let one = reading::one(&now, &settled, &figure, hand, hand.next_id())?;
        // What the first point finds altered is altered for the others.
        now.events.extend(one.events.iter().cloned());
        taken.readings.extend(one.readings);
        taken.events.extend(one.events);
    }
    Ok(taken)
}

/// A circuit's insulation with its run open at a point.
#[derive(Debug, Clone)]
pub struct Opened {
    /// Which circuit.
    pub circuit: Option<Uuid>,
    /// Open beyond which point.
    pub point: Option<PointId>,
    /// Between which pair: `L-E`, or `joined`.
    pub pair: String,
    /// What was typed.
    pub typed: String,
    /// How it was read.
    pub with: With,
}

pub(super) fn opened(job: &Job, opened: &Opened, hand: &Actor) -> Result<Recorded, Refusal> {
    let circuit = opened.circuit.and_then(|id| job.installation.circuit(id));
    let point = opened.point.filter(|id| circuit.is_some_and(|circuit| circuit.point(*id).is_some()));
    let (Some(circuit), Some(point)) = (circuit, point) else { return Err(Refusal::OpenNowhere) };
    let named = |step: &Step| step.key.pair.map_or("joined".to_owned(), proof_standard::conductor::Pair::key);
    let step = circuit_steps(&job.installation, circuit)
        .into_iter()
        .find(|step| step.stage == Stage::Insulation && named(step) == opened.pair);
    let mut step = step.ok_or_else(|| Refusal::NoSuchPair(opened.pair.clone()))?;
    step.key = broken_key(circuit.id, point, step.key.pair);
    let figure = Figure { step, typed: opened.typed.clone(), pressed: String::new(), with: opened.with.clone() };
    reading::read(job, &figure, hand)
}
