//! The trade: quantities, limits, installation, circuits, readings, judgement, certificate.
//!
//! Pure: the same input gives the same output. The clock, the user and the database come in as
//! arguments. The modules stand in the order in which a reading becomes a certificate.
#![deny(missing_docs)]

pub mod quantity;
pub mod conductor;
pub mod standard;
pub mod calc;
pub mod network;
pub mod installation;
pub mod shorthand;
pub mod validity;
pub mod event;
pub mod reading;
pub mod entry;
pub mod sequence;
pub mod expectation;
pub mod judgement;
pub mod schedule;
pub mod inspection;
pub mod finding;
pub mod certificate;
pub mod bench;
