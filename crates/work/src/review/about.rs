//! How findings speak of what they are about.

use proof_job::installation::Circuit;

/// How a circuit is spoken of.
pub(super) fn about(circuit: &Circuit) -> String {
    format!("Way {} {}", circuit.way, circuit.description)
}
