//! The trade: quantities, limits, installation, circuits, readings, judgement, certificate.
//!
//! Pure: the same input gives the same output. The clock, ids, chance, the user and the database come
//! in as arguments. The rooms stand in the order in which a job becomes a certificate, and each uses
//! only what stands above it (`tests/arrows.rs` holds them to it).
#![deny(missing_docs)]

pub mod quantity;

pub mod text;

pub mod conductor;

pub mod standard;

pub mod calc;

pub mod house_rules;

pub mod instrument;

pub mod installation;

pub mod reading;

pub mod site;

pub mod job;

pub mod network;

pub mod supply_chain;

pub mod expectation;

pub mod verdict;

pub mod finding;

pub mod design;

pub mod diagnosis;

pub mod plan;

pub mod review;

pub mod gate;

pub mod live_tests;

pub mod rule_effects;

pub mod actions;

pub mod schedule;

pub mod certificate;
