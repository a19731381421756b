//! What may be wrong with a circuit, and what explains its readings.

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
