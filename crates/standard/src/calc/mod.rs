//! The arithmetic of the trade, one question a file. `proof calc` and the pages ask the same.

pub mod electrode;
pub mod fault_current;
pub mod insulation;
pub mod loop_impedance;
pub mod rcd;
pub mod ring;
