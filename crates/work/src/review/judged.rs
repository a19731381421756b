//! A reading judged, as a finding or none.

use super::finding::{Finding, Where, before_power};
use proof_job::reading::{Step, Test, Value};
use proof_judge::finding::{Found, OddReading, Severity};
use proof_judge::verdict::{Judgement, Limit, Plausibility};

/// What else is known of a circuit whose readings are looked at.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct Circumstances {
    /// An RCD disconnects where the device does not.
    pub(super) rcd_disconnects: bool,
    /// The ends of its ring cannot give its highest R1+R2.
    pub(super) ring_cannot_give: bool,
}

/// The finding of a reading that stands, if there is one.
pub(super) fn judged(
    (step, value): (&Step, &Value),
    judgement: Judgement,
    (about, place): (&str, &Where),
    known: Circumstances,
) -> Option<Finding> {
    let (label, figure) = (step.label.clone(), step.stage.figure());
    if step.required && value.reason().is_some() {
        let (test, pair) = (step.key.test, step.key.pair);
        let reason = Found::NotTested { label, figure, test, pair, value: value.clone() };
        let mut finding = Finding::new(about, reason, place.clone());
        finding.bars_energising = step.stage.is_dead() || before_power(step, value);
        return Some(finding);
    }
    let severity = match (judgement.limit, judgement.plausibility) {
        (Limit::Outside, _) => Severity::Fails,
        (_, Plausibility::LookAgain) => Severity::Odd,
        _ => return None,
    };
    let reading = OddReading {
        label,
        figure,
        test: step.key.test,
        pair: step.key.pair,
        stage: step.stage,
        on_circuit: step.key.subject.circuit().is_some(),
        value: value.clone(),
        unit: if matches!(value, Value::Number(_) | Value::Over(_)) { step.field.unit() } else { "" },
        outside: severity == Severity::Fails,
        bound: judgement.bound().filter(|_| severity == Severity::Fails),
        reasons: judgement.reasons,
        rcd_disconnects: known.rcd_disconnects,
        ring_cannot_give: known.ring_cannot_give && point_of_ring(step),
    };
    let mut finding = Finding::new(about, Found::Reading(reading), place.clone());
    finding.bars_energising = step.stage.is_dead() || before_power(step, value);
    Some(finding)
}

/// Whether R1+R2 is read at a point.
pub(super) fn point_of_ring(step: &Step) -> bool {
    step.key.test == Test::R1R2 && step.key.subject.place().is_some_and(|place| place.point().is_some())
}
