//! Ze that an instrument sends while the earthing conductor is off: held in the field of its line, and filed with the
//! word that the conductor is back on. Nothing else is read meanwhile.

use super::feed_refusal::FeedRefusal;
use super::fitting::{Joined, fits};
use super::ze::{self, ZeFigure, line, ze_steps};
use super::{Actor, Refusal, With};
use proof_job::installation::Installation;
use proof_job::job::Job;
use proof_job::reading::message::{Measured, Message, Unit};
use proof_job::reading::{CurrentReadings, Step};
use proof_job::site::{BoardState, Event, EventKind};

/// What stands in the field of a line, before an instrument sends another figure.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ZeField {
    /// Nothing.
    Empty,
    /// What an instrument sent: a figure read again takes its place.
    Sent,
    /// What was typed: nothing takes its place.
    Typed,
}

/// The event by which the supply is exposed, the earthing conductor off: Ze alone is read then. `None`: it is not.
pub fn exposure(job: &Job) -> Option<&Event> {
    let board = ze::origin_board(&job.installation).ok()?;
    let exposed = |event: &&Event| event.kind == EventKind::SupplyExposed { board };
    job.events.iter().rev().find(exposed).filter(|_| job.site().board(board).0 == BoardState::SupplyExposed)
}

/// The lines of Ze that a message may be of: one where the probes say which, else all.
fn lines_of(installation: &Installation, message: &Message) -> Result<Vec<Step>, Refusal> {
    if message.measured != Measured::Loop {
        return Err(FeedRefusal::EarthOff { given: message.measured }.into());
    }
    let board = ze::origin_board(installation)?;
    let (mut lines, mut misfit) = (Vec::new(), FeedRefusal::NoCard);
    for step in ze_steps(installation) {
        match fits(installation, None, board, &step, message, &format!("“{}”", step.label)) {
            Ok(()) => lines.push(step),
            Err(why) => misfit = why,
        }
    }
    if lines.is_empty() { Err(misfit.into()) } else { Ok(lines) }
}

/// How a figure that an instrument sent stands in its field.
pub fn ze_typed(message: &Message) -> String {
    if message.unit == Some(Unit::Ohm) { message.shown.trim().to_owned() } else { message.typed() }
}

/// Whether an instrument's figure of Ze would be filed: it is held until the earthing conductor is back on.
pub(super) fn held(
    job: &Job,
    settled: &CurrentReadings<'_>,
    message: &Message,
    joined: &Joined,
    hand: &Actor,
) -> Result<(), Refusal> {
    for step in lines_of(&job.installation, message)? {
        let with = With::received(message, joined.instrument, &joined.read_by);
        let figure = ZeFigure { slug: step.slug.clone(), typed: ze_typed(message), id: message.id, with };
        line(job, settled, step, &figure, hand)?;
    }
    Ok(())
}

/// The line whose field a figure goes into that an instrument sent, by the slug of its step: the first that is empty
/// of those that it may be of; where it can be of one line alone, that line, unless another figure was typed there.
pub fn ze_line(installation: &Installation, message: &Message, field: impl Fn(&str) -> ZeField) -> Option<String> {
    let lines = lines_of(installation, message).ok()?;
    let alone = || lines.first().filter(|step| lines.len() == 1 && field(&step.slug) == ZeField::Sent);
    let step = lines.iter().find(|step| field(&step.slug) == ZeField::Empty).or_else(alone)?;
    Some(step.slug.clone())
}
