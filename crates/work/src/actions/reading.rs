//! One reading: what was typed, made into what it means in the state that the site is in.

use super::figure::{Figure, Logged, With};
use super::value::value_of;
use super::{Actor, Recorded, Refusal, paper};
use crate::gate::check_read;
use crate::plan::disturbance::changes;
use crate::review::Reviewed;
use jiff::civil::Date;
use proof_job::installation::Installation;
use proof_job::installation::validity::LONGEST_LINE;
use proof_job::instrument::Instrument;
use proof_job::job::Job;
use proof_job::reading::entry::{Field, parse};
use proof_job::reading::{Context, CurrentReadings, LeadNull, Origin, Reading, Step, Subject, Test, Value};
use proof_job::site;
use proof_job::site::{EventKind, LeadState, leads, taken_on};
use proof_standard::house_rules::LeadCompensation;
use proof_standard::text;
use rust_decimal::dec;
use uuid::Uuid;

/// Leads in words: the set, and its pins where it has pins.
pub fn leads_said(installation: &Installation, step: &Step) -> String {
    let held = leads(installation, step);
    format!("{} {}", held.set, held.pins).trim().to_owned()
}

/// Takes one reading, with what it finds altered and nulled.
pub(super) fn read(job: &Job, figure: &Figure, hand: &Actor) -> Result<Recorded, Refusal> {
    let settled = job.settled();
    one(job, &settled, figure, hand, hand.id)
}

/// The same under an id of its own, where an action is of several. Every reading comes through here, or, of Ze, through
/// [`made`]: whoever brings it, it is asked the same.
pub(super) fn one(
    job: &Job,
    settled: &CurrentReadings<'_>,
    figure: &Figure,
    hand: &Actor,
    id: Uuid,
) -> Result<Recorded, Refusal> {
    let (step, with) = (&figure.step, &figure.with);
    if !is_offered(&job.installation, &step.key.subject) {
        return Err(Refusal::NoSuchStep);
    }
    if let Some(known) = job.readings.iter().rev().find(|reading| reading.id == id) {
        let same = known.key == step.key && known.typed == typed(figure)?.trim();
        return if same { Ok(Recorded::default()) } else { Err(Refusal::OtherContent(id)) };
    }
    let reading = made(job, settled, figure, hand, id)?;
    let before = with.paper || with.logged.is_some();
    if before {
        // It was read before: by the day that is said, the site was in the right state.
        let day = reading.context.read_on.or_else(|| reading.context.taken_at.map(site::day));
        if let Some(day) = day {
            paper::in_order(job, &step.key, day)?;
        }
        return Ok(Recorded { readings: vec![reading], ..Recorded::default() });
    }
    if step.key.test == Test::Ze {
        return Err(Refusal::ZeInItsOwnState);
    }
    check_read(Reviewed::from(job), settled, step).map_err(Refusal::NotNow)?;
    let mut events = Vec::new();
    let site = job.site();
    let alone = taken_on(&job.installation, &step.key.subject)
        .is_some_and(|(board, circuit)| circuit.is_some_and(|circuit| site.alone(board, circuit).is_some()));
    let (made, replaced) = changes(&job.installation, step, site.open(), alone);
    events.extend(replaced.into_iter().map(|item| hand.event(EventKind::PutBack { item })));
    events.extend(made.into_iter().map(|one| {
        let item = hand.next_id();
        hand.event(one.opened(item))
    }));
    events.extend(nulled(job, figure, &reading).map(|kind| hand.event(kind)));
    Ok(Recorded { readings: vec![reading], events })
}

/// Whether what a reading is of is still described.
fn is_offered(installation: &Installation, subject: &Subject) -> bool {
    match subject {
        Subject::Supply => true,
        Subject::Bond { bond } => installation.supply.bonds.iter().any(|other| other.id == *bond),
        Subject::Board { board } => installation.board(*board).is_some(),
        Subject::CircuitSet { circuits } => circuits.iter().all(|id| installation.circuit(*id).is_some()),
        Subject::Place { circuit, place } => installation
            .circuit(*circuit)
            .is_some_and(|circuit| place.point().is_none_or(|point| circuit.point(point).is_some())),
    }
}

/// What is taken: the button that was pressed, else what stands in the field. A button beside words
/// that say something else than an outcome would lose them.
fn typed(figure: &Figure) -> Result<&str, Refusal> {
    let typed = figure.typed.trim();
    if figure.pressed.is_empty() {
        return Ok(&figure.typed);
    }
    let outcome = matches!(parse(typed, Field::Outcome, dec!(999)), Ok(Value::Pass | Value::Fail));
    if typed.is_empty() || outcome {
        Ok(&figure.pressed)
    } else {
        Err(Refusal::TwoAnswers { typed: typed.to_owned(), pressed: figure.pressed.clone() })
    }
}

/// The instrument that something was read with: the one that is named, else the only one that can be trusted.
fn instrument_of<'a>(job: &'a Job, step: &Step, with: &With, day: Date) -> Option<&'a Instrument> {
    let named = with.instrument.and_then(|id| job.instruments.iter().find(|one| one.id == id));
    // What is copied from paper was taken with what the paper says.
    named.or_else(|| job.only_instrument(day).filter(|_| !with.paper && is_figure(step.field)))
}

/// The reading that a figure makes.
pub(super) fn made(
    job: &Job,
    settled: &CurrentReadings<'_>,
    figure: &Figure,
    hand: &Actor,
    id: Uuid,
) -> Result<Reading, Refusal> {
    let (step, with) = (&figure.step, &figure.with);
    let instrument = instrument_of(job, step, with, site::day(hand.at));
    let typed = typed(figure)?;
    let mut value = value_of(job, settled, step, typed, instrument)?;
    let entered_by = text::line("written by", &hand.by, LONGEST_LINE)?;
    let read_by = text::line("read by", &with.read_by, LONGEST_LINE)?;
    if entered_by.is_empty() {
        return Err(Refusal::NobodyWrites);
    }
    let low_ohm = step.field == Field::Continuity;
    let null = if low_ohm { lead_null(job, step, with) } else { LeadNull::Unknown };
    if let (LeadNull::Subtract { ohm }, Value::Number(number)) = (null, &mut value) {
        if *number < ohm {
            return Err(Refusal::BelowLeads { ohm: *number, leads: ohm });
        }
        *number -= ohm;
    }
    let taken_at = match with.logged {
        Some(Logged::At(at)) if at > hand.at => return Err(Refusal::NotYet(site::day(at))),
        Some(Logged::At(at)) => Some(at),
        Some(Logged::NoTime) => None,
        None => (!with.paper).then_some(hand.at),
    };
    let held = leads(&job.installation, step);
    let circuit = step.key.subject.circuit().and_then(|id| job.installation.circuit(id));
    Ok(Reading {
        id,
        key: step.key.clone(),
        typed: typed.trim().to_owned(),
        value,
        unsteady: with.unsteady,
        context: Context {
            instrument: instrument.map(|one| one.id),
            lead_set: low_ohm.then(|| held.set.to_owned()),
            pins: (low_ohm && !held.pins.is_empty()).then(|| held.pins.to_owned()),
            null,
            test_voltage_v: step.test_voltage,
            ambient_c: circuit.and_then(|circuit| circuit.cable_c).or(job.installation.ambient_c),
            taken_at,
            read_on: paper::day(with, hand)?,
            stored_at: hand.at,
            origin: match with {
                With { logged: Some(_), .. } => Origin::Import,
                With { paper: true, .. } => Origin::Paper,
                With { received: true, .. } => Origin::Instrument,
                _ => Origin::Typed,
            },
            simulated: with.simulated,
            read_by: (!read_by.is_empty()).then_some(read_by),
            entered_by,
        },
    })
}

/// Whether a field takes a figure that an instrument shows.
const fn is_figure(field: Field) -> bool {
    !matches!(field, Field::Outcome)
}

/// How the leads stood, and what is taken off what was typed. Of what was read before only what is said is known.
fn lead_null(job: &Job, step: &Step, with: &With) -> LeadNull {
    let said = with.nulled;
    if with.paper || with.logged.is_some() {
        return if said { LeadNull::Nulled } else { LeadNull::Unknown };
    }
    let leads = leads(&job.installation, step);
    let state = LeadState::from_job(&job.events, &job.readings);
    match (job.installation.house_rules.leads, state.subtract(leads)) {
        (LeadCompensation::Subtract, Some(ohm)) => LeadNull::Subtract { ohm },
        _ if said || state.serves(LeadCompensation::Hold, leads) => LeadNull::Nulled,
        _ => LeadNull::Unknown,
    }
}

/// Leads said to be nulled that the log does not know to be.
fn nulled(job: &Job, figure: &Figure, reading: &Reading) -> Option<EventKind> {
    if reading.context.null != LeadNull::Nulled || !figure.with.nulled {
        return None;
    }
    let leads = leads(&job.installation, &figure.step);
    let known = LeadState::from_job(&job.events, &job.readings).serves(LeadCompensation::Hold, leads);
    let (lead_set, pins) = (leads.set.to_owned(), leads.pins.to_owned());
    (!known).then_some(EventKind::Nulled { lead_set, pins, subtract_ohm: None })
}
