//! Insulation judged: of a set of circuits, and what a low figure commonly is.

use crate::installation::Installation;
use crate::quantity::{approximate, exact};
use crate::reading::{Settled, Step, Value};
use crate::standard::insulation;
use crate::standard::insulation::VoltageBand;
use crate::verdict::{Judgement, Plausibility};
use rust_decimal::Decimal;

pub(crate) fn minimum_float() -> f64 {
    insulation::minimum(VoltageBand::UpTo500).get()
}

/// Judges the insulation of a set of circuits read together.
pub fn judge_set(installation: &Installation, settled: &Settled<'_>, step: &Step, value: &Value) -> Judgement {
    let mut judgement = Judgement::blank(true);
    let reads = match value {
        Value::Number(megohms) | Value::Over(megohms) => *megohms,
        Value::Limitation(reason) | Value::NotApplicable(reason) => {
            judgement.not_judged("limit", reason);
            return judgement;
        }
        _ => return judgement,
    };
    let minimum = exact(insulation::minimum(VoltageBand::UpTo500).get()).unwrap_or(Decimal::ONE);
    judgement.limit(reads >= minimum, || {
        [
            "insulation of the set ≥ minimum".to_owned(),
            format!("{} MΩ", value.shown()),
            format!("minimum {minimum} MΩ"),
            installation.edition.rules().insulation.line(),
        ]
    });
    let megohms = approximate(reads);
    if reads < minimum {
        judgement.notes.push(tell_tale(megohms).to_owned());
    }
    let Some(band) = crate::expectation::set_band(installation, settled, &step.key) else { return judgement };
    if matches!(value, Value::Over(_)) && band.high.is_none() {
        judgement.plausibility = Plausibility::Within;
    } else {
        judgement.against(&band, megohms, "MΩ");
        if band.high.is_some_and(|high| megohms > high) {
            judgement.notes.push("a whole is never above its lowest circuit: one of the two was read wrongly".into());
        }
    }
    judgement
}

/// What a low insulation reading commonly is (common practice, no source), MΩ.
pub fn tell_tale(megohms: f64) -> &'static str {
    match megohms {
        m if m < 0.02 => "about zero: a short, or a load left in",
        m if (0.15..=0.4).contains(&m) => {
            "about a quarter of a megohm: a neon indicator; it conducts only at high voltage"
        }
        m if m < 1.0 => "under 1 MΩ: damaged cable, or something with water in it",
        _ => "low: fresh plaster, grease or dirt behind accessories",
    }
}
