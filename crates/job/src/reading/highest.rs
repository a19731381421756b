//! The highest reading of a circuit, and where it was taken.

use crate::installation::{Circuit, PointId};
use crate::reading::{CurrentReadings, Place, Reading, Test};

/// The highest settled R1+R2 of a circuit and the point it was read at.
pub fn highest_r1_r2(circuit: &Circuit, settled: &CurrentReadings<'_>) -> Option<(f64, PointId)> {
    let reading = highest(circuit, settled, Test::R1R2)?;
    Some((reading.value.float()?, reading.key.subject.place()?.point()?))
}

/// The highest reading of a test on a circuit that stands, wherever it was taken. A switch that is
/// open is no such place.
pub fn highest<'a>(circuit: &Circuit, settled: &CurrentReadings<'a>, test: Test) -> Option<&'a Reading> {
    let mut highest: Option<&Reading> = None;
    for reading in settled.standing_of(circuit.id).filter(|reading| reading.key.test == test) {
        let there = reading.key.subject.place().is_some_and(|place| {
            // A schedule on paper holds the highest alone, of the circuit as a whole.
            let of_whole = *place == Place::Board && matches!(test, Test::R1R2 | Test::R2);
            of_whole || !place.expects_open() && place.point().is_some_and(|point| circuit.point(point).is_some())
        });
        let (Some(ohm), true) = (reading.value.number(), there) else { continue };
        if highest.and_then(|most| most.value.number()).is_none_or(|most| ohm > most) {
            highest = Some(reading);
        }
    }
    highest
}
