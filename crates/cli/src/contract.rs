//! The contracts over standard input.

use proof_physics::network::description::Refused;
use std::io::Read;

pub(crate) use proof_contract::CALCULATORS;

/// Most bytes read from standard input.
const MOST_INPUT_BYTES: u64 = 16 * 1024 * 1024;

fn read_input() -> Result<Vec<u8>, Refused> {
    let mut bytes = Vec::new();
    std::io::stdin()
        .take(MOST_INPUT_BYTES + 1)
        .read_to_end(&mut bytes)
        .map_err(|error| Refused::new("standard input", error.to_string(), "one JSON document"))?;
    if bytes.len() as u64 > MOST_INPUT_BYTES {
        return Err(Refused::new("standard input", "more than 16 MiB", "up to 16 MiB"));
    }
    Ok(bytes)
}

/// `proof expect`.
pub(crate) fn expect() -> Result<serde_json::Value, Refused> {
    proof_contract::expect(&read_input()?)
}

/// `proof diagnose`.
pub(crate) fn diagnose() -> Result<serde_json::Value, Refused> {
    proof_contract::diagnose(&read_input()?)
}

/// `proof calc NAME`.
pub(crate) fn calc(name: &str) -> Result<serde_json::Value, Refused> {
    proof_contract::calc(name, &read_input()?)
}
