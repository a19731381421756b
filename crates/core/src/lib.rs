//! The trade: quantities, limits, installation, circuits, readings, judgement, certificate.
//!
//! Pure: the same input gives the same output. The clock, the user and the database come in as
//! arguments. The modules stand in the order in which a reading becomes a certificate.
#![deny(missing_docs)]

pub mod bench;
pub mod calc;
pub mod certificate;
pub mod chain;
pub mod conductor;
pub mod diagnosis;
pub mod disturbance;
pub mod entry;
pub mod event;
pub mod expectation;
pub mod finding;
pub mod gate;
pub mod hook_up;
pub mod house_rules;
pub mod inspection;
pub mod installation;
pub mod instrument;
pub mod insulation;
pub mod isolation;
pub mod judgement;
pub mod network;
pub mod paper_row;
pub mod polarity;
pub mod quantity;
pub mod reading;
pub mod run;
pub mod schedule;
pub mod seal;
pub mod sequence;
pub mod shorthand;
pub mod standard;
pub mod validity;
