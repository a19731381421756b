//! One file a family of commands: load, do, print. A problem is one line and exit code 2.

pub(crate) mod check;
pub(crate) mod instrument;
pub(crate) mod jobs;
pub(crate) mod keeping;
pub(crate) mod serve;
pub(crate) mod verify;

use proof_physics::network::description::Refused;
use std::fmt::Display;
use std::io::Write;

/// What stops a command, in one line.
pub(crate) struct Problem(pub String);

impl<E: Display> From<E> for Problem {
    fn from(error: E) -> Self {
        Self(error.to_string())
    }
}

/// Prints the answer of a contract.
pub(crate) fn answer(answer: Result<serde_json::Value, Refused>) -> Result<(), Problem> {
    print(&format!("{}\n", answer?))
}

/// Writes to standard output; a reader that went away is no error.
pub(crate) fn print(text: &str) -> Result<(), Problem> {
    match std::io::stdout().write_all(text.as_bytes()) {
        Err(error) if error.kind() != std::io::ErrorKind::BrokenPipe => {
            Err(Problem(format!("standard output: {error}")))
        }
        _ => Ok(()),
    }
}
