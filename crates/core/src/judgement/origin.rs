//! Readings at the origin, judged: bonds and the earthing conductor, Ze, fault current.

use super::Judgement;
use crate::conductor::Pair;
use crate::entry::Field;
use crate::expectation::{Band, bond_band, earthing_band};
use crate::installation::Installation;
use crate::quantity::{approximate, exact};
use crate::reading::{Settled, Subject, Test, Value};
use crate::sequence::{Step, fault_current_key};
use crate::standard::supply::declared_ze_source;
use crate::standard::{devices, earthing};
use rust_decimal::Decimal;

use super::outcome;

/// Judges a reading at the origin.
pub fn judge_origin(installation: &Installation, settled: &Settled<'_>, step: &Step, value: &Value) -> Judgement {
    let mut judgement = Judgement::blank(true);
    match value {
        Value::Limitation(reason) | Value::NotApplicable(reason) => {
            judgement.not_judged("limit", reason);
            return judgement;
        }
        _ => {}
    }
    match (step.key.test, &step.key.subject) {
        (Test::BondContinuity, Subject::Bond { bond }) if step.field == Field::Continuity => {
            let Some(bond) = installation.supply.bonds.iter().find(|other| other.id == *bond) else { return judgement };
            let Some(ohm) = value.float() else {
                judgement.limit(false, || {
                    ["the bond is continuous".to_owned(), value.shown(), "not continuous".into(), String::new()]
                });
                return judgement;
            };
            let band = bond_band(bond);
            let own = band.as_ref().ok().and_then(|band| band.centre).unwrap_or(0.0);
            let (limit, source) = if own > earthing::BOND_LIMIT.get() {
                (earthing::LONG_BOND_FACTOR * own + earthing::LONG_BOND_EXTRA.get(), earthing::long_bond_source())
            } else {
                (earthing::BOND_LIMIT.get(), earthing::bond_source())
            };
            judgement.limit(ohm <= limit + 1e-9, || {
                ["bond ≤ its limit".to_owned(), format!("{ohm} ≤ {limit:.3}"), format!("{limit:.3} Ω"), source.line()]
            });
            match band {
                Ok(band) => judgement.against(&band, ohm, "Ω"),
                Err(why) => judgement.not_judged("expected", why),
            }
        }
        (Test::EarthingConductor, _) if step.field == Field::Continuity => {
            let band = earthing_band();
            let Some(ohm) = value.float() else {
                judgement.limit(false, || {
                    ["the earthing conductor is continuous".to_owned(), value.shown(), "open".into(), String::new()]
                });
                return judgement;
            };
            judgement.limit(true, || {
                let said = "continuous".to_owned();
                [
                    "conductors are continuous".into(),
                    format!("{ohm} Ω"),
                    said,
                    installation.edition.rules().continuity.line(),
                ]
            });
            judgement.against(&band, ohm, "Ω");
        }
        (Test::Ze, _) => {
            let Some(ze) = value.number() else {
                judgement.limit(false, || {
                    ["the earth path is complete".to_owned(), value.shown(), "no path".into(), String::new()]
                });
                return judgement;
            };
            let system = installation.supply.system;
            let declared = exact(system.declared_ze().get()).unwrap_or_default();
            judgement.limit(ze <= declared, || {
                [
                    "Ze ≤ declared maximum".to_owned(),
                    format!("{ze} ≤ {declared} ({})", system.name()),
                    format!("{declared} Ω"),
                    declared_ze_source().line(),
                ]
            });
            if ze > declared {
                judgement
                    .notes
                    .push("over the declared value: ask the distributor, or write down the explanation".into());
            }
            if ze == Decimal::ZERO {
                judgement.look_again("zero: no loop reads zero; was it the leads?".into());
            }
        }
        (Test::FaultCurrent, _) => fault_current(&mut judgement, installation, settled, step, value),
        _ => outcome(&mut judgement, value, installation.edition.rules().polarity),
    }
    judgement
}

fn fault_current(
    judgement: &mut Judgement,
    installation: &Installation,
    settled: &Settled<'_>,
    step: &Step,
    value: &Value,
) {
    let Some(ka) = value.number() else { return };
    let weakest = installation
        .circuits
        .iter()
        .filter(|circuit| {
            installation.board(circuit.board).is_some_and(|b| b.fed_by == crate::installation::Feed::Supply)
        })
        .filter_map(|circuit| circuit.device.breaking_ka.map(|capacity| (capacity, circuit)))
        .min_by_key(|(capacity, _)| *capacity);
    match weakest {
        Some((capacity, circuit)) => judgement.limit(ka <= capacity, || {
            [
                "fault current ≤ breaking capacity of every device".to_owned(),
                format!("{ka} ≤ {capacity} kA (way {} {})", circuit.way, circuit.device.shown()),
                format!("{capacity} kA"),
                devices::breaking_capacity_source(circuit.device.standard).line(),
            ]
        }),
        None => judgement.not_judged("limit", "give the breaking capacity of the devices"),
    }
    // Line–earth has no lower loop than the Ze that was read with paths missing.
    if step.key.pair == Some(Pair::LINE_EARTH)
        && let Some(ze) = settled.float(&crate::sequence::ze_key()).filter(|ze| *ze > 0.0)
    {
        let by_ze = 0.23 / ze;
        let band = Band {
            low: 0.8 * by_ze,
            high: None,
            centre: Some(by_ze),
            basis: format!("230 V / Ze {ze} Ω = {by_ze:.2} kA, more with bonds and paths in"),
            source: crate::standard::supply::nominal_source(),
        };
        judgement.against(&band, approximate(ka), "kA");
    } else {
        judgement.not_judged("expected", "read Ze first, or the loop behind it");
    }
}

/// Larger of the two fault currents at the origin, kA, and between which pair.
pub fn recorded_fault_current(settled: &Settled<'_>) -> Option<(Decimal, Pair)> {
    [Pair::LINE_NEUTRAL, Pair::LINE_EARTH]
        .into_iter()
        .filter_map(|pair| Some((settled.value(&fault_current_key(pair))?.number()?, pair)))
        .max_by_key(|(ka, _)| *ka)
}
