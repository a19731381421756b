//! Two-way switching as it was read before combinations were: at each switch, in both routes and open.

use proof_job::installation::{Circuit, PointId, Position};
use proof_job::reading::{CurrentReadings, Key, Place, Step, Value};

/// Whether a step of a two-way switching is told by readings at the switches themselves, as they were
/// taken before combinations were read: each of them in both routes and open.
pub fn read_at_its_switch(circuit: &Circuit, settled: &CurrentReadings<'_>, step: &Step) -> bool {
    let at = |id: PointId, position: Position| {
        let place = Place::Switch { point: id, position };
        settled.value(&Key::on_circuit(circuit.id, place, step.key.test).on_line(step.key.line))
    };
    let passes = |value: Option<&Value>| value.is_some_and(|value| value.number().is_some());
    let closes = |id: PointId| {
        passes(at(id, Position::Up)) && passes(at(id, Position::Down))
            || passes(at(id, Position::Straight)) && passes(at(id, Position::Crossed))
    };
    let opens = |id: PointId| matches!(at(id, Position::Open), Some(Value::Open | Value::Over(_)));
    match step.key.subject.place() {
        Some(Place::Switched { thrown, .. }) => thrown.iter().all(|id| closes(*id) && opens(*id)),
        Some(Place::Point { point }) => closes(*point),
        _ => false,
    }
}
