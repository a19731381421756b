//! Down the supply chain: the external loop and the fault level at each board, from the origin
//! through the circuits that feed the boards below. Zdb of one board is the Ze of the next.
//!
//! Loops in Ω, currents in kA at U0/Z. Cold copper is used as read, which is the safe side for a
//! fault level. Nothing is stored: one reading at the origin changes every board below it.

mod fault_level;
mod loops;

pub use fault_level::{FaultLevel, at_origin, current_of, fault_level, matches_loop, neutral_loop, recorded};
pub use loops::{external_loop, feeders, own_electrode, r1_r2_for_loop, ze};
