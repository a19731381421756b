//! Whether a whole job makes sense: its own words, its registers, its readings and its log.

use crate::installation::Installation;
use crate::installation::validity::{LONGEST_LINE, LONGEST_TEXT, installation, line, reference, unique};
use crate::job::Job;
use crate::reading::{Reading, Subject};

/// Most readings of a job.
pub const MOST_READINGS: usize = 100_000;

/// Most events of a job.
pub const MOST_EVENTS: usize = 100_000;

/// Greatest number of a reading, in any unit.
pub const GREATEST_READING: rust_decimal::Decimal = rust_decimal::dec!(1_000_000_000);

/// Problems of a whole job; empty when it makes sense.
pub fn job(job: &Job) -> Vec<String> {
    let mut problems = Vec::new();
    if let Err(problem) = reference(&job.reference) {
        problems.push(problem.to_string());
    }
    line(&mut problems, "title", &job.title);
    for (name, text) in
        [("firm's name", &job.firm.name), ("firm's address", &job.firm.address), ("firm's contact", &job.firm.contact)]
    {
        line(&mut problems, name, text);
    }
    for person in &job.people {
        line(&mut problems, "person's name", &person.name);
        line(&mut problems, "person's position", &person.position);
    }
    for instrument in &job.instruments {
        line(&mut problems, "instrument's kind", &instrument.kind);
        line(&mut problems, "instrument's reference", &instrument.reference);
        line(&mut problems, "instrument's serial number", &instrument.serial);
        if instrument.over_range_mohm <= rust_decimal::Decimal::ZERO {
            problems.push(format!("instrument {}: its over-range display is above 0 MΩ", instrument.reference));
        }
    }
    unique(&mut problems, "reading", job.readings.iter().map(|reading| reading.id));
    unique(&mut problems, "event", job.events.iter().map(|event| event.id));
    for (what, count, most) in
        [("readings", job.readings.len(), MOST_READINGS), ("events", job.events.len(), MOST_EVENTS)]
    {
        if count > most {
            problems.push(format!("{count} {what}: at most {most}"));
        }
    }
    problems.extend(installation(&job.installation));
    problems.extend(job.readings.iter().filter_map(|one| reading(&job.installation, one)));
    if job.made_as.is_work()
        && let Some(simulated) = job.readings.iter().find(|one| one.context.simulated)
    {
        problems.push(format!(
            "reading {}: it is simulated, and belongs only in a job made as demo or practice",
            simulated.id
        ));
    }
    problems
}

/// What is wrong with a reading's subject, if anything.
fn reading(installation: &Installation, reading: &Reading) -> Option<String> {
    let id = reading.id;
    if reading.typed.chars().count() > LONGEST_TEXT || reading.context.entered_by.chars().count() > LONGEST_LINE {
        return Some(format!("reading {id}: its text is too long"));
    }
    if let crate::reading::Value::Number(number) | crate::reading::Value::Over(number) = reading.value
        && (number < rust_decimal::Decimal::ZERO || number > GREATEST_READING)
    {
        return Some(format!("reading {id}: {number} is not from 0 to {GREATEST_READING}"));
    }
    match &reading.key.subject {
        Subject::Supply => None,
        Subject::Bond { bond } => {
            let known = installation.supply.bonds.iter().any(|other| other.id == *bond);
            (!known).then(|| format!("reading {id}: its bond is not known"))
        }
        Subject::Board { board } => {
            installation.board_ever(*board).is_none().then(|| format!("reading {id}: its board is not known"))
        }
        Subject::CircuitSet { circuits } => {
            let known = circuits.iter().all(|circuit| installation.circuit_ever(*circuit).is_some());
            (!known).then(|| format!("reading {id}: one of its circuits is not known"))
        }
        Subject::Place { circuit, place } => match installation.circuit_ever(*circuit) {
            None => Some(format!("reading {id}: its circuit is not known")),
            Some(circuit) => {
                let known = place.point().is_none_or(|point| circuit.point(point).is_some());
                (!known).then(|| format!("reading {id}: its point is not known"))
            }
        },
    }
}
