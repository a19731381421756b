//! The bench: the same physics run forwards. A simulated installation, a simulated instrument.

pub mod demo;
pub mod meter;
pub mod site;
