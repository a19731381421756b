//! The log of an instrument, brought in: each reading placed by what it says of itself, or why it cannot be; then taken,
//! all that were placed or none.

use super::feed_refusal::FeedRefusal;
use super::figure::{Figure, Logged, With};
use super::fitting::{describe_place, is_at, misfit};
use super::reading::one;
use super::received::may_come;
use super::refusal::NotPlaced;
use super::{Actor, Recorded, Refusal};
use crate::plan::sequence::{board_steps, circuit_steps, feeder_steps, origin_steps};
use proof_job::installation::{Circuit, Installation};
use proof_job::job::Job;
use proof_job::reading::message::{At, Message};
use proof_job::reading::{CurrentReadings, Reading, Step};
use std::collections::HashSet;
use uuid::Uuid;

/// Readings of a log that are taken together.
#[derive(Debug, Clone)]
pub struct Log {
    /// The messages.
    pub messages: Vec<Message>,
    /// The instrument of the register that made them.
    pub instrument: Uuid,
    /// Who held the probes; empty: not said.
    pub read_by: String,
    /// The day on which those were read that say no time, as typed.
    pub read_on: String,
}

/// A reading that was placed.
#[derive(Debug, Clone)]
pub struct Placed {
    /// What it is a reading of.
    pub step: Step,
    /// The circuit, if it is of one.
    pub circuit: Option<Uuid>,
    /// As it would be stored.
    pub reading: Reading,
}

/// A place of the job where something is read.
struct Spot<'a> {
    circuit: Option<&'a Circuit>,
    board: Uuid,
    step: Step,
}

fn spots(installation: &Installation) -> Vec<Spot<'_>> {
    let first = installation.boards.first().map_or(Uuid::nil(), |board| board.id);
    let of = |circuit, board| move |step| Spot { circuit, board, step };
    let mut all: Vec<Spot<'_>> = origin_steps(installation).into_iter().map(of(None, first)).collect();
    for board in &installation.boards {
        all.extend(feeder_steps(installation, board).into_iter().map(of(None, board.id)));
        all.extend(board_steps(installation, board).into_iter().map(of(None, board.id)));
    }
    for circuit in &installation.circuits {
        all.extend(circuit_steps(installation, circuit).into_iter().map(of(Some(circuit), circuit.board)));
    }
    all.retain(|spot| !spot.step.unused);
    all
}

fn found<'a>(installation: &Installation, spots: &'a [Spot<'a>], message: &Message) -> Result<&'a Spot<'a>, NotPlaced> {
    let at = message.at.clone().unwrap_or_default();
    if at == At::default() {
        return Err(NotPlaced::NoPlace);
    }
    // What names no way is of the supply, a bond or a board.
    let there = |spot: &&Spot<'_>| {
        spot.circuit.is_some() == at.way.is_some() && is_at(installation, spot.circuit, spot.board, &spot.step, &at)
    };
    let there: Vec<&Spot<'_>> = spots.iter().filter(there).collect();
    if there.is_empty() {
        return Err(NotPlaced::NoSuchPlace(describe_place(&at)));
    }
    let (mut fit, mut near) = (Vec::new(), Vec::new());
    for spot in there {
        match misfit(installation, spot.circuit, &spot.step, message, &spot.step.label) {
            Ok(()) => fit.push(spot),
            Err(FeedRefusal::OtherTest { .. }) => {}
            // Set otherwise is nearer than held elsewhere.
            Err(why) => near.push((!matches!(why, FeedRefusal::OtherRange { .. }), why.to_string())),
        }
    }
    match fit[..] {
        [spot] => Ok(spot),
        [] => {
            let because = near.into_iter().min_by_key(|(far, _)| *far).map(|(_, why)| why);
            Err(NotPlaced::NotRead { measured: message.measured.label(), place: describe_place(&at), because })
        }
        _ => {
            let named = |spot: &&Spot<'_>| format!("{} ({})", spot.step.label, spot.step.slug);
            let mut names: Vec<String> = fit.iter().map(named).collect();
            if names.len() > 4 {
                names.truncate(4);
                names.push("another".to_owned());
            }
            Err(NotPlaced::Several(names))
        }
    }
}

/// Places each reading of a log, in its order; nothing is stored.
pub fn placed(job: &Job, log: &Log, hand: &Actor) -> Vec<Result<Placed, NotPlaced>> {
    let installation = &job.installation;
    let (spots, settled) = (spots(installation), job.settled());
    let stored: HashSet<Uuid> = job.readings.iter().map(|reading| reading.id).collect();
    let mut above = HashSet::new();
    let mut place = |message: &Message| {
        if !above.insert(message.id) {
            return Err(NotPlaced::Twice);
        }
        if stored.contains(&message.id) {
            return Err(NotPlaced::Stored);
        }
        may_come(job, message, log.instrument)?;
        let spot = found(installation, &spots, message)?;
        let reading = reading(job, &settled, log, (message, &spot.step), hand);
        let reading = reading.map_err(|why| NotPlaced::Refused(Box::new(why)))?;
        Ok(Placed { step: spot.step.clone(), circuit: spot.circuit.map(|one| one.id), reading })
    };
    log.messages.iter().map(&mut place).collect()
}

fn reading(
    job: &Job,
    settled: &CurrentReadings<'_>,
    log: &Log,
    (message, step): (&Message, &Step),
    hand: &Actor,
) -> Result<Reading, Refusal> {
    let figure = Figure {
        step: step.clone(),
        typed: message.typed(),
        pressed: String::new(),
        with: With {
            logged: Some(message.taken_at.map_or(Logged::NoTime, Logged::At)),
            paper_on: log.read_on.clone(),
            received: false,
            ..With::received(message, log.instrument, &log.read_by)
        },
    };
    let taken = one(job, settled, &figure, hand, message.id)?;
    taken.readings.into_iter().next().ok_or(Refusal::NoSuchStep)
}

/// Takes the readings of a log, all of them or none.
pub(super) fn record(job: &Job, log: &Log, hand: &Actor) -> Result<Recorded, Refusal> {
    let mut readings = Vec::new();
    for (message, placed) in log.messages.iter().zip(placed(job, log, hand)) {
        match placed {
            Ok(placed) => readings.push(placed.reading),
            // Sent twice: it is there.
            Err(NotPlaced::Stored) => {}
            Err(why) => return Err(Refusal::One { label: message.typed(), why: Box::new(Refusal::NotPlaced(why)) }),
        }
    }
    Ok(Recorded { readings, ..Recorded::default() })
}
