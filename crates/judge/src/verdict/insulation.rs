//! Insulation judged: of a set of circuits, and what a low figure commonly is.

use crate::verdict::{Judgement, Plausibility, Reason, Rule, likely_cause};
use proof_job::installation::Installation;
use proof_job::reading::{CurrentReadings, Step, Value};
use proof_standard::limits::insulation;
use proof_standard::limits::insulation::VoltageBand;
use proof_standard::quantity::{approximate, exact};
use rust_decimal::Decimal;

pub fn minimum_float(band: VoltageBand) -> f64 {
    insulation::minimum(band).get()
}

/// Judges the insulation of a set of circuits read together.
pub fn judge_set(installation: &Installation, settled: &CurrentReadings<'_>, step: &Step, value: &Value) -> Judgement {
    let mut judgement = Judgement::blank(true);
    if judgement.excused(value) {
        return judgement;
    }
    let (Value::Number(reads) | Value::Over(reads)) = value else { return judgement };
    let (reads, minimum) = (*reads, exact(minimum_float(VoltageBand::UpTo500)).unwrap_or(Decimal::ONE));
    judgement.limit(reads >= minimum, &[installation.edition.rules().insulation], || Rule::Insulation {
        read: value.clone(),
        volts: None,
        minimum,
    });
    let megohms = approximate(reads);
    if reads < minimum {
        judgement.reasons.push(Reason::InsulationLow { commonly: likely_cause(megohms, step.key.is_to_earth()) });
    }
    let Some(band) = crate::expectation::set_band(installation, settled, &step.key) else { return judgement };
    if matches!(value, Value::Over(_)) && band.high.is_none() {
        judgement.plausibility = Plausibility::Within;
    } else {
        judgement.against(&band, megohms, "MΩ");
        if band.is_above(megohms) {
            judgement.reasons.push(Reason::WholeAboveLowest);
        }
    }
    judgement
}
