//! The bench: what is really in the walls, and an instrument that reads it. The demo's jobs are made
//! with it, and tests that want readings which no person wrote. The core never needs it.
#![deny(missing_docs)]

mod alone;
pub mod demo;
pub mod meter;
pub mod practice;
pub mod questions;
pub mod rig;
pub mod simulated_instrument;
pub mod site;
