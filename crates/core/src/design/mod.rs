//! What the description alone tells.

use crate::installation::{Circuit, Feeds};
use crate::quantity::Amps;

/// Whether a circuit feeds something that an RCD should cover as additional protection
/// (sockets up to 32 A; lighting in dwellings: BS 7671 411.3.3 and 411.3.4, from memory).
pub fn wants_additional_protection(circuit: &Circuit) -> bool {
    circuit.feeds == Feeds::Sockets && circuit.device.rating_a <= Amps(rust_decimal::dec!(32))
}
