//! Polarity, earned: it falls out of readings at every point, or it is seen.
//!
//! R1+R2 alone cannot tell a line–CPC reversal at a three-pin point; two pairs right prove all
//! three conductors (common practice, no source). Which of them earns the tick is a house rule.

use crate::plan::at_switch::read_at_its_switch;
use crate::plan::sequence::{by_long_lead, reviewed_steps};
use proof_job::installation::{Circuit, Installation};
use proof_job::reading::keys::{polarity_at_points_key, polarity_key};
use proof_job::reading::{CurrentReadings, Place, Step, Test, Value, WorkedOut};
use proof_standard::house_rules::PolarityBy;
use std::sync::Arc;

/// How a circuit's polarity stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Polarity {
    /// Right, and how it was earned.
    Earned(&'static str),
    /// Wrong, and why.
    Wrong(String),
    /// Not outstanding: a limitation or not applicable, as written.
    Excused(Value),
    /// Owed, and what is wanting.
    Outstanding(String),
}

impl Polarity {
    /// Whether nothing is outstanding any more.
    pub const fn settled(&self) -> bool {
        !matches!(self, Self::Outstanding(_))
    }

    /// What stands in the box of the schedule; empty while it is outstanding.
    pub fn boxed(&self) -> String {
        match self {
            Self::Earned(_) => "✓".to_owned(),
            Self::Wrong(_) => "fail".to_owned(),
            Self::Excused(value) => value.shown(),
            Self::Outstanding(_) => String::new(),
        }
    }

    /// How it was earned, or what is wanting.
    pub fn describe(&self) -> String {
        match self {
            Self::Earned(how) => (*how).to_owned(),
            Self::Excused(value) => value.shown(),
            Self::Wrong(text) | Self::Outstanding(text) => text.clone(),
        }
    }
}

impl WorkedOut for Polarity {
    const DESCRIBED: bool = false;
}

/// How the polarity of a circuit stands.
pub fn polarity(installation: &Installation, circuit: &Circuit, settled: &CurrentReadings<'_>) -> Arc<Polarity> {
    let work = || worked_out(installation, circuit, settled, &reviewed_steps(installation, circuit, settled));
    settled.cached(installation, circuit, work)
}

/// With the steps of the circuit, those among them that are no longer asked for.
fn worked_out(
    installation: &Installation,
    circuit: &Circuit,
    settled: &CurrentReadings<'_>,
    steps: &[Step],
) -> Polarity {
    let at_points = settled.value(&polarity_at_points_key(circuit.id));
    match at_points {
        Some(Value::Fail) => return Polarity::Wrong("wrong by instrument at a point".to_owned()),
        Some(Value::Pass) if by_long_lead(installation, circuit) => {
            return Polarity::Earned("by instrument at each point");
        }
        _ => {}
    }
    let seen = settled.value(&polarity_key(circuit.id)).or(at_points);
    if seen == Some(&Value::Fail) {
        return Polarity::Wrong("seen wrong at a terminal".to_owned());
    }
    let by = installation.house_rules.polarity_by;
    if by != PolarityBy::Eye && !by_long_lead(installation, circuit) {
        // Without a neutral there is no second pair: each line is read to the CPC.
        let both = by == PolarityBy::BothPairs && circuit.has_neutral();
        // A point that stood before counts only where it was read all the same.
        let stood = |step: &&Step| {
            let point = step.key.subject.place().and_then(Place::point).and_then(|id| circuit.point(id));
            point.is_some_and(|point| installation.point_out_of_scope(circuit, point))
                && settled.get(&step.key).is_none()
        };
        let told = |step: &&Step| settled.get(&step.key).is_none() && read_at_its_switch(circuit, settled, step);
        let (told, own): (Vec<&Step>, Vec<&Step>) = steps.iter().filter(|step| !stood(step)).partition(told);
        match by_instrument(settled, &own, both, !told.is_empty()) {
            Polarity::Outstanding(_) if seen.is_some() => {}
            found => return found,
        }
    }
    match seen {
        Some(Value::Pass) => Polarity::Earned("seen: colours and terminal letters at every point"),
        Some(value) => Polarity::Excused(value.clone()),
        None if by != PolarityBy::Eye && by_long_lead(installation, circuit) => Polarity::Outstanding(
            "prove it by instrument at each point, or look at colours and terminal letters".to_owned(),
        ),
        None => Polarity::Outstanding("look at colours and terminal letters at every point".to_owned()),
    }
}

/// `told`: some is told by readings at the switches themselves.
fn by_instrument(settled: &CurrentReadings<'_>, steps: &[&Step], both: bool, told: bool) -> Polarity {
    let counts = |step: &Step| match step.key.test {
        Test::R1R2 => !step.expects_open() && !matches!(step.key.subject.place(), Some(Place::Metalwork { .. })),
        Test::R1Rn => both,
        _ => false,
    };
    let (mut missing, mut open, mut any) = (Vec::new(), Vec::new(), told);
    // What no method asks for any more counts where it reads, and is not missed.
    let asked = |step: &&Step| counts(step) && (!step.unused || settled.get(&step.key).is_some());
    for step in steps.iter().copied().filter(asked) {
        any = true;
        let name = if step.key.test == Test::R1Rn { "R1+Rn" } else { "R1+R2" };
        match settled.value(&step.key) {
            Some(Value::Number(_) | Value::Walked) => {}
            Some(Value::Open | Value::Over(_)) => open.push(format!("{name} open at {}", step.label)),
            _ => missing.push(format!("{name} at {}", step.label)),
        }
    }
    if !open.is_empty() {
        return Polarity::Wrong(format!("{}: a switch that is off, or a reversal", open.join(", ")));
    }
    if !missing.is_empty() || !any {
        let more = missing.len().saturating_sub(2);
        missing.truncate(2);
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        return Polarity::Outstanding(format!("read {}{more}", missing.join(", ")));
    }
    Polarity::Earned(if both { "R1+Rn and R1+R2 at every point" } else { "R1+R2 at every point" })
}
