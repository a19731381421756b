//! The contracts: one JSON document in, one out. Keys, units and meanings are fixed. The command line
//! and the reference pages ask the same questions here.
//!
//! Anything wrong with the input is one [`Refused`]:
//! the key, what was given, what is allowed.

mod calc;
mod diagnose;
mod expect;
mod numbers;
mod strict;

use proof_physics::network::description::Refused;
use serde_json::Value;

/// `proof expect`.
///
/// # Errors
/// What is wrong with the document.
pub fn expect(document: &[u8]) -> Result<Value, Refused> {
    expect::answer(strict::read(document)?)
}

/// `proof diagnose`.
///
/// # Errors
/// What is wrong with the document.
pub fn diagnose(document: &[u8]) -> Result<Value, Refused> {
    diagnose::answer(strict::read(document)?)
}

/// `proof calc NAME`.
///
/// # Errors
/// What is wrong with the name or the document.
pub fn calc(name: &str, document: &[u8]) -> Result<Value, Refused> {
    match calc::ALL.iter().find(|(other, _)| *other == name) {
        Some((_, answer)) => answer(document),
        None => Err(Refused::new("NAME", format!("{name:?}"), format!("one of {}", CALCULATORS.join(", ")))),
    }
}

/// The calculators' names.
pub const CALCULATORS: [&str; calc::ALL.len()] = {
    let mut names = [""; calc::ALL.len()];
    let mut at = 0;
    while at < names.len() {
        names[at] = calc::ALL[at].0;
        at += 1;
    }
    names
};
