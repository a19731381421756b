//! The automatic series of an RCD in one go, in the order in which the instrument shows it.

use super::{Figure, Hand, Refusal, Taken, With, reading};
use crate::job::Job;
use crate::plan::sequence::circuit_steps;
use crate::reading::{Settled, Step, Test};
use crate::standard::rcd::{HalfCycle, Multiple};
use uuid::Uuid;

/// The order in which an instrument runs a series.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum SeriesOrder {
    /// Both half-cycles of a multiple, then the next multiple.
    #[default]
    Pairs,
    /// Every multiple at 0°, then at 180°.
    Halves,
    /// The trips alone; ½ IΔn is apart.
    Trips,
}

impl SeriesOrder {
    /// In the order offered.
    pub const ALL: [Self; 3] = [Self::Pairs, Self::Halves, Self::Trips];

    /// Key in forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Pairs => "pairs",
            Self::Halves => "halves",
            Self::Trips => "trips",
        }
    }

    /// In words.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Pairs => "½ 0°, ½ 180°, 1 0°, 1 180°, 5 0°, 5 180°",
            Self::Halves => "½ 0°, 1 0°, 5 0°, ½ 180°, 1 180°, 5 180°",
            Self::Trips => "1 0°, 1 180°, 5 0°, 5 180° (½ apart)",
        }
    }

    /// Where a test stands in this order; `None` where it is no part of it.
    const fn place(self, test: Test) -> Option<(u8, u8)> {
        let Test::RcdTrip { multiple, half_cycle } = test else { return None };
        let multiple = match multiple {
            Multiple::Half if matches!(self, Self::Trips) => return None,
            Multiple::Half => 0,
            Multiple::One => 1,
            Multiple::Five => 2,
        };
        let half = match half_cycle {
            HalfCycle::Deg0 => 0,
            HalfCycle::Deg180 => 1,
        };
        Some(if matches!(self, Self::Halves) { (half, multiple) } else { (multiple, half) })
    }
}

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

/// What a figure of a series may be written as, made into what a field takes.
fn word(text: &str) -> &str {
    match text.to_lowercase().as_str() {
        "nt" | "-" | "x" | ">" => "no trip",
        _ => text,
    }
}

pub(super) fn take(job: &Job, series: &Series, hand: &Hand) -> Result<Taken, Refusal> {
    let circuit = job.installation.circuit(series.circuit).ok_or(Refusal::NoSuchStep)?;
    let mut steps: Vec<Step> = circuit_steps(&job.installation, circuit);
    steps.retain(|step| series.order.place(step.key.test).is_some());
    steps.sort_by_key(|step| series.order.place(step.key.test));
    let words: Vec<&str> = series.figures.split_whitespace().collect();
    if words.len() != steps.len() {
        let wanted = steps.into_iter().map(|step| step.label).collect();
        return Err(Refusal::SeriesLength { wanted, given: words.len() });
    }
    let settled = Settled::new(&job.readings, &job.events);
    let mut taken = Taken::default();
    for (step, typed) in steps.into_iter().zip(words) {
        let label = step.label.clone();
        let figure = Figure { step, typed: word(typed).to_owned(), pressed: String::new(), with: series.with.clone() };
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
