//! The command-line contracts: one JSON document in, one out. Keys, units and meanings are fixed.
//!
//! Anything wrong with the input is one [`Refused`](proof_core::network::description::Refused):
//! the key, what was given, what is allowed.

mod calc;
mod diagnose;
mod expect;
mod strict;

use proof_core::network::description::Refused;
use std::io::Read;

/// Most bytes read from standard input.
const MOST_INPUT_BYTES: u64 = 16 * 1024 * 1024;

/// Reads standard input as one JSON document.
fn read_input() -> Result<strict::Json, Refused> {
    let mut bytes = Vec::new();
    std::io::stdin()
        .take(MOST_INPUT_BYTES + 1)
        .read_to_end(&mut bytes)
        .map_err(|error| Refused::new("standard input", error.to_string(), "one JSON document"))?;
    if bytes.len() as u64 > MOST_INPUT_BYTES {
        return Err(Refused::new("standard input", "more than 16 MiB", "up to 16 MiB"));
    }
    strict::parse(&bytes)
}

/// `proof expect`.
pub fn expect() -> Result<serde_json::Value, Refused> {
    expect::answer(&read_input()?)
}

/// `proof diagnose`.
pub fn diagnose() -> Result<serde_json::Value, Refused> {
    diagnose::answer(&read_input()?)
}

/// `proof calc NAME`.
pub fn calc(name: &str) -> Result<serde_json::Value, Refused> {
    if !calc::NAMES.contains(&name) {
        return Err(Refused::new("NAME", format!("\"{name}\""), format!("one of {}", calc::NAMES.join(", "))));
    }
    calc::answer(name, &read_input()?)
}

/// The calculators' names, for `--help`.
pub const CALCULATORS: &[&str] = calc::NAMES;
