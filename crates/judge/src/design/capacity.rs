//! What current the cable of a circuit carries.

use proof_job::installation::{Cable, CableFamily, Circuit, Installation, Insulation, OwnLimit};
use proof_standard::conductor::Material;
use proof_standard::limits::capacity::twin_and_earth;
use proof_standard::quantity::Amps;

/// What the cable of a circuit carries, A: as designed with its source, else by the table of just that
/// cable; `None` where no table here holds it.
pub fn capacity_of(installation: &Installation, circuit: &Circuit) -> Option<Amps> {
    let own = circuit.cable.method.filter(|_| !installation.own_rows.is_empty()).and_then(|method| {
        let cable = circuit.cable.kind.text().to_owned();
        let (insulation, line_mm2) = (circuit.cable.insulation, circuit.cable.line_mm2);
        installation.own_row(&OwnLimit::Capacity { cable, insulation, line_mm2, method }).map(|row| Amps(row.value))
    });
    let designed = circuit.capacity_a.filter(|_| !circuit.capacity_source.trim().is_empty());
    designed.or(own).or_else(|| tabled(&circuit.cable))
}

/// Table 4D5 holds twin-and-earth in copper at 70 °C and no other cable.
fn tabled(cable: &Cable) -> Option<Amps> {
    let held = cable.kind.family() == CableFamily::TwinAndEarth
        && cable.material == Material::Copper
        && cable.insulation != Some(Insulation::Thermosetting90);
    cable.method.filter(|_| held).and_then(|method| twin_and_earth(cable.line_mm2, method))
}
