//! What best explains the readings taken: candidate faults are simulated on the circuit and ranked
//! by how well each explains all figures together.
//!
//! A plain Bayesian comparison, averaged over what nobody knows (whole length, where the points
//! stand along the cable, the size of the fault, the manner of the contacts). Says no more than
//! the figures hold: a joint that reads alike wherever it is gets no place. [`next_reading`] names
//! the one further reading that would settle it.

pub mod case;
mod fault_component;
mod fit;
mod meter_model;
pub mod next_reading;
mod normal;
mod physics;
mod ranking;
mod suspects;

pub use case::{Case, MOST_POINTS, ReadPoint, Shown};
pub use next_reading::Next;
pub use ranking::MOST_EXPLANATIONS;

use crate::network::description::Refused;
use case::FEWEST_FIGURES;
use proof_standard::conductor::Core;

/// One thing that is wrong with a circuit, or with how it was read.
#[derive(Debug, Clone, PartialEq)]
pub enum Kind {
    /// Points that hang on cable nobody drew.
    Spur {
        /// Which points.
        points: Vec<String>,
    },
    /// Extra resistance in a core.
    HighResistanceJoint {
        /// Which core.
        conductor: Core,
        /// In the segment that leaves this point (or `board`), where the figures can tell.
        after: Option<String>,
    },
    /// A broken core.
    Open {
        /// Which core.
        conductor: Core,
        /// In the segment that leaves this point (or `board`), where the figures can tell.
        after: Option<String>,
    },
    /// Two cores change places at a joint.
    Cross {
        /// Which two.
        conductors: [Core; 2],
        /// In the segment that leaves this point (or `board`), where the figures can tell.
        after: Option<String>,
    },
    /// A contact in the accessory, or between it and the probe.
    Contact {
        /// At which point.
        at: String,
    },
    /// A switch that is off.
    SwitchOff {
        /// At which point.
        at: String,
    },
    /// Two terminals hold each other's conductors.
    Swap {
        /// At which point.
        at: String,
        /// Which two, in the order L, N, E.
        conductors: [Core; 2],
    },
    /// A cable joins two points beside the ring.
    Bridge {
        /// About where.
        between: [String; 2],
    },
    /// The links join each leg with itself.
    OwnLeg {
        /// The one step in which they do, 2 or 3; none: in both.
        step: Option<u8>,
    },
    /// The resistance of the leads is in every figure.
    LeadsNotNulled,
    /// Metal beside the CPC.
    ParallelEarth {
        /// About where.
        between: [String; 2],
    },
    /// The length is not what was said.
    WrongLength,
    /// The CPC is not of the size described.
    WrongCpc {
        /// The size that would read so, mm².
        mm2: f64,
    },
}

impl Kind {
    /// The word of the contract.
    pub const fn label(&self) -> &'static str {
        match self {
            Self::Spur { .. } => "spur",
            Self::HighResistanceJoint { .. } => "high_resistance_joint",
            Self::Open { .. } => "open",
            Self::Cross { .. } => "cross",
            Self::Contact { .. } => "contact",
            Self::SwitchOff { .. } => "switch_off",
            Self::Swap { .. } => "swap",
            Self::Bridge { .. } => "bridge",
            Self::OwnLeg { .. } => "own_leg",
            Self::LeadsNotNulled => "leads_not_nulled",
            Self::ParallelEarth { .. } => "parallel_earth",
            Self::WrongLength => "wrong_length",
            Self::WrongCpc { .. } => "wrong_cpc",
        }
    }
}

/// The likeliest size of one thing.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct At {
    /// Ω, or m of a spur or bridge; 0 where there is none.
    pub size: f64,
}

/// One explanation of all figures together.
#[derive(Debug, Clone, PartialEq)]
pub struct Explanation {
    /// Its probability.
    pub share: f64,
    /// What is wrong; nothing: the circuit is healthy.
    pub kinds: Vec<Kind>,
    /// The size of each.
    pub at: Vec<At>,
    /// Length of the main line under it, m.
    pub length_m: f64,
    /// r1, rn, r2 under it, Ω; `None` is open.
    pub end_to_end: [Option<f64>; 3],
    /// The reading at the board under it, L–N and L–CPC, Ω.
    pub board_check: [Option<f64>; 2],
    /// A point whose figures even this does not explain.
    pub unexplained: Option<String>,
    /// R1+Rn and R1+R2 of each point under it, Ω.
    pub points: Vec<[Option<f64>; 2]>,
}

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
