//! Resistance of a circuit's conductors a metre, at the temperature it is read at, Ω/m.

use proof_job::installation::{Circuit, Installation};
use proof_standard::limits::conductors::{mohm_per_m, temperature_factor};
use proof_standard::quantity::Celsius;

/// Temperature of a circuit's cable when it is read dead: its own, else the job's, else 20 °C.
pub fn read_at(installation: &Installation, circuit: &Circuit) -> Celsius {
    circuit.cable_c.or(installation.ambient_c).unwrap_or(Celsius::literal(20.0))
}

/// Ω/m of a circuit's line, neutral and CPC at the temperature it is read at. Without a neutral its
/// place holds the line's: nothing is read through it.
pub fn ohm_per_metre(installation: &Installation, circuit: &Circuit) -> Option<[f64; 3]> {
    let cable = &circuit.cable;
    let factor = temperature_factor(read_at(installation, circuit));
    let per_metre = |size| mohm_per_m(cable.material, size).ok().map(|mohm| mohm / 1000.0 * factor);
    Some([
        per_metre(cable.line_mm2)?,
        per_metre(cable.neutral_mm2.unwrap_or(cable.line_mm2))?,
        per_metre(cable.cpc_mm2)?,
    ])
}
