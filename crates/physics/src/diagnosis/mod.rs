//! What best explains the readings taken: candidate faults are simulated on the circuit and ranked
//! by how well each explains all figures together.
//!
//! A plain Bayesian comparison, averaged over what nobody knows (whole length, where the points
//! stand along the cable, the size of the fault, the manner of the contacts). Says no more than
//! the figures hold: a joint that reads alike wherever it is gets no place. [`next_reading`] names
//! the one further reading that would settle it.

pub mod case;
mod explanation;
mod fault_component;
mod fit;
mod meter_model;
pub mod next_reading;
mod normal;
mod physics;
mod ranking;
mod suspects;

pub use case::{Case, ReadPoint, ShownOhms};
pub use explanation::{At, Explanation, Kind};
pub use next_reading::Next;
pub use ranking::MOST_EXPLANATIONS;

use crate::network::description::Refused;
use case::FEWEST_FIGURES;

/// What came of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Diagnosis {
    /// Likeliest first, at most [`MOST_EXPLANATIONS`]; shares sum to at most 1.
    pub explanations: Vec<Explanation>,
    /// The one further reading that would settle it.
    pub next: Next,
    /// Of a very long circuit: not everything that may be wrong was tried.
    pub stopped_early: bool,
}

/// Explains the figures of a case.
///
/// # Errors
/// [`Refused`] when the case makes no sense, naming the key.
pub fn diagnose(case: &Case) -> Result<Diagnosis, Refused> {
    let laid = case.laid()?;
    let taken = case.taken().len();
    if taken < FEWEST_FIGURES {
        let given = format!("{taken} figures");
        return Err(Refused::new("points", given, format!("at least {FEWEST_FIGURES} readings to explain")));
    }
    let (explanations, stopped_early) = ranking::rank(case, &laid);
    let mut next = next_reading::next(case, &explanations);
    if stopped_early {
        next.because.push_str("; the circuit is so long that not everything was tried");
    }
    Ok(Diagnosis { explanations, next, stopped_early })
}

#[cfg(test)]
mod tests;
