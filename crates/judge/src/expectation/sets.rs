//! What a set of circuits read together should show, MΩ.

use crate::expectation::Band;
use proof_job::installation::{Circuit, Installation};
use proof_job::reading::{CurrentReadings, Key, Subject, Value};
use proof_standard::calc::insulation::{Insulation, combine};
use proof_standard::limits::insulation::{LOOK_AGAIN_NEW, LOOK_AGAIN_OLD, PARALLEL_WITHIN};
use proof_standard::quantity::approximate;
use rust_decimal::Decimal;

/// What a set of circuits should read between a pair: the parallel sum of what their own readings
/// say, else what its wiring should give.
pub fn set_band(installation: &Installation, settled: &CurrentReadings<'_>, key: &Key) -> Option<Band> {
    let Subject::CircuitSet { circuits } = &key.subject else { return None };
    let members: Vec<&Circuit> = circuits.iter().filter_map(|id| installation.circuit(*id)).collect();
    let own: Vec<Insulation> = members
        .iter()
        .filter_map(|circuit| {
            let mut of = Key::on_circuit(circuit.id, proof_job::reading::Place::Board, key.test);
            of.pair = key.pair;
            match settled.value(&of)? {
                Value::Number(megohms) => Some(Insulation::Reads(*megohms)),
                Value::Over(bound) => Some(Insulation::Over(*bound)),
                _ => None,
            }
        })
        .collect();
    let old = members.iter().any(|circuit| installation.is_older_wiring(circuit));
    let (usual, said) = if old { (LOOK_AGAIN_OLD.get(), "older wiring") } else { (LOOK_AGAIN_NEW.get(), "new wiring") };
    if own.len() == members.len() && !own.is_empty() {
        let (low, high) = combine(&own);
        if high.is_some() {
            return Some(Band {
                low: (1.0 - *PARALLEL_WITHIN) * low,
                high: high.map(|high| (1.0 + *PARALLEL_WITHIN) * high),
                centre: Some(low),
                basis: format!("the parallel sum of {} circuits read one by one", own.len()),
                source: PARALLEL_WITHIN.source,
            });
        }
    }
    // So many circuits in parallel, each as its wiring should be.
    let least = usual / approximate(Decimal::from(members.len().max(1)));
    Some(Band {
        low: least,
        high: None,
        centre: None,
        basis: format!("{said}: {usual} MΩ and up for each of {} in parallel", members.len()),
        source: PARALLEL_WITHIN.source,
    })
}
