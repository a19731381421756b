//! The automatic series of an RCD in one go, in the order in which the instrument shows it.

use super::{Actor, Figure, Recorded, Refusal, With, reading};
use crate::plan::sequence::circuit_steps;
use proof_job::instrument::SeriesOrder;
use proof_job::job::Job;
use proof_job::reading::{Step, Test};
use uuid::Uuid;

/// A series as typed.
#[derive(Debug, Clone)]
pub struct Series {
    /// Of which circuit.
    pub circuit: Uuid,
    /// In which order.
    pub order: SeriesOrder,
    /// Figures with spaces between them, ms; `nt` where it did not trip.
    pub figures: String,
    /// How it was read.
    pub with: With,
}

/// Where a test stands in the order of a series.
const fn place_in(order: SeriesOrder, test: Test) -> Option<(u8, u8)> {
    match test {
        Test::RcdTrip { multiple, half_cycle } => order.place(multiple, half_cycle),
        _ => None,
    }
}

/// What a figure of a series may be written as, made into what a field takes.
fn as_field_text(text: &str) -> &str {
    match text.to_lowercase().as_str() {
        "nt" | "-" | "x" | ">" => "no trip",
        _ => text,
    }
}

pub(super) fn record(job: &Job, series: &Series, hand: &Actor) -> Result<Recorded, Refusal> {
    let circuit = job.installation.circuit(series.circuit).ok_or(Refusal::NoSuchStep)?;
    let mut steps: Vec<Step> = circuit_steps(&job.installation, circuit);
    steps.retain(|step| place_in(series.order, step.key.test).is_some());
    steps.sort_by_key(|step| place_in(series.order, step.key.test));
    let words: Vec<&str> = series.figures.split_whitespace().collect();
    if words.len() != steps.len() {
        let wanted = steps.into_iter().map(|step| step.label).collect();
        return Err(Refusal::SeriesLength { wanted, given: words.len() });
    }
    let settled = job.settled();
    let mut taken = Recorded::default();
    for (step, typed) in steps.into_iter().zip(words) {
        let label = step.label.clone();
        let figure =
            Figure { step, typed: as_field_text(typed).to_owned(), pressed: String::new(), with: series.with.clone() };
        let one = reading::one(job, &settled, &figure, hand, hand.next_id());
        let one = one.map_err(|why| match why {
            Refusal::NotNow(gate) => Refusal::Gate(gate),
            why => Refusal::One { label, why: Box::new(why) },
        })?;
        taken.readings.extend(one.readings);
        taken.events.extend(one.events);
    }
    Ok(taken)
}
