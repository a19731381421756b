//! One reading: what was typed, made into what it means in the state that the site is in.

use super::paper_row::{NotInBox, no_copper, no_loop};
use super::ze::not_ze;
use super::{Hand, Refusal, Taken, paper};
use crate::conductor::{Conductor, Pair};
use crate::gate::may_read;
use crate::house_rules::LeadCompensation;
use crate::installation::Installation;
use crate::installation::validity::LONGEST_LINE;
use crate::instrument::Instrument;
use crate::job::Job;
use crate::plan::disturbance::changes;
use crate::reading::entry::{Field, parse};
use crate::reading::message::Message;
use crate::reading::{Context, LeadNull, Origin, Reading, Settled, Step, Subject, Test, Value};
use crate::review::Reviewed;
use crate::site::{EventKind, LeadState, Wanted, leads};
use crate::text;
use rust_decimal::dec;
use uuid::Uuid;

/// With what, by whom and how something was read.
#[derive(Debug, Clone, Default)]
pub struct With {
    /// Which instrument.
    pub instrument: Option<Uuid>,
    /// Who held the probes, if it was not who writes.
    pub read_by: String,
    /// Copied from paper.
    pub paper: bool,
    /// The day on which it was read, as typed.
    pub paper_on: String,
    /// From an unsteady display.
    pub unsteady: bool,
    /// The leads in use are said to be nulled.
    pub nulled: bool,
    /// An instrument sent it.
    pub received: bool,
    /// A simulation made it.
    pub simulated: bool,
}

impl With {
    /// As an instrument of the register sent it.
    pub fn received(message: &Message, instrument: Uuid, read_by: &str) -> Self {
        Self {
            instrument: Some(instrument),
            read_by: read_by.to_owned(),
            unsteady: message.unsteady,
            received: true,
            simulated: message.simulated,
            ..Self::default()
        }
    }
}

/// A figure typed for a step.
#[derive(Debug, Clone)]
pub struct Figure {
    /// What it is a reading of.
    pub step: Step,
    /// What stands in the field.
    pub typed: String,
    /// The button beside it that was pressed: `pass` or `fail`; empty for none.
    pub pressed: String,
    /// How it was read.
    pub with: With,
}

/// Leads in words: the set, and its pins where it has pins.
pub fn leads_said(installation: &Installation, step: &Step) -> String {
    let held = leads(installation, step);
    format!("{} {}", held.set, held.pins).trim().to_owned()
}

/// Takes one reading, with what it finds altered and nulled.
pub(super) fn read(job: &Job, figure: &Figure, hand: &Hand) -> Result<Taken, Refusal> {
    let settled = job.settled();
    one(job, &settled, figure, hand, hand.id)
}

/// The same under an id of its own, where a deed is of several.
pub(super) fn one(job: &Job, settled: &Settled<'_>, figure: &Figure, hand: &Hand, id: Uuid) -> Result<Taken, Refusal> {
    let step = &figure.step;
    if !is_offered(&job.installation, &step.key.subject) {
        return Err(Refusal::NoSuchStep);
    }
    if let Some(known) = job.readings.iter().rev().find(|reading| reading.id == id) {
        let same = known.key == step.key && known.typed == typed(figure)?.trim();
        return if same { Ok(Taken::default()) } else { Err(Refusal::OtherContent(id)) };
    }
    let reading = made(job, figure, hand, id)?;
    if step.key.test == Test::Ze {
        if !figure.with.paper {
            return Err(Refusal::ZeInItsOwnState);
        }
        if let Some(ohm) = reading.value.number() {
            not_ze(job, settled, step, ohm)?;
        }
    }
    if let Some(day) = reading.context.read_on {
        paper::in_order(job, &step.key, day)?;
    }
    let mut events = Vec::new();
    if !figure.with.paper {
        may_read(Reviewed::from(job), settled, step).map_err(Refusal::NotNow)?;
        let site = job.site();
        let (made, replaced) = changes(&job.installation, step, site.open());
        events.extend(replaced.into_iter().map(|item| hand.event(EventKind::PutBack { item })));
        events.extend(made.into_iter().map(|one| {
            let item = hand.next_id();
            hand.event(one.opened(item))
        }));
        events.extend(nulled(job, figure, &reading).map(|kind| hand.event(kind)));
    }
    Ok(Taken { readings: vec![reading], events })
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

/// The reading that a figure makes.
pub(super) fn made(job: &Job, figure: &Figure, hand: &Hand, id: Uuid) -> Result<Reading, Refusal> {
    let (step, with) = (&figure.step, &figure.with);
    let day = hand.at.to_zoned(jiff::tz::TimeZone::UTC).date();
    let named = with.instrument.and_then(|id| job.instruments.iter().find(|one| one.id == id));
    // What is copied from paper was taken with what the paper says.
    let instrument = named.or_else(|| job.only_instrument(day).filter(|_| !with.paper && is_figure(step.field)));
    let over_range = instrument.map_or(dec!(999), |one| one.over_range_mohm);
    let typed = typed(figure)?;
    let mut value =
        shown_open(typed, step.field, instrument).map_or_else(|| parse(typed, step.field, over_range), Ok)?;
    if let Some(why) = misplaced(job, step, typed, &value, instrument) {
        return Err(why.into());
    }
    if between_lines(step) && value.number().is_some() && !instrument.is_some_and(|one| one.line_to_line) {
        return Err(Refusal::LineToLine);
    }
    let entered_by = text::line("written by", &hand.by, LONGEST_LINE)?;
    let read_by = text::line("read by", &with.read_by, LONGEST_LINE)?;
    if entered_by.is_empty() {
        return Err(Refusal::NobodyWrites);
    }
    let low_ohm = step.field == Field::Continuity;
    let null = if low_ohm { lead_null(job, step, with.nulled) } else { LeadNull::Unknown };
    if let (LeadNull::Subtract { ohm }, Value::Number(number)) = (null, &mut value) {
        if *number < ohm {
            return Err(Refusal::BelowLeads { ohm: *number, leads: ohm });
        }
        *number -= ohm;
    }
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
            taken_at: (!with.paper).then_some(hand.at),
            read_on: paper::day(with, hand)?,
            stored_at: hand.at,
            origin: match with {
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

/// A loop over the range of its own instrument: `>1999` where that is what it shows. Another figure behind
/// that sign belongs in another box.
fn shown_open(typed: &str, field: Field, instrument: Option<&Instrument>) -> Option<Value> {
    let most = instrument.filter(|_| field == Field::Loop)?.over_range_loop_ohm?;
    let shown = parse(typed.trim().strip_prefix('>')?, field, dec!(999)).ok()?;
    (shown == Value::Number(most)).then_some(Value::Open)
}

/// Why a figure that its field takes does not belong there all the same: as on a schedule from paper. What its
/// own instrument shows where low resistance is over range is taken.
fn misplaced(job: &Job, step: &Step, typed: &str, value: &Value, instrument: Option<&Instrument>) -> Option<NotInBox> {
    let of_circuit = matches!(step.key.subject, Subject::Place { .. });
    let own = instrument.and_then(|one| one.over_range_ohm);
    match (step.field, value) {
        (Field::Continuity, Value::Over(over)) if own == Some(*over) => None,
        (Field::Continuity, _) => no_copper(typed, value),
        (Field::Loop, _) if of_circuit && step.key.test == Test::Zs => no_loop(&job.installation, typed, value),
        _ => None,
    }
}

/// Whether a field takes a figure that an instrument shows.
const fn is_figure(field: Field) -> bool {
    !matches!(field, Field::Outcome)
}

/// How the leads stood, and what is taken off what was typed.
fn lead_null(job: &Job, step: &Step, said: bool) -> LeadNull {
    let leads = leads(&job.installation, step);
    let state = LeadState::of(&job.events, &job.readings);
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
    let known = LeadState::of(&job.events, &job.readings).serves(LeadCompensation::Hold, leads);
    let (lead_set, pins) = (leads.set.to_owned(), leads.pins.to_owned());
    (!known).then_some(EventKind::Nulled { lead_set, pins, subtract_ohm: None })
}

/// Whether both conductors of a live reading are lines.
fn between_lines(step: &Step) -> bool {
    let is_line = |conductor| matches!(conductor, Conductor::L1 | Conductor::L2 | Conductor::L3);
    let pair = step.key.pair.map(Pair::both).filter(|_| Wanted::of(&step.key) != Wanted::Dead);
    pair.is_some_and(|(a, b)| is_line(a) && is_line(b))
}
