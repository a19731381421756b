//! What something typed for a reading means: the one place that refuses it, whoever brings it.

use super::paper_row::{NotInBox, no_copper, no_loop, number};
use super::refusal::{NotZe, Refusal};
use proof_job::instrument::Instrument;
use proof_job::job::Job;
use proof_job::reading::entry::{Field, Refused, parse};
use proof_job::reading::keys::{current_key, own_loop_key};
use proof_job::reading::{CurrentReadings, Step, Subject, Test, Value};
use proof_job::site::Wanted;
use proof_judge::supply_chain::at_origin;
use proof_standard::conductor::{Conductor, Pair};
use proof_standard::limits::rcd::FASTEST_TRIP;
use proof_standard::limits::supply::{EarthingSystem, MOST_OF_TN_LOOP};
use proof_standard::quantity::Kiloamps;
use rust_decimal::{Decimal, dec};

/// What most instruments show where insulation is over range, MΩ (common practice, no source).
const USUAL_OVER_MOHM: Decimal = dec!(999);

/// What something typed for a step means, read with an instrument: whoever brings it, the same is refused.
///
/// # Errors
/// What is wrong with it, and where it belongs if it belongs elsewhere.
pub fn value_of(
    job: &Job,
    settled: &CurrentReadings<'_>,
    step: &Step,
    typed: &str,
    instrument: Option<&Instrument>,
) -> Result<Value, Refusal> {
    let over_range = instrument.map_or(USUAL_OVER_MOHM, |one| one.over_range_mohm);
    let value = match shown_open(typed, step.field, instrument) {
        Some(open) => open,
        None => parse(typed, step.field, over_range).map_err(|refused| not_in_box(step.field, typed, refused))?,
    };
    if let Some(why) = misplaced(job, step, typed, &value, instrument) {
        return Err(why.into());
    }
    if between_lines(step) && value.number().is_some() && !instrument.is_some_and(|one| one.line_to_line) {
        return Err(Refusal::LineToLine);
    }
    if let (Test::Ze, Some(ohm)) = (step.key.test, value.number()) {
        not_ze(job, settled, step, ohm)?;
    }
    let in_force = settled.value(&step.key).filter(|value| value.is_figure());
    match in_force {
        Some(figure) if !value.is_figure() => {
            Err(Refusal::FigureInForce { figure: figure.clone(), unit: step.field.unit() })
        }
        _ => Ok(value),
    }
}

/// A number where right or wrong is asked belongs in another box.
fn not_in_box(field: Field, typed: &str, refused: Refused) -> Refusal {
    match number(typed.trim()) {
        Some(number) if field == Field::Outcome => NotInBox::NoOutcome(number).into(),
        _ => refused.into(),
    }
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
    let for_circuit = matches!(step.key.subject, Subject::Place { .. });
    let own = instrument.and_then(|one| one.over_range_ohm);
    match (step.field, value) {
        (Field::Continuity, Value::Over(over)) if own == Some(*over) => None,
        (Field::Continuity, _) => no_copper(typed, value),
        (Field::Loop, _) if for_circuit && step.key.test == Test::Zs => no_loop(&job.installation, typed, value),
        (Field::TripTime, Value::Number(ms)) if *ms < FASTEST_TRIP.value.0 => Some(NotInBox::NoTrip(*ms)),
        _ => None,
    }
}

/// Whether both conductors of a live reading are lines.
fn between_lines(step: &Step) -> bool {
    let is_line = |conductor| matches!(conductor, Conductor::L1 | Conductor::L2 | Conductor::L3);
    let pair = step.key.pair.map(Pair::both).filter(|_| Wanted::for_key(&step.key) != Wanted::Dead);
    pair.is_some_and(|(a, b)| is_line(a) && is_line(b))
}

/// Why a figure is not Ze, where something says so. A loop of several ohms on a supply with the
/// distributor's earth is a current; what equals the current is the current.
fn not_ze(job: &Job, settled: &CurrentReadings<'_>, step: &Step, ohm: Decimal) -> Result<(), NotZe> {
    let installation = &job.installation;
    let system = installation.supply.system;
    let current = settled.value(&current_key(Pair::LINE_EARTH, step.key.line)).and_then(Value::number);
    if current == Some(ohm) || at_origin(installation, settled).is_some_and(|found| found.recorded_ka == Kiloamps(ohm))
    {
        return Err(NotZe::Current(ohm));
    }
    if system != EarthingSystem::Tt && ohm > MOST_OF_TN_LOOP.value {
        return Err(NotZe::TooHigh { ohm, system: system.name() });
    }
    let own = settled.value(&own_loop_key(Pair::LINE_EARTH, step.key.line)).and_then(Value::number);
    if own == Some(ohm) { Err(NotZe::OwnLoop(ohm)) } else { Ok(()) }
}
